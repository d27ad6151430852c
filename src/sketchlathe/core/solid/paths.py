"""Paths: edges in a row that something follows, of a sketch or of the solid."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeVertex, BRepBuilderAPI_MakeWire
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.GeomAPI import GeomAPI_ProjectPointOnCurve
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopoDS import TopoDS

from ..errors import CannotBuild
from ..frames import Triple
from .kernel import Shape, private

NEAR = 1e-5  # mm; ends that far apart meet
SMOOTH = 1e-4  # rad; a turn at a joint below this is none


@dataclass(frozen=True)
class Link:
    """One edge of a path, run the way of its ends; ``owner`` says what it is of."""

    edge: Shape
    owner: str
    forward: bool

    def at(self, share: float) -> tuple[Triple, Triple]:
        """The place at a share (0 to 1) of its parameter, and the unit direction it is run in there."""
        curve = BRepAdaptor_Curve(self.edge)
        a, b = curve.FirstParameter(), curve.LastParameter()
        p, v = gp_Pnt(), gp_Vec()
        curve.D1(a + (b - a) * (share if self.forward else 1 - share), p, v)
        sign = (1 if self.forward else -1) / max(v.Magnitude(), 1e-300)
        return (p.X(), p.Y(), p.Z()), (v.X() * sign, v.Y() * sign, v.Z() * sign)

    @property
    def length(self) -> float:
        """mm."""
        return float(GCPnts_AbscissaPoint.Length_s(BRepAdaptor_Curve(self.edge)))

    def at_length(self, mm: float) -> tuple[Triple, Triple]:
        """The place and the direction so far along it."""
        curve = BRepAdaptor_Curve(self.edge)
        a, b = curve.FirstParameter(), curve.LastParameter()
        found = GCPnts_AbscissaPoint(curve, mm if self.forward else -mm, a if self.forward else b)
        share = (found.Parameter() - a) / (b - a)
        return self.at(share if self.forward else 1 - share)

    def turned(self) -> Link:
        """The same the other way."""
        return Link(self.edge, self.owner, not self.forward)

    def cut(self, share: float) -> tuple[Link, Link]:
        """Two of one, at a share of its parameter."""
        curve = BRep_Tool.Curve_s(self.edge, 0.0, 1.0)
        range_ = BRepAdaptor_Curve(self.edge)
        a, b = range_.FirstParameter(), range_.LastParameter()
        t = a + (b - a) * (share if self.forward else 1 - share)
        low, high = BRepBuilderAPI_MakeEdge(curve, a, t).Edge(), BRepBuilderAPI_MakeEdge(curve, t, b).Edge()
        one, two = Link(low, self.owner, self.forward), Link(high, self.owner, self.forward)
        return (one, two) if self.forward else (two, one)


@dataclass(frozen=True)
class Station:
    """A place on a path, the direction there and one square to it that is carried along with the least turning."""

    place: Triple
    way: Triple
    side: Triple

    def motion_to(self, other: Station) -> Any:
        """The rigid motion that takes this station to another."""
        from .transforms import motion_of

        a, b = (np.column_stack([s.side, np.cross(s.way, s.side), s.way]) for s in (self, other))
        turn = b @ a.T
        return motion_of(turn, np.array(other.place) - turn @ np.array(self.place))


@dataclass(frozen=True)
class Path:
    """Links end to end; ``closed``: the last ends where the first begins."""

    links: tuple[Link, ...]
    closed: bool

    @property
    def length(self) -> float:
        """mm."""
        return sum(link.length for link in self.links)

    def corners(self) -> list[float]:
        """How far the path turns at each of its joints (rad; the last joins the first of a closed path)."""
        pairs = list(zip(self.links, self.links[1:])) + ([(self.links[-1], self.links[0])] if self.closed else [])
        return [_angle(a.at(1.0)[1], b.at(0.0)[1]) for a, b in pairs]

    @property
    def smooth(self) -> bool:
        """Whether it has no corners."""
        return all(turn < SMOOTH for turn in self.corners())

    def turned(self) -> Path:
        """The same from its other end."""
        return Path(tuple(link.turned() for link in self.links[::-1]), self.closed)

    def wire(self) -> Shape:
        """The kernel's wire, its own."""
        maker = BRepBuilderAPI_MakeWire()
        for link in self.links:
            edge = TopoDS.Edge(private(link.edge))
            maker.Add(edge if link.forward else TopoDS.Edge(edge.Reversed()))
            if not maker.IsDone():
                raise CannotBuild("The pieces of this path do not meet exactly; look for a tiny gap.", where="path")
        return maker.Wire()

    def samples(self, each: int = 24) -> np.ndarray:
        """Places along it (n, 3), ``each`` to a link and the end."""
        places = [link.at(i / each)[0] for link in self.links for i in range(each)]
        return np.array([*places, self.links[-1].at(1.0)[0]])

    def at(self, share: float) -> tuple[Triple, Triple]:
        """The place and the direction at a share of its length."""
        left = min(max(share, 0.0), 1.0) * self.length
        for link in self.links:
            if left <= link.length + 1e-12 or link is self.links[-1]:
                return link.at_length(min(left, link.length))
            left -= link.length
        raise AssertionError("a path has links")

    def stations(self, shares: Sequence[float]) -> list[Station]:
        """Stations at ascending shares of its length; the side is carried along by double reflection (Wang, Jüttler,
        Zheng, Liu 2008).
        """
        out: list[Station] = []
        place, way = (np.array(v) for v in self.at(shares[0]))
        x = np.cross([0.0, 0.0, 1.0] if abs(way[2]) < 0.9 else [1.0, 0.0, 0.0], way)
        side = x / np.linalg.norm(x)
        at = shares[0]
        for share in shares:
            steps = max(1, math.ceil((share - at) * 256))
            for k in range(1, steps + 1):
                p, t = (np.array(v) for v in self.at(at + (share - at) * k / steps))
                side = carried(place, way, side, p, t)
                place, way = p, t
            at = share
            out.append(Station(_plain(place), _plain(way), _plain(side)))
        return out

    def from_near(self, place: Triple) -> Path:
        """The same, begun at its end that is nearest to a place; a closed one is cut open there."""
        if not self.closed:
            first, last = self.links[0].at(0.0)[0], self.links[-1].at(1.0)[0]
            return self if math.dist(first, place) <= math.dist(last, place) else self.turned()
        vertex = BRepBuilderAPI_MakeVertex(gp_Pnt(*place)).Vertex()
        found = [BRepExtrema_DistShapeShape(vertex, private(link.edge)) for link in self.links]
        number = min(range(len(found)), key=lambda i: float(found[i].Value()))
        p = found[number].PointOnShape2(1)
        share = _share(self.links[number], (p.X(), p.Y(), p.Z()))
        before, after = self.links[:number], self.links[number + 1 :]
        if share < 1e-6:
            return Path((*self.links[number:], *before), True)
        if share > 1 - 1e-6:
            return Path((*after, *before, self.links[number]), True)
        here, there = self.links[number].cut(share)
        return Path((there, *after, *before, here), True)


