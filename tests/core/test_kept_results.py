"""What a worker keeps of its builds is bounded by what it takes, not by how many there are."""

import json

import pytest
from cachetools import LRUCache
from tests.hand import Hand

from sketchlathe.core.frames import ORIGIN_PLANES
from sketchlathe.core.making.results import BuildCache, SketchState, StepResult
from sketchlathe.core.sketch.document import Sketch
from sketchlathe.core.sketch.regions import arrange
from sketchlathe.workers import caches


def drawn(key: str, lines: int) -> StepResult:
    sketch = Sketch.model_validate(
        {"curves": [{"kind": "line", "id": f"c{i}", "start": (i, 0), "end": (i, 9)} for i in range(lines)]}
    )
    state = SketchState(ORIGIN_PLANES["top"], sketch, arrange(sketch.curves[:1], 1.0))
    return StepResult(key, key, "ok", (), key, sketch=state)


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
