"""What is seen from one side: against closed formulas, and against rays from the eye."""

from __future__ import annotations

import math
from collections import Counter
from pathlib import Path

import numpy as np
import pytest
import shapely
from tests.hand import Hand, plate

from sketchlathe.core.exchange.modelfile import load_model
from sketchlathe.core.model.building import build
from sketchlathe.core.sheet.puts import SIDES
from sketchlathe.core.sketch.curves.pieces import ArcPiece, EllipsePiece, Segment, piece_length
from sketchlathe.core.solid import meshing
from sketchlathe.core.solid.hidden_lines import seen
from sketchlathe.core.solid.overlaid import Seen, once

EXAMPLES = sorted((Path(__file__).parents[2] / "examples").glob("*.json"))


def lines(hand: Hand, side: str) -> tuple[Seen, ...]:
    return seen(hand.build().bodies, SIDES[side])


def long(found: tuple[Seen, ...], *, visible: bool) -> float:
    return sum(piece_length(s.piece) for s in found if s.visible == visible and s.sort != "smooth")


@pytest.mark.parametrize(("side", "outline"), [("front", 160), ("above", 200), ("left", 120), ("behind", 160)])
def test_a_block_is_a_rectangle_from_each_side(side: str, outline: float) -> None:
    found = lines(plate("60", "40", "20"), side)
    assert long(found, visible=True) == pytest.approx(outline)
    assert long(found, visible=False) == 0  # what is behind a seen line is not drawn


def test_a_block_from_a_corner_shows_nine_edges_and_hides_three() -> None:
    found = lines(plate("60", "40", "20"), "corner")
    assert Counter(s.visible for s in found) == {True: 9, False: 3}
    # seen along a diagonal of space each axis is shortened by the root of two thirds
    assert long(found, visible=True) == pytest.approx(3 * 120 * math.sqrt(2 / 3))


def test_a_hole_is_a_circle_from_above_and_dashed_from_the_front() -> None:
    hand = plate("60", "40", "20")
    s = hand.sketch("top")
    hand.draw(s, "circle", (20, 20), (25, 20))
    hand.step("extrude", regions=hand.regions(s), reach="through", result="cut")
    above = [s.piece for s in lines(hand, "above") if isinstance(s.piece, ArcPiece)]
    assert [(round(p.radius, 9), round(abs(p.a1 - p.a0), 6)) for p in above] == [(5, round(2 * math.pi, 6))]
    hidden = [s.piece for s in lines(hand, "front") if not s.visible]
    assert sorted(round(p.a[0], 6) for p in hidden if isinstance(p, Segment)) == [15, 25]
    assert [piece_length(p) for p in hidden] == pytest.approx([20, 20])
    ellipses = [s.piece for s in lines(hand, "corner") if s.visible and isinstance(s.piece, EllipsePiece)]
    # the top's circle whole; of the lower one what is seen through the hole
    whole = max(ellipses, key=lambda p: abs(p.a1 - p.a0))
    assert (math.hypot(*whole.major), whole.minor) == pytest.approx((5, 5 / math.sqrt(3)))


def test_a_ball_has_an_outline() -> None:
    hand = Hand()
    hand.step("block", shape="sphere", diameter="30 mm")
    found = [s for s in lines(hand, "front") if s.visible]
    assert sum(piece_length(s.piece) for s in found if s.sort == "outline") == pytest.approx(math.pi * 30, rel=1e-9)


def test_a_cylinder_lying_across_shows_where_it_turns_away() -> None:
    hand = Hand()
    hand.step("block", shape="cylinder", diameter="20 mm", height="50 mm")
    straight = [s.piece for s in lines(hand, "front") if s.visible and s.sort == "outline"]
    assert sorted(round(p.a[0], 4) for p in straight if isinstance(p, Segment)) == [-10, 10]
    assert [piece_length(p) for p in straight] == pytest.approx([50, 50], rel=1e-6)


def test_rounded_corners_have_their_outline_where_they_run_into_flat_sides() -> None:
    hand = plate("60", "40", "20")
    hand.step("fillet", edges=hand.edges((0, 0, 1)), radius="8 mm")
    found = [s for s in lines(hand, "front") if s.visible and s.sort != "smooth"]
    upright = sorted(
        round(s.piece.a[0], 5) for s in found if isinstance(s.piece, Segment) and s.piece.a[0] == s.piece.b[0]
    )
    assert upright == [0, 60]
    assert sum(piece_length(s.piece) for s in found) == pytest.approx(160)


