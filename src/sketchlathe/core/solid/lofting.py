"""Solids that pass through outlines one after the other."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex, BRepBuilderAPI_MakeWire
from OCP.BRepOffsetAPI import BRepOffsetAPI_ThruSections
from OCP.gp import gp_Pnt

from ..errors import CannotBuild
from ..sketch.curves import ArcPiece, EllipsePiece, Piece, Segment
from ..sketch.curves.pieces import piece_length
from ..sketch.regions import Profile
from ..sketch.regions.geometry import part_of
from .along import caps, checked
from .frames import Frame, Triple
from .kernel import FACE, listed, mapped, solids_in
from .measuring import area_and_centre, box_of, volume
from .naming import Body, FaceName, named
from .shapes import cut, edge_of, profile_face

_SAME = 0.02  # rad; corners of two outlines that lie so near in direction are one
_TURN = "This loft would pass through itself"


@dataclass(frozen=True)
class Section:
    """A closed outline in its plane: its pieces in order with the curve of each; its centroid in space."""

    frame: Frame
    chain: tuple[tuple[Piece, str], ...]
    centre: Triple

    def spoke(self, place: tuple[float, float]) -> np.ndarray:
        """From the centroid to a place of the plane, in space."""
        return np.subtract(self.frame.place(*place), self.centre)

    def corners(self) -> np.ndarray:
        """Where the pieces begin (n, 3), from the centroid."""
        return np.array([self.spoke(p.first) for p, _ in self.chain])

    def turned(self) -> Section:
        """Run the other way."""
        return replace(self, chain=tuple((p.reversed(), o) for p, o in self.chain[::-1]))

    def begun(self, number: int) -> Section:
        """Begun at another of its pieces."""
        k = number % len(self.chain)
        return replace(self, chain=(*self.chain[k:], *self.chain[:k]))


def lofted(
    step: str,
    sections: Sequence[tuple[Profile, Frame]],
    ruled: bool,
    shift: int,
    tips: tuple[Triple | None, Triple | None] = (None, None),
) -> Body:
    """Through outlines in their order (at least two, or one and a tip), straight from one to the next or smoothly;
    ``tips``: points before the first and behind the last. Corners are matched so that they turn least; ``shift``
    matches each section's corners to those so many farther on.

    Where outlines have different numbers of corners, each gets those of the others.
    """
    holes = {len(p.holes) for p, _ in sections}
    if len(holes) > 1 or (holes != {0} and any(tips)):
        raise CannotBuild("The regions have different numbers of holes: a hole must run all the way.", where="regions")
    outer = _through(step, [_section(p.outer, f) for p, f in sections], ruled, shift, tips)
    middles = [[_section(h, f).turned() for h in p.holes] for p, f in sections]  # holes run clockwise
    for hole in middles[0]:
        here, row = hole, [hole]
        for after in middles[1:]:
            here = min(after, key=lambda s: math.dist(s.centre, here.centre))
            row.append(here)
        left = cut(outer, [_through(step, row, ruled, 0, (None, None))], step)
        if len(left) != 1:
            raise CannotBuild("A hole comes out of the loft on the way: draw it farther inside.", where="regions")
        outer = left[0]
    return outer


def _section(chain: Sequence[tuple[Piece, str]], frame: Frame) -> Section:
    face, _ = profile_face(Profile(tuple(chain), ()), frame)
    return Section(frame, tuple(chain), area_and_centre(face)[1])


def _through(
    step: str, sections: list[Section], ruled: bool, shift: int, tips: tuple[Triple | None, Triple | None]
) -> Body:
    matched = _matched(_one_way_round(sections, tips), shift)
    maker = BRepOffsetAPI_ThruSections(True, ruled, 1e-6)
    maker.CheckCompatibility(False)
    problem = CannotBuild(
        f"{_TURN}: bring the regions nearer to each other in shape and direction, or match other corners.",
        where="regions",
    )
    rows: list[list[tuple[object, str]]] = []
    if tips[0] is not None:
        maker.AddVertex(BRepBuilderAPI_MakeVertex(gp_Pnt(*tips[0])).Vertex())
    for section in matched:
        wire = BRepBuilderAPI_MakeWire()
        rows.append([])
        for piece, owner in section.chain:
            wire.Add(edge_of(piece, section.frame))
            rows[-1].append((wire.Edge(), owner))
        maker.AddWire(wire.Wire())
    if tips[1] is not None:
        maker.AddVertex(BRepBuilderAPI_MakeVertex(gp_Pnt(*tips[1])).Vertex())
    try:
        maker.Build()
        found = solids_in(maker.Shape()) if maker.IsDone() else []
    except Exception:  # the bindings raise whatever the kernel throws
        found = []
    if len(found) != 1:
        raise problem
    rings = _rings(matched, tips)
    solid = checked(found[0], problem, clear=(ruled or len(rings) == 2) and _simple(rings, matched))
    _check(solid, rings, ruled, problem)
    faces = mapped(solid, FACE)
    owners: dict[int, list[str]] = {}
    for row in rows:
        for edge, owner in row:
            for shape in listed(maker.Generated(edge)):
                at = faces.FindIndex(shape)
                if at:
                    owners.setdefault(at, []).append(owner)
    names: dict[int, FaceName] = {at: frozenset({f"{step}:side:{'/'.join(o)}"}) for at, o in owners.items()}
    return named(step, solid, names | caps(step, maker, faces), f"{step}:side")


def _one_way_round(sections: Sequence[Section], tips: tuple[Triple | None, Triple | None]) -> list[Section]:
    """All run counterclockwise as seen from where the loft goes to."""
    stations = [*([tips[0]] if tips[0] else []), *(s.centre for s in sections), *([tips[1]] if tips[1] else [])]
    first = 1 if tips[0] else 0
    out = []
    for i, section in enumerate(sections, first):
        way = np.subtract(stations[min(i + 1, len(stations) - 1)], stations[max(i - 1, 0)])
        if float(np.linalg.norm(way)) < 1e-9:
            raise CannotBuild("Two of these regions lie on each other: a loft needs a distance.", where="regions")
        out.append(section if float(way @ np.array(section.frame.normal)) >= 0 else section.turned())
    return out


def _matched(sections: list[Section], shift: int) -> list[Section]:
    """The same with as many corners each, begun at corners that belong together: told by their directions from the
    middle, or, where an outline does not go round its middle ever onwards, by shares of its length.
    """
    counts = {len(s.chain) for s in sections}
    if len(counts) > 1 or counts == {1}:
        sections = _with_all_corners(sections) or _by_length(sections)
    out = [sections[0]]
    for section in sections[1:]:
        a, b = out[-1].corners(), section.corners()
        a, b = a / np.linalg.norm(a, axis=1).mean(), b / np.linalg.norm(b, axis=1).mean()
        apart = [float(((a - np.roll(b, -k, axis=0)) ** 2).sum()) for k in range(len(b))]
        out.append(section.begun(int(np.argmin(np.round(apart, 9))) + shift))
    return out


def _with_all_corners(sections: Sequence[Section]) -> list[Section] | None:
    """Each section cut where others have corners, by direction from the middle."""
    x = np.array(sections[0].frame.x)
    angles = []
    for s in sections:
        found = _directions(s, x)
        if found is None:
            return None
        angles.append(found)
    merged: list[float] = []
    # those with many corners say where they are, a seam of a round one says nothing
    for own, s in sorted(zip(angles, sections), key=lambda both: -len(both[1].chain)):
        if len(s.chain) == 1 and merged:
            continue
        for a in own:
            if all(abs(_turn(a - m)) > _SAME for m in merged):
                merged.append(a)
    out = []
    for own, s in zip(angles, sections):
        there = own if len(s.chain) > 1 else []
        missing = [m for m in merged if all(abs(_turn(m - a)) > _SAME for a in there)]
        split = _split_at(s, x, missing)
        if split is None or len(split.chain) != len(merged):
            return None
        out.append(split)
    return out


def _by_length(sections: Sequence[Section]) -> list[Section]:
    """Each section cut at the shares of its length at which others have corners, all begun where they lie nearest."""
    rich = max(sections, key=lambda s: len(s.chain))
    size = rich.corners()
    scale = float(np.linalg.norm(size, axis=1).mean())
    goal = np.array([rich.spoke(p) for p in _evenly(rich)]) / scale
    begun: list[Section] = []
    for s in sections:
        if s is rich:
            begun.append(s)
            continue
        tries = [s.begun(k) for k in range(len(s.chain))] if len(s.chain) > 1 else _begun_anywhere(s)
        own = float(np.linalg.norm([s.spoke(p) for p in _evenly(s)], axis=1).mean())
        begun.append(
            min(tries, key=lambda t: float(((np.array([t.spoke(p) for p in _evenly(t)]) / own - goal) ** 2).sum()))
        )
    marks: list[float] = []
    for s in sorted(begun, key=lambda s: -len(s.chain)):
        marks += [m for m in _marks(s) if all(abs(m - o) > 1e-3 for o in marks)]
    return [_cut_at(s, sorted(marks)) for s in begun]


def _marks(section: Section) -> list[float]:
    """Shares of the length at which the pieces begin; the first is 0."""
    lengths = np.array([piece_length(p) for p, _ in section.chain])
    return [0.0, *(np.cumsum(lengths)[:-1] / lengths.sum())]


def _evenly(section: Section, count: int = 48) -> list[tuple[float, float]]:
    """Places at equal shares of the length."""
    marks = [*_marks(section), 1.0]
    out = []
    for k in range(count):
        i = next(i for i in range(len(marks) - 1) if k / count < marks[i + 1])
        out.append(_at(section.chain[i][0], (k / count - marks[i]) / (marks[i + 1] - marks[i])))
    return out


def _begun_anywhere(section: Section) -> list[Section]:
    """A closed curve begun at 24 of its places."""
    ((piece, owner),) = section.chain
    if not isinstance(piece, ArcPiece | EllipsePiece):
        return [section]
    span = piece.a1 - piece.a0
    return [
        replace(section, chain=((piece._replace(a0=piece.a0 + span * k / 24, a1=piece.a1 + span * k / 24), owner),))
        for k in range(24)
    ]


def _cut_at(section: Section, marks: Sequence[float]) -> Section:
    """A section cut at shares of its length, those that lie at its corners apart."""
    own = [*_marks(section), 1.0]
    chain: list[tuple[Piece, str]] = []
    for (piece, owner), low, high in zip(section.chain, own, own[1:]):
        inside = [m for m in marks if low + 1e-3 < m < high - 1e-3]
        shares = [0.0, *((m - low) / (high - low) for m in inside), 1.0]
        a, b = _range(piece)
        for s, t in itertools.pairwise(shares):
            whole = s == 0.0 and t == 1.0
            chain.append((piece if whole else part_of(piece, a + (b - a) * s, a + (b - a) * t), owner))
    return replace(section, chain=tuple(chain))


def _turn(angle: float) -> float:
    return math.remainder(angle, 2 * math.pi)


def _across(section: Section, x: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Directions in a section's plane that stand for x and y of the first."""
    n = np.array(section.frame.normal)
    u = x - (x @ n) * n
    u = u / np.linalg.norm(u) if np.linalg.norm(u) > 1e-6 else np.array(section.frame.x)
    # the sense in which the outline is run counts, not that of its plane
    corners = [section.spoke(_at(p, k / 8)) for p, _ in section.chain for k in range(8)]
    area = sum(float(np.cross(a, b) @ n) for a, b in zip(corners, [*corners[1:], corners[0]]))
    return u, np.cross(n if area >= 0 else -n, u)


