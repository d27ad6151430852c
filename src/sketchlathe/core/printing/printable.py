"""Bodies as what a printer sees: one surface of triangles, each with the face and step it comes from."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from ..mesh.surface import Surface, same_places
from ..names import innermost

if TYPE_CHECKING:
    from ..solid.naming import Body


@dataclass(frozen=True)
class Printable:
    """``surface`` of all bodies; ``faces`` (t): which of ``names`` each triangle belongs to; ``bodies`` (t): of which
    body.
    """

    surface: Surface
    faces: np.ndarray
    names: tuple[frozenset[str], ...]
    bodies: np.ndarray

    def steps_of(self, triangles: np.ndarray) -> list[str]:
        """Ids of the steps whose faces these triangles belong to, most area first."""
        area = np.linalg.norm(self.surface.crosses[triangles], axis=1)
        score: dict[str, float] = {}
        for face, a in zip(self.faces[triangles], area):
            for step in {innermost(atom) for atom in self.names[face]}:
                score[step] = score.get(step, 0.0) + float(a)
        return sorted(score, key=lambda s: -score[s])

    def laid(self, matrix: np.ndarray) -> Printable:
        """Turned, and put on the bed: its middle over the origin, its lowest point at nought."""
        turned = self.surface.positions @ matrix.T
        low, high = turned.min(axis=0), turned.max(axis=0)
        shift = np.array([-(low[0] + high[0]) / 2, -(low[1] + high[1]) / 2, -low[2]])
        return Printable(Surface(turned + shift, self.surface.triangles), self.faces, self.names, self.bodies)


def printable(bodies: Sequence[Body], chord: float = 0.03, angle: float = 0.25) -> Printable:
    """The bodies meshed at an export tolerance, corners that touch made one."""
    from ..solid.meshing import WELD, meshed

    positions, triangles, faces, owners = [], [], [], []
    names: list[frozenset[str]] = []
    first = 0
    for number, body in enumerate(bodies):
        mesh = meshed(body.shape, chord, angle, edges=False)
        keep, where = same_places(mesh.positions.astype(np.float64), WELD)
        corners = where[mesh.triangles]
        face = np.zeros(len(corners), np.int64)
        for i, (start, count) in enumerate(mesh.faces):
            face[start : start + count] = i
        a, b, c = corners.T
        real = (a != b) & (b != c) & (c != a)
        positions.append(mesh.positions[keep].astype(np.float64))
        triangles.append(corners[real].astype(np.int64) + first)
        faces.append(face[real] + len(names))
        owners.append(np.full(int(real.sum()), number))
        names += list(body.names)
        first += len(keep)
    surface = Surface(np.concatenate(positions), np.concatenate(triangles))
    return Printable(surface, np.concatenate(faces), tuple(names), np.concatenate(owners))
