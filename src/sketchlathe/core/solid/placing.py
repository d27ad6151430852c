"""Copies of bodies elsewhere: moved, turned, mirrored, scaled. Faces keep their names, wrapped in the step that copied them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.gp import gp_Ax1, gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec

from .frames import Frame, Triple
from .kernel import solids_in
from .naming import Body

Motion = Any  # a gp_Trsf


def translation(by: Triple) -> Motion:
    """A shift, mm."""
    made = gp_Trsf()
    made.SetTranslation(gp_Vec(*by))
    return made


def rotation(origin: Triple, direction: Triple, angle: float) -> Motion:
    """A turn about an axis, rad, right-handed."""
    made = gp_Trsf()
    made.SetRotation(gp_Ax1(gp_Pnt(*origin), gp_Dir(*direction)), angle)
    return made


def reflection(plane: Frame) -> Motion:
    """A mirror across a plane."""
    made = gp_Trsf()
    made.SetMirror(gp_Ax2(gp_Pnt(*plane.origin), gp_Dir(*plane.normal), gp_Dir(*plane.x)))
    return made


def scaling(origin: Triple, factor: float) -> Motion:
    """A uniform scale about a point."""
    made = gp_Trsf()
    made.SetScale(gp_Pnt(*origin), factor)
    return made


def motion_of(turn: np.ndarray, shift: np.ndarray) -> Motion:
    """A rigid motion: a rotation matrix (3, 3), then a shift (3,) in mm."""
    made = gp_Trsf()
    rows = [float(v) for row, by in zip(turn, shift) for v in (*row, by)]
    made.SetValues(*rows)
    return made


def moved_point(motion: Motion, point: Triple) -> Triple:
    """Where a motion puts a point."""
    p = gp_Pnt(*point).Transformed(motion)
    return (p.X(), p.Y(), p.Z())


def copied(body: Body, motion: Motion, id: str, rename: Callable[[str], str] | None = None) -> Body:
    """A body elsewhere, its geometry moved along; the order of faces is the same.

    Sharing geometry under a location would be quicker here, but makes the booleans that follow nearly three times slower.
    """
    names = body.names if rename is None else tuple(frozenset(rename(a) for a in n) for n in body.names)
    made = BRepBuilderAPI_Transform(body.shape, motion, True)
    return Body(id, solids_in(made.Shape())[0], names)
