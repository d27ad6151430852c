"""Making and combining solids, each result checked before it is believed."""

from __future__ import annotations

import math
from collections.abc import Sequence

from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.collections import Array1_gp_Pnt, List_TopoDS_Shape
from OCP.Geom import Geom_BezierCurve
from OCP.gp import gp_Ax2, gp_Ax3, gp_Circ, gp_Dir, gp_Elips, gp_Pln, gp_Pnt, gp_Vec
from OCP.TopoDS import TopoDS

from ..errors import CannotBuild
from ..frames import Frame, Triple
from ..sketch.curves import ArcPiece, Bezier, EllipsePiece, Piece, Segment
from ..sketch.regions import Profile
from .freeform import hides_overlap
from .kernel import FACE, Shape, is_sound, listed, mapped, solids_in
from .measuring import volume
from .naming import Body, FaceName, apart, carried, named

FUZZY = 1e-4  # mm; what the kernel's booleans take as touching


def _point(p: Triple) -> gp_Pnt:
    return gp_Pnt(*p)


def edge_of(piece: Piece, frame: Frame) -> Shape:
    """One exact edge of a profile in space; it runs the way of the piece."""
    if isinstance(piece, Segment):
        return BRepBuilderAPI_MakeEdge(_point(frame.place(*piece.a)), _point(frame.place(*piece.b))).Edge()
    if isinstance(piece, Bezier):
        poles = Array1_gp_Pnt(1, 4)
        for i, p in enumerate(piece, 1):
            poles.SetValue(i, _point(frame.place(*p)))
        return BRepBuilderAPI_MakeEdge(Geom_BezierCurve(poles)).Edge()
    low, high = min(piece.a0, piece.a1), max(piece.a0, piece.a1)
    if piece.whole:
        high = low + 2 * math.pi
    if isinstance(piece, ArcPiece):
        axes = gp_Ax2(_point(frame.place(*piece.centre)), gp_Dir(*frame.normal), gp_Dir(*frame.x))
        edge = BRepBuilderAPI_MakeEdge(gp_Circ(axes, piece.radius), low, high).Edge()
    else:
        edge = _elliptic_edge(piece, frame, low, high)
    return edge if piece.a1 > piece.a0 else TopoDS.Edge(edge.Reversed())


def _elliptic_edge(piece: EllipsePiece, frame: Frame, low: float, high: float) -> Shape:
    """The kernel wants the longer half axis first."""
    ux, uy = piece.major
    long = math.hypot(ux, uy)
    if long < piece.minor:
        ux, uy = -uy / long * piece.minor, ux / long * piece.minor
        low, high = low - math.pi / 2, high - math.pi / 2
    a, b = max(long, piece.minor), min(long, piece.minor)
    origin, tip = frame.place(0, 0), frame.place(ux / a, uy / a)
    along = gp_Dir(*(t - o for t, o in zip(tip, origin)))
    axes = gp_Ax2(_point(frame.place(*piece.centre)), gp_Dir(*frame.normal), along)
    return BRepBuilderAPI_MakeEdge(gp_Elips(axes, a, b), low, high).Edge()


def profile_face(profile: Profile, frame: Frame) -> tuple[Shape, list[tuple[Shape, str]]]:
    """A flat face with holes, and its edges with the curve each came from."""
    edges: list[tuple[Shape, str]] = []

    def wire(chain: Sequence[tuple[Piece, str]]) -> Shape:
        maker = BRepBuilderAPI_MakeWire()
        for piece, owner in chain:
            maker.Add(edge_of(piece, frame))
            if not maker.IsDone():
                raise CannotBuild("This profile does not close exactly; look for a tiny gap in the sketch.")
            edges.append((maker.Edge(), owner))
        return maker.Wire()

    plane = gp_Pln(gp_Ax3(_point(frame.origin), gp_Dir(*frame.normal), gp_Dir(*frame.x)))
    maker = BRepBuilderAPI_MakeFace(plane, wire(profile.outer), True)
    for hole in profile.holes:
        maker.Add(TopoDS.Wire(wire(hole)))
    return maker.Face(), edges


def prism(step: str, profile: Profile, frame: Frame, start: float, end: float) -> Body:
    """A profile swept along its normal from height ``start`` to ``end`` (mm), faces named start, end and side."""
    base = Frame(frame.place(0, 0, start), frame.x, frame.normal)
    face, edges = profile_face(profile, base)
    n, rise = frame.normal, end - start
    maker = BRepPrimAPI_MakePrism(face, gp_Vec(n[0] * rise, n[1] * rise, n[2] * rise))
    found = solids_in(maker.Shape())
    if len(found) != 1:
        raise CannotBuild("This profile gives no solid; its outline may cross itself.")
    faces = mapped(found[0], FACE)
    names: dict[int, FaceName] = {}
    for edge, owner in edges:
        for side in listed(maker.Generated(edge)):
            names[faces.FindIndex(side)] = frozenset({f"{step}:side:{owner}"})
    names[faces.FindIndex(maker.FirstShape())] = frozenset({f"{step}:start"})
    names[faces.FindIndex(maker.LastShape())] = frozenset({f"{step}:end"})
    return named(step, found[0], names, f"{step}:side")


