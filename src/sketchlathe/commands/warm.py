"""Compile what is compiled ahead of time."""

from __future__ import annotations

import multiprocessing
from collections.abc import Callable

import numpy as np


def _solver() -> None:
    from ..core.sketch.solver.warming import warm

    warm()


def _regions() -> None:
    from ..core.sketch.curves import CURVES
    from ..core.sketch.regions import arrange

    circle = {"kind": "circle", "id": "c1", "centre": [0, 0], "radius": 5}
    lines = [{"kind": "line", "id": f"c{i + 2}", "start": [3 * i - 4, -9], "end": [3 * i - 4, 9]} for i in range(3)]
    arrange([CURVES.parse(c) for c in (circle, *lines)], 20.0)


def _pictures() -> None:
    from ..core.inspect.picture import picture
    from ..core.mesh.cover import Cover
    from ..core.mesh.slicing import Slicer
    from ..core.mesh.surface import Surface
    from ..core.solid.bases import basis
    from ..core.solid.meshing import Mesh
    from ..core.together import Grip, Pose, Relation, place

    corner = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], np.float32)
    edges = np.array([[0, 3]], np.uint32)
    picture([Mesh(corner, corner, np.array([[0, 1, 2]], np.uint32), corner[:0], corner, edges)], 16, 9)
    flat = Grip("plane", (0.0, 0.0, 1.0), (0.0, 0.0, 1.0)), Grip("plane", (0.0, 0.0, 5.0), (0.0, 0.0, -1.0))
    place([Relation("against", *flat, 0, None)], [Pose.still()])
    basis(np.repeat([0.0, 1.0], 3), 2, np.array([0.5]))
    Cover(corner, np.array([[0, 1, 2]])).covers(corner)
    tetrahedron = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1.0]])
    Slicer(Surface(tetrahedron, np.array([[0, 2, 1], [0, 1, 3], [1, 2, 3], [2, 0, 3]]))).at(0.5)


PIECES: tuple[Callable[[], None], ...] = (_regions, _solver, _pictures)


def run(argv: list[str]) -> int:
    """Run every compiled kernel once, side by side: all are then compiled and kept."""
    context = multiprocessing.get_context("spawn")
    running = [context.Process(target=piece) for piece in PIECES]
    for process in running:
        process.start()
    for process in running:
        process.join()
    return max(abs(process.exitcode or 0) for process in running)
