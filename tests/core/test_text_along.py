"""Text that stands on another curve."""

from __future__ import annotations

import math

import numpy as np
import pytest
from tests.hand import ORIGIN, Hand

from sketchlathe.core.errors import BadInput
from sketchlathe.core.model.edits.fresh import Numbering
from sketchlathe.core.sketch.changes.copying import clipped, pasted
from sketchlathe.core.sketch.curves.lettering import outlines, straight, width_of


def lettered(tool="circle", *places, words="NORTH", size="5", at=(20.0, 0.0), **options):
    m = Hand()
    s = m.sketch()
    (curve,) = m.draw(s, tool, *(places or (ORIGIN, (20.0, 0.0))), sizes=("40",) if tool == "circle" else ())
    (text,) = m.draw(s, "text_along", (*at, "on curve", curve), sizes=(size,), words=words, **{"lift": 0.0, **options})
    return m, s, curve, text


def ink(m, s, id) -> float:
    """The area of a text's letters, counters taken away, by the shoelace formula over fine samples."""
    total = 0.0
    for contour in m.curve(s, id)._contours():
        p = np.array([piece.at(k / 40) if hasattr(piece, "p0") else (piece.a, piece.b)[0]
                      for piece in contour for k in (range(40) if hasattr(piece, "p0") else (0,))])  # fmt: skip
        q = np.roll(p, -1, axis=0)
        total += float((p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0]).sum()) / 2
    return total


def test_on_a_line_it_stands_as_straight_text_does():
    m, s, _, text = lettered("line", (0.0, 0.0), (80.0, 30.0), at=(16.0, 6.0))
    unit = (80 / math.hypot(80, 30), 30 / math.hypot(80, 30))
    width = 5 * width_of("NORTH", "plain", 1.0)
    right = outlines("NORTH", "plain", 5.0, 1.0, (16.0, 6.0), (16 + unit[0] * width, 6 + unit[1] * width))
    got = m.curve(s, text)._contours()
    for one, other in zip(got, right):
        for a, b in zip(one, other):
            assert np.array(a).ravel() == pytest.approx(np.array(b).ravel(), abs=1e-9)


def test_on_a_circle_letters_stand_upright_at_their_middles_and_keep_their_ink():
    m, s, _, text = lettered()
    straight_, t, _, other = lettered("line", (0.0, 0.0), (80.0, 0.0), at=(1.0, 0.0))
    assert ink(m, s, text) == pytest.approx(ink(straight_, t, other), rel=1e-9)
    first = straight("NORTH", "plain", 1.0)[0][0]
    # half its own width along the rim from where it begins
    angle = first.advance / 2 * 5 / 20
    contour = m.curve(s, text)._contours()[0]
    points = np.array([p for piece in contour for p in piece])
    radial = points @ np.array([math.cos(angle), math.sin(angle)])
    assert radial.max() == pytest.approx(20, abs=1e-3)  # counterclockwise: tops inwards
    assert radial.min() == pytest.approx(15, abs=1e-2)


def test_it_stands_above_its_curve_as_far_as_it_is_lifted():
    m, s, _, text = lettered(backward=True, lift=3.0)
    reach = [math.hypot(*p) for c in m.curve(s, text)._contours() for piece in c for p in piece]
    assert min(reach) > 22.5 and max(reach) < 29


def test_on_the_other_side_its_tops_look_outwards():
    m, s, _, text = lettered(backward=True)
    reach = [math.hypot(*p) for c in m.curve(s, text)._contours() for piece in c for p in piece]
    assert min(reach) > 19.5 and max(reach) < 26


def test_it_follows_its_curve_and_stays_when_that_is_gone():
    m, s, curve, text = lettered()
    (size,) = m.constraints(s, "diameter")
    m.do("set_dimension", sketch=s, id=size.id, value="60")
    reach = [math.hypot(*p) for c in m.curve(s, text)._contours() for piece in c for p in piece]
    assert min(reach) > 24 and max(reach) < 30.5
    before = ink(m, s, text)
    m.do("delete_from_sketch", sketch=s, ids=[curve])
    assert ink(m, s, text) == pytest.approx(before, rel=1e-12)


def test_a_copy_hangs_on_its_own_curve_or_on_none():
    m, s, curve, text = lettered()
    for ids, hangs in (([curve, text], True), ([text], False)):
        sketch = m.evaluated(s)
        after, new = pasted(sketch, Numbering(m.model), clipped(sketch, ids), (100.0, 0.0))
        copy = next(after.curve(i) for i in new if "text" in after.curve(i).tags)
        assert (copy.along in new) == hangs
        xs = [p[0] for c in copy._contours() for piece in c for p in piece]
        assert min(xs) > 70


def test_its_letters_bound_regions_of_their_ink():
    m, s, _, text = lettered(words="LET", backward=True)
    letters = [a for a in m.areas(s) if a < 100]
    assert sum(letters) == pytest.approx(ink(m, s, text), rel=1e-3)


@pytest.mark.parametrize("place", [(50.0, 50.0), (20.0, 0.0, "on curve", "c99")])
def test_it_needs_a_curve_to_stand_on(place):
    m = Hand()
    s = m.sketch()
    with pytest.raises(BadInput, match="Click on a curve"):
        m.draw(s, "text_along", place, sizes=("5",), words="N")
