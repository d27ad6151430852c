"""What a sketch that is not held can still do, and what would hold it: motions that are real, proposals that lead to
the end.
"""

import math
import re

import numpy as np
import pytest
from tests.batteries.sketches import changes
from tests.hand import Hand

from sketchlathe.core.quantity.units import show
from sketchlathe.core.sketch.dimensioning import propose
from sketchlathe.core.sketch.document import Sketch
from sketchlathe.core.sketch.moving import MOST, ways_to_move
from sketchlathe.core.sketch.solver.compiling import compile_sketch
from sketchlathe.core.sketch.solver.freedom import freedom
from sketchlathe.core.sketch.suggesting import proposals


def rough_box(hand: Hand, sketch: str) -> None:
    """Four lines, nearly level and plumb, closed; drawn without help."""
    hand.polygon(sketch, (2, 1), (41, 1.5), (40.6, 26), (1.7, 25.6))


def ring(hand: Hand, sketch: str) -> None:
    hand.draw(sketch, "circle", (10, 5), (22, 5))
    hand.draw(sketch, "circle", (10.05, 5), (16, 5))


def vane(hand: Hand, sketch: str) -> None:
    """A line with an arc on it, and a point beside."""
    hand.draw(sketch, "line", (0, 0, "origin", "origin"), (30, 4))
    hand.draw(sketch, "arc", (30, 4), (36, 10), (30, 16))
    hand.draw(sketch, "point", (12, 20))


def hexagon(hand: Hand, sketch: str) -> None:
    hand.draw(sketch, "polygon", (5, 5), (17, 6))


def oval(hand: Hand, sketch: str) -> None:
    hand.draw(sketch, "ellipse", (4, 3), (20, 8), (2, 12))


def slot(hand: Hand, sketch: str) -> None:
    hand.draw(sketch, "slot", (3, 3), (23, 6), (24, 10))


def curve(hand: Hand, sketch: str) -> None:
    hand.draw(sketch, "spline", (0, 0), (10, 6), (22, 2), (30, 9))


def wide_letters(hand: Hand, sketch: str) -> None:
    hand.draw(sketch, "text", (3, 2), (25, 2), text="NW", height="6 mm")


SHAPES = [rough_box, ring, vane, hexagon, oval, slot, curve, wide_letters]
by_shape = pytest.mark.parametrize("shape", SHAPES, ids=lambda s: s.__name__)


@pytest.fixture
def drawn(shape) -> tuple[Hand, str]:
    hand = Hand()
    sketch = hand.sketch()
    shape(hand, sketch)
    return hand, sketch


def take(hand: Hand, id: str, proposal) -> None:
    """What the person's click on a proposal does: a dimension gets the size that is drawn."""
    wanted = {"sketch": id, **proposal.edit}
    if wanted["kind"] == "add_dimension":
        sketch = hand.evaluated(id)
        made = propose(sketch, tuple(wanted["on"]), tuple(wanted["at"]), way=wanted.get("way", ""))
        wanted["value"] = show(made.measure(sketch), made.measures, "mm", 3)
    hand.do(**wanted)


def places(sketch) -> np.ndarray:
    return np.array([p for c in sketch.curves for n in c.points for p in c.place(n)])


@by_shape
def test_there_are_as_many_motions_as_ways_left_to_move(drawn) -> None:
    hand, id = drawn
    sketch = hand.evaluated(id)
    left = freedom(sketch).count
    found = ways_to_move(sketch)
    assert left > 0
    assert len(found) == min(left, MOST)
    for motion in found:
        assert motion.curves, "a motion of nothing"
        assert motion.text.strip()
        assert len({tuple(f.items()) for f in motion.frames}) > 2, "nothing is seen to move"
        at_rest = {c: sketch.curve(c).svg() for c in motion.curves if sketch.curve(c).svg()}
        assert at_rest.items() <= motion.frames[-1].items(), "it does not end where it began"


