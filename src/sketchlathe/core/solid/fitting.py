"""How bodies stand to each other: overlapping, touching, near; round things in round holes."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from itertools import combinations
from typing import Any, NamedTuple

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepTools import BRepTools
from OCP.TopAbs import TopAbs_IN
from OCP.TopoDS import TopoDS

from ..errors import Trouble
from ..frames import Triple, cross, dot
from ..mesh.booleans import met
from ..mesh.surface import Surface
from .axes import grip_of_face
from .freeform import both_free, near, surface_of
from .kernel import FACE, VERTEX, Shape, each, private, solids_in
from .measuring import Box, area_and_centre, rough_box, volume
from .meshing import meshed
from .naming import Body

_NOTHING = 1e-6  # mm³
_TOUCH = 1e-6  # mm
_CHORD = 0.02  # mm: a tenth of the play that printing needs
_OFF = 0.01  # mm: what counts as the same radius
MOST_PAIRS = 200


class Pair(NamedTuple):
    """Two bodies: the volume they share (mm³) and, where that is nought, how near they come (mm).

    ``ends``: the two places that are nearest; ``common``: the solids of what they share, or their surface.
    """

    one: Body
    other: Body
    shared: float
    gap: float
    ends: tuple[Triple, Triple] | None = None
    common: tuple[Shape | Surface, ...] = ()


class Snug(NamedTuple):
    """A round face of one body in a hollow one of another, about one axis: both radii (mm), and
    a place between them.
    """

    shaft: float
    hole: float
    at: Triple


def unseen(bodies: Sequence[Body], within: float) -> int:
    """How many pairs that may come near ``pairs`` does not look at, because there are too many."""
    boxes = [rough_box(b.shape) for b in bodies]
    return max(0, sum(near(a, b, within) for a, b in combinations(boxes, 2)) - MOST_PAIRS)


def pairs(bodies: Sequence[Body], within: float) -> Iterator[Pair]:
    """Pairs of bodies that overlap, or come nearer to each other than ``within`` mm; touching ones have a gap of
    nought.
    """
    boxes = {b.id: rough_box(b.shape) for b in bodies}
    beside = [(a, b) for a, b in combinations(bodies, 2) if near(boxes[a.id], boxes[b.id], within)]
    faces = {b.id: [(TopoDS.Face(f), rough_box(f)) for f in each(b.shape, FACE)] for pair in beside for b in pair}
    for a, b in beside[:MOST_PAIRS]:
        if both_free(a.shape, b.shape, within):
            try:
                yield from _met(a, b, within)
                continue
            except Trouble:  # a mesh that does not close says nothing: the kernel is asked
                pass
        gap, ends = _distance(faces[a.id], faces[b.id], within)
        if gap > _TOUCH and (_holds(a, boxes[a.id], b, boxes[b.id]) or _holds(b, boxes[b.id], a, boxes[a.id])):
            gap, ends = 0.0, None
        if gap > within:
            continue
        shared, solids = 0.0, ()
        if gap < _TOUCH:
            common = BRepAlgoAPI_Common(private(a.shape, mesh=False), private(b.shape, mesh=False))
            found = tuple(solids_in(common.Shape())) if common.IsDone() else ()
            shared = sum(volume(s) for s in found)
            solids = found if shared > _NOTHING else ()
        yield Pair(a, b, shared if solids else 0.0, gap, ends, solids)


_Boxed = list[tuple[Any, Box]]


def _met(a: Body, b: Body, within: float) -> list[Pair]:
    """The same by meshes; nearer than their tolerance is touching. Raises ``Trouble`` where they do not close."""
    both, gap = met(surface_of(a.shape, _CHORD), surface_of(b.shape, _CHORD), within, _CHORD)
    if len(both.triangles):
        return [Pair(a, b, both.volume, 0.0, None, (both,))]
    return [Pair(a, b, 0.0, gap)] if gap <= within else []


def _distance(ones: _Boxed, others: _Boxed, within: float) -> tuple[float, tuple[Triple, Triple] | None]:
    """How near two bodies' faces come (more than ``within``: somewhere beyond), and where.

    Pairs of faces are asked in the order in which their boxes come near, until no box can come nearer.
    """
    best, ends = float("inf"), None
    (low, high), (under, over) = (np.array([box for _, box in faces]).transpose(1, 0, 2) for faces in (ones, others))
    gaps = np.maximum(np.maximum(low[:, None] - over[None], under[None] - high[:, None]), 0.0)
    least = np.sqrt((gaps**2).sum(axis=2))
    for at in np.argsort(least, axis=None, kind="stable"):
        i, j = divmod(int(at), len(others))
        # boxes are a little larger than what they hold
        if least[i, j] > within or least[i, j] >= best - _TOUCH or best < _TOUCH:
            break
        distance = BRepExtrema_DistShapeShape(ones[i][0], others[j][0])
        if distance.IsDone() and distance.NbSolution() > 0 and distance.Value() < best:
            p, q = distance.PointOnShape1(1), distance.PointOnShape2(1)
            best, ends = float(distance.Value()), ((p.X(), p.Y(), p.Z()), (q.X(), q.Y(), q.Z()))
    return best, ends


def _holds(a: Body, box: Box, b: Body, inner: Box) -> bool:
    """Whether a body lies wholly in another's material (their faces do not meet)."""
    if not all(box[0][i] <= inner[0][i] and inner[1][i] <= box[1][i] for i in range(3)):
        return False
    corner = BRep_Tool.Pnt_s(TopoDS.Vertex(next(each(b.shape, VERTEX))))
    return bool(BRepClass3d_SolidClassifier(a.shape, corner, 1e-7).State() == TopAbs_IN)


