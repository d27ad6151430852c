"""A surface as the message that the screen reads bodies from (see ``solid/packing.py``): one face, its sharp edges."""

from __future__ import annotations

import numpy as np

from .message import message
from .surface import SHARP, Surface


def pack_surface(surface: Surface, id: str) -> bytes:
    """Faceted where it is sharp, smooth elsewhere; edges are drawn, nothing of it can be picked
    as a face of the part.
    """
    positions, normals, triangles = _shaded(surface)
    sharp = surface.sharp_edges()
    lines = surface.positions[sharp].reshape(-1, 3)
    arrays = {
        "positions": positions.astype(np.float32).ravel(),
        "normals": np.round(normals.ravel() * 127).astype(np.int8),
        "triangles": triangles.astype(np.uint32).ravel(),
        "lines": lines.astype(np.float32).ravel(),
    }
    low, high = surface.box
    header: dict[str, object] = {
        "body": id,
        "faces": [
            {
                "at": [0, len(triangles)], "pick": {"atoms": [f"{id}:triangles"]}, "made": [], "form": "triangles",
                "centre": [round(v, 6) for v in surface.centre], "area": round(surface.area, 6),
            }
        ],
        "edges": [
            {"at": [2 * i, 2], "form": "straight", "length": 0, "faces": [0, 0], "ends": [0, 0]}
            for i in range(len(sharp))
        ],
        "vertices": [], "box": [list(low), list(high)],
    }  # fmt: skip
    return message(header, arrays)


def _shaded(surface: Surface) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Corners with normals: a corner takes the mean of the triangles round it that lean nearly like its own."""
    t = surface.triangles
    mean = np.zeros_like(surface.positions)
    for k in range(3):
        np.add.at(mean, t[:, k], surface.crosses)
    mean /= np.maximum(np.linalg.norm(mean, axis=1), 1e-30)[:, None]
    own = np.repeat(surface.normals, 3, axis=0)
    shared = mean[t.ravel()]
    smooth = np.einsum("ij,ij->i", own, shared) > np.cos(SHARP)
    normals = np.where(smooth[:, None], shared, own)
    return surface.corners.reshape(-1, 3), normals, np.arange(3 * len(t)).reshape(-1, 3)
