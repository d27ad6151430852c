"""Copies of bodies elsewhere: moved, turned, mirrored, scaled. Faces keep their names, wrapped in the step that
copied them.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from OCP.BRep import BRep_Builder
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_GTransform, BRepBuilderAPI_MakeEdge, BRepBuilderAPI_Transform
from OCP.BRepTools import BRepTools_ReShape
from OCP.Geom import Geom_Plane
from OCP.GeomAbs import GeomAbs_Line, GeomAbs_Plane
from OCP.gp import gp_Ax1, gp_Ax2, gp_Dir, gp_GTrsf, gp_Pnt, gp_Trsf, gp_Vec
from OCP.TopAbs import TopAbs_FORWARD
from OCP.TopExp import TopExp
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Face

from ..errors import CannotBuild
from ..frames import Frame, Triple
from .digest import faces_of_edges
from .kernel import EDGE, FACE, WIRE, Shape, each, is_valid, mapped, solids_in
from .measuring import volume
from .naming import Body, Copied, FaceName, apart, named

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


def stretched(body: Body, factors: Triple, id: str, rename: Callable[[str], str] | None = None) -> Body:
    """A body scaled unevenly about the origin. The kernel makes splines of everything; what is flat or straight is made
    so again, so that it can be drawn on, placed and picked as before. The volume grows by the product of the factors,
    which is checked. Raises ``CannotBuild`` where the kernel gives something else.
    """
    own = apart(body)
    by = gp_GTrsf()
    for axis, factor in enumerate(factors, 1):
        by.SetValue(axis, axis, factor)
    maker = BRepBuilderAPI_GTransform(own.shape, by, True)
    plain = _flat_again(own.shape, maker)
    solid = solids_in(plain.Apply(maker.Shape()))[0]
    faces, result = mapped(own.shape, FACE), mapped(solid, FACE)
    names: dict[int, FaceName] = {}
    for i, name in enumerate(own.names, 1):
        if at := result.FindIndex(plain.Apply(maker.ModifiedShape(faces.FindKey(i)))):
            names[at] = name if rename is None else frozenset(rename(a) for a in name)
    wanted = abs(volume(body.shape) * factors[0] * factors[1] * factors[2])
    if not is_valid(solid) or abs(volume(solid) - wanted) > 1e-6 * wanted or len(names) != len(own.names):
        raise CannotBuild("This body cannot be scaled unevenly: scale it alike along all axes.", where="along_y")
    return named(id, solid, names, f"{id}:side")


def _flat_again(shape: Shape, maker: BRepBuilderAPI_GTransform) -> BRepTools_ReShape:
    """What puts planes and lines in the place of splines, for faces that were flat and straight edges between such."""
    swap = BRepTools_ReShape()
    faces, edges = mapped(shape, FACE), mapped(shape, EDGE)
    flat = [BRepAdaptor_Surface(f, False).GetType() == GeomAbs_Plane for f in each(shape, FACE)]
    for k, around in enumerate(faces_of_edges(shape), 1):
        edge = TopoDS.Edge(edges.FindKey(k))
        if BRepAdaptor_Curve(edge).GetType() == GeomAbs_Line and all(flat[i] for i in around):
            new = TopoDS.Edge(maker.ModifiedShape(edge).Oriented(TopAbs_FORWARD))
            line = BRepBuilderAPI_MakeEdge(TopExp.FirstVertex_s(new), TopExp.LastVertex_s(new)).Edge()
            swap.Replace(new, line)
    for i in range(1, faces.Size() + 1):
        if not flat[i - 1]:
            continue
        new = TopoDS.Face(maker.ModifiedShape(faces.FindKey(i)).Oriented(TopAbs_FORWARD))
        made = TopoDS_Face()
        builder = BRep_Builder()
        builder.MakeFace(made, _plane_of(new), 1e-7)
        for wire in each(new, WIRE):
            builder.Add(made, swap.Apply(wire))
        swap.Replace(new, made)
    return swap


def _plane_of(face: Shape) -> Geom_Plane:
    """The plane of a face that is a spline and flat, in the sense of that spline."""
    surface = BRepAdaptor_Surface(face, False)
    u0, u1, v0, v1 = (
        surface.FirstUParameter(), surface.LastUParameter(), surface.FirstVParameter(), surface.LastVParameter(),
    )  # fmt: skip
    at, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
    surface.D1((u0 + u1) / 2, (v0 + v1) / 2, at, du, dv)
    return Geom_Plane(at, gp_Dir(du.Crossed(dv)))
