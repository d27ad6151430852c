"""Layers of a part."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from ..mesh.slicing import Loop, Slicer, polygons
from ..mesh.surface import Surface
from .process import Process

MOST_LAYERS = 5000


@dataclass(frozen=True)
class Layers:
    """``heights`` (n): the middle of each layer, mm; its loops; its area (shapely, in mm)."""

    heights: np.ndarray
    loops: list[list[Loop]]
    areas: list[Any]


def slice_up(surface: Surface, process: Process) -> Layers:
    """Cuts at the middle of each layer. A surface too tall for ``MOST_LAYERS`` is cut only so far."""
    top = surface.box[1][2] if len(surface.positions) else 0.0
    count = min(max(math.ceil(top / process.layer - 1e-6), 0), MOST_LAYERS)
    heights = (np.arange(count) + 0.5) * process.layer
    heights[-1:] = np.minimum(heights[-1:], (top + (count - 1) * process.layer) / 2)
    loops = Slicer(surface).levels(list(heights))
    return Layers(heights, loops, [polygons(found) for found in loops])


def outlines(layers: Layers, tolerance: float = 0.02) -> list[list[list[list[float]]]]:
    """Each layer's rings as [[x, y], ...], simplified for drawing."""
    out = []
    for area in layers.areas:
        plain = shapely.simplify(area, tolerance) if area.area > 0 else area
        rings = []
        for part in getattr(plain, "geoms", [plain]):
            if part.geom_type != "Polygon" or part.is_empty:
                continue
            for ring in (part.exterior, *part.interiors):
                rings.append([[round(float(x), 2), round(float(y), 2)] for x, y in shapely.get_coordinates(ring)])
        out.append(rings)
    return out
