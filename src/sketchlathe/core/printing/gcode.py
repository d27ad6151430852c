"""The file for the printer: numerical control code (ISO 6983, the G-code that printers read).

Walls along the outlines, then lines across what is inside, turned by a right angle from layer to layer. Comments tell
the printer what it shows: ``;LAYERS n``, ``;LAYER i``.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator
from typing import Any

import numpy as np
import shapely

from .layers import Layers
from .process import Process

_INSET: dict[str, Any] = {"join_style": "mitre", "mitre_limit": 3.0}


def gcode(layers: Layers, process: Process, name: str) -> str:
    """The whole program. Lengths in mm, absolute places, absolute filament."""
    out = [
        f";Sketch Lathe: {_one_line(name)}", f";LAYERS {len(layers.areas)}",
        f";NOZZLE {process.nozzle:g} LAYER {process.layer:g} FILAMENT {process.filament:g}", "G21", "G90", "M82",
        "G28", "G92 E0",
    ]  # fmt: skip
    pushed, per = 0.0, process.line * process.layer / (math.pi * process.filament**2 / 4)
    for number, area in enumerate(layers.areas):
        z = (number + 1) * process.layer
        out += [f";LAYER {number + 1}", f"G0 Z{z:.3f} F3000", f"G4 P{round(process.layer_pause * 1000)}"]
        for points, speed in paths(area, process, number, len(layers.areas)):
            out.append(f"G0 X{points[0][0]:.3f} Y{points[0][1]:.3f} F9000")
            feed = f" F{60 * speed:.0f}"
            for a, b in itertools.pairwise(points):
                pushed += math.dist(a, b) * per
                out.append(f"G1 X{b[0]:.3f} Y{b[1]:.3f} E{pushed:.4f}{feed}")
                feed = ""
    out += ["G0 Z" + f"{(len(layers.areas) + 20) * process.layer:.2f}", "M84", ";END"]
    return "\n".join(out) + "\n"


def _one_line(name: str) -> str:
    """A name as a comment: a line of its own would be read as a command."""
    return " ".join("".join(c if c.isprintable() else " " for c in name).split()).encode("ascii", "replace").decode()


def paths(area: Any, process: Process, number: int, count: int) -> Iterator[tuple[list[tuple[float, float]], float]]:
    """The lines of one layer, in order: points and speed."""
    inner = area
    for wall in range(process.walls):
        inset = area.buffer(-(wall + 0.5) * process.line, **_INSET)
        for ring in _rings(inset):
            yield ring, process.wall_speed
        inner = area.buffer(-(wall + 1) * process.line, **_INSET)
    full = number < process.shells or number >= count - process.shells
    share = 1.0 if full else process.fill
    if inner.is_empty or share <= 0:
        return
    for line in _hatch(inner, process.line / share, number):
        yield line, process.fill_speed


def _rings(area: Any) -> Iterator[list[tuple[float, float]]]:
    for part in getattr(area, "geoms", [area]):
        if part.geom_type == "Polygon" and not part.is_empty:
            for ring in (part.exterior, *part.interiors):
                yield [(float(x), float(y)) for x, y in shapely.get_coordinates(ring)]


def _hatch(area: Any, spacing: float, number: int) -> Iterator[list[tuple[float, float]]]:
    low_x, low_y, high_x, high_y = area.bounds
    reach = math.hypot(high_x - low_x, high_y - low_y)
    cx, cy = (low_x + high_x) / 2, (low_y + high_y) / 2
    angle = math.pi / 4 + (math.pi / 2 if number % 2 else 0)
    c, s = math.cos(angle), math.sin(angle)
    offsets = np.arange(-reach / 2 + spacing / 2, reach / 2, spacing)
    if not len(offsets):
        return
    starts = np.stack([cx - s * offsets - c * reach, cy + c * offsets - s * reach], axis=1)
    ends = np.stack([cx - s * offsets + c * reach, cy + c * offsets + s * reach], axis=1)
    lines = shapely.intersection(shapely.linestrings(np.stack([starts, ends], axis=1)), area)
    back = False
    for line in lines:
        for part in getattr(line, "geoms", [line]):
            if part.geom_type == "LineString" and part.length > 0.05:
                points = [(float(x), float(y)) for x, y in shapely.get_coordinates(part)]
                yield points[::-1] if back else points
        back = not back