def _angle(section: Section, axes: tuple[np.ndarray, np.ndarray], place: tuple[float, float]) -> float:
    spoke = section.spoke(place)
    return math.atan2(float(spoke @ axes[1]), float(spoke @ axes[0]))


def _directions(section: Section, x: np.ndarray) -> list[float] | None:
    """Directions of the corners from the middle; None where the outline does not go round it once, ever onwards."""
    axes = _across(section, x)
    places = [_at(p, k / 16) for p, _ in section.chain for k in range(16)]
    angles = [_angle(section, axes, p) for p in places]
    steps = [_turn(b - a) for a, b in zip(angles, [*angles[1:], angles[0]])]
    if min(steps) <= 0 or abs(sum(steps) - 2 * math.pi) > 1e-6:
        return None
    return angles[::16]


def _range(piece: Piece) -> tuple[float, float]:
    """The parameters between which a piece runs: of a segment mm, of an arc rad."""
    if isinstance(piece, ArcPiece | EllipsePiece):
        return piece.a0, piece.a1
    return 0.0, (math.dist(piece.a, piece.b) if isinstance(piece, Segment) else 1.0)


def _at(piece: Piece, share: float) -> tuple[float, float]:
    """The place at a share of a piece's parameter."""
    if isinstance(piece, Segment):
        return (
            piece.a[0] + (piece.b[0] - piece.a[0]) * share,
            piece.a[1] + (piece.b[1] - piece.a[1]) * share,
        )
    a, b = _range(piece)
    return piece.at(a + (b - a) * share)


