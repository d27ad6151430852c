"""Compile what is compiled ahead of time."""

from __future__ import annotations

import numpy as np

from ..core.inspect.picture import picture
from ..core.mesh.slicing import Slicer
from ..core.mesh.surface import Surface
from ..core.sketch.solver.warming import warm
from ..core.together import Grip, Pose, Relation, place


def run(argv: list[str]) -> int:
    """Run every compiled kernel once: all are then compiled and kept."""
    from ..core.solid.meshing import Mesh

    warm()
    corner = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], np.float32)
    edges = np.array([[0, 3]], np.uint32)
    picture([Mesh(corner, corner, np.array([[0, 1, 2]], np.uint32), corner[:0], corner, edges)], 16, 9)
    flat = Grip("plane", (0.0, 0.0, 1.0), (0.0, 0.0, 1.0)), Grip("plane", (0.0, 0.0, 5.0), (0.0, 0.0, -1.0))
    place([Relation("against", *flat, 0, None)], [Pose.still()])
    tetrahedron = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1.0]])
    Slicer(Surface(tetrahedron, np.array([[0, 2, 1], [0, 1, 3], [1, 2, 3], [2, 0, 3]]))).at(0.5)
    return 0
