"""Round faces as what a thread is cut on: rods and bores, where they begin and end."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeSolid
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Cylinder
from OCP.gp import gp_Pnt
from OCP.ShapeFix import ShapeFix_Face
from OCP.TopAbs import TopAbs_IN, TopAbs_REVERSED, TopAbs_WIRE
from OCP.TopoDS import TopoDS

from ..errors import CannotBuild
from ..frames import Frame, Triple, dot, frame_at
from .digest import face_frame
from .kernel import EDGE, FACE, SHELL, Shape, each, mapped, private
from .measuring import volume
from .naming import Body, FaceName
from .primitives import cylinder
from .sewing import sewn
from .shapes import cut
from .threading import Thread, circle, cone, level, walls_and_cuts

_SEW = 1e-3  # mm


@dataclass(frozen=True)
class Barrel:
    """A whole round face: a frame at one of its ends whose normal runs along it to its ``length`` (mm); a bore where
    ``inside``; whether nothing stands before its ends (``open``: at the frame, at the far end).
    """

    body: Body
    index: int
    frame: Frame
    radius: float
    length: float
    inside: bool
    open: tuple[bool, bool]

    def turned(self) -> Barrel:
        """The same seen from its other end."""
        n = self.frame.normal
        far = self.frame.place(0, 0, self.length)
        return replace(self, frame=frame_at(far, (-n[0], -n[1], -n[2])), open=self.open[::-1])


def barrel_of(body: Body, index: int) -> Barrel | None:
    """The barrel of a face (0-based); None where it is not a cylinder that goes all round."""
    face = TopoDS.Face(mapped(body.shape, FACE).FindKey(index + 1))
    surface = BRepAdaptor_Surface(face, True)
    if surface.GetType() != GeomAbs_Cylinder:
        return None
    if surface.LastUParameter() - surface.FirstUParameter() < 2 * math.pi - 1e-6:
        return None
    round_ = surface.Cylinder()
    axis, low, high = round_.Axis(), surface.FirstVParameter(), surface.LastVParameter()
    way: Triple = (axis.Direction().X(), axis.Direction().Y(), axis.Direction().Z())
    at = axis.Location()
    base = frame_at((at.X(), at.Y(), at.Z()), way)
    frame = Frame(base.place(0, 0, low), base.x, base.normal)
    inside = (face.Orientation() == TopAbs_REVERSED) == round_.Direct()
    made = Barrel(body, index, frame, round_.Radius(), high - low, inside, (False, False))
    return replace(made, open=(_open(made), _open(made.turned())))


def _open(barrel: Barrel) -> bool:
    """Whether nothing of the body stands before the end at the frame: beside a bore's mouth, before a rod's rim."""
    test = BRepClass3d_SolidClassifier(barrel.body.shape)
    r = barrel.radius * (1.02 if barrel.inside else 0.995)
    for k in range(4):
        angle = 0.3 + k * math.pi / 2
        place = barrel.frame.place(r * math.cos(angle), r * math.sin(angle), -0.02 * barrel.radius)
        test.Perform(gp_Pnt(*place), 1e-7)
        if test.State() == TopAbs_IN:
            return False
    return True


def with_thread(step: str, barrel: Barrel, thread: Thread, length: float, lead: float) -> Body:
    """The body with a thread over ``length`` mm from the barrel's frame on; a rod's first ``lead`` mm are left plain, a
    little narrower than the root and bevelled, so that a nut finds its way. The round face is taken out; flat faces it
    ends at are bounded by the thread's outline instead. Its volume is checked against the integral.
    """
    body, frame, radius = barrel.body, barrel.frame, barrel.radius
    _check_room(step, barrel, thread, min(length, barrel.length))
    shape = private(body.shape)
    faces = mapped(shape, FACE)
    shell = next(s for s in each(shape, SHELL) if mapped(s, FACE).FindIndex(faces.FindKey(barrel.index + 1)))
    mine = mapped(shell, FACE)
    whole = length > barrel.length - 1e-7
    length = barrel.length if whole else length
    begins, ends = _flat_at(barrel, shape, 0.0), _flat_at(barrel, shape, barrel.length) if whole else None
    narrow = thread.root - 0.02 * thread.pitch
    tipped = bool(lead) and begins is not None and begins.alone and not barrel.inside
    low = lead if tipped else 0.0
    walls, first, last = walls_and_cuts(thread, frame, low, length)
    new: list[tuple[Shape, str]] = [(face, f"thread:{side}") for face, side in walls]
    if tipped:
        tip = max(narrow - lead / 2, 0.3 * narrow)
        new += [
            (level(frame, lead, first, circle(frame, lead, narrow)), "shoulder"),
            (cone(frame, (lead / 2, narrow), (lead, narrow)), "lead"),
            (cone(frame, (0.0, tip), (lead / 2, narrow)), "bevel"),
        ]
        first = circle(frame, 0.0, tip)
    kept: dict[int, tuple[Shape, FaceName]] = {
        i: (faces.FindKey(i), body.names[i - 1])
        for i in range(1, faces.Size() + 1)
        if mine.FindIndex(faces.FindKey(i)) and i != barrel.index + 1
    }
    for flat, wire, height, role in ((begins, first, 0.0, "start"), (ends, last, length, "end")):
        if flat is not None:
            kept[flat.index] = (flat.bounded_by(wire), body.names[flat.index - 1])
            continue
        rim = circle(frame, height, radius)
        new.append((level(frame, height, wire, rim) if barrel.inside else level(frame, height, rim, wire), role))
    own = body.names[barrel.index]
    if not whole:
        kept[barrel.index + 1] = (cone(frame, (length, radius), (barrel.length, radius)), own)
    sign = math.copysign(1.0, volume(BRepBuilderAPI_MakeSolid(TopoDS.Shell(shell)).Solid()))
    others = [TopoDS.Shell(s) for s in each(shape, SHELL) if not s.IsSame(shell)]
    put = [*kept.values(), *((face, frozenset({f"{step}:{role}"})) for face, role in new)]
    open_ = CannotBuild(
        "With a thread of these sizes the body does not close: try another pitch or length.", where="size"
    )
    made = sewn(body.id, put, f"{step}:thread", _SEW, open_, like=sign, others=others)
    section = thread.area - math.pi * radius * radius
    more = section * (length - low)
    if tipped:
        bevel = math.pi * lead / 2 / 3 * (tip * tip + tip * narrow + narrow * narrow)
        more += bevel + math.pi * narrow * narrow * lead / 2 - math.pi * radius * radius * lead
    expected = volume(body.shape) + (-more if barrel.inside else more)
    if abs(volume(made.shape) - expected) > 1e-3 * abs(more) + 1e-6 * expected:
        raise CannotBuild("With this thread the body does not come out right: there is too little room round it.",
                          where="face")  # fmt: skip
    return made


def _check_room(step: str, barrel: Barrel, thread: Thread, length: float) -> None:
    """A thread that grows beyond the old face needs material all round a bore, and none round a rod."""
    if thread.crest <= barrel.radius:
        if barrel.inside:
            raise CannotBuild("The hole is wider than this thread: take a larger size.", where="size")
        return
    wide = cylinder(step, barrel.frame, thread.crest + 0.05 * thread.pitch, length)
    tube = cut(wide, [cylinder(step, barrel.frame, barrel.radius, length)], step)
    gone = volume(barrel.body.shape) - sum(volume(b.shape) for b in cut(barrel.body, tube, step))
    wanted = volume(tube[0].shape) if barrel.inside else 0.0
    if abs(gone - wanted) > 1e-6 * volume(wide.shape):
        deep = thread.crest - barrel.radius
        raise CannotBuild(
            f"There is too little material round this hole: the thread goes {deep:.2f} mm into it."
            if barrel.inside
            else f"There is no room round this rod: the thread grows {deep:.2f} mm beyond it.",
            where="face",
        )


@dataclass(frozen=True)
class _Flat:
    """A flat face square to a barrel at one of its ends (1-based index), and which of its wires is the barrel's rim."""

    face: Shape
    index: int
    rim: Shape
    outer: bool

    @property
    def alone(self) -> bool:
        """Whether the rim is all that bounds it."""
        return self.outer and mapped(self.face, TopAbs_WIRE).Size() == 1

    def bounded_by(self, wire: Shape) -> Shape:
        """The face with another wire in the rim's place (counterclockwise about the barrel's frame)."""
        surface = BRep_Tool.Surface_s(TopoDS.Face(self.face))
        wires = mapped(self.face, TopAbs_WIRE)
        others = [TopoDS.Wire(wires.FindKey(i)) for i in range(1, wires.Size() + 1)]
        others = [w for w in others if not w.IsSame(self.rim)]
        if self.outer:
            maker = BRepBuilderAPI_MakeFace(surface, wire, True)
        else:
            outline = BRepTools.OuterWire_s(TopoDS.Face(self.face))
            maker = BRepBuilderAPI_MakeFace(surface, outline, True)
            others = [w for w in others if not w.IsSame(outline)]
            maker.Add(wire)
        for other in others:
            maker.Add(other)
        fixer = ShapeFix_Face(maker.Face())
        fixer.FixOrientation()
        return fixer.Face()


