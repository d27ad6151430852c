"""The planar arrangement of a sketch's curves: vertices, edges, loops, regions, and outlines of picked regions."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from ..curves import ArcPiece, Curve, EllipsePiece, Piece
from ..curves.pieces import piece_path
from . import geometry, tracing
from .geometry import part_of, rows_of, without_knots


@dataclass(frozen=True)
class Edge:
    """A stretch of one curve between two vertices; ``owners`` has every curve that runs here, oldest first."""

    piece: Piece
    start: int
    end: int
    owners: tuple[str, ...]
    along: tuple[bool, ...]  # whether each owner runs the way of the piece


@dataclass(frozen=True)
class Loop:
    """A closed chain of half-edges with its signed area (mm²; positive counterclockwise)."""

    half_edges: tuple[int, ...]
    area: float


@dataclass(frozen=True)
class Region:
    """One closed region: an outer loop and the holes in it."""

    index: int
    outer: Loop
    holes: tuple[Loop, ...]
    sides: frozenset[str]  # "c3+": the region lies left of curve c3; "c3-": right
    nth: int = 0  # which one, where several regions have the same sides

    @property
    def area(self) -> float:
        """Area in mm²."""
        return self.outer.area + sum(hole.area for hole in self.holes)

    @property
    def key(self) -> tuple[str, ...]:
        """The sides in a fixed order: the region's name. ``#2`` at its end tells apart regions with the same sides."""
        return (*sorted(self.sides), *((f"#{self.nth}",) if self.nth else ()))


@dataclass(frozen=True)
class Profile:
    """What a solid is made from: one outer chain and inner chains of (piece, curve id); outer counterclockwise."""

    outer: tuple[tuple[Piece, str], ...]
    holes: tuple[tuple[tuple[Piece, str], ...], ...]


