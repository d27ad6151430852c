"""Copies of bodies elsewhere: moved, turned, mirrored, scaled. Faces keep their names, wrapped in the step that
copied them.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.gp import gp_Ax1, gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.TopLoc import TopLoc_Location

from .frames import Frame, Triple
from .kernel import Shape, solids_in
from .naming import Body, Copied

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

    Sharing geometry under a location would be quicker here, but makes the booleans that follow nearly three times
    slower.
    """
    names = body.names if rename is None else tuple(frozenset(rename(a) for a in n) for n in body.names)
    made = BRepBuilderAPI_Transform(body.shape, motion, True)
    rigid = abs(float(motion.ScaleFactor()) - 1) < 1e-12 and not motion.IsNegative()
    came = body.came
    if came is not None:
        came = Copied(came.of, _after(motion, came.motion) if rigid and came.motion else (), came.state)
    return Body(id, solids_in(made.Shape())[0], names, came)


def copy_of(body: Body, of: str, state: str) -> Body:
    """A body as the original of copies, unless it is a copy itself. ``state``: see ``Copied``."""
    if body.came is not None:
        return body
    return replace(body, came=Copied(of, (1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0), state))


def location(motion: Sequence[float]) -> TopLoc_Location:
    """A rigid motion of twelve numbers (see ``Copied``), for the kernel."""
    made = gp_Trsf()
    made.SetValues(*motion)
    return TopLoc_Location(made)


def original_of(body: Body) -> Shape:
    """The shape that a copy was before it was moved."""
    assert body.came is not None
    back = location(body.came.motion).Transformation().Inverted()
    return BRepBuilderAPI_Transform(body.shape, back, True).Shape()


def _after(motion: Motion, first: Sequence[float]) -> tuple[float, ...]:
    """The twelve numbers of one motion after another."""
    whole = gp_Trsf()
    whole.SetValues(*first)
    whole = motion.Multiplied(whole)
    return tuple(float(whole.Value(i, j)) for i in (1, 2, 3) for j in (1, 2, 3, 4))