def _split_at(section: Section, x: np.ndarray, wanted: Sequence[float]) -> Section | None:
    """A section with more corners, in some directions from its middle. A whole circle begins at the first of them."""
    axes = _across(section, x)
    whole = len(section.chain) == 1
    chain: list[tuple[Piece, str]] = []
    for piece, owner in section.chain:
        start = _angle(section, axes, _at(piece, 0.0))
        span = 2 * math.pi if whole else _turn(_angle(section, axes, _at(piece, 1.0)) - start) % (2 * math.pi)
        inside = sorted(t for w in wanted if 1e-9 < (t := (w - start) % (2 * math.pi)) < span - 1e-9)
        if whole and len(inside) < len(wanted):
            inside = [0.0, *inside]
        shares = [0.0 if t == 0.0 else _share(section, axes, piece, start, t) for t in inside]
        if whole:
            a, b = _range(piece)
            if isinstance(piece, ArcPiece | EllipsePiece):
                places = [a + (b - a) * s for s in shares]
                ends = [*places[1:], places[0] + (b - a)]
                chain += [(piece._replace(a0=p, a1=q), owner) for p, q in zip(places, ends)]
                continue
            return None
        marks = [0.0, *shares, 1.0]
        a, b = _range(piece)
        for s, t in itertools.pairwise(marks):
            own = s == 0.0 and t == 1.0
            chain.append((piece if own else part_of(piece, a + (b - a) * s, a + (b - a) * t), owner))
    return replace(section, chain=tuple(chain))


