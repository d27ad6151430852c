"""Running every compiled kernel once, so that the first person to draw does not wait for it."""

from __future__ import annotations


def warm() -> None:
    """Solve, drag and diagnose one small sketch (0.3 s when compiled already, half a minute when not), and load what
    only some changes of a sketch need.
    """
    import scipy.optimize  # noqa: F401

    from ..document import Sketch
    from .drag import Drag
    from .freedom import freedom
    from .solving import solve

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
