"""Profiles that follow a path: swept, twisted, narrowed; with what keeps the kernel's answers honest."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from OCP.BRepAlgoAPI import BRepAlgoAPI_Check
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_RightCorner,
    BRepBuilderAPI_RoundCorner,
)
from OCP.BRepFill import BRepFill_NoContact
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipeShell
from OCP.collections import HArray1_gp_Pnt
from OCP.GeomAPI import GeomAPI_Interpolate
from OCP.gp import gp_Dir, gp_Pnt
from OCP.Law import Law_Linear
from OCP.TopoDS import TopoDS

from ..errors import CannotBuild
from ..frames import Frame, Triple, dot, unit
from ..sketch.curves import Piece
from ..sketch.regions import Profile
from .kernel import EDGE, FACE, VERTEX, Shape, ShapeMap, each, is_tight, is_valid, listed, mapped, private, solids_in
from .measuring import area_and_centre, box_of, volume
from .naming import Body, FaceName, named
from .paths import SMOOTH, Path, carried
from .shapes import cut, edge_of, profile_face


@dataclass(frozen=True)
class Manner:
    """How a profile is taken along: ``upright`` keeps it from leaning, ``round`` fills the outside of corners round,
    ``twist`` (rad) over the whole path, ``scale`` at its end (1 is as at its start).
    """

    upright: bool = False
    round: bool = False
    twist: float = 0.0
    scale: float = 1.0


def swept(step: str, profile: Profile, frame: Frame, path: Path, how: Manner) -> Body:
    """A profile in its plane taken along a path that begins in that plane (mm, rad). Faces are named by the curve of
    the profile and the piece of the path they come from; start, end.

    Each outline is swept by itself, holes are cut out: so corners are exact. Volumes are held against Pappus' theorem.
    """
    face, _ = profile_face(profile, frame)
    _, middle = area_and_centre(face)
    path = path.from_near(middle)
    _check_start(path, frame, middle)
    if not path.smooth and (how.twist or abs(how.scale - 1) > 1e-12):
        what = "twist" if how.twist else "scale"
        raise CannotBuild("A path with corners cannot twist or narrow: round its corners first.", where=what)
    reach = max(math.dist(p, path.links[0].at(0.0)[0]) for p in _corners_of(box_of(face))) * max(1.0, how.scale)
    clear = _clear(path, reach)
    outer = _pipe(step, profile.outer, frame, path, how, clear)
    _check_volume(outer, Profile(profile.outer, ()), frame, path, how)
    for hole in profile.holes:
        inside = _pipe(step, hole, frame, path, how, clear)
        _check_volume(inside, Profile(hole, ()), frame, path, how)
        left = cut(outer, [inside], step)
        if len(left) != 1:
            raise CannotBuild("A hole of this profile comes out of it on the way: make the path gentler.", where="path")
        outer = left[0]
    return outer


def _check_start(path: Path, frame: Frame, middle: Triple) -> None:
    start, way = path.links[0].at(0.0)
    off = frame.height(start)
    size = max(path.length, math.dist(start, middle))
    if abs(off) > 1e-6 * size + 1e-6:
        raise CannotBuild(
            f"The path must begin in the plane of the profile: its nearer end is {abs(off):.4g} mm off.", where="path"
        )
    if abs(dot(way, frame.normal)) < math.sin(math.radians(10)):
        raise CannotBuild(
            "The path runs along the plane of the profile: draw the profile across the beginning of the path.",
            where="path",
        )


def _pipe(step: str, chain: Sequence[tuple[Piece, str]], frame: Frame, path: Path, how: Manner, clear: bool) -> Body:
    spine = path.wire()
    maker = BRepOffsetAPI_MakePipeShell(spine)
    if how.twist:
        maker.SetMode(_turning(path, frame, how.twist), False, BRepFill_NoContact)
    elif how.upright:
        maker.SetMode(gp_Dir(0, 0, 1))
    else:
        maker.SetDiscreteMode()
    maker.SetTransitionMode(BRepBuilderAPI_RoundCorner if how.round else BRepBuilderAPI_RightCorner)
    wire, edges = outline(chain, frame)
    if abs(how.scale - 1) > 1e-12:
        law = Law_Linear()
        law.Set(0.0, 1.0, 1.0, how.scale)
        maker.SetLaw(wire, law, False, False)
    else:
        maker.Add(wire, False, False)
    solid = built(maker, "path", clear)
    names = _names(step, maker, solid, edges, path, spine)
    return named(step, solid, names, f"{step}:side")


def outline(chain: Sequence[tuple[Piece, str]], frame: Frame) -> tuple[Shape, list[tuple[Shape, str]]]:
    """The wire of a closed chain of pieces in its plane, and its edges with the curve each came from."""
    maker = BRepBuilderAPI_MakeWire()
    edges = []
    for piece, owner in chain:
        maker.Add(edge_of(piece, frame))
        if not maker.IsDone():
            raise CannotBuild("This profile does not close exactly; look for a tiny gap in the sketch.")
        edges.append((maker.Edge(), owner))
    return maker.Wire(), edges


def built(maker: Any, where: str, clear: bool = False) -> Shape:
    """The solid of a maker of pipes; refused where the kernel cannot, where it crosses itself (not asked of what is
    known to be ``clear``: asking takes seconds of coils), or has gaps.
    """
    tight = CannotBuild(
        "Along this path the shape would cross itself: make its bends wider, or the profile smaller.", where=where
    )
    maker.SetTolerance(1e-5, 1e-5, 1e-3)
    try:
        maker.Build()
        done = maker.IsDone() and maker.MakeSolid()
        found = solids_in(maker.Shape()) if done else []
    except Exception:  # the bindings raise whatever the kernel throws
        raise tight from None
    if len(found) != 1:
        raise tight
    return checked(found[0], tight, clear)


def checked(solid: Shape, problem: CannotBuild, clear: bool = False) -> Shape:
    """A solid the right way out that is valid, has no gaps and does not cross itself (the kernel's validity alone lets
    such pass, and counts what lies double twice); else the problem is raised.
    """
    if volume(solid) < 0:
        solid = TopoDS.Solid(solid.Reversed())
    if volume(solid) <= 0 or not is_valid(solid) or not is_tight(solid, []):
        raise problem
    if not clear and not BRepAlgoAPI_Check(private(solid), False, True).IsValid():
        raise problem
    return solid


def _clear(path: Path, reach: float) -> bool:
    """Whether what reaches so far round a path surely does not meet itself: its bends are wider than that, its legs
    longer than the mitres at their ends, and what lies farther along lies farther away than both reach. (Legs that meet
    at a corner lie on their own sides of its mitre.)
    """
    turns, links = path.corners(), path.links
    each_ = 48
    places = path.samples(each_)
    steps = np.diff(places, axis=0)
    long = np.linalg.norm(steps, axis=1)
    ways = steps / np.maximum(long, 1e-300)[:, None]
    owner = np.repeat(np.arange(len(links)), each_)
    bends = np.arccos(np.clip((ways[:-1] * ways[1:]).sum(axis=1), -1, 1))
    within = owner[:-1] == owner[1:]
    widths = (long[:-1] + long[1:]) / 2 / np.maximum(bends, 1e-9)
    if widths[within].min(initial=math.inf) < 1.1 * reach:
        return False
    mitres = [reach * math.tan(min(t, 3.0) / 2) for t in turns]
    for i, link in enumerate(links):
        before = mitres[i - 1] if i or path.closed else 0.0
        after = mitres[i] if i < len(mitres) else 0.0
        if before + after > 0.99 * link.length:
            return False
    straight = [bool(bends[within & (owner[:-1] == i)].max(initial=0.0) < 1e-6) for i in range(len(links))]
    corner = [t > SMOOTH for t in turns]
    at = np.append(owner, len(links) - 1)
    run = np.concatenate([[0.0], np.cumsum(long)])
    apart = np.linalg.norm(places[:, None] - places[None], axis=2)
    along = np.abs(run[:, None] - run[None])
    if path.closed:
        along = np.minimum(along, run[-1] - along)
    asked = along > 3.5 * reach
    for i in range(len(links)):
        j = (i + 1) % len(links)
        if i < len(corner) and corner[i] and straight[i] and straight[j]:
            one, other = at == i, at == j
            asked[np.ix_(one, other)] = asked[np.ix_(other, one)] = False
        elif i < len(corner) and corner[i]:
            return False  # a bend that begins at a corner: nobody knows without looking
    return bool((apart[asked] - long.max() > 2.05 * reach).all())


def _names(
    step: str, maker: Any, solid: Shape, edges: Sequence[tuple[Shape, str]], path: Path, spine: Shape
) -> dict[int, FaceName]:
    """Faces by the curve of the profile; where the path has several pieces, by the piece too, so that each is told from
    the next.
    """
    faces = mapped(solid, FACE)
    along: dict[int, str] = {}
    several = len({link.owner for link in path.links}) > 1
    if several:
        for edge, link in zip(each(spine, EDGE), path.links):
            for shape in listed(maker.Generated(edge)):
                along[faces.FindIndex(shape)] = link.owner
        for vertex in each(spine, VERTEX):
            for shape in listed(maker.Generated(vertex)):
                at = faces.FindIndex(shape)
                if at:
                    along[at] = "corner"
    names: dict[int, FaceName] = {}
    for edge, owner in edges:
        for shape in listed(maker.Generated(edge)):
            at = faces.FindIndex(shape)
            if at:
                names[at] = frozenset({f"{step}:side:{owner}{'/' + along[at] if at in along else ''}"})
    return names | caps(step, maker, faces)


def caps(step: str, maker: Any, faces: ShapeMap) -> dict[int, FaceName]:
    """The names of the flat ends of what a maker of pipes or lofts has made."""
    names: dict[int, FaceName] = {}
    for shape, role in ((maker.FirstShape(), "start"), (maker.LastShape(), "end")):
        for face in each(shape, FACE) if shape is not None and not shape.IsNull() else ():
            if at := faces.FindIndex(face):
                names[at] = frozenset({f"{step}:{role}"})
    return names


def _turning(path: Path, frame: Frame, twist: float) -> Shape:
    """A curve beside the path that goes round it evenly by ``twist``: the profile looks at it. Between samples it is a
    cubic; the direction is carried along as ``Path.stations`` does.
    """
    count = max(48, int(24 * len(path.links)), int(abs(twist) / 0.1))
    per = max(2, math.ceil(count / len(path.links)))
    places, ways = [], []
    lengths = []
    run = 0.0
    for number, link in enumerate(path.links):
        own = link.length
        for i in range(per + (number == len(path.links) - 1)):
            place, way = link.at(i / per)
            places.append(np.array(place))
            ways.append(np.array(way))
            lengths.append(run + own * i / per)
        run += own
    reach = 0.25 * path.length
    radius = max(1.0, min(reach, 50.0))
    x = np.array(frame.x) - np.dot(frame.x, ways[0]) * ways[0]
    if np.linalg.norm(x) < 1e-6:
        x = np.cross(ways[0], [0.0, 0.0, 1.0] if abs(ways[0][2]) < 0.9 else [1.0, 0.0, 0.0])
    r = x / np.linalg.norm(x)
    array = HArray1_gp_Pnt(1, len(places))
    for i, (p, t, s) in enumerate(zip(places, ways, lengths)):
        if i:
            r = carried(places[i - 1], ways[i - 1], r, p, t)
        angle = twist * s / run
        side = math.cos(angle) * r + math.sin(angle) * np.cross(t, r)
        array.SetValue(i + 1, gp_Pnt(*(p + radius * side)))
    curve = GeomAPI_Interpolate(array, False, 1e-9)
    curve.Perform()
    return BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(curve.Curve()).Edge()).Wire()


def _check_volume(body: Body, profile: Profile, frame: Frame, path: Path, how: Manner) -> None:
    """Pappus: the area across the path times the way of its centroid. The centroid's way differs from the path's by at
    most its distance to it times all the turning; round corners add at most a wedge of the profile's reach.
    """
    face, _ = profile_face(profile, frame)
    area, centre = area_and_centre(face)
    start, way = path.links[0].at(0.0)
    low = high = path.length
    if how.upright:  # what rises does not count
        low = float(np.linalg.norm(np.diff(path.samples()[:, :2], axis=0), axis=1).sum())
        way = unit((way[0], way[1], 0.0)) if math.hypot(*way[:2]) > 1e-9 else way
    across = area * abs(dot(way, frame.normal))
    away = math.dist(start, centre)
    reach = max(math.dist(p, start) for p in _corners_of(box_of(face)))
    bends = sum(_bend(link.at(i / 24)[1], link.at((i + 1) / 24)[1]) for link in path.links for i in range(24))
    corners = path.corners()
    length = path.length
    slack = away * (1.05 * bends + sum(2 * math.tan(min(c, 2.8) / 2) for c in corners)) + 1e-6 * length
    if how.twist:
        slack += away * abs(how.twist) * 1e-3 + 1e-4 * length
    if how.round:
        slack += reach * sum(2 * math.tan(min(c, 2.8) / 2) for c in corners)
    share = 1.0 if abs(how.scale - 1) < 1e-12 else (1 + how.scale + how.scale**2) / 3
    got = volume(body.shape)
    if not across * share * (low - slack) * (1 - 1e-5) <= got <= across * share * (high + slack) * (1 + 1e-5):
        raise CannotBuild(
            "Along this path the shape does not come out right: make the bends wider, or take another way of turning.",
            where="path",
        )


def _corners_of(box: tuple[Triple, Triple]) -> list[Triple]:
    low, high = box
    return [(x, y, z) for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])]


def _bend(a: Triple, b: Triple) -> float:
    return math.acos(max(-1.0, min(1.0, dot(a, b))))
