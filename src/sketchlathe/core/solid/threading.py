"""Screw threads as real geometry, with the basic profile of ISO 68-1.

A cut square to the axis shows the whole profile once round: the distance from the axis at an angle is the profile's at
the same share of a pitch. That outline, turned evenly while it rises, is the thread; its volume is its area times its
length, whatever the pitch. Booleans with such faces take seconds to minutes (a nut's 30 to 60 times a whole part), so
none is done: the round face is taken out and what replaces it is sewn in.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

from OCP.BRep import BRep_Tool
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Transform,
)
from OCP.BRepFill import BRepFill_NoContact
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipeShell
from OCP.collections import HArray1_gp_Pnt
from OCP.GeomAPI import GeomAPI_Interpolate
from OCP.gp import gp_Ax2, gp_Ax3, gp_Circ, gp_Cone, gp_Cylinder, gp_Dir, gp_Pln, gp_Pnt, gp_Vec
from OCP.TopoDS import TopoDS

from ..errors import CannotBuild
from ..frames import Frame
from .coiling import helix
from .kernel import VERTEX, Shape, each, listed
from .transforms import translation

_MOST = 10  # turns swept in one go
_SIDES = ("root", "rising", "crest", "falling")
_SEW = 1e-3  # mm


@dataclass(frozen=True)
class Thread:
    """The basic profile by its radii at root and crest (mm) and its pitch; flats of a quarter of the pitch at the
    smaller radius and an eighth at the larger (ISO 68-1, 60° flanks).
    """

    root: float
    crest: float
    pitch: float
    left: bool = False

    def radius(self, share: float) -> float:
        """The distance from the axis at a share (0 to 1) of a pitch, from the middle of the root."""
        s = abs(math.remainder(share, 1.0))
        if s <= 1 / 8:
            return self.root
        if s >= 7 / 16:
            return self.crest
        return self.root + (self.crest - self.root) * (s - 1 / 8) / (5 / 16)

    @property
    def area(self) -> float:
        """Of a cut square to the axis, mm²: half the integral of the radius squared over a turn."""
        a, b = self.root, self.crest
        return math.pi * (a * a / 4 + b * b / 8 + 5 / 8 * (a * a + a * b + b * b) / 3)


def iso_thread(diameter: float, pitch: float, play: float, inside: bool, left: bool = False) -> Thread:
    """The thread of a nominal diameter (ISO 724: the minor diameter is 5/8 of the sharp triangle's height in on each
    side); ``play`` is taken off the diameters of a bolt and added to those of a nut, mm.
    """
    deep = 5 / 8 * math.sqrt(3) / 2 * pitch
    shift = (play if inside else -play) / 2
    return Thread(diameter / 2 - deep + shift, diameter / 2 + shift, pitch, left)


def _outline(thread: Thread, frame: Frame, at: float) -> list[Shape]:
    """The four edges of a cut at a height, in the order of ``_SIDES``, turned as the thread is there."""
    sense = -1.0 if thread.left else 1.0
    turn = sense * 2 * math.pi * at / thread.pitch
    marks = (-1 / 8, 1 / 8, 7 / 16, 9 / 16, 7 / 8)

    def place(share: float) -> gp_Pnt:
        angle = turn + 2 * math.pi * share
        r = thread.radius(share)
        return gp_Pnt(*frame.place(r * math.cos(angle), r * math.sin(angle), at))

    edges = []
    for number, (a, b) in enumerate(itertools.pairwise(marks)):
        if number % 2 == 0:
            r = thread.root if number == 0 else thread.crest
            axes = gp_Ax2(gp_Pnt(*frame.place(0, 0, at)), gp_Dir(*frame.normal), gp_Dir(*frame.x))
            circle = gp_Circ(axes, r)
            edges.append(BRepBuilderAPI_MakeEdge(circle, turn + 2 * math.pi * a, turn + 2 * math.pi * b).Edge())
            continue
        count = 24
        array = HArray1_gp_Pnt(1, count + 1)
        for k in range(count + 1):
            array.SetValue(k + 1, place(a + (b - a) * k / count))
        curve = GeomAPI_Interpolate(array, False, 1e-9)

        def slope(share: float, rate: float = thread.crest - thread.root, rises: bool = number == 1) -> gp_Vec:
            angle = turn + 2 * math.pi * share
            r, dr = thread.radius(share), (rate if rises else -rate) / (5 / 16)
            u = dr * math.cos(angle) - 2 * math.pi * r * math.sin(angle)
            v = dr * math.sin(angle) + 2 * math.pi * r * math.cos(angle)
            y = frame.y
            return gp_Vec(*(u * frame.x[i] + v * y[i] for i in range(3)))

        curve.Load(slope(a + 1e-12), slope(b - 1e-12), True)
        curve.Perform()
        edges.append(BRepBuilderAPI_MakeEdge(curve.Curve()).Edge())
    return edges


def _wire(edges: list[Shape]) -> tuple[Shape, list[Shape]]:
    maker, own = BRepBuilderAPI_MakeWire(), []
    for edge in edges:
        maker.Add(edge)
        own.append(maker.Edge())
    return maker.Wire(), own


def _walls(thread: Thread, frame: Frame, low: float, high: float) -> list[tuple[Shape, str]]:
    """The threaded faces between two heights, each with its side."""
    spine = BRepBuilderAPI_MakeEdge(gp_Pnt(*frame.place(0, 0, low)), gp_Pnt(*frame.place(0, 0, high))).Edge()
    turns = (high - low) / thread.pitch
    base = Frame(frame.place(0, 0, low), frame.x, frame.normal)
    guide = BRepBuilderAPI_MakeWire()
    for edge in helix(base, thread.crest, thread.crest, thread.pitch, turns, thread.left):
        guide.Add(edge)
    maker = BRepOffsetAPI_MakePipeShell(BRepBuilderAPI_MakeWire(spine).Wire())
    maker.SetMode(guide.Wire(), False, BRepFill_NoContact)
    wire, edges = _wire(_outline(thread, frame, low))
    maker.Add(wire, False, False)
    maker.Build()
    if not maker.IsDone():
        raise CannotBuild("A thread of these sizes cannot be made: try another pitch.", where="pitch")
    found = []
    for edge, side in zip(edges, _SIDES):
        found += [(TopoDS.Face(s), side) for s in listed(maker.Generated(edge))]
    if len(found) != 4 or not _turned_right(found, thread, frame, high):
        raise CannotBuild("A thread of these sizes does not come out right: try another pitch.", where="pitch")
    return found


def _turned_right(walls: list[tuple[Shape, str]], thread: Thread, frame: Frame, high: float) -> bool:
    """Whether the faces end where the thread is at that height (a wrong pitch does not show in the volume)."""
    wanted = list(_outline(thread, frame, high))
    ends = [BRep_Tool.Pnt_s(v) for e in wanted for v in each(e, VERTEX)]
    there = [BRep_Tool.Pnt_s(v) for face, _ in walls for v in each(face, VERTEX)]
    return all(min(p.Distance(q) for q in there) < 5e-3 for p in ends)


def _all_walls(thread: Thread, frame: Frame, length: float) -> list[tuple[Shape, str]]:
    """Threaded faces over a length; long ones in stretches of whole turns, each a copy of the first."""
    stretch = _MOST * thread.pitch
    if length <= 1.5 * stretch:
        return _walls(thread, frame, 0.0, length)
    first = _walls(thread, frame, 0.0, stretch)
    found, at = list(first), stretch
    n = frame.normal
    while length - at > 1.5 * stretch:
        by = translation((n[0] * at, n[1] * at, n[2] * at))
        found += [(TopoDS.Face(BRepBuilderAPI_Transform(f, by, True).Shape()), side) for f, side in first]
        at += stretch
    return found + _walls(thread, frame, at, length)


def walls_and_cuts(
    thread: Thread, frame: Frame, low: float, high: float
) -> tuple[list[tuple[Shape, str]], Shape, Shape]:
    """The threaded faces between two heights over a frame, each with its side, and the outlines (wires) at both."""
    base = Frame(frame.place(0, 0, low), frame.x, frame.normal)
    first, last = (_wire(_outline(thread, base, h))[0] for h in (0.0, high - low))
    return _all_walls(thread, base, high - low), first, last


def level(frame: Frame, height: float, outer: Shape, *holes: Shape) -> Shape:
    """A flat face at a height between closed wires that run counterclockwise about the frame's normal."""
    plane = gp_Pln(gp_Ax3(gp_Pnt(*frame.place(0, 0, height)), gp_Dir(*frame.normal), gp_Dir(*frame.x)))
    maker = BRepBuilderAPI_MakeFace(plane, outer, True)
    for hole in holes:
        maker.Add(TopoDS.Wire(hole.Reversed()))
    return maker.Face()


def circle(frame: Frame, height: float, radius: float) -> Shape:
    """The wire of a circle about a frame's normal."""
    axes = gp_Ax2(gp_Pnt(*frame.place(0, 0, height)), gp_Dir(*frame.normal), gp_Dir(*frame.x))
    return BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(gp_Circ(axes, radius)).Edge()).Wire()


def cone(frame: Frame, low: tuple[float, float], high: tuple[float, float]) -> Shape:
    """The side of a cylinder or a cone between two heights, each with the radius there."""
    axes = gp_Ax3(gp_Pnt(*frame.place(0, 0, low[0])), gp_Dir(*frame.normal), gp_Dir(*frame.x))
    rise, widen = high[0] - low[0], high[1] - low[1]
    if abs(widen) < 1e-12:
        return BRepBuilderAPI_MakeFace(gp_Cylinder(axes, low[1]), 0.0, 2 * math.pi, 0.0, rise).Face()
    surface = gp_Cone(axes, math.atan2(widen, rise), low[1])
    return BRepBuilderAPI_MakeFace(surface, 0.0, 2 * math.pi, 0.0, math.hypot(rise, widen)).Face()
