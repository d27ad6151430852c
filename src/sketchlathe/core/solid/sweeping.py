"""What is swept straight: profiles and flat faces, tapered or up to a face."""

from __future__ import annotations

import math
from dataclasses import dataclass

from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Splitter
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_Transform
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepOffsetAPI import BRepOffsetAPI_DraftAngle
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.collections import List_TopoDS_Shape
from OCP.GeomAbs import GeomAbs_Cylinder, GeomAbs_Plane
from OCP.gp import gp_Dir, gp_Pln, gp_Pnt, gp_Trsf, gp_Vec
from OCP.TopoDS import TopoDS

from ..errors import CannotBuild
from ..frames import Frame
from ..sketch.regions import Profile
from .digest import name_text
from .edges import named_edges
from .kernel import EDGE, FACE, Shape, is_valid, listed, mapped, private, solids_in
from .measuring import volume
from .naming import Body, FaceName, carried, named
from .shapes import prism, profile_face


@dataclass(frozen=True)
class Swept:
    """A profile in its plane."""

    step: str
    frame: Frame
    profile: Profile

    def prism(self, low: float, high: float) -> Body:
        """The solid between two heights over the plane, mm."""
        return prism(self.step, self.profile, self.frame, low, high)

    def flat(self, height: float) -> Shape:
        """The flat face at some height."""
        return profile_face(self.profile, self._at(height))[0]

    def _at(self, height: float) -> Frame:
        return Frame(self.frame.place(0, 0, height), self.frame.x, self.frame.normal)


@dataclass(frozen=True)
class SweptFace:
    """A flat face of a body (0-based index); its sides are named after the faces around it."""

    step: str
    frame: Frame
    body: Body
    index: int

    def prism(self, low: float, high: float) -> Body:
        """The solid between two heights over the face, mm."""
        base = self.flat(low)
        n, rise = self.frame.normal, high - low
        maker = BRepPrimAPI_MakePrism(base, gp_Vec(n[0] * rise, n[1] * rise, n[2] * rise))
        found = solids_in(maker.Shape())
        if len(found) != 1 or not is_valid(found[0]):
            raise CannotBuild("This face cannot be extruded.", where="regions")
        solid = found[0]
        if volume(solid) < 0:
            solid = TopoDS.Solid(solid.Reversed())
        faces, edges = mapped(solid, FACE), mapped(base, EDGE)
        # a moved copy keeps the order of its edges
        order = mapped(self._face(), EDGE)
        body_edges = mapped(self.body.shape, EDGE)
        at = [body_edges.FindIndex(order.FindKey(i)) - 1 for i in range(1, order.Size() + 1)]
        own = self.body.names[self.index]
        names: dict[int, FaceName] = {}
        for i, edge in enumerate(named_edges(self.body, at), 1):
            across = edge.second if edge.first == own else edge.first
            for side in listed(maker.Generated(edges.FindKey(i))):
                names[faces.FindIndex(side)] = frozenset({f"{self.step}:side:{{{name_text(across)}}}"})
        names[faces.FindIndex(maker.FirstShape())] = frozenset({f"{self.step}:start"})
        names[faces.FindIndex(maker.LastShape())] = frozenset({f"{self.step}:end"})
        return named(self.step, solid, names, f"{self.step}:side")

    def flat(self, height: float) -> Shape:
        """The face, moved to some height."""
        n, move = self.frame.normal, gp_Trsf()
        move.SetTranslation(gp_Vec(n[0] * height, n[1] * height, n[2] * height))
        return TopoDS.Face(BRepBuilderAPI_Transform(self._face(), move, True).Shape())

    def _face(self) -> Shape:
        return TopoDS.Face(mapped(self.body.shape, FACE).FindKey(self.index + 1))


def tapered(base: Swept | SweptFace, low: float, high: float, angle: float, back: bool) -> Body:
    """A prism whose sides lean inwards by ``angle`` (rad) away from the end at the sketch."""
    straight, frame = base.prism(low, high), base.frame
    n = frame.normal if not back else tuple(-v for v in frame.normal)
    plane = gp_Pln(gp_Pnt(*frame.place(0, 0, high if back else low)), gp_Dir(*frame.normal))
    maker = BRepOffsetAPI_DraftAngle(straight.shape)
    faces = mapped(straight.shape, FACE)
    for i, name in enumerate(straight.names, 1):
        if any(":side" in atom for atom in name):
            maker.Add(TopoDS.Face(faces.FindKey(i)), gp_Dir(*n), angle, plane)
            if not maker.AddDone():
                raise CannotBuild("A side of this profile cannot lean; leave the taper out.", where="taper")
    try:
        maker.Build()
        found = solids_in(maker.Shape()) if maker.IsDone() else []
    except Exception:
        found = []
    if len(found) != 1 or not is_valid(found[0]) or volume(found[0]) <= 0:
        raise CannotBuild(
            "With this taper the sides meet before the end; take a smaller angle or distance.", where="taper"
        )
    after = volume(found[0])
    before = volume(straight.shape)
    if (angle > 0) != (after < before):
        raise CannotBuild(
            "With this taper the sides meet before the end; take a smaller angle or distance.", where="taper"
        )
    result = mapped(found[0], FACE)
    return named(base.step, found[0], carried([straight], maker, result), f"{base.step}:side")


def up_to(base: Swept | SweptFace, start: float, sign: float, reach: float, target: tuple[Body, int]) -> Body:
    """A prism that ends at a face of a body, flat or curved: the long prism is cut by the face's whole surface."""
    body, index = target
    face = TopoDS.Face(mapped(body.shape, FACE).FindKey(index + 1))
    low, high = (start, reach * 2) if sign > 0 else (-reach * 2, -start)
    long = base.prism(low, high)
    arguments, tools = List_TopoDS_Shape(), List_TopoDS_Shape()
    arguments.Append(long.shape)
    tools.Append(whole_surface(face, reach))
    splitter = BRepAlgoAPI_Splitter()
    splitter.SetArguments(arguments)
    splitter.SetTools(tools)
    splitter.SetRunParallel(False)
    splitter.Build()
    pieces = solids_in(splitter.Shape()) if splitter.IsDone() else []
    flat = base.flat(sign * start)
    touching = [p for p in pieces if _gap(p, flat) < 1e-6]
    if len(pieces) < 2 or len(touching) != 1:
        raise CannotBuild(
            "The shape does not reach this face all round: pick another face, or a distance.", where="target"
        )
    solid = touching[0]
    if not is_valid(solid) or volume(solid) <= 0:
        raise CannotBuild("Up to this face gives no sound solid; pick another, or type a distance.", where="target")
    return named(base.step, solid, carried([long], splitter, mapped(solid, FACE)), f"{base.step}:end")


def whole_surface(face: Shape, reach: float) -> Shape:
    """A face's surface, far beyond its bounds where it is flat or a cylinder."""
    surface = BRepAdaptor_Surface(TopoDS.Face(face), False)
    far = 20 * reach + 1e3
    if surface.GetType() == GeomAbs_Plane:
        return BRepBuilderAPI_MakeFace(surface.Plane(), -far, far, -far, far).Face()
    if surface.GetType() == GeomAbs_Cylinder:
        return BRepBuilderAPI_MakeFace(surface.Cylinder(), 0.0, 2 * math.pi, -far, far).Face()
    return private(face)


def _gap(a: Shape, b: Shape) -> float:
    return float(BRepExtrema_DistShapeShape(a, b).Value())
