"""Ways to lay a part on the bed, with what each costs: support, height, footing; the best first."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .printable import Printable
from .process import Process
from .readiness import overhanging

_NAMED = (
    ("as modelled", (0, 0, -1)), ("upside down", (0, 0, 1)), ("on its front", (0, -1, 0)), ("on its back", (0, 1, 0)),
    ("on its left side", (-1, 0, 0)), ("on its right side", (1, 0, 0)),
)  # fmt: skip


@dataclass(frozen=True)
class Laying:
    """``matrix`` (3, 3) turns the part so that ``down`` points down. Support in mm² (seen from below), sizes in mm."""

    name: str
    matrix: np.ndarray
    support: float
    height: float
    footing: float
    fits: bool

    @property
    def cost(self) -> float:
        """Lower is better: support counts most, then height, then a small footing."""
        return self.support + 4.0 * self.height - 0.15 * min(self.footing, 2000) + (0 if self.fits else 1e6)


def turning(down: np.ndarray) -> np.ndarray:
    """The rotation that brings a direction to straight down."""
    d = down / np.linalg.norm(down)
    if d[2] < -1 + 1e-12:
        return np.eye(3)
    if d[2] > 1 - 1e-12:
        return np.diag([1.0, -1.0, -1.0])
    axis = np.cross(d, [0, 0, -1.0])
    s, c = np.linalg.norm(axis), -d[2]
    x, y, z = axis / s
    k = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    return np.asarray(np.eye(3) + s * k + (1 - c) * (k @ k))


def layings(part: Printable, process: Process, most: int = 5) -> list[Laying]:
    """As modelled, and the best others: the six sides, and large flat sides of the hull."""
    downs: list[tuple[str, np.ndarray]] = [(n, np.array(d, float)) for n, d in _NAMED]
    for normal in _hull_sides(part):
        if all(np.dot(normal, d) < 0.999 for _, d in downs):
            downs.append((f"on a slanted side ({', '.join(f'{v:.2f}' for v in normal)})", normal))
    found = [_laid(part, process, name, down) for name, down in downs]
    first, others = found[0], sorted(found[1:], key=lambda one: one.cost)
    return sorted([first, *others[: most - 1]], key=lambda one: one.cost)


def _laid(part: Printable, process: Process, name: str, down: np.ndarray) -> Laying:
    matrix = turning(down)
    lying = part.laid(matrix)
    surface = lying.surface
    hanging, _, area = overhanging(lying, process)
    support = float((area * -surface.normals[hanging, 2]).sum())
    on_bed = (surface.normals[:, 2] < -0.999) & (surface.corners[:, :, 2].max(axis=1) < 0.05)
    footing = float(np.linalg.norm(surface.crosses[on_bed], axis=1).sum()) / 2
    low, high = surface.box
    x, y, z = (h - l for l, h in zip(low, high))
    beds = ((process.bed_x, process.bed_y), (process.bed_y, process.bed_x))
    fits = z <= process.bed_z + 1e-6 and any(x <= a + 1e-6 and y <= b + 1e-6 for a, b in beds)
    return Laying(name, matrix, support, z, footing, fits)


def _hull_sides(part: Printable, most: int = 8) -> list[np.ndarray]:
    """Outward normals of the largest flat sides of the hull."""
    from scipy.spatial import ConvexHull, QhullError  # takes 0.2 s to load, of the start of every machine of workers

    try:
        hull = ConvexHull(part.surface.positions)
    except (QhullError, ValueError):
        return []
    corners = part.surface.positions[hull.simplices]
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
    keys: dict[tuple[float, ...], float] = {}
    for normal, a in zip(np.round(hull.equations[:, :3], 3), area):
        keys[tuple(normal)] = keys.get(tuple(normal), 0.0) + float(a)
    best = sorted(keys, key=lambda k: -keys[k])[:most]
    total = sum(keys.values())
    return [np.array(k) / np.linalg.norm(k) for k in best if keys[k] > 0.02 * total]
