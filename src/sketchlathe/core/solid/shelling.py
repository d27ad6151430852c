"""Hollowing a body out. The kernel's riskiest operation: tried in several ways, believed only by its volume.

Order that works most often: sharp joins with intersections, then round joins, then an offset cavity cut by hand.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from typing import Any

from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepOffset import BRepOffset_MakeOffset, BRepOffset_Mode
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakeThickSolid
from OCP.BRepTools import BRepTools
from OCP.collections import List_TopoDS_Shape
from OCP.GeomAbs import GeomAbs_JoinType
from OCP.gp import gp_Pnt2d
from OCP.IntTools import IntTools_FClass2d
from OCP.TopAbs import TopAbs_IN, TopAbs_OUT
from OCP.TopoDS import TopoDS

from ..errors import CannotBuild
from .kernel import EDGE, FACE, SHELL, VERTEX, Shape, each, is_tight, is_valid, listed, mapped, solids_in
from .measuring import measures, volume
from .naming import Body, FaceName, apart, named
from .shapes import cut


def shell(
    body: Body,
    open_faces: Sequence[int],
    thickness: float,
    step: str,
    *,
    outward: bool = False,
    others: Mapping[int, float] | None = None,
) -> Body:
    """A body hollowed to walls of ``thickness`` mm, open at some faces (0-based). Raises ``CannotBuild``.

    ``others``: faces (0-based) whose walls have a thickness of their own.
    """
    before = measures(body.shape)
    other = dict(others or {})
    most = max((thickness, *other.values()))
    sharp, round_ = GeomAbs_JoinType.GeomAbs_Intersection, GeomAbs_JoinType.GeomAbs_Arc
    for way, join in ((_thick, sharp), (_thick, round_), (_hollow, sharp)):
        try:
            made = way(body, open_faces, thickness, other, join, step, outward)
        except CannotBuild:
            raise
        except Exception:
            continue
        if made is not None and _believable(before, made, most, outward) and _open(body, open_faces, made):
            return made
    raise CannotBuild("These walls cannot be made: they are too thick for some part of the body.", where="thickness")


def _believable(before: Any, made: Body, thickness: float, outward: bool) -> bool:
    """A shell lies strictly between nothing and the body, and its material is about area times thickness."""
    after = volume(made.shape)
    if outward:
        low, high = 0.0, before.area * thickness * 6 + 30 * thickness**3
        return low < after < high
    # walls can only be thinner than area x thickness where they meet in concave corners and thicker nowhere
    return 1e-9 * before.volume < after < before.volume * (1 - 1e-9) and after < before.area * thickness * 1.0001


def _open(body: Body, open_faces: Sequence[int], made: Body) -> bool:
    """Whether the faces that are to be open are: no hollow is shut in, and somewhere on each there is nothing now.

    Where the walls would fill the part, the kernel returns a hollow that ends flush under the open face.
    """
    if not open_faces:
        return True
    if mapped(made.shape, SHELL).Size() > mapped(body.shape, SHELL).Size():
        return False
    order, inside = mapped(body.shape, FACE), BRepClass3d_SolidClassifier(made.shape)
    return all(
        any(_nothing_at(inside, place) for place in _spread(TopoDS.Face(order.FindKey(i + 1)))) for i in open_faces
    )


def _spread(face: Any, each_way: int = 9) -> Iterator[Any]:
    """Places spread over a face, its middle ones first."""
    u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
    surface, inner = BRepAdaptor_Surface(face), IntTools_FClass2d(face, 1e-7)
    steps = sorted(((k + 0.5) / each_way for k in range(each_way)), key=lambda s: abs(s - 0.5))
    for s in steps:
        for t in steps:
            u, v = u0 + (u1 - u0) * s, v0 + (v1 - v0) * t
            if inner.Perform(gp_Pnt2d(u, v)) == TopAbs_IN:
                yield surface.Value(u, v)


def _nothing_at(inside: Any, place: Any) -> bool:
    inside.Perform(place, 1e-5)
    return bool(inside.State() == TopAbs_OUT)


def _thick(
    body: Body,
    open_faces: Sequence[int],
    thickness: float,
    others: Mapping[int, float],
    join: Any,
    step: str,
    outward: bool,
) -> Body | None:
    body = apart(body)
    order = mapped(body.shape, FACE)
    way = 1.0 if outward else -1.0
    skin = BRepOffset_Mode.BRepOffset_Skin
    maker: Any
    if others:
        maker = BRepOffset_MakeOffset()
        maker.Initialize(body.shape, way * thickness, 1e-4, skin, True, False, join, False, False)
        for index in open_faces:
            maker.AddFace(TopoDS.Face(order.FindKey(index + 1)))
        for index, own in others.items():
            maker.SetOffsetOnFace(TopoDS.Face(order.FindKey(index + 1)), way * own)
        maker.MakeThickSolid()
    else:
        closing = List_TopoDS_Shape()
        for index in open_faces:
            closing.Append(TopoDS.Face(order.FindKey(index + 1)))
        maker = BRepOffsetAPI_MakeThickSolid()
        maker.MakeThickSolidByJoin(body.shape, closing, way * thickness, 1e-4, skin, True, False, join, False)
        maker.Build()
    if not maker.IsDone():
        return None
    found = solids_in(maker.Shape())
    if len(found) != 1 or not is_valid(found[0]) or not is_tight(found[0], [body.shape]):
        return None
    names = _names(body, set(open_faces), maker, found[0], step)
    result = named(body.id, found[0], names, f"{step}:rim")
    if open_faces:
        return result
    # without an open face the kernel gives the solid inside (or around): what is wanted is the wall between
    walls = cut(body, [result], step) if not outward else cut(result, [body], step)
    return walls[0] if len(walls) == 1 else None


def _hollow(
    body: Body,
    open_faces: Sequence[int],
    thickness: float,
    others: Mapping[int, float],
    join: Any,
    step: str,
    outward: bool,
) -> Body | None:
    """The body less its offset (or the other way round), open faces not offset at all.

    Slower; but an open face beside a corner that goes in may have to grow, which this way does and the other cannot.
    """
    body = apart(body)
    order = mapped(body.shape, FACE)
    way = 1.0 if outward else -1.0
    maker = BRepOffset_MakeOffset()
    skin = BRepOffset_Mode.BRepOffset_Skin
    maker.Initialize(body.shape, way * thickness, 1e-4, skin, True, False, join, False, False)
    for index, own in {**others, **dict.fromkeys(open_faces, 0.0)}.items():
        maker.SetOffsetOnFace(TopoDS.Face(order.FindKey(index + 1)), way * own)
    maker.MakeOffsetShape()
    if not maker.IsDone():
        return None
    found = solids_in(maker.Shape())
    if len(found) != 1 or not is_valid(found[0]) or not is_tight(found[0], [body.shape]):
        return None
    offset = named(body.id, found[0], _names(body, set(open_faces), maker, found[0], step), f"{step}:rim")
    walls = cut(offset, [body], step) if outward else cut(body, [offset], step)
    if len(walls) != 1:
        return None
    opened = {body.names[i] for i in open_faces}
    rim = frozenset({f"{step}:rim"})
    return replace(walls[0], names=tuple(rim if n in opened else n for n in walls[0].names))


def _names(body: Body, opened: set[int], maker: Any, solid: Shape, step: str) -> dict[int, FaceName]:
    faces = mapped(solid, FACE)
    names: dict[int, FaceName] = {}
    for i, face in enumerate(each(body.shape, FACE)):
        at = faces.FindIndex(face)
        if at and i not in opened:
            names[at] = body.names[i]
        for piece in _asked(maker.Modified, face):
            at = faces.FindIndex(piece)
            if at and at not in names:
                names[at] = frozenset({f"{step}:rim"}) if i in opened else body.names[i]
        for made in _asked(maker.Generated, face):
            at = faces.FindIndex(made)
            if at and at not in names:
                names[at] = frozenset(f"{step}:inner({atom})" for atom in body.names[i])
    for kind in (EDGE, VERTEX):
        for shape in each(body.shape, kind):
            for made in _asked(maker.Generated, shape):
                at = faces.FindIndex(made)
                if at and at not in names:
                    names[at] = frozenset({f"{step}:rim"})
    return names


def _asked(question: Any, shape: Shape) -> list[Shape]:
    try:
        return listed(question(shape))
    except Exception:
        return []
