"""The planar arrangement of a sketch's curves: vertices, half-edges, loops, regions.

Half-edge structure after de Berg et al., "Computational Geometry" (3rd ed., ch. 2), with exact pieces instead of
polygons. Half-edge ``2e`` runs along edge ``e``, ``2e + 1`` against it; a region lies left of its half-edges.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np

from ..curves import ArcPiece, Curve, Piece, Segment
from ..curves.base import piece_length, piece_path
from .crossings import crossings, ends

TIE = 1e-5  # directions closer than this (rad) are told apart by curvature


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

    @property
    def area(self) -> float:
        """Area in mm²."""
        return self.outer.area + sum(hole.area for hole in self.holes)

    @property
    def key(self) -> tuple[str, ...]:
        """The sides in a fixed order: the region's name."""
        return tuple(sorted(self.sides))


@dataclass(frozen=True)
class Profile:
    """What a solid is made from: one outer chain and inner chains of (piece, curve id); outer counterclockwise."""

    outer: tuple[tuple[Piece, str], ...]
    holes: tuple[tuple[tuple[Piece, str], ...], ...]


@dataclass
class Arrangement:
    """All of it. ``loose`` are curves that bound nothing; ``open_ends`` the places where they end."""

    vertices: list[tuple[float, float]]
    edges: list[Edge]
    next: list[int] = field(default_factory=list)
    region_of: list[int] = field(default_factory=list)  # per half-edge; -1: outside
    regions: list[Region] = field(default_factory=list)
    loose: tuple[str, ...] = ()
    open_ends: tuple[tuple[float, float], ...] = ()

    def directed(self, half_edge: int) -> Piece:
        """The piece of a half-edge in its direction. An arc run backwards has ``a1 < a0``."""
        piece = self.edges[half_edge // 2].piece
        if half_edge % 2 == 0:
            return piece
        if isinstance(piece, Segment):
            return Segment(piece.b, piece.a)
        return ArcPiece(piece.centre, piece.radius, piece.a1, piece.a0)

    def sides_of(self, half_edge: int) -> Iterable[str]:
        """The curve sides that a half-edge has on its left."""
        edge = self.edges[half_edge // 2]
        for owner, along in zip(edge.owners, edge.along):
            yield owner + ("+" if along == (half_edge % 2 == 0) else "-")

    def by_key(self, key: tuple[str, ...]) -> Region | None:
        """The region with exactly this name."""
        return next((r for r in self.regions if r.key == key), None)

    def path(self, region: Region) -> str:
        """SVG path data of a region (fill rule: evenodd)."""
        return "".join(_loop_path(self, loop) + "Z" for loop in (region.outer, *region.holes))

    def outline(self, regions: Iterable[Region]) -> list[Profile]:
        """Profiles of the union of some regions: edges with both sides inside vanish."""
        inside = {r.index for r in regions}
        boundary = [
            h for h in range(2 * len(self.edges)) if self.region_of[h] in inside and self.region_of[h ^ 1] not in inside
        ]
        wanted = set(boundary)
        loops: list[Loop] = []
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
            loops.append(Loop(tuple(chain), _area(self, chain)))
        outers = [loop for loop in loops if loop.area > 0]
        holes: dict[int, list[Loop]] = {i: [] for i in range(len(outers))}
        for loop in loops:
            if loop.area <= 0:
                holes[_smallest_around(self, outers, loop)].append(loop)
        return [
            Profile(self._chain(outer), tuple(self._chain(hole) for hole in holes[i])) for i, outer in enumerate(outers)
        ]

    def _chain(self, loop: Loop) -> tuple[tuple[Piece, str], ...]:
        return tuple((self.directed(h), self.edges[h // 2].owners[0]) for h in loop.half_edges)


def arrange(curves: Iterable[Curve], size: float) -> Arrangement:
    """The arrangement of all curves that are not construction; ``size`` (mm) sets the tolerance (1e-8 of it)."""
    eps = max(1e-8 * size, 1e-12)
    pieces: list[tuple[Piece, str]] = [
        (piece, curve.id)
        for curve in curves
        if not curve.construction
        for piece in curve.pieces()
        if piece_length(piece) > eps
    ]
    cuts = _all_cuts([p for p, _ in pieces], eps)
    vertices = _Vertices(4 * eps)
    edges = _split(pieces, cuts, vertices, eps)
    kept, loose = _without_dangling(edges, len(vertices.places))
    arrangement = Arrangement(vertices.places, kept)
    arrangement.loose = tuple(dict.fromkeys(o for e in loose for o in e.owners))
    arrangement.open_ends = _open_ends(edges, vertices.places)
    _link(arrangement)
    _find_regions(arrangement)
    return arrangement


def _all_cuts(pieces: list[Piece], eps: float) -> list[list[float]]:
    """Parameters at which each piece is met by another. Boxes rule most pairs out."""
    cuts: list[list[float]] = [[] for _ in pieces]
    if not pieces:
        return cuts
    boxes = np.array([_box(p) for p in pieces])
    low, high = boxes[:, :2] - eps, boxes[:, 2:] + eps
    for i, piece in enumerate(pieces):
        near = np.nonzero(np.all((low[i] <= high[i + 1 :]) & (low[i + 1 :] <= high[i]), axis=1))[0] + i + 1
        for j in near:
            for s, t in crossings(piece, pieces[j], eps):
                cuts[i].append(s)
                cuts[j].append(t)
    return cuts


def _box(piece: Piece) -> tuple[float, float, float, float]:
    (ax, ay), (bx, by) = ends(piece)
    low_x, high_x, low_y, high_y = min(ax, bx), max(ax, bx), min(ay, by), max(ay, by)
    if isinstance(piece, ArcPiece):
        first = math.ceil(piece.a0 / (math.pi / 2))
        for k in range(first, math.floor(piece.a1 / (math.pi / 2)) + 1):
            x, y = piece.at(k * math.pi / 2)
            low_x, high_x, low_y, high_y = min(low_x, x), max(high_x, x), min(low_y, y), max(high_y, y)
    return low_x, low_y, high_x, high_y


class _Vertices:
    """Places, merged when closer than a tolerance (found through a grid)."""

    def __init__(self, near: float) -> None:
        self.near = near
        self.places: list[tuple[float, float]] = []
        self._grid: dict[tuple[int, int], list[int]] = {}

    def at(self, x: float, y: float) -> int:
        gx, gy = math.floor(x / self.near), math.floor(y / self.near)
        for cx in (gx - 1, gx, gx + 1):
            for cy in (gy - 1, gy, gy + 1):
                for i in self._grid.get((cx, cy), ()):
                    if math.hypot(self.places[i][0] - x, self.places[i][1] - y) <= self.near:
                        return i
        self.places.append((x, y))
        self._grid.setdefault((gx, gy), []).append(len(self.places) - 1)
        return len(self.places) - 1


def _split(pieces: list[tuple[Piece, str]], cuts: list[list[float]], vertices: _Vertices, eps: float) -> list[Edge]:
    """Edges between consecutive cuts; edges that coincide become one with several owners."""
    found: dict[tuple[int, int, int], list[tuple[Piece, str, bool]]] = {}
    for (piece, owner), at in zip(pieces, cuts):
        for part in _parts(piece, at, eps):
            a, b = ends(part)
            i, j = vertices.at(*a), vertices.at(*b)
            middle = vertices.at(*_middle(part))
            if i == j and isinstance(part, Segment):
                continue
            forward = i < j or (i == j and _turns_left(part))
            found.setdefault((min(i, j), max(i, j), middle), []).append((part, owner, forward))
    edges = []
    for shared in found.values():
        part, _, forward = shared[0]
        a, b = ends(part)
        owners = {owner: fwd == forward for _, owner, fwd in reversed(shared)}
        owners = dict(reversed(owners.items()))
        edges.append(Edge(part, vertices.at(*a), vertices.at(*b), tuple(owners), tuple(owners.values())))
    return edges


def _turns_left(part: Piece) -> bool:
    return isinstance(part, ArcPiece) and part.a1 > part.a0


def _middle(part: Piece) -> tuple[float, float]:
    if isinstance(part, Segment):
        return ((part.a[0] + part.b[0]) / 2, (part.a[1] + part.b[1]) / 2)
    return part.at((part.a0 + part.a1) / 2)


def _parts(piece: Piece, at: list[float], eps: float) -> list[Piece]:
    if isinstance(piece, Segment):
        (ax, ay), (bx, by) = piece
        long = math.hypot(bx - ax, by - ay)
        stops = _distinct([0.0, *at, long], eps)
        places = [(ax + (bx - ax) * s / long, ay + (by - ay) * s / long) for s in stops]
        places[0], places[-1] = piece.a, piece.b
        return [Segment(a, b) for a, b in itertools.pairwise(places)]
    slack = eps / piece.radius
    if piece.whole:
        stops = _distinct([a % (2 * math.pi) for a in at], slack)
        if len(stops) > 1 and stops[0] + 2 * math.pi - stops[-1] <= slack:
            stops.pop()
        if not stops:
            stops = [0.0]
        stops.append(stops[0] + 2 * math.pi)
    else:
        stops = _distinct([piece.a0, *at, piece.a1], slack)
        stops[0], stops[-1] = piece.a0, piece.a1
    return [ArcPiece(piece.centre, piece.radius, a, b) for a, b in itertools.pairwise(stops)]


def _distinct(values: list[float], slack: float) -> list[float]:
    out: list[float] = []
    for value in sorted(values):
        if not out or value - out[-1] > slack:
            out.append(value)
    return out


def _without_dangling(edges: list[Edge], count: int) -> tuple[list[Edge], list[Edge]]:
    """Take away edges that end in nothing, again and again."""
    degree = [0] * count
    at: list[list[int]] = [[] for _ in range(count)]
    for i, edge in enumerate(edges):
        for v in (edge.start, edge.end):
            degree[v] += 1
            at[v].append(i)
    alive = [True] * len(edges)
    todo = [v for v in range(count) if degree[v] == 1]
    while todo:
        v = todo.pop()
        for i in at[v]:
            if alive[i]:
                alive[i] = False
                for w in (edges[i].start, edges[i].end):
                    degree[w] -= 1
                    if degree[w] == 1:
                        todo.append(w)
    return [e for e, ok in zip(edges, alive) if ok], [e for e, ok in zip(edges, alive) if not ok]


def _open_ends(edges: list[Edge], places: list[tuple[float, float]]) -> tuple[tuple[float, float], ...]:
    degree = [0] * len(places)
    for edge in edges:
        degree[edge.start] += 1
        degree[edge.end] += 1
    return tuple(places[v] for v, d in enumerate(degree) if d == 1)


def _departure(arrangement: Arrangement, half_edge: int) -> tuple[float, float]:
    """Direction in which a half-edge leaves its vertex, and its curvature there (left is positive)."""
    piece = arrangement.directed(half_edge)
    if isinstance(piece, Segment):
        return math.atan2(piece.b[1] - piece.a[1], piece.b[0] - piece.a[0]), 0.0
    if piece.a1 > piece.a0:
        return _wrap(piece.a0 + math.pi / 2), 1 / piece.radius
    return _wrap(piece.a0 - math.pi / 2), -1 / piece.radius


def _wrap(angle: float) -> float:
    return math.remainder(angle, 2 * math.pi)


def _link(arrangement: Arrangement) -> None:
    """``next`` of every half-edge: at its end, the one just clockwise of its twin."""
    leaving: dict[int, list[int]] = {}
    for e, edge in enumerate(arrangement.edges):
        leaving.setdefault(edge.start, []).append(2 * e)
        leaving.setdefault(edge.end, []).append(2 * e + 1)
    arrangement.next = [0] * (2 * len(arrangement.edges))
    for around in leaving.values():
        order = _counterclockwise(arrangement, around)
        for i, half_edge in enumerate(order):
            arrangement.next[half_edge ^ 1] = order[i - 1]


def _counterclockwise(arrangement: Arrangement, around: list[int]) -> list[int]:
    keyed = sorted((*_departure(arrangement, h), h) for h in around)
    # start where there is a gap, so that a tie never straddles ±π
    for i in range(len(keyed)):
        if (keyed[i][0] - keyed[i - 1][0]) % (2 * math.pi) > TIE:
            keyed = keyed[i:] + keyed[:i]
            break
    groups: list[list[tuple[float, float, int]]] = []
    for item in keyed:
        if groups and abs(_wrap(item[0] - groups[-1][-1][0])) <= TIE:
            groups[-1].append(item)
        else:
            groups.append([item])
    return [h for group in groups for _, _, h in sorted(group, key=lambda item: item[1])]


def _area(arrangement: Arrangement, chain: Iterable[int]) -> float:
    """Signed area by Green's theorem, arcs exact."""
    total = 0.0
    for h in chain:
        piece = arrangement.directed(h)
        if isinstance(piece, Segment):
            total += piece.a[0] * piece.b[1] - piece.b[0] * piece.a[1]
        else:
            (cx, cy), r, a0, a1 = piece
            total += r * r * (a1 - a0) + r * cx * (math.sin(a1) - math.sin(a0)) - r * cy * (math.cos(a1) - math.cos(a0))
    return total / 2


def _find_regions(arrangement: Arrangement) -> None:
    count = len(arrangement.next)
    loop_of = [-1] * count
    loops: list[Loop] = []
    for first in range(count):
        if loop_of[first] >= 0:
            continue
        chain, at = [], first
        while loop_of[at] < 0:
            loop_of[at] = len(loops)
            chain.append(at)
            at = arrangement.next[at]
        loops.append(Loop(tuple(chain), _area(arrangement, chain)))
    outers = [i for i, loop in enumerate(loops) if loop.area > 0]
    component = _components(arrangement, loops)
    holes: dict[int, list[int]] = {i: [] for i in outers}
    for i, loop in enumerate(loops):
        if loop.area <= 0:
            others = [j for j in outers if component[j] != component[i]]
            around = _smallest_around(arrangement, [loops[j] for j in others], loop)
            if around >= 0:
                holes[others[around]].append(i)
    arrangement.region_of = [-1] * count
    for i in outers:
        mine = (loops[i], *(loops[j] for j in holes[i]))
        sides = frozenset(s for loop in mine for h in loop.half_edges for s in arrangement.sides_of(h))
        region = Region(len(arrangement.regions), mine[0], mine[1:], sides)
        for loop in mine:
            for h in loop.half_edges:
                arrangement.region_of[h] = region.index
        arrangement.regions.append(region)


def _components(arrangement: Arrangement, loops: list[Loop]) -> list[int]:
    """A number per loop: the connected component of the drawing it belongs to."""
    parent = list(range(len(arrangement.vertices)))

    def find(v: int) -> int:
        while parent[v] != v:
            parent[v] = parent[parent[v]]
            v = parent[v]
        return v

    for edge in arrangement.edges:
        parent[find(edge.start)] = find(edge.end)
    return [find(arrangement.edges[loop.half_edges[0] // 2].start) for loop in loops]


def _smallest_around(arrangement: Arrangement, outers: list[Loop], loop: Loop) -> int:
    """Index of the smallest outer loop that contains ``loop``, -1 if none does."""
    first = arrangement.edges[loop.half_edges[0] // 2]
    x, y = _middle(first.piece)
    best, area = -1, math.inf
    for i, outer in enumerate(outers):
        if outer.area < area and outer.area > abs(loop.area) * (1 - 1e-9) and _contains(arrangement, outer, x, y):
            best, area = i, outer.area
    return best


_RAY = math.radians(17.3)  # a direction nobody draws in: the ray then meets no vertex
_COS, _SIN = math.cos(_RAY), math.sin(_RAY)


def _contains(arrangement: Arrangement, loop: Loop, x: float, y: float) -> bool:
    """Whether a point lies in a loop: crossings of a ray, counted exactly."""
    count = 0
    for h in loop.half_edges:
        piece = arrangement.edges[h // 2].piece
        if isinstance(piece, Segment):
            au, av = _turned(piece.a, x, y)
            bu, bv = _turned(piece.b, x, y)
            if (av > 0) != (bv > 0) and au + (bu - au) * av / (av - bv) > 0:
                count += 1
            continue
        cu, cv = _turned(piece.centre, x, y)
        if abs(cv) >= piece.radius:
            continue
        half = math.sqrt(piece.radius**2 - cv**2)
        for u in (cu - half, cu + half):
            if u > 0:
                angle = math.atan2(-cv, u - cu) + _RAY
                if (angle - piece.a0) % (2 * math.pi) <= piece.a1 - piece.a0:
                    count += 1
    return count % 2 == 1


def _turned(p: tuple[float, float], x: float, y: float) -> tuple[float, float]:
    dx, dy = p[0] - x, p[1] - y
    return dx * _COS + dy * _SIN, dy * _COS - dx * _SIN


def _loop_path(arrangement: Arrangement, loop: Loop) -> str:
    out: list[str] = []
    for i, h in enumerate(loop.half_edges):
        piece = arrangement.directed(h)
        if isinstance(piece, ArcPiece) and piece.a1 < piece.a0:
            # run backwards: SVG sweep flag 0
            text = piece_path([ArcPiece(piece.centre, piece.radius, piece.a1, piece.a0)])
            out.append(_backwards(piece, first=i == 0) if text else "")
        else:
            text = piece_path([piece])
            out.append(text if i == 0 else text[text.index("L" if isinstance(piece, Segment) else "A") :])
    return "".join(out)


def _backwards(piece: ArcPiece, *, first: bool) -> str:
    steps = 2 if piece.a0 - piece.a1 > math.pi * 0.999 else 1
    start = piece.at(piece.a0)
    out = f"M{start[0]:.6g} {start[1]:.6g}" if first else ""
    for i in range(1, steps + 1):
        x, y = piece.at(piece.a0 + (piece.a1 - piece.a0) * i / steps)
        out += f"A{piece.radius:.6g} {piece.radius:.6g} 0 0 0 {x:.6g} {y:.6g}"
    return out