def carried(place: np.ndarray, way: np.ndarray, side: np.ndarray, to: np.ndarray, on: np.ndarray) -> np.ndarray:
    """A direction square to a path, carried from a place and direction to the next with the least turning."""
    first = to - place
    size = float(first @ first)
    if size <= 0:
        return side
    half = side - (2 / size) * float(first @ side) * first
    turned = way - (2 / size) * float(first @ way) * first
    second = on - turned
    size = float(second @ second)
    return half - (2 / size) * float(second @ half) * second if size > 1e-24 else half


def _plain(v: np.ndarray) -> Triple:
    return (float(v[0]), float(v[1]), float(v[2]))


def _share(link: Link, place: Triple) -> float:
    """At which share of its parameter a link passes a place."""
    adaptor = BRepAdaptor_Curve(link.edge)
    a, b = adaptor.FirstParameter(), adaptor.LastParameter()
    found = GeomAPI_ProjectPointOnCurve(gp_Pnt(*place), BRep_Tool.Curve_s(link.edge, 0.0, 1.0), a, b)
    if not found.NbPoints():
        return 0.0 if math.dist(link.at(0.0)[0], place) < math.dist(link.at(1.0)[0], place) else 1.0
    t = (found.LowerDistanceParameter() - a) / (b - a)
    return t if link.forward else 1 - t


def _angle(a: Triple, b: Triple) -> float:
    cross = np.cross(a, b)
    return float(math.atan2(float(np.linalg.norm(cross)), float(np.dot(a, b))))


def path_of(edges: Sequence[tuple[Shape, str]]) -> Path:
    """Edges (each with what it is of) in the order in which they follow each other. Raises ``CannotBuild`` where they
    are not one path.
    """
    links = []
    for edge, owner in edges:
        forward = edge.Orientation() != TopAbs_REVERSED
        links.append(Link(TopoDS.Edge(edge), owner, forward))
    if not links:
        raise CannotBuild("Pick the path: a curve of a sketch, or edges.", where="path")

    def ends(link: Link) -> tuple[Triple, Triple]:
        return link.at(0.0)[0], link.at(1.0)[0]

    if len(links) == 1:
        first, last = ends(links[0])
        return Path((links[0],), math.dist(first, last) <= NEAR)

    def touching(place: Triple, left: Sequence[Link]) -> list[Link]:
        found = []
        for link in left:
            first, last = ends(link)
            if math.dist(first, place) <= NEAR:
                found.append(link)
            elif math.dist(last, place) <= NEAR:
                found.append(link.turned())
        return found

    def alone(place: Triple, link: Link) -> bool:
        return not touching(place, [other for other in links if other is not link])

    start = links[0]
    for link in links:
        first, last = ends(link)
        if math.dist(first, last) <= NEAR:
            raise CannotBuild("A closed curve is a path by itself: pick no others with it.", where="path")
        if alone(first, link):
            start = link
            break
        if alone(last, link):
            start = link.turned()
            break
    order, left = [start], [k for k in links if k.edge is not start.edge]
    while True:
        following = touching(ends(order[-1])[1], left)
        if len(following) > 1:
            raise CannotBuild("The path forks: pick edges that follow each other.", where="path")
        if not following:
            break
        order.append(following[0])
        left = [k for k in left if k.edge is not following[0].edge]
    if left:
        raise CannotBuild("The path is in pieces: pick edges or curves that meet end to end.", where="path")
    return Path(tuple(order), math.dist(ends(order[0])[0], ends(order[-1])[1]) <= NEAR)
