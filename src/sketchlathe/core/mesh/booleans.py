"""How closed surfaces of triangles lie to each other: what is in one, in both, how near; by the manifold library."""

from __future__ import annotations

import math

import numpy as np

from ..errors import BadInput
from .surface import Surface

_WELD = 1e-5  # of the box: corners that are nearer are one


def triangles_compared(before: Surface, after: Surface) -> tuple[Surface, Surface]:
    """What is gone and what has come, as closed surfaces. Raises ``BadInput`` where one is not closed."""
    old, new = _manifold(before), _manifold(after)
    return _surface(old - new), _surface(new - old)


def shared(one: Surface, other: Surface, tolerance: float) -> Surface:
    """What both enclose, pieces that are thinner than their ``tolerance``, mm, left out. Raises ``BadInput`` where
    one is not closed.
    """
    return _shared(_manifold(one), _manifold(other), tolerance)


def met(one: Surface, other: Surface, within: float, tolerance: float) -> tuple[Surface, float]:
    """The same, and how near they come, mm: nought where that is below the tolerance, ``inf`` beyond ``within``."""
    a, b = _manifold(one), _manifold(other)
    both = _shared(a, b, tolerance)
    if len(both.triangles):
        return both, 0.0
    # what is asked for widely is slow: most are near
    reach = min(4 * tolerance, within)
    while True:
        gap = float(a.min_gap(b, reach))
        if gap < reach:
            return both, gap if gap > tolerance else 0.0
        if reach >= within:
            return both, math.inf
        reach = min(4 * reach, within)


def _shared(a, b, tolerance: float) -> Surface:  # type: ignore[no-untyped-def]
    from manifold3d import Manifold

    # a plate of the thickness t has an area of 2/t of its volume
    thick = [piece for piece in (a ^ b).decompose() if piece.volume() > tolerance * piece.surface_area()]
    if not thick:
        return Surface(np.zeros((0, 3)), np.zeros((0, 3), np.int64))
    return _surface(Manifold.compose(thick))


def _manifold(surface: Surface):  # type: ignore[no-untyped-def]
    from manifold3d import Error, Manifold, Mesh64

    if not len(surface.triangles):
        return Manifold()
    low, high = surface.box
    grid = max(_WELD * max(h - l for l, h in zip(low, high)), 1e-9)
    _, first, where = np.unique(
        np.round(surface.positions / grid).astype(np.int64), axis=0, return_index=True, return_inverse=True
    )
    triangles = where.reshape(-1)[surface.triangles]
    real = (
        (triangles[:, 0] != triangles[:, 1])
        & (triangles[:, 1] != triangles[:, 2])
        & (triangles[:, 2] != triangles[:, 0])
    )
    made = Manifold(
        Mesh64(vert_properties=surface.positions[first].astype(np.float64), tri_verts=triangles[real].astype(np.uint64))
    )
    if made.status() != Error.NoError or made.is_empty():
        raise BadInput("One of the two is not a closed surface, so what is gone and what has come cannot be told.")
    return made


def _surface(made) -> Surface:  # type: ignore[no-untyped-def]
    mesh = made.to_mesh64()
    return Surface(np.asarray(mesh.vert_properties)[:, :3], np.asarray(mesh.tri_verts).astype(np.int64))
