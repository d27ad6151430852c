"""Outlines whose corners are matched, so that what goes through them does not turn on the way."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..errors import CannotBuild
from ..frames import Frame, Triple
from ..sketch.curves import ArcPiece, EllipsePiece, Piece, Segment
from ..sketch.curves.pieces import piece_length
from ..sketch.regions import Profile
from ..sketch.regions.geometry import part_of
from .measuring import area_and_centre
from .shapes import profile_face

_SAME = 0.02  # rad; corners of two outlines that lie so near in direction are one


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


def section_of(chain: Sequence[tuple[Piece, str]], frame: Frame) -> Section:
    face, _ = profile_face(Profile(tuple(chain), ()), frame)
    return Section(frame, tuple(chain), area_and_centre(face)[1])


def one_way_round(
    sections: Sequence[Section], tips: tuple[Triple | None, Triple | None], closed: bool = False
) -> list[Section]:
    """All run counterclockwise as seen from where the loft goes to."""
    stations = [*([tips[0]] if tips[0] else []), *(s.centre for s in sections), *([tips[1]] if tips[1] else [])]
    first = 1 if tips[0] else 0
    out = []
    for i, section in enumerate(sections, first):
        after, before = (i + 1, i - 1) if closed else (min(i + 1, len(stations) - 1), max(i - 1, 0))
        way = np.subtract(stations[after % len(stations)], stations[before])
        if float(np.linalg.norm(way)) < 1e-9:
            raise CannotBuild("Two of these regions lie on each other: a loft needs a distance.", where="regions")
        out.append(section if float(way @ np.array(section.frame.normal)) >= 0 else section.turned())
    return out


def matched_corners(sections: list[Section], shift: int) -> list[Section]:
    """The same with as many corners each, begun at corners that belong together: told by their directions from the
    middle, or, where an outline does not go round its middle ever onwards, by shares of its length.
    """
    counts = {len(s.chain) for s in sections}
    axes = _carried_axes(sections)
    if len(counts) > 1 or counts == {1}:
        sections = _with_all_corners(sections, axes) or _by_length(sections)
    out = [sections[0]]
    for section, before, own in zip(sections[1:], axes, axes[1:]):
        a, b = out[-1].corners() @ before.T, section.corners() @ own.T
        a, b = a / np.linalg.norm(a, axis=1).mean(), b / np.linalg.norm(b, axis=1).mean()
        apart = [float(((a - np.roll(b, -k, axis=0)) ** 2).sum()) for k in range(len(b))]
        out.append(section.begun(int(np.argmin(np.round(apart, 9))) + shift))
    return out


def _carried_axes(sections: Sequence[Section]) -> list[np.ndarray]:
    """Two directions (2, 3) in the plane of each section, carried from one plane to the next by the least turn, so that
    they go round a bend with the loft.
    """
    x, normals = np.array(sections[0].frame.x), [_run_about(s) for s in sections]
    out = [np.array([x, np.cross(normals[0], x)])]
    for before, normal in itertools.pairwise(normals):
        c, axis = float(before @ normal), np.cross(before, normal)
        if c > -1 + 1e-9:  # Rodrigues' turn that takes one normal to the next
            x = x + np.cross(axis, x) + np.cross(axis, np.cross(axis, x)) / (1 + c)
        x = x - (x @ normal) * normal
        x = x / np.linalg.norm(x)
        out.append(np.array([x, np.cross(normal, x)]))
    return out


def _run_about(section: Section) -> np.ndarray:
    """The normal about which a section is run counterclockwise (its plane's may point the other way)."""
    n = np.array(section.frame.normal)
    places = [at_share(p, k / 8) for p, _ in section.chain for k in ((0,) if isinstance(p, Segment) else range(8))]
    area = sum(a[0] * b[1] - a[1] * b[0] for a, b in zip(places, [*places[1:], places[0]]))
    return n if area >= 0 else -n


def _with_all_corners(sections: Sequence[Section], axes: Sequence[np.ndarray]) -> list[Section] | None:
    """Each section cut where others have corners, by direction from the middle."""
    angles = []
    for s, own in zip(sections, axes):
        directions = _directions(s, own)
        if directions is None:
            return None
        angles.append(directions)
    merged: list[float] = []
    # those with many corners say where they are, a seam of a round one says nothing
    for found, s in sorted(zip(angles, sections), key=lambda both: -len(both[1].chain)):
        if len(s.chain) == 1 and merged:
            continue
        for a in found:
            if all(abs(_turn(a - m)) > _SAME for m in merged):
                merged.append(a)
    out = []
    for corners, s, own in zip(angles, sections, axes):
        there = corners if len(s.chain) > 1 else []
        missing = [m for m in merged if all(abs(_turn(m - a)) > _SAME for a in there)]
        split = _split_at(s, own, missing)
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
        out.append(at_share(section.chain[i][0], (k / count - marks[i]) / (marks[i + 1] - marks[i])))
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


def _angle(section: Section, axes: np.ndarray, place: tuple[float, float]) -> float:
    spoke = section.spoke(place)
    return math.atan2(float(spoke @ axes[1]), float(spoke @ axes[0]))


def _directions(section: Section, axes: np.ndarray) -> list[float] | None:
    """Directions of the corners from the middle; None where the outline does not go round it once, ever onwards."""
    places = [at_share(p, k / 16) for p, _ in section.chain for k in range(16)]
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


def at_share(piece: Piece, share: float) -> tuple[float, float]:
    """The place at a share of a piece's parameter."""
    if isinstance(piece, Segment):
        return (
            piece.a[0] + (piece.b[0] - piece.a[0]) * share,
            piece.a[1] + (piece.b[1] - piece.a[1]) * share,
        )
    a, b = _range(piece)
    return piece.at(a + (b - a) * share)


def _split_at(section: Section, axes: np.ndarray, wanted: Sequence[float]) -> Section | None:
    """A section with more corners, in some directions from its middle. A whole circle begins at the first of them."""
    whole = len(section.chain) == 1
    chain: list[tuple[Piece, str]] = []
    for piece, owner in section.chain:
        start = _angle(section, axes, at_share(piece, 0.0))
        span = 2 * math.pi if whole else _turn(_angle(section, axes, at_share(piece, 1.0)) - start) % (2 * math.pi)
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


def _share(section: Section, axes: np.ndarray, piece: Piece, start: float, wanted: float) -> float:
    """At which share of its parameter a piece passes a direction; it runs ever onwards."""
    low, high = 0.0, 1.0
    for _ in range(60):
        middle = (low + high) / 2
        if (_angle(section, axes, at_share(piece, middle)) - start) % (2 * math.pi) < wanted:
            low = middle
        else:
            high = middle
    return (low + high) / 2
