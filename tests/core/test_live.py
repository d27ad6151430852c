"""What a drag tells the screen, put together, is where everything stands."""

from __future__ import annotations

import random
import re
from pathlib import Path
from typing import Any

import pytest
from tests.hand import Hand

from sketchlathe.core.exchange.modelfile import load_model
from sketchlathe.core.sketch.constraints import Dimensional
from sketchlathe.core.sketch.document import Sketch
from sketchlathe.core.sketch.live import Live
from sketchlathe.core.sketch.solver.drag import Drag
from sketchlathe.core.sketch.view import live_view

EXAMPLES = sorted((Path(__file__).parents[2] / "examples").glob("*.json"))


def sketches(path: Path) -> list[Sketch]:
    model = load_model(path.read_bytes())
    steps = [s for part in model.parts for s in part.steps if hasattr(s, "sketch")]
    return [s.sketch.valued(model.table.values, model.units) for s in steps]


def freed(sketch: Sketch, chance: random.Random) -> Sketch:
    """Half of the dimensions made references, so that there is something to drag."""
    return sketch.with_constraints(
        [
            k.model_copy(update={"driving": False}) if isinstance(k, Dimensional) and chance.random() < 0.5 else k
            for k in sketch.constraints
        ]
    )


def put_in(view: dict[str, Any], told: dict[str, Any]) -> None:
    """As the screen does it."""
    for curve in view["curves"]:
        if curve["id"] in told["curves"]:
            curve["path"], places, sizes = told["curves"][curve["id"]]
            for point, at in zip(curve["points"], places, strict=True):
                point["at"] = at
            curve["sizes"] = dict(zip(curve["sizes"], sizes, strict=True))
    for number, at, normal in told["marks"]:
        view["marks"][number].update(at=at, normal=normal)
    for dimension in view["dimensions"]:
        if dimension["id"] in told["dimensions"]:
            dimension["points"], dimension["label"], text = told["dimensions"][dimension["id"]]
            dimension["text"] = dimension["text"] if text is None else text


def numbers(thing: Any) -> list[float]:
    """All numbers of a path, or of nested places."""
    if isinstance(thing, str):
        return [float(n) for n in re.findall(r"-?\d+(?:\.\d+)?(?:e-?\d+)?", thing)]
    if isinstance(thing, dict):
        return [n for value in thing.values() for n in numbers(value)]
    if isinstance(thing, list | tuple):
        return [n for value in thing for n in numbers(value)]
    return [thing] if isinstance(thing, int | float) and not isinstance(thing, bool) else []


@pytest.mark.parametrize("path", [p for p in EXAMPLES if sketches(p)], ids=lambda p: p.stem)
def test_what_a_drag_tells_adds_up_to_where_everything_stands(path: Path) -> None:
    chance = random.Random(7)
    for whole in sketches(path):
        sketch = freed(whole, chance)
        grabs = [f"{c.id}.{p}" for c in sketch.curves for p in c.points if not c.taken and c.kind != "point"]
        for ref in chance.sample(grabs, min(3, len(grabs))):
            x, y = sketch.point(ref)
            drag = Drag(sketch, ref, (x, y))
            live, view = Live(drag, "mm"), live_view(sketch, "mm")
            for i in range(1, 6):
                put_in(view, live.to(x + 0.02 * i * sketch.size, y - 0.01 * i * sketch.size))
            wanted, near = live_view(drag.result(), "mm"), 1e-3 * sketch.size
            for sort, fields in (("curves", ("path", "points", "sizes")), ("marks", ("at", "normal")),
                                 ("dimensions", ("points", "label"))):  # fmt: skip
                for got, want in zip(view[sort], wanted[sort], strict=True):
                    for field in fields:
                        assert numbers(got[field]) == pytest.approx(numbers(want[field]), abs=near), (ref, got["id"])


def test_what_moves_less_than_can_be_seen_is_not_told_until_it_adds_up() -> None:
    sketch = Sketch.model_validate(
        {"curves": [{"kind": "line", "id": "a", "start": (0, 0), "end": (100, 0)}], "constraints": []}
    ).valued({})
    live = Live(Drag(sketch, "a.end", (100, 0)), "mm")
    assert live.to(100.0004, 0)["curves"] == {}
    assert live.to(100.0008, 0)["curves"] == {}
    assert live.to(100.0016, 0)["curves"]["a"][1][1] == pytest.approx((100.0016, 0))
    assert live.to(100.0017, 0, everything=True)["curves"]["a"][1][1] == pytest.approx((100.0017, 0))


def test_a_text_turns_with_the_curve_that_it_lies_along() -> None:
    """It stays where it begins, so nothing that is solved for says that it is another one."""
    hand = Hand()
    id = hand.sketch()
    (line,) = hand.draw(id, "line", (0, 0, "origin", "origin"), (60, 2))
    (text,) = hand.draw(id, "text_along", (0, 0, "on curve", line), sizes=("5",), words="N")
    sketch = hand.evaluated(id)
    drag = Drag(sketch, f"{line}.end", (60, 2))
    live, view = Live(drag, "mm"), live_view(sketch, "mm")
    put_in(view, live.to(50, 20))
    wanted = {c["id"]: c["path"] for c in live_view(drag.result(), "mm")["curves"]}
    got = {c["id"]: c["path"] for c in view["curves"]}
    assert numbers(got[text]) == pytest.approx(numbers(wanted[text]), abs=1e-3)
    assert got[text] != next(c.svg() for c in sketch.curves if c.id == text)
