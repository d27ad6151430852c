"""What a worker keeps of its builds is bounded by what it takes, not by how many there are."""

import json

import pytest
from cachetools import LRUCache
from tests.hand import ORIGIN, Hand

from sketchlathe.core.frames import ORIGIN_PLANES
from sketchlathe.core.making.results import NO_SOLIDS, BuildCache, PartBuild, SketchState, StepResult
from sketchlathe.core.model.building import build
from sketchlathe.core.sketch.document import Sketch
from sketchlathe.core.sketch.regions import arrange
from sketchlathe.core.solid.measuring import volume
from sketchlathe.workers import caches


def drawn(key: str, lines: int) -> StepResult:
    sketch = Sketch.model_validate(
        {"curves": [{"kind": "line", "id": f"c{i}", "start": (i, 0), "end": (i, 9)} for i in range(lines)]}
    )
    state = SketchState(ORIGIN_PLANES["top"], sketch, arrange(sketch.curves[:1], 1.0))
    return StepResult(key, key, "ok", NO_SOLIDS, key, sketch=state)


def test_large_results_push_out_more_of_the_others() -> None:
    few, many = BuildCache(1_000_000), BuildCache(1_000_000)
    for i in range(100):
        few.put(drawn(f"k{i}", 2))
        many.put(drawn(f"k{i}", 50))
    assert sum(few.get(f"k{i}") is not None for i in range(100)) == 100
    kept = [i for i in range(100) if many.get(f"k{i}") is not None]
    assert kept == list(range(100 - len(kept), 100))  # the newest
    assert 1 < len(kept) < 10


def test_what_is_larger_than_all_that_may_be_kept_is_kept_once() -> None:
    cache = BuildCache(100_000)
    for i in range(20):
        cache.put(drawn(f"k{i}", 200))
    assert cache.get("k19") is not None
    assert sum(cache.get(f"k{i}") is not None for i in range(20)) <= 4


def test_models_at_hand_are_as_many_as_their_documents_leave_room_for(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(caches, "MODELS_TAKE", 200_000)
    monkeypatch.setattr(caches, "_MODELS", LRUCache(200_000, getsizeof=lambda kept: kept[1]))
    hand = Hand()
    small = json.dumps(hand.model.as_json())
    for i in range(60):
        hand.do("add_parameter", name=f"a{i}", formula=f"{i} mm + 3 mm")
    large = json.dumps(hand.model.as_json())
    assert len(large) > 5 * len(small)
    read = []

    def text_of(digest: str) -> str:
        read.append(digest)
        return small if digest.startswith("small") else large

    def ask(*digests: str) -> list[str]:
        read.clear()
        for digest in digests:
            caches.model_of(digest, text_of)
        return list(read)

    few = [f"small{i}" for i in range(10)]
    assert ask(*few) == few
    assert ask(*few) == []
    ask(*(f"large{i}" for i in range(10)))
    assert ask("large9") == []
    assert ask("small0", "large0") == ["small0", "large0"]


# a long part: what an edit costs depends on what it touches


def long_part(count: int) -> Hand:
    """A plate on which pegs and holes stand, each on a sketch of its own upon the plate."""
    hand = Hand()
    base = hand.sketch("top")
    hand.draw(base, "rectangle", ORIGIN, (120, 120), sizes=("120", "120"))
    hand.step("extrude", regions=hand.regions(base), distance="8")
    for i in range(count):
        x, y = 12 * (i % 9) + 12, 12 * (i // 9) + 12
        sketch = hand.sketch(hand.face((0, 0, 1)) if i == 0 else hand.steps[2].plane)
        hand.draw(sketch, "circle", (x, y), (x + 2, y), sizes=("5",))
        hand.step("extrude", regions=hand.regions(sketch), distance="3", result="add" if i % 2 else "cut",
                  way="forwards" if i % 2 else "backwards")  # fmt: skip
    return hand


def worked_at(hand: Hand, cache: BuildCache) -> tuple[list[str], PartBuild]:
    """The steps that a build computes, and what comes of it."""
    told: list[str] = []

    def progress(step: str, key: str, number: int, count: int) -> None:
        if key:
            told.append(step)

    return told, build(hand.model, hand.model.parts[0], cache, progress=progress)


def figures(built: PartBuild) -> list[object]:
    """All that is said of a build, and its solids: volumes to the last digit, names of faces."""
    said = [(r.status, r.message, r.states, r.dressed, r.solid_key, [a.text for a in r.advice]) for r in built.steps]
    return [said, [(b.id, volume(b.shape), b.names) for b in built.bodies]]


@pytest.fixture(scope="module")
def long() -> Hand:
    return long_part(18)


def test_an_edit_of_the_last_step_builds_that_step_alone_however_little_is_kept(long: Hand) -> None:
    hand = Hand(long.model)
    cache = BuildCache(solids=5 * hand.build().steps[-1].left.made.takes)  # those of a few steps
    assert len(worked_at(hand, cache)[0]) == len(hand.steps)
    assert worked_at(hand, cache)[0] == [], "nothing has changed"
    last = hand.steps[-1].id
    hand.do("set_fields", step=last, fields={"distance": "2"})
    assert worked_at(hand, cache)[0] == [last]


@pytest.mark.parametrize("solids", [1, 400_000, 4_000_000])
def test_what_is_kept_never_changes_what_comes_of_a_part(long: Hand, solids: int) -> None:
    hand, cache = Hand(long.model), BuildCache(solids=solids)
    worked_at(hand, cache)
    for number in (len(hand.steps) - 1, 21, 5, 1, 13):
        before = hand.model
        hand.do("set_fields", step=hand.steps[number].id, fields={"distance": "2.5"})
        told, warm = worked_at(hand, cache)
        assert hand.steps[number].id in told
        assert figures(warm) == figures(build(hand.model, hand.model.parts[0], BuildCache()))
        hand.do("set_fields", step=hand.steps[number].id, fields={"distance": before.parts[0].steps[number].distance})
        assert figures(worked_at(hand, cache)[1]) == figures(build(before, before.parts[0], BuildCache()))


def test_solids_that_were_put_out_come_back_as_they_were(long: Hand) -> None:
    cache = BuildCache(solids=1)
    first = build(long.model, long.model.parts[0], cache)
    again = build(long.model, long.model.parts[0], cache)
    for one, other in zip(first.steps, again.steps):
        assert [(b.id, volume(b.shape), b.names) for b in one.bodies] == [
            (b.id, volume(b.shape), b.names) for b in other.bodies
        ]
        assert [b.names for b in one.tools] == [b.names for b in other.tools]
        assert [b.id for b in one.before] == [b.id for b in other.before]


def test_shapes_of_a_step_that_failed_are_there_also_when_it_is_known() -> None:
    hand = Hand()
    hand.step("block", width="20", depth="20", height="5")
    hand.step("block", width="5", depth="5", height="5", x="40", result="cut")
    for cache in (BuildCache(), BuildCache(solids=1)):
        cold, warm = (build(hand.model, hand.model.parts[0], cache).steps[-1] for _ in range(2))
        assert (cold.status, warm.status) == ("failed", "failed")
        assert [len(b.names) for b in warm.tools] == [len(b.names) for b in cold.tools]
        assert [b.id for b in warm.bodies] == [b.id for b in cold.bodies]
