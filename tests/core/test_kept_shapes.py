"""No kernel call changes a shape that anybody else holds; whatever was done before, answers are those of a fresh
process.
"""

from __future__ import annotations

import itertools

import pytest
from tests.batteries import warm
from tests.conftest import Hand
from tests.watch import Damage, watched

from sketchlathe.core.solid import shapes


def tray() -> Hand:
    """A tapered, shelled tray, its rim cut to a curve."""
    hand = Hand()
    hand.prism("top", [(0, 0), (50, 0), (50, 34), (0, 34)], distance="16 mm", taper="3 deg")
    hand.step("shell", faces=[hand.face((0, 0, 1))], thickness="2 mm")
    s = hand.sketch("front")
    at = [(-20.0, 11.0), (12.0, 8.0), (40.0, 12.5), (80.0, 9.0)]
    hand.draw(s, "spline", *at)
    over = [at[-1], (80.0, 40.0), (-20.0, 40.0), at[0]]
    for a, b in itertools.pairwise(over):
        hand.draw(s, "line", a, b)
    hand.step("extrude", regions=hand.regions(s), reach="through", way="both", result="cut")
    return hand


def with_pegs(hand: Hand) -> Hand:
    """Pegs through the floor, tried at several sizes, as while typing."""
    kept = hand.model
    for sides, tall in ((7, 5), (9, 9), (11, 30)):
        hand.model = kept
        for x in (12.3, 30.1):
            s = hand.sketch("top")
            hand.draw(s, "polygon", (x, 15), (x + 5, 15.7), sides=sides, measured="corners")
            hand.step("extrude", regions=hand.regions(s), distance=f"{tall} mm")
        assert hand.messages() == []
    return hand


def test_pegs_on_a_trimmed_tray_leave_the_tray_alone() -> None:
    hand = tray()
    before = hand.volumes()
    with_pegs(hand)
    assert tray().volumes() == pytest.approx(before, rel=1e-12)
    warm_answer = warm.answer(hand.build())
    fresh = Hand(hand.model)
    assert warm.differences(warm_answer, warm.answer(fresh.build())) == []


@pytest.mark.damages
def test_the_watch_sees_what_a_call_on_shared_shapes_does(monkeypatch) -> None:
    """Without private copies the same part damages what is kept: the watch would say so."""
    monkeypatch.setattr(shapes, "apart", lambda body: body)
    with pytest.raises(Damage), watched() as watch:
        for seed in (5, 10, 11, 12, 25, 28):
            warm.Walk(seed).go(7)
            watch.check("after a walk")


def test_warm_answers_are_those_of_a_fresh_process() -> None:
    assert warm.judged(range(12)) == []  # `./lathe bench` goes on with more