def _share(section: Section, axes: tuple[np.ndarray, np.ndarray], piece: Piece, start: float, wanted: float) -> float:
    """At which share of its parameter a piece passes a direction; it runs ever onwards."""
    low, high = 0.0, 1.0
    for _ in range(60):
        middle = (low + high) / 2
        if (_angle(section, axes, _at(piece, middle)) - start) % (2 * math.pi) < wanted:
            low = middle
        else:
            high = middle
    return (low + high) / 2


def _rings(sections: Sequence[Section], tips: tuple[Triple | None, Triple | None]) -> list[np.ndarray]:
    """The sampled outlines in their order, matched; a tip is a ring of one place."""
    # what is straight in every section needs no places between its corners
    counts = [1 if all(isinstance(p, Segment) for p, _ in row) else 24 for row in zip(*(s.chain for s in sections))]
    rings = [
        np.array([s.frame.place(*_at(p, k / n)) for (p, _), n in zip(s.chain, counts) for k in range(n)])
        for s in sections
    ]
    ends = [np.repeat([tip], len(rings[0]), axis=0) if tip is not None else None for tip in tips]
    return [*([ends[0]] if ends[0] is not None else []), *rings, *([ends[1]] if ends[1] is not None else [])]


def _simple(rings: Sequence[np.ndarray], sections: Sequence[Section]) -> bool:
    """Whether a loft that runs straight between parallel outlines surely does not pass through itself: it rises all the
    time, and no cut on the way crosses itself. (What is not parallel nobody knows without looking.)
    """
    n = np.array(sections[0].frame.normal)
    if any(abs(abs(float(n @ np.array(s.frame.normal))) - 1) > 1e-9 for s in sections[1:]):
        return False
    heights = [float(ring[0] @ n) for ring in rings]
    rises = np.diff(heights)
    if not ((rises > 0).all() or (rises < 0).all()):
        return False
    x = np.array(sections[0].frame.x)
    flat = np.column_stack([x, np.cross(n, x)])
    for a, b in itertools.pairwise([ring @ flat for ring in rings]):
        for t in np.linspace(0.02, 0.98, 25):
            if not shapely.Polygon((1 - t) * a + t * b).is_valid:
                return False
    return True


def _check(solid: object, rings: Sequence[np.ndarray], ruled: bool, problem: CannotBuild) -> None:
    """The volume against that between sampled outlines joined straight (which a ruled loft is up to how curves are
    run); a smooth one may be fuller or slimmer, but not leave the outlines' box by much.
    """
    middle = np.concatenate(rings).mean(axis=0)
    total = 0.0
    for a, b in itertools.pairwise(rings):
        a, b = a - middle, b - middle
        c, d = np.roll(a, -1, axis=0), np.roll(b, -1, axis=0)
        for p, q, r in ((a, c, d), (a, d, b), (a, c, b), (c, d, b)):
            total += float(np.einsum("ij,ij->i", p, np.cross(q, r)).sum()) / 12
    for ring, sign in ((rings[0], -1.0), (rings[-1], 1.0)):
        own = ring - middle
        hub = own.mean(axis=0)
        total += sign * float(np.einsum("j,ij->", hub, np.cross(own, np.roll(own, -1, axis=0)))) / 6
    got = volume(solid)
    if total <= 0 or ((ruled or len(rings) == 2) and abs(got - total) > 0.02 * total):
        raise problem
    if not 0.25 * total < got < 4 * total:
        raise problem
    if ruled:
        return
    low, high = box_of(solid)
    l, h = np.concatenate(rings).min(axis=0), np.concatenate(rings).max(axis=0)
    if ((l - low > 0.5 * (h - l) + 1e-6) | (high - h > 0.5 * (h - l) + 1e-6)).any():
        raise problem
