"""Layers of a part, and what printing them takes: time, filament, cost.

The model, in words: each layer gets ``walls`` lines along its outlines; what is inside them is filled to ``fill``,
wholly in the lowest and topmost ``shells`` layers; lines are ``line`` wide; each layer costs ``layer_pause`` besides.
"""

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


@dataclass(frozen=True)
class Estimate:
    """Seconds, grams, metres of filament, cost; ``seconds_each`` and ``grams_each`` by layer."""

    seconds: float
    grams: float
    metres: float
    cost: float
    seconds_each: np.ndarray
    grams_each: np.ndarray


def slice_up(surface: Surface, process: Process) -> Layers:
    """Cuts at the middle of each layer. A surface too tall for ``MOST_LAYERS`` is cut only so far."""
    top = surface.box[1][2] if len(surface.positions) else 0.0
    count = min(max(math.ceil(top / process.layer - 1e-6), 0), MOST_LAYERS)
    heights = (np.arange(count) + 0.5) * process.layer
    heights[-1:] = np.minimum(heights[-1:], (top + (count - 1) * process.layer) / 2)
    loops = Slicer(surface).levels(list(heights))
    return Layers(heights, loops, [polygons(found) for found in loops])


def estimate(layers: Layers, process: Process, density: float) -> Estimate:
    """What printing takes by the stated model. ``density`` in g/cm³."""
    areas = np.array([a.area for a in layers.areas])
    rims = np.array([a.length for a in layers.areas])
    walls = rims * process.walls
    inner = np.maximum(areas - walls * process.line, 0.0)
    n = len(areas)
    full = np.zeros(n, bool)
    full[: process.shells] = full[max(n - process.shells, 0) :] = True
    # what the next layers do not cover is a top as well
    filled = np.where(full, inner, inner * process.fill)
    if process.shells:
        for i in range(n - 1):
            filled[i] = max(filled[i], min(inner[i], process.fill * inner[i] + max(areas[i] - areas[i + 1], 0.0)))
    walls = np.minimum(walls, areas / process.line)
    volume = (walls * process.line + filled) * process.layer
    grams = volume / 1000 * density
    seconds = walls / process.wall_speed + filled / process.line / process.fill_speed + process.layer_pause
    total = float(volume.sum())
    return Estimate(
        float(seconds.sum()),
        float(grams.sum()),
        total / (math.pi * process.filament**2 / 4) / 1000,
        float(grams.sum()) / 1000 * process.price,
        seconds,
        grams,
    )


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