def _boolean(maker: type, first: Sequence[Body], second: Sequence[Body]) -> list[tuple[Shape, dict[int, FaceName]]]:
    """Solids of one n-ary boolean with carried names; touching flat faces are merged, unless merging wrecks a sound
    result.
    """
    for merged in (True, False):
        results = _tried(maker, first, second, merged)
        if results is not None:
            return results
    raise CannotBuild("Combining these shapes gives a solid that is not sound; move one of them a little.")


def _tried(
    maker: type, first: Sequence[Body], second: Sequence[Body], merged: bool
) -> list[tuple[Shape, dict[int, FaceName]]] | None:
    """The results of a boolean, or None where one of them is not sound."""
    first, second = [apart(b) for b in first], [apart(b) for b in second]
    arguments, tools = List_TopoDS_Shape(), List_TopoDS_Shape()
    for body in first:
        arguments.Append(body.shape)
    for body in second:
        tools.Append(body.shape)
    operation = maker()
    operation.SetArguments(arguments)
    operation.SetTools(tools)
    operation.SetFuzzyValue(FUZZY)
    operation.SetRunParallel(False)
    operation.SetToFillHistory(True)
    operation.Build()
    if not operation.IsDone() or operation.Shape() is None or operation.Shape().IsNull():
        raise CannotBuild("These shapes could not be combined; moving one of them by a hair often helps.")
    if merged:
        operation.SimplifyResult(True, True, 1e-6)
    results = []
    for solid in solids_in(operation.Shape()):
        # a solid that is inside out has less than no volume, and passes every check of the kernel's
        if volume(solid) <= 0 or not is_sound(solid, [b.shape for b in (*first, *second)]):
            return None
        results.append((solid, carried([*first, *second], operation, mapped(solid, FACE))))
    return results


def _bodies(results: list[tuple[Shape, dict[int, FaceName]]], id: str, step: str) -> list[Body]:
    ordered = sorted(results, key=lambda item: -volume(item[0]))
    return [
        named(id if i == 0 else f"{id}.{step}.{i}", solid, names, f"{step}:cut")
        for i, (solid, names) in enumerate(ordered)
    ]


def _heirs(results: list[tuple[Shape, dict[int, FaceName]]], bodies: Sequence[Body], step: str) -> list[Body]:
    """Bodies of a union: each keeps the id of the first old body whose atoms it carries; the rest are new."""
    out: list[Body] = []
    taken: set[str] = set()
    for solid, names in sorted(results, key=lambda item: -volume(item[0])):
        atoms = frozenset().union(*names.values()) if names else frozenset()
        heir = next((b.id for b in bodies if b.id not in taken and any(n & atoms for n in b.names)), None)
        new = f"{step}.{len(out)}" if step in taken else step
        out.append(named(heir or new, solid, names, f"{step}:cut"))
        taken.add(out[-1].id)
    return out


def fuse(bodies: Sequence[Body], tools: Sequence[Body], step: str) -> list[Body]:
    """Unite. The result is at least as large as its largest part and at most their sum."""
    everything = [*bodies, *tools]
    results = _boolean(BRepAlgoAPI_Fuse, everything[:1], everything[1:])
    total = sum(volume(s) for s, _ in results)
    parts = [volume(b.shape) for b in (*bodies, *tools)]
    slack = 1e-6 * sum(parts)
    if not max(parts) - slack <= total <= sum(parts) + slack:
        raise CannotBuild("Adding this material gave a wrong solid; move or resize it a little.")
    _check_overlap(everything[:1], everything[1:], sum(parts) - total)
    return _heirs(results, bodies, step)


def cut(body: Body, tools: Sequence[Body], step: str) -> list[Body]:
    """What is left of a body: possibly nothing, possibly several pieces (largest first)."""
    before = volume(body.shape)
    results = _boolean(BRepAlgoAPI_Cut, [body], tools)
    left = sum(volume(s) for s, _ in results)
    if not before - sum(volume(t.shape) for t in tools) - 1e-6 * before <= left <= before * (1 + 1e-9):
        raise CannotBuild("Cutting this away gave a wrong solid; move or resize the profile a little.")
    _check_overlap([body], tools, before - left)
    return _bodies(results, body.id, step)


def without(body: Body, others: Sequence[Body], step: str) -> list[Body]:
    """What one body has that others have not; slivers below a millionth of its volume are left out."""
    whole = volume(body.shape)
    results = _boolean(BRepAlgoAPI_Cut, [body], others)
    return _bodies([r for r in results if volume(r[0]) > 1e-6 * whole], body.id, step)


def common(body: Body, tools: Sequence[Body], step: str) -> list[Body]:
    """The overlap of a body and tools."""
    results = _boolean(BRepAlgoAPI_Common, [body], tools)
    most = min(volume(body.shape), sum(volume(t.shape) for t in tools))
    if sum(volume(s) for s, _ in results) > most * (1 + 1e-9):
        raise CannotBuild("Keeping the overlap gave a wrong solid; move or resize the profile a little.")
    _check_overlap([body], tools, sum(volume(s) for s, _ in results))
    return _bodies(results, body.id, step)


def _check_overlap(first: Sequence[Body], second: Sequence[Body], shared: float) -> None:
    """Raises where the kernel overlooked that free-form faces go through each other."""
    if hides_overlap([b.shape for b in first], [b.shape for b in second], shared):
        raise CannotBuild(
            "Where these two curved shapes go through each other the solid came out wrong; move or resize one a little."
        )


__all__ = ["Body", "common", "cut", "fuse", "prism", "profile_face", "without"]
