"""What hangs together in a sketch: a change of one group gives what the whole gives, and costs what the group does."""

from __future__ import annotations

import random
import re

import pytest
from tests.batteries import sketches
from tests.hand import Hand

from sketchlathe.core.errors import Refused
from sketchlathe.core.sketch.coupling import Portion, portion, put_back
from sketchlathe.core.sketch.document import Sketch
from sketchlathe.core.sketch.solver.compiling import compile_sketch
from sketchlathe.core.sketch.solver.freedom import motions
from sketchlathe.core.sketch.solver.solving import Verdict, solve, solve_about


def plates(count: int) -> tuple[Hand, str]:
    """Rectangles with two sizes each, every second one with a circle in its middle."""
    hand = Hand()
    s = hand.sketch("top")
    for i in range(count):
        hand.draw(s, "rectangle", (20 * i, 5), (20 * i + 10, 11), sizes=("10", "6"))
        if i % 2:
            hand.draw(s, "circle", (20 * i + 5, 8), (20 * i + 7, 8), sizes=("4",))
    return hand, s


def groups(sketch) -> list[set[str]]:
    left, found = {c.id for c in sketch.curves}, []
    while left:
        ids = {c.id for c in portion(sketch, [min(left)]).curves}
        found.append(ids)
        left -= ids
    return found


def test_groups_share_nothing_and_are_the_whole_together() -> None:
    hand, s = plates(4)
    sketch = hand.evaluated(s)
    found = groups(sketch)
    assert sorted(len(g) for g in found) == [1, 1, 4, 4, 4, 4]
    assert sum(len(g) for g in found) == len(sketch.curves)
    for group in found:
        for c in sketch.constraints:
            assert c.members() & group in (c.members() & {x.id for x in sketch.curves}, set())
    # one that ties two groups makes them one; undone, they are two again
    before = hand.model
    lines = [next(c.id for c in sketch.curves if c.id in g and c.kind == "line") for g in found if len(g) == 4]
    ends = [f"{id}.start" for id in lines[:2]]
    hand.do("add_dimension", sketch=s, on=ends, at=(30, 60), value="50", way="aligned")
    assert sorted(len(g) for g in groups(hand.evaluated(s))) == [1, 1, 4, 4, 8]
    hand.model = before
    assert sorted(len(g) for g in groups(hand.evaluated(s))) == [1, 1, 4, 4, 4, 4]


def test_the_freedom_of_the_whole_is_that_of_its_groups() -> None:
    hand, s = plates(5)
    hand.draw(s, "line", (0, 50), (30, 61))
    sketch = hand.evaluated(s)

    def free(of) -> int:
        system = compile_sketch(of)
        return motions(system, system.start(system.rows.layout.values))[0]

    assert free(sketch) == sum(free(portion(sketch, group)) for group in groups(sketch))


def test_a_portion_put_back_unchanged_is_the_whole_itself() -> None:
    hand, s = plates(3)
    sketch = hand.evaluated(s)
    assert put_back(sketch, portion(sketch, [sketch.curves[0].id])) is sketch


def test_curves_are_called_in_refusals_as_in_the_whole() -> None:
    hand, s = plates(3)
    curves = [c.id for c in hand.curves(s)]
    last = curves[-4]
    assert isinstance(portion(hand.evaluated(s), [last]), Portion)
    with pytest.raises(Refused) as whole:
        hand.do("add_constraint", sketch=s, constraint="horizontal", on=[last])
    assert f"{hand.evaluated(s).name_of(last)}" in str(whole.value)


@pytest.mark.parametrize("seed", range(6))
def test_a_size_changed_in_a_crowd_is_the_size_changed_alone(seed: int) -> None:
    """The same drawing by itself and beside others: places agree to the solver's tolerance."""
    rng = random.Random(seed)
    w, h, r = (round(rng.uniform(5, 30), 2) for _ in range(3))

    def drawn(hand: Hand, s: str) -> list[str]:
        ids = hand.draw(s, "rectangle", (200, 100), (220, 115), sizes=("20", "15"))
        hand.draw(s, "circle", (210, 107), (213, 107), sizes=("6",))
        return ids

    alone = Hand()
    a = alone.sketch("top")
    drawn(alone, a)
    crowd, c = plates(6)
    drawn(crowd, c)
    for hand, s in ((alone, a), (crowd, c)):
        sizes = [k.id for k in hand.evaluated(s).constraints if getattr(k, "driving", False)][-3:]
        for id, value in zip(sizes, (w, h, r)):
            hand.do("set_dimension", sketch=s, id=id, value=f"{value}")
    one, other = alone.evaluated(a).curves, crowd.evaluated(c).curves[-5:]
    for p, q in zip(one, other, strict=True):
        for name in p.points:
            assert p.place(name) == pytest.approx(q.place(name), abs=1e-9)


