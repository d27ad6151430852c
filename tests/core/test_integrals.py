"""Volume, area, centre and moments are true to the last digit shown: against closed formulas and exact arithmetic."""

import math

import pytest
from tests.batteries import known_bodies
from tests.hand import Hand, box

from sketchlathe.core.solid.measuring import measures, true_digits


def test_bodies_with_known_figures() -> None:
    worst, bodies, faces, off = known_bodies.worst(72)
    assert off == []
    assert worst < 1e-10 and bodies >= 60 and faces >= 200


def test_a_flat_face_bounded_by_the_splines_of_fillets_is_measured_whole() -> None:
    """The kernel was off by 2e-2 mm³ a face there: three round lobes united, their concave corners rounded."""
    hand = Hand()
    s = hand.sketch()
    for x, y in ((0, 0), (30, 0), (15, 25)):
        hand.draw(s, "circle", (x, y), (x + 22, y))
    hand.step("extrude", regions=hand.regions(s, *range(len(hand.areas(s)))), distance="41")
    plain = measures(hand.build().bodies[0].shape)
    # by Green: the union of three equal circles is three arcs
    arcs = 0.0
    centres = [(0.0, 0.0), (30.0, 0.0), (15.0, 25.0)]
    for i, (cx, cy) in enumerate(centres):
        cuts = []
        for j, (ox, oy) in enumerate(centres):
            if i != j:
                far, way = math.dist((cx, cy), (ox, oy)), math.atan2(oy - cy, ox - cx)
                half = math.acos(far / 2 / 22)
                cuts.append((way - half, way + half))
        covered = sorted((a % (2 * math.pi), (a % (2 * math.pi)) + (b - a)) for a, b in cuts)
        spans, at = [], covered[0][0] + 2 * math.pi
        start = covered[0][1]
        for a, b in covered[1:]:
            if a > start:
                spans.append((start, a))
            start = max(start, b)
        if at > start:
            spans.append((start, at))
        for a, b in spans:
            arcs += (22 * 22 * (b - a) + 22 * (cx * (math.sin(b) - math.sin(a)) - cy * (math.cos(b) - math.cos(a)))) / 2
    assert plain.volume == pytest.approx(arcs * 41, rel=1e-12)


def test_figures_have_no_digits_that_are_not_known() -> None:
    assert true_digits(108.0000002, 3e-7) == 108.0
    assert true_digits(5e-9, 1e-8) == 0.0
    hand = Hand()
    hand.prism("top", box(-30, -20, 60, 40), distance="5", way="both")
    found = measures(hand.build().bodies[0].shape)
    assert found.centre == (0.0, 0.0, 0.0)
    assert found.moments[3:] == (0.0, 0.0, 0.0)
    assert found.volume == 12000.0 and found.area == 5800.0


def test_a_body_with_a_cavity_and_one_made_of_the_other_side() -> None:
    """A face that bounds two bodies has its share of both, once each way."""
    hand = Hand()
    hand.step("block", shape="sphere", diameter="40")
    hand.step("shell", thickness="3 mm", faces=[])
    found = measures(hand.build().bodies[0].shape)
    assert found.volume == pytest.approx(4 / 3 * math.pi * (20**3 - 17**3), rel=1e-12)
    assert found.area == pytest.approx(4 * math.pi * (20**2 + 17**2), rel=1e-12)


def test_a_right_split_is_not_refused() -> None:
    """The tray whose floor is bounded by the splines of its fillets was said not to be divided soundly."""
    hand = Hand()
    s = hand.sketch()
    for x, y in ((0, 0), (30, 0), (15, 25)):
        hand.draw(s, "circle", (x, y), (x + 22, y))
    hand.step("extrude", regions=hand.regions(s, *range(len(hand.areas(s)))), distance="41")
    corners = [(15.0, -math.sqrt(22**2 - 15**2), 20.5)]
    for side in (0, 30):  # where the upper circle meets the lower ones, outside
        far, up = math.dist((side, 0), (15, 25)), math.atan2(25, 15 - side)
        lift = math.sqrt(22**2 - far**2 / 4)
        out = 1 if side == 0 else -1
        mx, my = (side + 15) / 2, 12.5
        corners.append((mx - out * lift * math.sin(up), my + out * lift * math.cos(up), 20.5))
    hand.step("fillet", edges=hand.edges(*corners), radius="7.5")
    hand.step("shell", thickness="3 mm", faces=[hand.face((0, 0, 1))])
    datum = hand.step("datum", plane={"plane": "top"}, offset="20")
    before = hand.volume()
    hand.step("split", by="plane", plane={"datum": datum})
    assert hand.messages() == []
    assert sum(hand.volumes()) == pytest.approx(before, rel=1e-9)