@by_shape
def test_proposals_lead_to_a_sketch_that_is_held(drawn) -> None:
    """Taken one by one, each takes freedom away; sizes are as drawn, so nothing moves far; at
    the end nothing is free.
    """
    hand, id = drawn
    start = places(hand.evaluated(id))
    size = hand.evaluated(id).size
    left = hand.freedom(id)
    for _ in range(40):
        if not left:
            break
        offered = proposals(hand.evaluated(id))
        assert offered, f"{left} ways left to move and nothing is proposed"
        assert all(word not in offered[0].text for word in ("c1.", "k1", "None"))
        take(hand, id, offered[0])
        now = hand.freedom(id)
        assert now < left, f"“{offered[0].text}” took nothing away"
        left = now
    assert left == 0
    assert np.max(np.abs(places(hand.evaluated(id)) - start)) < 0.12 * size
    assert proposals(hand.evaluated(id)) == []
    assert ways_to_move(hand.evaluated(id)) == []


def test_relations_come_before_sizes_and_sizes_before_places() -> None:
    hand = Hand()
    id = hand.sketch()
    rough_box(hand, id)
    kinds = []
    while hand.freedom(id):
        best = proposals(hand.evaluated(id))[0]
        kinds.append("size" if best.edit["kind"] == "add_dimension" else best.edit["constraint"])
        take(hand, id, best)
    assert {"horizontal", "vertical"} & set(kinds[:2])
    first_size = kinds.index("size")
    assert not {"horizontal", "vertical", "perpendicular", "parallel"} & set(kinds[first_size:])
    # level, plumb, two sizes and a place: what a draughtsman would write on a rectangle
    assert kinds.count("size") == 4


def test_every_frame_of_a_motion_keeps_what_is_held() -> None:
    """A slot and a linkage: along a motion, each drawn frame is a solution (lengths that are held stay)."""
    hand = Hand()
    id = hand.sketch()
    hand.draw(id, "line", (0, 0, "origin", "origin"), (20, 5), sizes=("20 mm",))
    end = f"{hand.curves(id)[0].id}.end"
    hand.draw(id, "line", (20, 5, "end", end), (30, -5), sizes=("14 mm",))
    for motion in ways_to_move(hand.evaluated(id)):
        for frame in motion.frames:
            for path in frame.values():
                x0, y0, x1, y1 = map(float, re.findall(r"-?\d+\.?\d*(?:e-?\d+)?", path)[:4])
                long = math.hypot(x1 - x0, y1 - y0)
                assert min(abs(long - 20), abs(long - 14)) < 2e-3, path


@pytest.mark.parametrize("case", list(changes(12)), ids=lambda c: f"{c.family}-{c.seed}")
def test_what_is_held_is_said_to_be_held(case) -> None:
    """Each generated outline has all its sizes; with one of its dimensions taken out it moves in exactly one way."""
    whole = freedom(case.sketch)
    without = case.sketch.model_copy(
        update={"constraints": tuple(k for k in case.sketch.constraints if k.id != case.id)}
    )
    free = freedom(without)
    assert free.count == whole.count + 1
    if whole.count == 0:
        assert not whole.free
        assert free.free
        assert len(ways_to_move(without)) == 1
        system = compile_sketch(without)
        assert system.solved(system.start(system.rows.layout.values))


def test_what_is_free_is_found_once_for_a_sketch_and_anew_for_its_successor(monkeypatch) -> None:
    from sketchlathe.core.sketch.solver import freedom as solver

    hand = Hand()
    s = hand.sketch("top")
    hand.draw(s, "rectangle", (0, 0), (30, 20))
    first = hand.model.step(s).sketch
    # its place and two sizes; the same whatever its dimensions are said to be
    assert freedom(first).count == 4
    counted = []
    monkeypatch.setattr(solver, "freedom_in", lambda system, sketch: counted.append(sketch))
    assert freedom(first).count == freedom(first.with_values({})).count == 4
    assert counted == []
    monkeypatch.undo()
    hand.draw(s, "circle", (50, 50), (55, 50))
    assert freedom(hand.model.step(s).sketch).count == 4 + 3
    assert Sketch.model_validate(first.model_dump()) == first
    # a copy with less in it is not taken for the one it was made of
    assert freedom(first.model_copy(update={"constraints": ()})).count == 16
    assert freedom(first).count == 4