def test_a_named_size_moves_the_groups_that_are_reckoned_from_it() -> None:
    hand, s = plates(3)
    sizes = [k for k in hand.evaluated(s).constraints if getattr(k, "driving", False)]
    hand.do("set_dimension", sketch=s, id=sizes[0].id, name="wide")
    hand.do("set_dimension", sketch=s, id=sizes[2].id, value="2 * wide")
    hand.do("set_dimension", sketch=s, id=sizes[0].id, value="7")
    sketch = hand.evaluated(s)
    assert sketch.values[sizes[2].id] == pytest.approx(14)
    assert sketch.unmet() == ""
    # and a parameter those that use it
    hand.do("add_parameter", name="tall", formula="9 mm")
    hand.do("set_dimension", sketch=s, id=sizes[1].id, value="tall")
    hand.do("set_parameter", name="tall", formula="4 mm")
    sketch = hand.evaluated(s)
    assert sketch.values[sizes[1].id] == pytest.approx(4)
    assert sketch.unmet() == ""


def beside(one: Sketch, other: Sketch) -> Sketch:
    """Two sketches as one: the other's ids made its own."""
    text = re.sub(r'"([a-z])(\d+)(?=["."])', r'"\g<1>9\g<2>', other.model_dump_json())
    moved = Sketch.model_validate_json(text)
    assert not {c.id for c in one.curves} & {c.id for c in moved.curves}
    return Sketch(curves=(*one.curves, *moved.curves), constraints=(*one.constraints, *moved.constraints))


@pytest.mark.parametrize("seed", [1, 300, 600])
def test_any_change_beside_another_sketch_is_that_of_the_whole(seed: int) -> None:
    """Trusses, filleted outlines, slots, linkages, gears: the same verdict and the same places as the whole solved."""
    found = list(sketches.changes(24, seed))
    for change, other in zip(found[::2], found[1::2]):
        both = beside(change.sketch, other.sketch).valued({})
        changed = both.with_value(change.id, change.value)
        of = next(c for c in changed.constraints if c.id == change.id)
        part, whole = solve_about(changed, of.members()), solve(changed)
        assert part.verdict is whole.verdict
        assert part.sketch.curves[len(change.sketch.curves) :] == both.curves[len(change.sketch.curves) :]
        for p, q in zip(part.sketch.curves, whole.sketch.curves):
            for name in p.points:
                assert p.place(name) == pytest.approx(q.place(name), abs=1e-6 * both.size), (change.family, change.seed)


def test_what_was_taken_from_the_solid_ties_nothing_together() -> None:
    hand = Hand()
    s = hand.sketch("top")
    (line,) = hand.draw(s, "line", (0, 0), (40, 7))[:1]
    rounds = [hand.draw(s, "circle", (x, 30), (x + 4, 30), sizes=("8",))[0] for x in (5, 35)]
    for circle in rounds:
        ends = [f"{line}.start", f"{circle}.centre"]
        hand.do("add_dimension", sketch=s, on=ends, at=(0, 20), value="40", way="aligned")
    free = hand.evaluated(s)
    assert {c.id for c in portion(free, [rounds[0]]).curves} == {line, *rounds}
    held = free.with_curves(c.model_copy(update={"taken": True}) if c.id == line else c for c in free.curves)
    assert {c.id for c in portion(held, [rounds[0]]).curves} == {line, rounds[0]}
    size = next(k.id for k in held.constraints if f"{rounds[0]}.centre" in k.on and getattr(k, "driving", False))
    part = solve_about(held.with_value(size, 55.0), [rounds[0]])
    whole = solve(held.with_value(size, 55.0))
    assert part.verdict is whole.verdict is Verdict.SOLVED
    for p, q in zip(part.sketch.curves, whole.sketch.curves):
        assert all(p.place(name) == pytest.approx(q.place(name), abs=1e-9) for name in p.points)
    stood = held.curve(line)
    assert all(part.sketch.curve(line).place(name) == pytest.approx(stood.place(name)) for name in stood.points)
