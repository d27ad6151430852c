"""Compile the sketch solver ahead of time."""

from __future__ import annotations

import numpy as np

from ..core.inspect.picture import picture
from ..core.sketch.document import Sketch
from ..core.sketch.solver.drag import Drag
from ..core.sketch.solver.freedom import freedom
from ..core.sketch.solver.solving import solve


def run(argv: list[str]) -> int:
    """Solve, drag and diagnose one small sketch, draw one triangle: every kernel is compiled and kept."""
    from ..core.solid.meshing import Mesh

    sketch = Sketch.model_validate(
        {
            "curves": [{"kind": "line", "id": "c1", "start": [0, 0], "end": [10, 1]}],
            "constraints": [
                {"kind": "distance", "id": "k1", "on": ["c1"], "value": "12 mm"},
                {"kind": "coincident", "id": "k2", "on": ["c1.start", "origin"]},
            ],
        }
    ).valued({})
    solved = solve(sketch).sketch
    freedom(solved)
    Drag(solved, "c1.end", (12.0, 0.0)).to(0.0, 12.0)
    corner = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], np.float32)
    picture([Mesh(corner, corner, np.array([[0, 1, 2]], np.uint32), corner[:0], corner, np.array([[0, 3]], np.uint32))], 16, 9)
    return 0
