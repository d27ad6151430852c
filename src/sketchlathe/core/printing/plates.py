"""Bodies laid out on beds: each as it lies best by itself, packed on as few beds as need be."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..errors import Trouble
from ..mesh.surface import Surface
from .laying import layings
from .packing import pack
from .printable import Printable
from .process import Process

BY_ITSELF = "each by itself"


@dataclass(frozen=True)
class Plate:
    """What lies on one bed, its middle over the origin: all triangles, and the numbers of the bodies."""

    part: Printable
    bodies: tuple[int, ...]


def lay_out(bodies: Sequence[Printable], titles: Sequence[str], alike: Sequence[str], process: Process) -> list[Plate]:
    """Beds with the bodies on them. ``alike``: bodies of one key are copies, laid alike. Raises ``Trouble`` naming what
    is too large for the bed.
    """
    lying: list[Printable] = []
    found: dict[str, np.ndarray] = {}
    for body, key, title in zip(bodies, alike, titles):
        if key not in found:
            ways = [w for w in layings(body, process) if w.fits]
            if not ways:
                raise Trouble(f"“{title}” is too large for the bed of {process.bed_x:g} × {process.bed_y:g} mm.")
            found[key] = ways[0].matrix
        lying.append(body.laid(found[key]))
    sizes = [(h[0] - l[0], h[1] - l[1]) for l, h in (p.surface.box for p in lying)]
    spots = pack(sizes, (process.bed_x, process.bed_y), process.apart)
    beds: dict[int, list[tuple[int, Printable]]] = {}
    for i, (part, spot) in enumerate(zip(lying, spots)):
        assert spot is not None  # each fits the bed by itself
        beds.setdefault(spot.bed, []).append((i, _at(part, spot.x, spot.y, spot.turned, process)))
    return [Plate(_centred(_as_one([p for _, p in on])), tuple(i for i, _ in on)) for _, on in sorted(beds.items())]


def _at(part: Printable, x: float, y: float, turned: bool, process: Process) -> Printable:
    """A body with the lower left corner of its box at a place of the bed, whose middle is the origin."""
    places = part.surface.positions
    if turned:
        places = places @ np.array([[0.0, 1.0, 0.0], [-1.0, 0.0, 0.0], [0.0, 0.0, 1.0]])
    low = places.min(axis=0)
    shift = np.array([x - process.bed_x / 2 - low[0], y - process.bed_y / 2 - low[1], -low[2]])
    return Printable(Surface(places + shift, part.surface.triangles), part.faces, part.names, part.bodies)


def _centred(part: Printable) -> Printable:
    """All that lies on a bed, its middle over the bed's."""
    low, high = part.surface.box
    shift = np.array([-(low[0] + high[0]) / 2, -(low[1] + high[1]) / 2, 0.0])
    return replace(part, surface=Surface(part.surface.positions + shift, part.surface.triangles))


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
