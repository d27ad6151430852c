"""Whether a part prints: what is found, where, by which step, and the remedy where there is one.

A check is a function from a ``Job`` to findings; a new one is added to ``CHECKS``. Triangles are named so that the
screen can paint them.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
import shapely

from ..forms import FindingTold
from ..mesh.slicing import Loop
from ..mesh.surface import crowded_edges
from ..quantity.units import number_text
from .layers import Layers, slice_up
from .printable import Printable
from .process import Process

_MITRE: dict[str, Any] = {"join_style": "mitre", "mitre_limit": 4.0, "quad_segs": 4}
_SAMPLED = 70  # layers that are looked at for walls and gaps


@dataclass(frozen=True)
class Finding:
    """``kind``: which check; ``well``: nothing to worry about; ``triangles``: to be painted; ``steps``: that cause it.

    ``field`` and ``need``: the step's number that would have to be at least so large (mm), where that is the remedy.
    """

    kind: str
    well: bool
    text: str
    detail: str = ""
    triangles: np.ndarray = field(default_factory=lambda: np.zeros(0, np.int64))
    steps: tuple[str, ...] = ()
    need: float = 0.0
    lay: bool = False  # laying it another way would help

    def as_json(self) -> FindingTold:
        """Plain data, for the screen; triangles as ranges [first, count]."""
        return {
            "kind": self.kind, "well": self.well, "text": self.text, "detail": self.detail, "steps": list(self.steps),
            "triangles": _ranges(self.triangles), "need": self.need, "lay": self.lay,
        }  # fmt: skip


def _ranges(indices: np.ndarray) -> list[list[int]]:
    found = np.unique(indices)
    if not len(found):
        return []
    breaks = np.flatnonzero(np.diff(found) > 1)
    starts = np.concatenate([[0], breaks + 1])
    ends = np.concatenate([breaks + 1, [len(found)]])
    return [[int(found[a]), int(b - a)] for a, b in zip(starts, ends)]


class Job:
    """A part as laid on the bed, and how it is to be printed."""

    def __init__(self, part: Printable, process: Process) -> None:
        self.part, self.process = part, process

    @cached_property
    def layers(self) -> Layers:
        """All layers."""
        return slice_up(self.part.surface, self.process)

    @cached_property
    def sampled(self) -> list[int]:
        """Numbers of layers spread evenly, and those next to every change of area."""
        n = len(self.layers.areas)
        if n <= _SAMPLED:
            return list(range(n))
        areas = np.array([a.area for a in self.layers.areas])
        jumps = np.argsort(-np.abs(np.diff(areas)))[: _SAMPLED // 3]
        even = np.linspace(0, n - 1, _SAMPLED - len(jumps)).astype(int)
        return sorted({int(i) for i in (*even, *jumps, *(jumps + 1))})


def check(part: Printable, process: Process) -> list[Finding]:
    """All findings of a part as it lies."""
    job = Job(part, process)
    return [f for one in CHECKS for f in one(job)]


def _mm(value: float, digits: int = 2) -> str:
    return f"{number_text(value, digits)} mm"


# --- the checks


def watertight(job: Job) -> Iterator[Finding]:
    """Closed, with one side out."""
    surface = job.part.surface
    count = f"{len(surface.triangles)} triangles"
    if not surface.closed:
        ends = surface.open_edges
        around = np.isin(surface.triangles, np.unique(ends)).any(axis=1)
        yield Finding("watertight", False, f"Not watertight: {len(ends)} edges are open", count, np.flatnonzero(around))
    elif surface.volume <= 0:
        yield Finding("watertight", False, "Inside out: its surface faces inwards", count)
    else:
        bodies = len(np.unique(job.part.bodies))
        crowded = crowded_edges(surface.corners.reshape(-1, 3))
        if crowded:
            what = "bodies, or walls of one, touch along an edge" if bodies > 1 else "its walls touch along an edge"
            text = f"{crowded} edge{'s' * (crowded > 1)} with more than two faces: {what}"
            yield Finding("watertight", False, text, count)
            return
        yield Finding("watertight", True, f"Watertight, {'one body' if bodies == 1 else f'{bodies} bodies'}", count)


def fits(job: Job) -> Iterator[Finding]:
    """Within the bed."""
    low, high = job.part.surface.box
    size = [h - l for l, h in zip(low, high)]
    p = job.process
    bed = (p.bed_x, p.bed_y, p.bed_z)
    said = " × ".join(number_text(v, 1) for v in size) + " of " + " × ".join(number_text(v, 0) for v in bed) + " mm"
    if all(s <= b + 1e-6 for s, b in zip(size, bed)):
        yield Finding("fits", True, "Fits the bed", said)
        return
    turned = size[0] <= p.bed_y and size[1] <= p.bed_x and size[2] <= p.bed_z
    over = max(s - b for s, b in zip(size, bed))
    yield Finding(
        "fits",
        False,
        f"Too large for the bed by {_mm(over, 1)}",
        said + ("; turned by 90° it fits" if turned else ""),
        lay=True,
    )


def islands(job: Job) -> Iterator[Finding]:
    """Parts of layers that begin in mid-air, and bodies that touch nothing."""
    found, height, triangles = 0, 0.0, []
    below = None
    reach = job.process.line / 2
    for height_now, loops, area in zip(job.layers.heights, job.layers.loops, job.layers.areas):
        if below is not None and area.area > 0:
            parts = list(getattr(area, "geoms", [area]))
            if len(parts) > 1 or below.is_empty or not area.intersects(below):
                for piece in parts:
                    if piece.distance(below) > reach if not below.is_empty else True:
                        found += 1
                        height = height or float(height_now)
                        triangles.append(_on(loops, piece, reach))
        below = area
    if not found:
        yield Finding("islands", True, "Nothing begins in mid-air")
        return
    painted = np.concatenate(triangles) if triangles else np.zeros(0, np.int64)
    more = f", and {found - 1} more" if found > 1 else ""
    yield Finding(
        "islands", False, f"Begins in mid-air at {_mm(height)}{more}", "it needs support from below, or would be lost",
        painted, tuple(job.part.steps_of(painted)[:2]), lay=True,
    )  # fmt: skip


def walls(job: Job) -> Iterator[Finding]:
    """Walls thinner than two lines: what an opening by that width takes away."""
    yield from _narrow(job, job.process.thinnest, "walls", lambda area, w: area.difference(_opened(area, w)))


def gaps(job: Job) -> Iterator[Finding]:
    """Gaps narrower than a nozzle close up: what a closing by that width adds."""
    yield from _narrow(job, job.process.nozzle, "gaps", lambda area, w: _closed(area, w).difference(area))


def thinnest(job: Job, most: float) -> float:
    """The thickness of the thinnest wall across the layers, mm; ``most`` where none is thinner.

    By bisection: the narrowest opening that takes a wall away. Layers of one area are looked at once.
    """
    areas = {round(job.layers.areas[i].area, 3): job.layers.areas[i] for i in job.sampled}
    best = most
    for area in areas.values():
        if area.area <= 0 or not _has_wall_under(area, best):
            continue
        low, high = 0.0, best
        while high - low > 1e-3 * high:
            middle = (low + high) / 2
            low, high = (low, middle) if _has_wall_under(area, middle) else (middle, high)
        best = high
    return best


def _has_wall_under(area: Any, width: float) -> bool:
    rest = area.difference(_opened(area, width))
    return any(_is_wall(piece, width) for piece in getattr(rest, "geoms", [rest]))


def _is_wall(piece: Any, width: float) -> bool:
    """Whether what an opening by a width took away is a wall, not the tip that an acute corner leaves."""
    if piece.geom_type != "Polygon" or piece.area < 0.3 * width * width:
        return False
    here = _thickness(piece)
    return bool(piece.area / max(here, 1e-6) >= 1.5 * width and here >= 0.02 * width)


def _opened(area: Any, w: float) -> Any:
    return area.buffer(-w / 2 * 0.999, **_MITRE).buffer(w / 2 * 1.001, **_MITRE)


def _closed(area: Any, w: float) -> Any:
    return area.buffer(w / 2 * 0.999, **_MITRE).buffer(-w / 2 * 0.999, **_MITRE)


def _narrow(job: Job, width: float, kind: str, left: Callable[[Any, float], Any]) -> Iterator[Finding]:
    least, triangles, heights = math.inf, [], []
    for i in job.sampled:
        area = job.layers.areas[i]
        if area.area <= 0:
            continue
        rest = left(area, width)
        for piece in getattr(rest, "geoms", [rest]):
            if not _is_wall(piece, width):
                continue
            here = _thickness(piece)
            least = min(least, here)
            heights.append(float(job.layers.heights[i]))
            triangles.append(_on(job.layers.loops[i], piece, 0.05 * width))
    word, name = ("wall", "thin walls") if kind == "walls" else ("gap", "gaps too narrow")
    if not heights:
        yield Finding(kind, True, f"No {name}", f"none under {_mm(width)}")
        return
    painted = np.concatenate(triangles)
    lines = "two lines" if kind == "walls" else "a line"
    than = f"{'thinner' if kind == 'walls' else 'narrower'} than {lines} of a {_mm(job.process.nozzle)} nozzle"
    where = f"between {_mm(min(heights), 1)} and {_mm(max(heights), 1)} above the bed"
    causes = tuple(job.part.steps_of(painted)[:3])
    yield Finding(kind, False, f"{word.capitalize()} of {_mm(least)}, {than}", where, painted, causes, need=width)


def _thickness(piece: Any) -> float:
    """How thick a long thin piece is: the shorter side of the rectangle of its area and circumference."""
    p, a = piece.length, piece.area
    return float((p - math.sqrt(max(p * p - 16 * a, 0.0))) / 4)


def _on(loops: list[Loop], piece: Any, near: float) -> np.ndarray:
    """The triangles whose cuts at a layer lie along a piece."""
    zone = piece.buffer(near)
    shapely.prepare(zone)
    out = []
    for loop in loops:
        middles = (loop.points + np.roll(loop.points, -1, axis=0)) / 2
        hit = shapely.intersects_xy(zone, middles[:, 0], middles[:, 1])
        out.append(loop.triangles[hit])
    return np.concatenate(out) if out else np.zeros(0, np.int64)


def overhangs(job: Job) -> Iterator[Finding]:
    """Faces that lean farther than the process can, not lying on the bed."""
    hanging, angle, area = overhanging(job.part, job.process)
    if not len(hanging):
        yield Finding(
            "overhangs",
            True,
            "No overhang that needs support",
            f"nothing leans beyond {number_text(job.process.overhang, 0)}°",
        )
        return
    worst = float(np.degrees(angle.max()))
    yield Finding(
        "overhangs", False, f"Overhang of {number_text(worst, 0)}°",
        f"{number_text(float(area.sum()) / 100, 1)} cm² need support",
        hanging, tuple(job.part.steps_of(hanging)[:2]), lay=True,
    )  # fmt: skip


def overhanging(part: Printable, process: Process) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Triangles that need support, how far each leans from upright (rad), and their areas (mm²)."""
    surface = part.surface
    down = -surface.normals[:, 2]
    lean = np.arcsin(np.clip(down, -1, 1))
    bottom = surface.corners[:, :, 2].min(axis=1) < process.layer
    found = np.flatnonzero((lean > math.radians(process.overhang) + 1e-6) & ~(bottom & (down > 0.999)))
    area = np.linalg.norm(surface.crosses[found], axis=1) / 2
    real = area > 1e-6
    # a sliver of a hole's roof that is narrower than a few lines bridges by itself
    if area[real].sum() < 4 * process.line**2:
        found, real = found[:0], real[:0]
        area = area[:0]
    return found[real], lean[found[real]], area[real]