def first_met(points: np.ndarray, triangles: np.ndarray, at: np.ndarray) -> float:
    """How near to the eye the first triangle is that a ray at a place meets; -inf where it meets none."""
    a, b, c = (points[triangles[:, k]] for k in range(3))
    whole = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (c[:, 0] - a[:, 0]) * (b[:, 1] - a[:, 1])
    with np.errstate(divide="ignore", invalid="ignore"):
        v = ((at[0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (c[:, 0] - a[:, 0]) * (at[1] - a[:, 1])) / whole
        w = ((b[:, 0] - a[:, 0]) * (at[1] - a[:, 1]) - (at[0] - a[:, 0]) * (b[:, 1] - a[:, 1])) / whole
        met = (v >= 0) & (w >= 0) & (v + w <= 1)
        near = a[:, 2] + v * (b[:, 2] - a[:, 2]) + w * (c[:, 2] - a[:, 2])
    return float(near[met].max(initial=-np.inf))


def middle(line: Seen) -> np.ndarray:
    p = line.piece
    if isinstance(p, Segment):
        return (np.array(p.a) + p.b) / 2
    assert isinstance(p, ArcPiece)
    half = (p.a0 + p.a1) / 2
    return np.array(p.centre) + p.radius * np.array([math.cos(half), math.sin(half)])


@pytest.mark.parametrize("path", [p for p in EXAMPLES if "cover" not in p.stem], ids=lambda p: p.stem)
@pytest.mark.parametrize("side", ["front", "above", "corner"])
def test_the_outline_is_whole_and_rays_from_the_eye_meet_what_is_seen(path: Path, side: str) -> None:
    hand = Hand(load_model(path.read_bytes()))
    bodies, frame = build(hand.model, hand.model.parts[0], hand.cache).bodies, SIDES[side]
    found = seen(bodies, frame)
    axes, points, triangles, count = np.array([frame.x, frame.y, frame.normal]), [], [], 0
    for body in bodies:
        mesh = meshing.meshed(body.shape, 0.002, 0.1, edges=False)
        points.append(mesh.positions.astype(np.float64) @ axes.T)
        triangles.append(mesh.triangles.astype(np.int64) + count)
        count += len(mesh.positions)
    points, triangles = np.concatenate(points), np.concatenate(triangles)
    shadow = shapely.unary_union([p for p in map(shapely.Polygon, points[triangles][:, :, :2]) if p.area > 1e-9])
    drawn = shapely.unary_union([shapely.LineString(_sampled(s)) for s in found if s.visible])
    rim = shadow.buffer(1e-4).boundary
    assert rim.difference(drawn.buffer(0.02)).length < 0.1, "the outline has a gap"
    for line in found:
        if line.sort == "smooth" or not isinstance(line.piece, Segment | ArcPiece) or piece_length(line.piece) < 0.3:
            continue
        around = middle(line) + 0.05 * np.array([(math.cos(a), math.sin(a)) for a in np.linspace(0.1, 6.3, 14)])
        near = np.array([first_met(points, triangles, at) for at in around])
        if not line.visible:
            assert np.isfinite(near).all(), f"hidden, and yet outside of all: {line}"
        elif np.isfinite(near).all():
            plane = np.column_stack([around, np.ones(len(around))])
            _, off, _, _ = np.linalg.lstsq(plane, near, rcond=None)
            assert off.size == 0 or off[0] > 1e-9, f"seen, and yet behind something flat: {line}"


def _sampled(line: Seen) -> list[tuple[float, float]]:
    p = line.piece
    if isinstance(p, Segment):
        return [p.a, p.b]
    steps = np.linspace(0.0, 1.0, 200)
    if isinstance(p, ArcPiece | EllipsePiece):
        turns = p.a0 + steps * (p.a1 - p.a0)
        u = (p.radius, 0.0) if isinstance(p, ArcPiece) else p.major
        long, minor = math.hypot(*u), p.radius if isinstance(p, ArcPiece) else p.minor
        v = (-u[1] / long * minor, u[0] / long * minor)
        return [
            (
                p.centre[0] + math.cos(t) * u[0] + math.sin(t) * v[0],
                p.centre[1] + math.cos(t) * u[1] + math.sin(t) * v[1],
            )
            for t in turns
        ]
    q = np.array(p)
    s = steps[:, None]
    return [
        tuple(r) for r in (1 - s) ** 3 * q[0] + 3 * (1 - s) ** 2 * s * q[1] + 3 * (1 - s) * s**2 * q[2] + s**3 * q[3]
    ]


def test_what_lies_on_another_line_is_drawn_once() -> None:
    hand = plate("60", "40", "20")
    pieces = [s.piece for s in lines(hand, "above")]
    assert len(pieces) == 4


def test_a_body_that_stands_on_another_shows_the_edges_it_stands_on() -> None:
    hand = plate("60", "40", "20")
    hand.step("block", shape="box", x="20 mm", y="10 mm", z="20 mm", width="20 mm", depth="20 mm", result="separate")
    apart = lines(hand, "corner")
    hand = plate("60", "40", "20")
    hand.step("block", shape="box", x="20 mm", y="10 mm", z="20 mm", width="20 mm", depth="20 mm", result="add")
    assert long(apart, visible=True) == pytest.approx(long(lines(hand, "corner"), visible=True), abs=0.1)


def test_round_things_about_one_middle_are_each_drawn() -> None:
    """Three rings, square to each other: their outlines have one middle and the same two half axes."""
    pieces = [
        EllipsePiece((0.0, 0.0), (20 * math.cos(a), 20 * math.sin(a)), 11.0, 0.0, 2 * math.pi)
        for a in (0.0, math.pi / 3, 2 * math.pi / 3)
    ]
    assert len(list(once(Seen(p, True, "edge") for p in (*pieces, *pieces)))) == 3
    arcs = [EllipsePiece((0.0, 0.0), (20.0, 0.0), 11.0, *t) for t in ((0.0, 1.0), (1.0, 0.0))]
    assert len(list(once(Seen(p, True, "edge") for p in arcs))) == 1