@dataclass
class Arrangement:
    """All of it. ``loose`` are curves that bound nothing; ``open_ends`` the places where they end."""

    vertices: list[tuple[float, float]] = field(default_factory=list)
    next: list[int] = field(default_factory=list)
    region_of: list[int] = field(default_factory=list)  # per half-edge; -1: outside
    regions: list[Region] = field(default_factory=list)
    loose: tuple[str, ...] = ()
    open_ends: tuple[tuple[float, float], ...] = ()
    stretches: _Stretches | None = None

    @cached_property
    def edges(self) -> list[Edge]:
        """Every edge, with its exact piece."""
        return self.stretches.edges() if self.stretches else []

    def directed(self, half_edge: int) -> Piece:
        """The piece of a half-edge in its direction."""
        piece = self.edges[half_edge // 2].piece
        return piece if half_edge % 2 == 0 else piece.reversed()

    def by_key(self, key: Sequence[str]) -> list[Region]:
        """The regions with exactly this name (several only for the letters of a text)."""
        return [r for r in self.regions if r.key == tuple(key)]

    def at(self, x: float, y: float) -> Region | None:
        """The region that a place (mm) lies in, if any."""
        s = self.stretches
        inside = [r for r in self.regions if s is not None and s.turns(r.outer, x, y) > math.pi]
        return min(inside, key=lambda r: r.outer.area, default=None)

    def filled(self) -> list[Region]:
        """What an outline stands for when nothing is picked: all that is inside it, without the outlines in it, with
        those in these again, and so on.
        """
        held = {h: r.index for r in self.regions for hole in r.holes for h in hole.half_edges}
        deep: dict[int, int] = {}
        rest = list(self.regions)
        while rest:
            left = []
            for r in rest:
                beyond = [(h ^ 1, self.region_of[h ^ 1]) for h in r.outer.half_edges]
                known = [
                    0 if other < 0 else deep[other] + (h in held) for h, other in beyond if other < 0 or other in deep
                ]
                if known:
                    deep[r.index] = known[0]
                else:
                    left.append(r)
            if len(left) == len(rest):
                break
            rest = left
        return [r for r in self.regions if deep.get(r.index, 0) % 2 == 0]

    def path(self, region: Region) -> str:
        """SVG path data of a region (fill rule: evenodd)."""
        loops = (region.outer, *region.holes)
        return "".join(piece_path([self.directed(h) for h in loop.half_edges]) + "Z" for loop in loops)

    def outline(self, regions: Iterable[Region]) -> list[Profile]:
        """Profiles of the union of some regions: edges with both sides inside vanish."""
        inside = {r.index for r in regions}
        boundary = [
            h for h in range(len(self.next)) if self.region_of[h] in inside and self.region_of[h ^ 1] not in inside
        ]
        wanted = set(boundary)
        loops: list[Loop] = []
        assert self.stretches is not None
        while wanted:
            first = min(wanted)
            chain, at = [], first
            while True:
                chain.append(at)
                wanted.discard(at)
                at = self.next[at]
                while self.region_of[at] in inside and self.region_of[at ^ 1] in inside:
                    at = self.next[at ^ 1]
                if at == first:
                    break
            loops.append(Loop(tuple(chain), self.stretches.area(chain)))
        outers = [loop for loop in loops if loop.area > 0]
        holes: dict[int, list[Loop]] = {i: [] for i in range(len(outers))}
        for loop in loops:
            if loop.area <= 0:
                holes[self.stretches.smallest_around(outers, loop)].append(loop)
        return [
            Profile(self._chain(outer), tuple(self._chain(hole) for hole in holes[i])) for i, outer in enumerate(outers)
        ]

    def _chain(self, loop: Loop) -> tuple[tuple[Piece, str], ...]:
        return tuple((self.directed(h), self.edges[h // 2].owners[0]) for h in loop.half_edges)


@dataclass
class _Stretches:
    """Edges as numbers: a stretch of a piece each, and who owns it."""

    pieces: list[Piece]
    owner_of_piece: list[str]
    rows: np.ndarray
    piece: np.ndarray
    ta: np.ndarray
    tb: np.ndarray
    start: np.ndarray
    end: np.ndarray
    shared: dict[int, dict[str, bool]]  # edges with several owners: whether each runs the way of the piece

    def owners(self, edge: int) -> dict[str, bool]:
        """Who runs along an edge, oldest first, and whether the way of the piece."""
        return self.shared.get(edge) or {self.owner_of_piece[self.piece[edge]]: True}

    def edges(self) -> list[Edge]:
        """The edges with exact pieces."""
        found = []
        for e, (p, a, b) in enumerate(zip(self.piece.tolist(), self.ta.tolist(), self.tb.tolist())):
            owners = self.owners(e)
            piece = part_of(self.pieces[p], a, b)
            found.append(Edge(piece, int(self.start[e]), int(self.end[e]), tuple(owners), tuple(owners.values())))
        return found

    def area(self, chain: Iterable[int]) -> float:
        """Signed area of a chain of half-edges."""
        total = 0.0
        for h in chain:
            e = h // 2
            swept = geometry.sweep_area(self.rows[self.piece[e]], self.ta[e], self.tb[e])
            total += swept if h % 2 == 0 else -swept
        return total

    def smallest_around(self, outers: list[Loop], loop: Loop) -> int:
        """Index of the smallest outer loop that contains ``loop``."""
        e = loop.half_edges[0] // 2
        x, y = geometry.point(self.rows[self.piece[e]], (self.ta[e] + self.tb[e]) / 2)
        best, area = -1, math.inf
        for i, outer in enumerate(outers):
            if abs(loop.area) * (1 - 1e-9) < outer.area < area and self.turns(outer, x, y) > math.pi:
                best, area = i, outer.area
        return best

    def turns(self, loop: Loop, x: float, y: float) -> float:
        """The angle (rad) through which a loop is seen to turn from a place: a whole turn from within."""
        turn = 0.0
        for h in loop.half_edges:
            f = h // 2
            seen = geometry.winding(self.rows[self.piece[f]], self.ta[f], self.tb[f], x, y)
            turn += seen if h % 2 == 0 else -seen
        return turn


def arrange(curves: Iterable[Curve], size: float) -> Arrangement:
    """The arrangement of all curves that are not construction; ``size`` (mm) sets the tolerance (1e-8 of it)."""
    eps = max(1e-8 * size, 1e-12)
    pieces: list[Piece] = []
    owners: list[str] = []
    group: list[int] = []
    texts: set[str] = set()
    for number, curve in enumerate(curves):
        if curve.construction:
            continue
        lettered = "text" in curve.tags  # its own contours do not cross: they need not be compared
        if lettered:
            texts.add(curve.id)
        for whole in curve.pieces():
            for part in (whole,) if lettered else without_knots(whole):
                pieces.append(part)
                owners.append(curve.id)
                group.append(number if lettered else -1)
    if not pieces:
        return Arrangement()
    long = [_reach(p) > eps for p in pieces]
    if not all(long):
        pieces, owners, group = ([v for v, ok in zip(values, long) if ok] for values in (pieces, owners, group))  # type: ignore[assignment]
        if not pieces:
            return Arrangement()
    rows = rows_of(pieces)
    cut_piece, cut_at = tracing.all_cuts(rows, np.array(group, np.int64), eps)
    piece, ta, tb = tracing.split(rows, cut_piece, cut_at, eps)
    places = tracing.end_places(rows, piece, ta, tb)
    label, vertices = tracing.clustered(np.concatenate([places[0], places[1]]), 4 * eps)
    start, end = label[: len(piece)], label[len(piece) :]
    keep, shared = _merged(places[2], start, end, piece, owners, 16 * eps, rows)
    piece, ta, tb, start, end = piece[keep], ta[keep], tb[keep], start[keep], end[keep]
    degree = np.bincount(np.concatenate([start, end]), minlength=len(vertices))
    alive = tracing.alive_edges(start, end, len(vertices))
    everything = _Stretches(pieces, owners, rows, piece, ta, tb, start, end, shared)
    loose = dict.fromkeys(o for e in np.nonzero(~alive)[0].tolist() for o in everything.owners(e))
    renumbered = np.cumsum(alive) - 1
    kept = _Stretches(
        pieces, owners, rows, piece[alive], ta[alive], tb[alive], start[alive], end[alive],
        {int(renumbered[e]): who for e, who in shared.items() if alive[e]},
    )  # fmt: skip
    found = Arrangement(stretches=kept)
    found.vertices = list(map(tuple, vertices.tolist()))
    found.loose = tuple(loose)
    found.open_ends = tuple(found.vertices[v] for v in np.nonzero(degree == 1)[0])
    if len(kept.piece):
        _find_regions(found, kept, len(vertices), texts)
    return found


def _reach(piece: Piece) -> float:
    """About how long a piece is; enough to leave out what has no length."""
    if isinstance(piece, ArcPiece):
        return float(piece.radius * abs(piece.a1 - piece.a0))
    if isinstance(piece, EllipsePiece):
        return float(min(piece.minor, math.hypot(*piece.major)) * abs(piece.a1 - piece.a0))
    return sum(math.dist(a, b) for a, b in itertools.pairwise(piece))  # type: ignore[arg-type]


def _merged(
    middles: np.ndarray,
    start: np.ndarray,
    end: np.ndarray,
    piece: np.ndarray,
    owners: list[str],
    near: float,
    rows: np.ndarray,
) -> tuple[np.ndarray, dict[int, dict[str, bool]]]:
    """Stretches that coincide become one edge with several owners. Which to keep, and the owners of shared ones."""
    low, high = np.minimum(start, end), np.maximum(start, end)
    key = low * (int(high.max()) + 1) + high
    order = np.argsort(key, kind="stable")
    same = key[order][1:] == key[order][:-1]
    keep = ~((start == end) & (rows[piece, 0] == 0))  # a segment shorter than the tolerance
    shared: dict[int, dict[str, bool]] = {}
    first: dict[int, list[int]] = {}
    for k in np.nonzero(same)[0].tolist():
        a, b = int(order[k]), int(order[k + 1])
        group = first.setdefault(int(key[a]), [a])
        group.append(b)
    for group in first.values():
        kept: list[int] = []
        for e in sorted(group):
            twin = next((t for t in kept if math.dist(middles[t], middles[e]) <= near), None)
            if twin is None:
                kept.append(e)
                continue
            keep[e] = False
            way = bool(start[e] == start[twin]) if start[e] != end[e] else True
            mine = shared.setdefault(twin, {owners[piece[twin]]: True})
            mine.setdefault(owners[piece[e]], way)
    number = np.cumsum(keep) - 1
    return keep, {int(number[e]): who for e, who in shared.items() if keep[e]}


def _find_regions(arrangement: Arrangement, s: _Stretches, count: int, texts: set[str]) -> None:
    following = tracing.link(s.rows, s.piece, s.ta, s.tb, s.start, s.end, count)
    loop, first, area, boxes, component = tracing.loops(s.rows, s.piece, s.ta, s.tb, s.start, s.end, following, count)
    outers, inner = np.nonzero(area > 0)[0], np.nonzero(area <= 0)[0]
    parent = tracing.around(s.rows, s.piece, s.ta, s.tb, following, first, area, boxes, component, inner, outers)
    chains: list[list[int]] = [[] for _ in range(len(area))]
    follow = following.tolist()
    for i, h in enumerate(first.tolist()):
        at = h
        while True:
            chains[i].append(at)
            at = follow[at]
            if at == h:
                break
    made = [Loop(tuple(chain), a) for chain, a in zip(chains, area.tolist())]
    holes: list[list[int]] = [[] for _ in range(len(outers))]
    for i, k in zip(inner.tolist(), parent.tolist()):
        if k >= 0:
            holes[k].append(i)
    region_of_loop = np.full(len(area), -1, np.int64)
    for k, o in enumerate(outers.tolist()):
        region_of_loop[[o, *holes[k]]] = k
    arrangement.next = follow
    arrangement.region_of = region_of_loop[loop].tolist()
    sides = _sides(arrangement.region_of, s, len(outers))
    for k, o in enumerate(outers.tolist()):
        arrangement.regions.append(Region(k, made[o], tuple(made[i] for i in holes[k]), sides[k]))
    _tell_apart(arrangement, s, texts)


def _sides(region_of: list[int], s: _Stretches, count: int) -> list[frozenset[str]]:
    """The curve sides that bound each region."""
    names = list(dict.fromkeys(s.owner_of_piece))
    index = {name: i for i, name in enumerate(names)}
    of_piece = np.array([index[o] for o in s.owner_of_piece], np.int64)
    half = np.arange(len(region_of))
    region = np.array(region_of, np.int64)
    code = (region * len(names) + of_piece[s.piece[half // 2]]) * 2 + half % 2
    found: list[set[str]] = [set() for _ in range(count)]
    for c in np.unique(code[region >= 0]).tolist():
        who, back = divmod(c, 2)
        r, owner = divmod(who, len(names))
        found[r].add(names[owner] + ("-" if back else "+"))
    for e, owners in s.shared.items():
        for h in (2 * e, 2 * e + 1):
            if region_of[h] >= 0:
                for owner, along in owners.items():
                    found[region_of[h]].add(owner + ("+" if along == (h % 2 == 0) else "-"))
    return [frozenset(f) for f in found]


def _tell_apart(arrangement: Arrangement, s: _Stretches, texts: set[str]) -> None:
    """Number regions with the same sides along their first curve; the letters of a text stay one name."""
    groups: dict[frozenset[str], list[Region]] = {}
    for region in arrangement.regions:
        groups.setdefault(region.sides, []).append(region)
    for sides, regions in groups.items():
        if len(regions) == 1 or any(side[:-1] in texts for side in sides):
            continue
        curve = min(side[:-1] for side in sides)

        def place(region: Region, curve: str = curve) -> tuple[int, float]:
            mine = (h // 2 for loop in (region.outer, *region.holes) for h in loop.half_edges)
            return min((int(s.piece[e]), float(s.ta[e])) for e in mine if curve in s.owners(e))

        for nth, region in enumerate(sorted(regions, key=place), 1):
            arrangement.regions[region.index] = Region(region.index, region.outer, region.holes, sides, nth)


__all__ = ["Arrangement", "Edge", "Loop", "Profile", "Region", "arrange"]
