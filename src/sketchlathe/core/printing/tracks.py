"""The lines that the printer draws in each layer: what the program for it says and what estimates count.

Walls along the outlines, then lines across what is inside, turned by a right angle from layer to layer: close together
in the lowest and topmost ``shells`` layers and wherever one of the next ``shells`` layers above or below leaves it
uncovered, elsewhere as far apart as ``fill`` wants.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from .layers import Layers
from .process import Process

TRAVEL, LIFT = 150.0, 50.0
"""How fast it moves without drawing, across and upwards, mm/s."""
_INSET: dict[str, Any] = {"join_style": "mitre", "mitre_limit": 3.0}
_SHORTEST = 0.05  # mm; a shorter line across is left out


@dataclass(frozen=True)
class Tracks:
    """The lines of one layer in order: ``points`` (n, 2) of all, mm; ``ends`` (k) where each line ends in them;
    ``speeds`` (k), mm/s.
    """

    points: np.ndarray
    ends: np.ndarray
    speeds: np.ndarray

    def pieces(self) -> list[np.ndarray]:
        """The points (m, 2) of each line."""
        return np.split(self.points, self.ends[:-1]) if len(self.ends) else []

    def _firsts(self) -> np.ndarray:
        return np.concatenate([[0], self.ends[:-1]])

    def drawn(self) -> tuple[float, float]:
        """Length drawn, mm, and the time it takes, s."""
        if not len(self.ends):
            return 0.0, 0.0
        steps = np.linalg.norm(np.diff(self.points, axis=0), axis=1)
        steps[self.ends[:-1] - 1] = 0.0  # from one line to the next nothing is drawn
        lengths = np.add.reduceat(steps, self._firsts())
        return float(lengths.sum()), float((lengths / self.speeds).sum())

    def travelled(self, start: np.ndarray) -> float:
        """Length moved without drawing, mm, beginning at a place (2)."""
        if not len(self.ends):
            return 0.0
        left = np.vstack([start[None], self.points[self.ends[:-1] - 1]])
        return float(np.linalg.norm(self.points[self._firsts()] - left, axis=1).sum())


def tracks(layers: Layers, process: Process) -> Iterator[Tracks]:
    """Layer by layer; layers that are alike are worked out once."""
    known: dict[tuple[Any, ...], Tracks] = {}
    inside: dict[bytes, tuple[list[Any], Any]] = {}
    plain = [shapely.simplify(area, 0.005) if area.area > 0 else area for area in layers.areas]
    names = [area.wkb for area in plain]
    for i, name in enumerate(names):
        about = range(i - process.shells, i + process.shells + 1)
        near = tuple(sorted({names[j] for j in about if 0 <= j < len(names)}))
        rim = about.start < 0 or about.stop > len(names)
        key = (name, near, rim, i % 2)
        if key not in known:
            if len(known) > 64:
                known.clear()
                inside.clear()
            if name not in inside:
                inside[name] = _walls(plain[i], process)
            rings, inner = inside[name]
            close = inner if rim and process.shells else _uncovered(inner, [shapely.from_wkb(n) for n in near], process)
            known[key] = _lines(rings, inner, close, process, i % 2)
        yield known[key]


def _walls(area: Any, process: Process) -> tuple[list[Any], Any]:
    """The middle lines of the walls as rings (m, 2), and the region inside them."""
    rings = []
    for wall in range(process.walls):
        inset = area.buffer(-(wall + 0.5) * process.line, **_INSET)
        for part in getattr(inset, "geoms", [inset]):
            if part.geom_type == "Polygon" and not part.is_empty:
                rings += [shapely.get_coordinates(ring) for ring in (part.exterior, *part.interiors)]
    return rings, area.buffer(-process.walls * process.line, **_INSET)


def _uncovered(inner: Any, near: list[Any], process: Process) -> Any:
    """What of the inside some layer near it does not cover; strips narrower than a line are not worth it."""
    if not process.shells or inner.is_empty:
        return shapely.Polygon()
    covered = inner
    for area in near:
        covered = covered.intersection(area)
    half = process.line / 2
    return inner.difference(covered).buffer(-half, **_INSET).buffer(half, **_INSET).intersection(inner)


def _lines(rings: list[Any], inner: Any, close: Any, process: Process, odd: int) -> Tracks:
    pieces, speeds = list(rings), [process.wall_speed] * len(rings)
    if process.fill >= 1:
        close = inner
    for region, share in ((close, 1.0), (inner.difference(close), process.fill)):
        if share > 0 and not region.is_empty:
            across = _hatch(region, process.line / share, odd)
            pieces += across
            speeds += [process.fill_speed] * len(across)
    if not pieces:
        return Tracks(np.empty((0, 2)), np.empty(0, int), np.empty(0))
    return Tracks(np.concatenate(pieces), np.cumsum([len(p) for p in pieces]), np.array(speeds))


def _hatch(area: Any, spacing: float, odd: int) -> list[np.ndarray]:
    """Lines across a region, to and fro, at the same places in every layer."""
    angle = math.pi / 4 + (math.pi / 2 if odd else 0)
    along, across = np.array([math.cos(angle), math.sin(angle)]), np.array([-math.sin(angle), math.cos(angle)])
    corners = shapely.get_coordinates(area)
    low, high = corners @ across, corners @ along
    offsets = spacing * (
        np.arange(math.ceil(low.min() / spacing - 0.5), math.floor(low.max() / spacing - 0.5) + 1) + 0.5
    )
    if not len(offsets):
        return []
    starts = offsets[:, None] * across + (high.min() - 1) * along
    ends = offsets[:, None] * across + (high.max() + 1) * along
    shapely.prepare(area)
    found, of = shapely.get_parts(
        shapely.intersection(shapely.linestrings(np.stack([starts, ends], axis=1)), area), return_index=True
    )
    lines = (shapely.get_type_id(found) == 1) & (shapely.length(found) > _SHORTEST)
    points = shapely.get_coordinates(found[lines]).reshape(-1, 2, 2)
    of = of[lines]
    # along each line from the side where the one before it ended
    order = np.lexsort((np.where(of % 2, -1, 1) * (points[:, 0] @ along), of))
    points, of = points[order], of[order]
    return [p[::-1] if n % 2 else p for p, n in zip(points, of, strict=True)]
