"""Openings all over a flat face that keep a rim: rows of slots, round holes, hexagons."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely
from OCP.gp import gp_Dir, gp_Lin, gp_Pnt
from OCP.IntCurvesFace import IntCurvesFace_ShapeIntersector

from ..errors import CannotBuild
from ..frames import Frame
from ..sketch.curves import ArcPiece, Piece, Segment
from ..sketch.regions import Profile
from .digest import frame_of_face
from .kernel import FACE, mapped, private
from .meshing import extract, tessellate
from .naming import Body
from .shapes import prism

MOST = 400
Chain = tuple[tuple[Piece, str], ...]


def openings(
    body: Body, index: int, form: str, size: float, gap: float, rim: float, turn: float
) -> tuple[Frame, list[Chain]]:
    """The plane of a flat face (0-based) and closed chains in it: openings ``size`` across, ``gap`` apart, ``rim`` from
    everything that bounds the face (mm); rows turned by ``turn`` (rad).
    """
    frame = frame_of_face(body, index)
    if frame is None:
        raise CannotBuild("Vents go into a flat face: pick another.", where="face")
    area = shapely.affinity.rotate(_area(body, index, frame, size / 50), -turn, origin=(0, 0), use_radians=True)
    reach = size / math.sqrt(3) if form == "hexagons" else size / 2
    room = area.buffer(-(rim + reach))
    if room.is_empty:
        raise CannotBuild("The face is too small for an opening with this rim.", where="rim")
    chains = _slots(room, size, gap) if form == "slots" else _grid(room, form, size, gap)
    if len(chains) > MOST:
        raise CannotBuild(f"That would be {len(chains)} openings; at most {MOST}. Make them larger.", where="size")
    if not chains:
        raise CannotBuild("No opening fits the face with this rim.", where="rim")
    return frame, [tuple((_turned(piece, turn), owner) for piece, owner in chain) for chain in chains]


def _area(body: Body, index: int, frame: Frame, chord: float) -> shapely.Geometry:
    face = private(mapped(body.shape, FACE).FindKey(index + 1), mesh=False)
    tessellate(face, chord)
    mesh = extract(face, edges=False)
    places = np.array([frame.flat(tuple(p)) for p in mesh.positions.astype(float)])
    return shapely.union_all(shapely.polygons(places[mesh.triangles]), grid_size=1e-6)


def _steps(low: float, high: float, pitch: float) -> np.ndarray:
    """Places evenly ``pitch`` apart, as many as go between two bounds, evenly off both."""
    count = math.floor((high - low) / pitch + 1e-9) + 1
    return (low + high) / 2 + (np.arange(count) - (count - 1) / 2) * pitch


def _slots(room: shapely.Geometry, size: float, gap: float) -> list[Chain]:
    """Rows along x, each as long as there is room: slots with round ends about what of a row lies inside."""
    x0, y0, x1, y1 = room.bounds
    found: list[Chain] = []
    for y in _steps(y0, y1, size + gap):
        row = shapely.LineString([(x0 - 1, y), (x1 + 1, y)]).intersection(room)
        for part in getattr(row, "geoms", [row]):
            if part.geom_type == "LineString" and part.length >= size / 2:
                (a, *_, b) = sorted(part.coords)
                found.append(_slot(a[0], b[0], float(y), size / 2))
    return found


def _slot(a: float, b: float, y: float, r: float) -> Chain:
    return (
        (Segment((a, y - r), (b, y - r)), "below"),
        (ArcPiece((b, y), r, -math.pi / 2, math.pi / 2), "right"),
        (Segment((b, y + r), (a, y + r)), "above"),
        (ArcPiece((a, y), r, math.pi / 2, 3 * math.pi / 2), "left"),
    )


def _grid(room: shapely.Geometry, form: str, size: float, gap: float) -> list[Chain]:
    """Every other row set off by half: each opening ``gap`` from six others."""
    x0, y0, x1, y1 = room.bounds
    pitch = size + gap
    found: list[Chain] = []
    for k, y in enumerate(_steps(y0, y1, pitch * math.sqrt(3) / 2)):
        shift = pitch / 2 if k % 2 else 0.0
        for x in _steps(x0, x1, pitch) + shift:
            if room.covers(shapely.Point(x, y)):
                found.append(
                    _round(float(x), float(y), size) if form == "round" else _hexagon(float(x), float(y), size)
                )
    return found


def _round(x: float, y: float, size: float) -> Chain:
    return ((ArcPiece((x, y), size / 2, 0.0, 2 * math.pi), "wall"),)


def _hexagon(x: float, y: float, size: float) -> Chain:
    """Standing on a corner, its flats towards its neighbours in the row."""
    r = size / math.sqrt(3)
    corners = [(x + r * math.sin(k * math.pi / 3), y - r * math.cos(k * math.pi / 3)) for k in range(6)]
    return tuple((Segment(a, b), str(k)) for k, (a, b) in enumerate(zip(corners, [*corners[1:], corners[0]])))


def _turned(piece: Piece, angle: float) -> Piece:
    c, s = math.cos(angle), math.sin(angle)

    def at(p: tuple[float, float]) -> tuple[float, float]:
        return p[0] * c - p[1] * s, p[0] * s + p[1] * c

    if isinstance(piece, Segment):
        return Segment(at(piece.a), at(piece.b))
    assert isinstance(piece, ArcPiece)
    return ArcPiece(at(piece.centre), piece.radius, piece.a0 + angle, piece.a1 + angle)


def wall_behind(body: Body, frame: Frame, chains: Sequence[Chain]) -> float:
    """How thick the wall behind a face is, at most, where openings are to go, mm."""
    n = frame.normal
    rays = IntCurvesFace_ShapeIntersector()
    rays.Load(private(body.shape, mesh=False), 1e-7)
    most = 0.0
    for chain in chains:
        x, y = np.mean([piece.first for piece, _ in chain] + [piece.last for piece, _ in chain], axis=0)
        start = gp_Pnt(*frame.place(float(x), float(y), -1e-5))
        rays.Perform(gp_Lin(start, gp_Dir(-n[0], -n[1], -n[2])), 0.0, 1e6)
        depths = [rays.WParameter(i) for i in range(1, rays.NbPnt() + 1)]
        most = max(most, min(depths, default=0.0))
    return most + 1e-5


def cutters(step: str, frame: Frame, chains: Sequence[Chain], deep: float) -> list[Body]:
    """What is taken away: each opening from the face to a depth, mm."""
    return [
        prism(f"{step}#{k}", Profile(chain, ()), frame, -deep, 0.0) for k, chain in enumerate(chains, 1)
    ]  # fmt: skip
