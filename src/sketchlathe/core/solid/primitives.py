"""Plain solids with typed sizes, and profiles turned about an axis."""

from __future__ import annotations

import math

from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakeRevol,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
from OCP.gp import gp_Ax1, gp_Ax2, gp_Dir, gp_Pnt
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS

from ..errors import CannotBuild
from ..frames import Frame, Triple
from ..sketch.regions import Profile
from .kernel import FACE, Shape, is_valid, listed, mapped, solids_in
from .measuring import volume
from .naming import Body, FaceName, named
from .shapes import profile_face


def _axes(frame: Frame) -> gp_Ax2:
    return gp_Ax2(gp_Pnt(*frame.origin), gp_Dir(*frame.normal), gp_Dir(*frame.x))


def _body(step: str, shape: Shape) -> Body:
    """A primitive: its faces are named by their number, which is the same for every size."""
    solid = solids_in(shape)[0]
    count = mapped(solid, FACE).Size()
    return Body(step, solid, tuple(frozenset({f"{step}:side:{i}"}) for i in range(count)))


def box(step: str, frame: Frame, x: float, y: float, z: float) -> Body:
    """A box with one corner at the frame's origin."""
    return _body(step, BRepPrimAPI_MakeBox(_axes(frame), x, y, z).Shape())


def cylinder(step: str, frame: Frame, radius: float, height: float) -> Body:
    """A cylinder standing on the frame."""
    return _body(step, BRepPrimAPI_MakeCylinder(_axes(frame), radius, height).Shape())


def cone(step: str, frame: Frame, radius: float, top: float, height: float) -> Body:
    """A cone or its stump."""
    return _body(step, BRepPrimAPI_MakeCone(_axes(frame), radius, top, height).Shape())


def sphere(step: str, frame: Frame, radius: float) -> Body:
    """A ball about the frame's origin."""
    return _body(step, BRepPrimAPI_MakeSphere(_axes(frame), radius).Shape())


def torus(step: str, frame: Frame, radius: float, tube: float) -> Body:
    """A ring about the frame's normal."""
    return _body(step, BRepPrimAPI_MakeTorus(_axes(frame), radius, tube).Shape())


def revolved(
    step: str, profile: Profile, frame: Frame, origin: Triple, direction: Triple, start: float, sweep: float
) -> Body:
    """A profile turned about an axis in its plane, from angle ``start`` through ``sweep`` (rad, at most a full turn).

    Pappus' second theorem checks the volume: area times the path of its centroid.
    """
    from .transforms import copied, rotation

    full = sweep >= 2 * math.pi - 1e-9
    face, edges = profile_face(profile, frame)
    axis = gp_Ax1(gp_Pnt(*origin), gp_Dir(*direction))
    maker = BRepPrimAPI_MakeRevol(face, axis) if full else BRepPrimAPI_MakeRevol(face, axis, sweep)
    found = solids_in(maker.Shape())
    if len(found) != 1 or not is_valid(found[0]):
        raise CannotBuild("This profile gives no sound solid when turned; it may cross its axis.", where="axis")
    faces = mapped(found[0], FACE)
    names: dict[int, FaceName] = {}
    for edge, owner in edges:
        for side in listed(maker.Generated(edge)):
            at = faces.FindIndex(side)
            if at:
                names[at] = frozenset({f"{step}:side:{owner}"})
    if not full:
        for shape, role in ((maker.FirstShape(), "start"), (maker.LastShape(), "end")):
            explorer = TopExp_Explorer(shape, FACE)
            at = faces.FindIndex(TopoDS.Face(explorer.Current())) if explorer.More() else 0
            if at:
                names[at] = frozenset({f"{step}:{role}"})
    made = named(step, found[0], names, f"{step}:side")
    if volume(made.shape) <= 0:
        raise CannotBuild("This profile gives no sound solid when turned; it may cross its axis.", where="axis")
    return copied(made, rotation(origin, direction, start), step) if abs(start) > 1e-12 else made