def small(job: Job) -> Iterator[Finding]:
    """Level faces that are nearer than one layer: lettering and steps that vanish."""
    surface = job.part.surface
    level = np.abs(surface.normals[:, 2]) > 0.9999
    z = surface.corners[:, 0, 2]
    heights = np.unique(np.round(z[level], 4)) if level.any() else np.zeros(0)
    steps = np.diff(heights)
    low = np.flatnonzero((steps > 1e-3) & (steps < 0.95 * job.process.layer))
    if not len(low):
        yield Finding("small", True, "No step lower than a layer", f"layers of {_mm(job.process.layer)}")
        return
    at = heights[low[0] + 1]
    painted = np.flatnonzero(level & (np.abs(z - at) < 1e-3))
    yield Finding(
        "small", False, f"A step of {_mm(float(steps[low[0]]), 3)} is lower than a layer of {_mm(job.process.layer)}",
        "it vanishes or becomes a whole layer", painted, tuple(job.part.steps_of(painted)[:2]), need=job.process.layer,
    )  # fmt: skip


def standing(job: Job) -> Iterator[Finding]:
    """How much of it touches the bed."""
    first = job.layers.areas[0].area if job.layers.areas else 0.0
    height = job.part.surface.box[1][2]
    if first < 20 and height > 10:
        yield Finding(
            "standing",
            False,
            f"Stands on only {number_text(first, 1)} mm²",
            "it may come loose while printing",
            lay=True,
        )
    else:
        yield Finding("standing", True, f"Stands on {number_text(first / 100, 1)} cm²")


CHECKS: tuple[Callable[[Job], Iterator[Finding]], ...] = (
    watertight, walls, gaps, overhangs, islands, small, standing, fits,
)  # fmt: skip

__all__ = ["CHECKS", "Finding", "Job", "check", "overhanging"]
