"""Fillets and chamfers, each result checked; what is too big is said with the edge to blame."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.collections import Array1_gp_Pnt2d, List_TopoDS_Shape
from OCP.gp import gp_Pnt2d
from OCP.TopoDS import TopoDS

from ..errors import CannotBuild
from .digest import name_text
from .edges import NamedEdge, edge_shape, runs_as_named
from .kernel import EDGE, FACE, VERTEX, Shape, each, is_sound, listed, mapped, solids_in
from .measuring import volume
from .naming import Body, FaceName, apart, carried, named

Dressed = tuple[NamedEdge, float, float]  # edge, size, second size (chamfers with two distances)
_STATIONS = 9  # of a radius that grows; between two alone the kernel eases it
HAIR = 1e-6  # mm: limits on flat faces fail exactly at the limit


def fillet(body: Body, edges: Sequence[Dressed], step: str) -> Body:
    """Round edges of a body, each with its own radius (mm); where the second size differs the radius grows evenly from
    the first at the end that the edge's name gives first to the second. Raises ``CannotBuild`` when that cannot be.
    """
    return _dressed(body, edges, step, "blend", _fillet_maker)


def chamfer(body: Body, edges: Sequence[Dressed], step: str) -> Body:
    """Cut edges off; the first size lies on the face with the smaller name."""
    return _dressed(body, edges, step, "bevel", _chamfer_maker)


def _fillet_maker(body: Body, edges: Sequence[Dressed], less: float) -> Any:
    maker = BRepFilletAPI_MakeFillet(body.shape)
    for edge, radius, other in edges:
        shape = edge_shape(edge)
        if radius == other:
            maker.Add(radius - less, shape)
            continue
        first, last = (radius, other) if runs_as_named(edge) else (other, radius)
        maker.Add(shape)
        contour = maker.Contour(shape)
        if maker.NbEdges(contour) != 1 or maker.Closed(contour):
            raise CannotBuild(
                "Only an edge that ends at corners can have a radius that grows: this one runs on, or is closed.",
                where="grows",
            )
        law = Array1_gp_Pnt2d(1, _STATIONS)
        for k in range(_STATIONS):
            u = k / (_STATIONS - 1)
            law.SetValue(k + 1, gp_Pnt2d(u, first + (last - first) * u - less))
        maker.SetRadius(law, contour, 1)
    return maker


def _chamfer_maker(body: Body, edges: Sequence[Dressed], less: float) -> Any:
    maker = BRepFilletAPI_MakeChamfer(body.shape)
    faces = list(each(body.shape, FACE))
    for edge, first, second in edges:
        shape = edge_shape(edge)
        if first == second:
            maker.Add(first - less, shape)
            continue
        side = next(f for f, name in zip(faces, body.names) if name == edge.first and _has(f, shape))
        maker.Add(first - less, second - less, shape, TopoDS.Face(side))
    return maker


def _has(face: Shape, edge: Shape) -> bool:
    return bool(mapped(face, EDGE).FindIndex(edge))


def _dressed(
    body: Body, edges: Sequence[Dressed], step: str, role: str, make: Callable[[Body, Sequence[Dressed], float], Any]
) -> Body:
    before = volume(body.shape)
    for less in (0.0, HAIR):
        try:
            own = apart(body)
            on_own = [(replace(e, body=own), a, b) for e, a, b in edges]
            maker = make(own, on_own, less)
            maker.Build()
            solid = _sound(maker, before, own)
        except CannotBuild:
            raise
        except Exception:
            solid = None
        if solid is not None:
            return named(body.id, solid, _names(own, on_own, maker, solid, step, role), f"{step}:{role}")
    word = "fillet" if role == "blend" else "chamfer"
    raise CannotBuild(f"This {word} cannot be made: it is too big for the edges around it.", where="edges")


def _sound(maker: Any, before: float, body: Body) -> Shape | None:
    """The one solid that came of it, if it can be believed: valid, and not wildly other than before."""
    if not maker.IsDone():
        return None
    found = solids_in(maker.Shape())
    if len(found) != 1 or not is_sound(found[0], [body.shape]):
        return None
    after = volume(found[0])
    return found[0] if 0 < after < 1.9 * before else None


def _names(body: Body, edges: Sequence[Dressed], maker: Any, solid: Shape, step: str, role: str) -> dict[int, FaceName]:
    faces = mapped(solid, FACE)
    names = carried([body], maker, faces)
    for edge, _, _ in edges:
        source = f"[{name_text(edge.first)}|{name_text(edge.second)}]"
        _name_generated(maker, edge_shape(edge), faces, names, f"{step}:{role}:{source}")
    # tangent chains go on over edges that were not picked, and corners come from vertices
    for shape in each(body.shape, EDGE):
        _name_generated(maker, shape, faces, names, f"{step}:{role}")
    for shape in each(body.shape, VERTEX):
        _name_generated(maker, shape, faces, names, f"{step}:corner")
    return names


def _name_generated(maker: Any, source: Shape, faces: Any, names: dict[int, FaceName], atom: str) -> None:
    try:
        made = listed(maker.Generated(source))
    except Exception:
        return
    for face in made:
        at = faces.FindIndex(face)
        if at and at not in names:
            names[at] = frozenset({atom})


def largest(
    body: Body,
    edges: Sequence[Dressed],
    make: Callable[[Body, Sequence[Dressed], str], Body],
    wanted: float,
    rounds: int = 18,
) -> float:
    """The largest factor of the wanted sizes at which the operation works (bisection; 0 when none does)."""
    low, high = 0.0, 1.0
    for _ in range(rounds):
        middle = (low + high) / 2
        try:
            make(body, [(e, a * middle, b * middle) for e, a, b in edges], "trial")
            low = middle
        except CannotBuild:
            high = middle
        if wanted * (high - low) < 1e-4 * max(wanted, 1e-3):
            break
    return low


def blamed(
    body: Body, edges: Sequence[Dressed], make: Callable[[Body, Sequence[Dressed], str], Body]
) -> list[NamedEdge]:
    """The edges that fail even by themselves."""
    found = []
    for one in edges[:60]:
        try:
            make(body, [one], "trial")
        except CannotBuild:
            found.append(one[0])
    return found


def chain_of(body: Body, start: NamedEdge, all_edges: Sequence[NamedEdge]) -> list[NamedEdge]:
    """All edges that run on smoothly from one (as the fillet does by itself)."""
    own = apart(body)
    maker = BRepFilletAPI_MakeFillet(own.shape)
    maker.Add(1.0, edge_shape(replace(start, body=own)))
    order = mapped(own.shape, EDGE)
    by_index = {e.index: e for e in all_edges}
    found = []
    for i in range(1, maker.NbEdges(1) + 1):
        at = order.FindIndex(maker.Edge(1, i)) - 1
        if at in by_index:
            found.append(by_index[at])
    return found or [start]


__all__ = ["Dressed", "List_TopoDS_Shape", "blamed", "chain_of", "chamfer", "fillet", "largest"]
