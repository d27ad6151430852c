"""Bodies laid out on beds: each as it lies best by itself, packed on as few beds as need be."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..errors import Trouble
from ..mesh.surface import Surface
from .laying import layings
from .packing import pack
from .printable import Printable
from .process import Process

BY_ITSELF = "each by itself"


MOST_BEDS = 200


@dataclass(frozen=True)
class Lying:
    """Where a body lies: the number of its bed, the middle of its box over the bed (mm from the bed's middle), and how
    it is turned on the bed from the way it lies best (rad, leftwards).
    """

    bed: int
    x: float
    y: float
    turn: float = 0.0


@dataclass(frozen=True)
class Plate:
    """What lies on one bed: all triangles, the numbers of the bodies, where each lies."""

    part: Printable
    bodies: tuple[int, ...]
    lying: tuple[Lying, ...]


def lay_out(
    bodies: Sequence[Printable],
    titles: Sequence[str],
    alike: Sequence[str],
    process: Process,
    by_hand: Mapping[int, Lying] = {},
) -> list[Plate]:
    """Beds with the bodies on them. ``alike``: bodies of one key are copies, laid alike. ``by_hand``: where a person
    put some of them; the others go where there is room. What is packed on a bed alone stands in its middle. Raises
    ``Trouble`` naming what is too large for the bed.
    """
    best: list[Printable] = []
    found: dict[str, np.ndarray] = {}
    for body, key, title in zip(bodies, alike, titles):
        if key not in found:
            ways = [w for w in layings(body, process) if w.fits]
            if not ways:
                raise Trouble(f"“{title}” is too large for the bed of {process.bed_x:g} × {process.bed_y:g} mm.")
            found[key] = ways[0].matrix
        best.append(body.laid(found[key]))
    put = {i: _put(best[i], lying) for i, lying in by_hand.items()}
    taken: dict[int, list[tuple[float, float, float, float]]] = {}
    for i, lying in by_hand.items():
        (x0, y0, _), (x1, y1, _) = put[i].surface.box
        taken.setdefault(lying.bed, []).append((x0 + process.bed_x / 2, y0 + process.bed_y / 2, x1 - x0, y1 - y0))
    rest = [i for i in range(len(best)) if i not in by_hand]
    sizes = [(h[0] - l[0], h[1] - l[1]) for l, h in (best[i].surface.box for i in rest)]
    where = dict(by_hand)
    for i, size, spot in zip(rest, sizes, pack(sizes, (process.bed_x, process.bed_y), process.apart, taken)):
        assert spot is not None  # each fits the bed by itself
        w, d = size[::-1] if spot.turned else size
        x, y = spot.x + (w - process.bed_x) / 2, spot.y + (d - process.bed_y) / 2
        where[i] = Lying(spot.bed, x, y, math.pi / 2 if spot.turned else 0.0)
    beds: dict[int, list[int]] = {}
    for i in range(len(best)):
        beds.setdefault(where[i].bed, []).append(i)
    return [
        _plate(n, beds[bed], best, where, centred=bed not in taken) for n, bed in enumerate(sorted(beds))
    ]  # fmt: skip


def _plate(
    number: int, bodies: Sequence[int], best: Sequence[Printable], where: Mapping[int, Lying], centred: bool
) -> Plate:
    lying = [replace(where[i], bed=number) for i in bodies]
    parts = [_put(best[i], at) for i, at in zip(bodies, lying)]
    if centred:
        boxes = [p.surface.box for p in parts]
        x, y = ((min(l[k] for l, _ in boxes) + max(h[k] for _, h in boxes)) / 2 for k in (0, 1))
        lying = [replace(at, x=at.x - x, y=at.y - y) for at in lying]
        parts = [_put(best[i], at) for i, at in zip(bodies, lying)]
    return Plate(_as_one(parts), tuple(bodies), tuple(lying))


def _put(part: Printable, lying: Lying) -> Printable:
    """A body laid down, turned about the upright, the middle of its box where it is to be."""
    c, s = math.cos(lying.turn), math.sin(lying.turn)
    laid = part.laid(np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]]))
    shift = np.array([lying.x, lying.y, 0.0])
    return replace(laid, surface=Surface(laid.surface.positions + shift, laid.surface.triangles))


def amiss(plate: Plate, titles: Sequence[str], process: Process) -> list[str]:
    """What hangs over the edge of the bed, and what lies on what, as sentences. Bodies count by what they cover of the
    bed, seen from above.
    """
    import shapely

    said, covers = [], []
    for number, body in enumerate(plate.bodies):
        corners = plate.part.surface.corners[plate.part.bodies == number][:, :, :2]
        low, high = corners.min(axis=(0, 1)), corners.max(axis=(0, 1))
        if (np.maximum(-low, high) > np.array([process.bed_x, process.bed_y]) / 2 + 1e-6).any():
            said.append(f"{titles[body]} hangs over the edge of the bed")
        covers.append((titles[body], low, high, corners))
    shadows: dict[int, Any] = {}

    def shadow(i: int) -> Any:
        if i not in shadows:
            corners = covers[i][3]
            a, b = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
            seen = corners[np.abs(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]) > 1e-9]
            shadows[i] = shapely.union_all(shapely.polygons(seen), grid_size=1e-4)
        return shadows[i]

    for i, (one, low, high, _) in enumerate(covers):
        for j in range(i):
            other, l, h, _ = covers[j]
            if (low < h - 1e-3).all() and (l < high - 1e-3).all() and shadow(i).intersection(shadow(j)).area > 1e-3:
                said.append(f"{other} and {one} lie on each other")
    return said


def _as_one(parts: Sequence[Printable]) -> Printable:
    positions, triangles, faces, owners = [], [], [], []
    names: list[frozenset[str]] = []
    first = 0
    for number, part in enumerate(parts):
        positions.append(part.surface.positions)
        triangles.append(part.surface.triangles + first)
        faces.append(part.faces + len(names))
        owners.append(np.full(len(part.surface.triangles), number))
        names += part.names
        first += len(part.surface.positions)
    surface = Surface(np.concatenate(positions), np.concatenate(triangles))
    return Printable(surface, np.concatenate(faces), tuple(names), np.concatenate(owners))