def _faces(body: Body, zone: Box, within: float) -> list[tuple[Any, Any]]:
    """Flat and round faces of a body whose boxes come near to another's, with what they are."""
    found = []
    for i, face in enumerate(each(body.shape, FACE)):
        if near(rough_box(face), zone, within):
            grip = grip_of_face(body, i)
            if grip is not None and grip.form in ("plane", "cylinder"):
                found.append((face, grip))
    return found


def cuts_in(screw: Body, thread: tuple[float, float], common: Sequence[Shape | Surface]) -> bool:
    """Whether what a screw shares with another body is no more than its thread cuts there: none of it lies farther from
    the screw's axis than its thread, and it is no more than the ring between that and the hole that is drilled for it.
    ``thread``: their radii, the larger first, mm.
    """
    outer, drilled = thread
    ring = math.pi * (outer * outer - drilled * drilled)
    grips = (grip_of_face(screw, i) for i in range(len(screw.names)))
    shank = next((g for g in grips if g and g.form == "cylinder" and abs(g.radius - outer) < 1e-6), None)
    if shank is None or shank.way is None:
        return False
    for what in common:
        points = what.positions if isinstance(what, Surface) else meshed(what, 0.02, 0.2, edges=False).positions
        away = np.asarray(points, float) - np.array(shank.at)
        along = away @ np.array(shank.way)
        far = np.linalg.norm(away - np.outer(along, shank.way), axis=1)
        much = what.volume if isinstance(what, Surface) else volume(what)
        if far.min() < drilled - _OFF or far.max() > outer + _OFF or much > 1.01 * ring * np.ptp(along):
            return False
    return True


def contact(a: Body, b: Body) -> float:
    """The area over which flat and round faces of two bodies lie on each other, mm²."""
    total = 0.0
    ones, others = _faces(a, rough_box(b.shape), _TOUCH), _faces(b, rough_box(a.shape), _TOUCH)
    for face, one in ones:
        for with_, other in others:
            if one.form != other.form or not _on_each_other(one, other):
                continue
            if not near(rough_box(face), rough_box(with_), _TOUCH):
                continue
            common = BRepAlgoAPI_Common(private(face, mesh=False), private(with_, mesh=False))
            if common.IsDone():
                total += sum(_area(f) for f in each(common.Shape(), FACE))
    return total


def _on_each_other(one: Any, other: Any) -> bool:
    between = tuple(q - p for p, q in zip(one.at, other.at))
    if one.form == "plane":
        return dot(one.way, other.way) < -1 + 1e-9 and abs(dot(between, one.way)) < 1e-5  # type: ignore[arg-type]
    return _coaxial(one, other) and one.hollow != other.hollow and abs(one.radius - other.radius) < 1e-5


def _coaxial(one: Any, other: Any) -> bool:
    between = tuple(q - p for p, q in zip(one.at, other.at))
    off = cross(between, one.way)  # type: ignore[arg-type]
    return abs(dot(one.way, other.way)) > 1 - 1e-9 and dot(off, off) < 1e-8


_ROUND = 1.1 * math.pi


def _area(face: Shape) -> float:
    return area_and_centre(face)[0]


def snug(a: Body, b: Body, within: float) -> list[Snug]:
    """Where a round face sits in a hollow one with less than ``within`` mm between them, both about one axis."""
    found: list[Snug] = []
    ones, others = _faces(a, rough_box(b.shape), within), _faces(b, rough_box(a.shape), within)
    for face, one in ones:
        for with_, other in others:
            if not (one.form == other.form == "cylinder") or one.hollow == other.hollow or not _coaxial(one, other):
                continue
            if min(_goes_round(one, ones), _goes_round(other, others)) < _ROUND:
                continue  # rounded corners beside each other
            shaft, hole = (other, one) if one.hollow else (one, other)
            boxes = rough_box(face), rough_box(with_)
            if _TOUCH < hole.radius - shaft.radius < within and near(*boxes, 0.0):
                middle = [
                    (max(boxes[0][0][i], boxes[1][0][i]) + min(boxes[0][1][i], boxes[1][1][i])) / 2 for i in range(3)
                ]
                if not any(_same_play(s, shaft.radius, hole.radius, middle) for s in found):
                    found.append(Snug(shaft.radius, hole.radius, (middle[0], middle[1], middle[2])))
    return found


def _goes_round(grip: Any, faces: Sequence[tuple[Any, Any]]) -> float:
    """How far the faces of a cylinder go round its axis together, rad: a shaft by more than half a turn."""
    total = 0.0
    for face, other in faces:
        if (
            other.form == "cylinder" and other.hollow == grip.hollow and abs(other.radius - grip.radius) < 1e-6
            and _coaxial(grip, other)
        ):  # fmt: skip
            first, last, _, _ = BRepTools.UVBounds_s(face)
            total += last - first
    return total


def _same_play(found: Snug, shaft: float, hole: float, at: Sequence[float]) -> bool:
    """Whether it has been told: a bore of two halves has two faces."""
    return abs(found.shaft - shaft) + abs(found.hole - hole) < 1e-9 and math.dist(found.at, at) < 2 * hole