def _flat_at(barrel: Barrel, shape: Shape, height: float) -> _Flat | None:
    """The flat face that ends a barrel squarely at a height, bounded there by the barrel's rim alone."""
    faces = mapped(shape, FACE)
    frame, radius = barrel.frame, barrel.radius
    round_edges = mapped(faces.FindKey(barrel.index + 1), EDGE)
    for i in range(1, faces.Size() + 1):
        face = TopoDS.Face(faces.FindKey(i))
        plane = face_frame(face)
        if plane is None or abs(abs(dot(plane.normal, frame.normal)) - 1) > 1e-9:
            continue
        if abs(frame.height(plane.origin) - height) > 1e-6:
            continue
        outline = BRepTools.OuterWire_s(face)
        wires = mapped(face, TopAbs_WIRE)
        for k in range(1, wires.Size() + 1):
            wire = TopoDS.Wire(wires.FindKey(k))
            edges = list(each(wire, EDGE))
            if edges and all(round_edges.FindIndex(e) and _on_rim(e, frame, radius) for e in edges):
                return _Flat(face, i, wire, wire.IsSame(outline))
    return None


def _on_rim(edge: Shape, frame: Frame, radius: float) -> bool:
    curve = BRepAdaptor_Curve(edge)
    return bool(curve.GetType() == GeomAbs_Circle and abs(curve.Circle().Radius() - radius) < 1e-6)
