"""A picture of a part without a browser: shaded triangles with ink edges, by a small z-buffer renderer."""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np
from numba import njit

if TYPE_CHECKING:
    from ..solid.meshing import Mesh

PAPER = np.array([0xF9, 0xF5, 0xEB], np.float64)
STONE = np.array([0xD9, 0xCF, 0xBB], np.float64)
INK = np.array([0x1F, 0x2D, 0x35], np.float64)


@njit(cache=True, error_model="numpy")
def _fill(image, depth, points, shade, triangles, stone):
    """Triangles into ``image`` (h, w, 3) with a depth test; ``points`` (n, 3) in pixels and depth."""
    h, w = depth.shape
    for t in range(triangles.shape[0]):
        a, b, c = points[triangles[t, 0]], points[triangles[t, 1]], points[triangles[t, 2]]
        area = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
        if area == 0.0:
            continue
        x0 = max(math.floor(min(a[0], b[0], c[0])), 0)
        x1 = min(math.ceil(max(a[0], b[0], c[0])), w - 1)
        y0 = max(math.floor(min(a[1], b[1], c[1])), 0)
        y1 = min(math.ceil(max(a[1], b[1], c[1])), h - 1)
        for y in range(y0, y1 + 1):
            for x in range(x0, x1 + 1):
                u = ((b[0] - x) * (c[1] - y) - (b[1] - y) * (c[0] - x)) / area
                v = ((c[0] - x) * (a[1] - y) - (c[1] - y) * (a[0] - x)) / area
                s = 1.0 - u - v
                if u < -1e-9 or v < -1e-9 or s < -1e-9:
                    continue
                z = u * a[2] + v * b[2] + s * c[2]
                if z > depth[y, x]:
                    depth[y, x] = z
                    light = u * shade[triangles[t, 0]] + v * shade[triangles[t, 1]] + s * shade[triangles[t, 2]]
                    for k in range(3):
                        image[y, x, k] = stone[k] * light


@njit(cache=True, error_model="numpy")
def _stroke(image, depth, points, edges, ink, width, bias):
    """Edge polylines, drawn where they are not behind anything."""
    h, w = depth.shape
    for e in range(edges.shape[0]):
        for i in range(edges[e, 0], edges[e, 0] + edges[e, 1] - 1):
            a, b = points[i], points[i + 1]
            steps = int(max(abs(b[0] - a[0]), abs(b[1] - a[1]))) + 1
            for k in range(steps + 1):
                t = k / steps
                x, y, z = a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t + bias
                for dy in range(-width, width + 1):
                    for dx in range(-width, width + 1):
                        px, py = round(x) + dx, round(y) + dy
                        if 0 <= px < w and 0 <= py < h and depth[py, px] <= z:
                            for c in range(3):
                                image[py, px, c] = ink[c]


def picture(
    meshes: Sequence[Mesh], width: int = 480, height: int = 270, colours: Sequence[str] = (), samples: int = 0
) -> bytes:
    """A PNG of some meshes seen from the front, right and above, filling the picture.

    ``colours``: #rrggbb of each mesh; stone where there is none. ``samples`` a pixel and direction; 0 suits the size.
    """
    from PIL import Image

    over = samples or (3 if width <= 800 else 2)
    w, h = width * over, height * over
    image = np.empty((h, w, 3))
    image[:] = PAPER
    if meshes:
        _draw(image, meshes, [_rgb(c) for c in colours])
    small = sum(image[i::over, j::over] for i in range(over) for j in range(over)) / over**2
    out = io.BytesIO()
    Image.fromarray(np.clip(small, 0, 255).astype(np.uint8)).save(out, "PNG", optimize=not samples)
    return out.getvalue()


def _rgb(colour: str) -> np.ndarray:
    return np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)], np.float64)


def _draw(image: np.ndarray, meshes: Sequence[Mesh], colours: Sequence[np.ndarray]) -> None:
    h, w = image.shape[:2]
    turn, tilt = math.radians(35), math.radians(30)
    right = np.array([math.cos(turn), math.sin(turn), 0.0])
    away = np.array([-math.sin(turn) * math.cos(tilt), math.cos(turn) * math.cos(tilt), -math.sin(tilt)])
    up = np.cross(right, away)
    view = np.stack([right, -up, -away])  # x right, y down, z towards the eye
    everything = np.concatenate([m.positions for m in meshes]).astype(np.float64) @ view.T
    low, high = everything.min(axis=0), everything.max(axis=0)
    span = np.maximum(high - low, 1e-9)
    scale = 0.84 * min(w / span[0], h / span[1])
    offset = np.array([w / 2, h / 2, 0.0]) - (low + high) / 2 * scale
    light = np.array([-0.35, -0.75, 0.75])
    light /= np.linalg.norm(light)
    depth = np.full((h, w), -np.inf)
    for number, mesh in enumerate(meshes):
        points = mesh.positions.astype(np.float64) @ view.T * scale + offset
        normals = mesh.normals.astype(np.float64) @ view.T
        shade = 0.74 + 0.34 * np.clip(normals @ light, -0.4, 1.0)
        _fill(
            image,
            depth,
            points,
            shade,
            mesh.triangles.astype(np.int64),
            colours[number] if number < len(colours) else STONE,
        )
    for mesh in meshes:
        if len(mesh.lines):
            points = mesh.lines.astype(np.float64) @ view.T * scale + offset
            _stroke(image, depth, points, mesh.edges.astype(np.int64), INK, 1 if w > 1000 else 0, 0.004 * max(w, h))
