"""What of a closed surface of triangles lies outside another, by the manifold library."""

from __future__ import annotations

import numpy as np

from ..errors import BadInput
from .surface import Surface

_WELD = 1e-5  # of the box: corners that are nearer are one


def triangles_compared(before: Surface, after: Surface) -> tuple[Surface, Surface]:
    """What is gone and what has come, as closed surfaces. Raises ``BadInput`` where one is not closed."""
    old, new = _manifold(before), _manifold(after)
    return _surface(old - new), _surface(new - old)


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
