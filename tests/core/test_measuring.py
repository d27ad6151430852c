"""Measuring picked things against what geometry says; kept measurements follow the part."""

import math

import pytest
from tests.conftest import Hand, plate

from sketchlathe.core.errors import NotFound, Trouble
from sketchlathe.core.model.measurements import Thing, measure

PI = math.pi


def drilled() -> Hand:
    """A plate of 60 x 40 x 20 with holes of 10 at (15, 20) and 6 at (45, 20)."""
    hand = plate("60", "40", "20")
    for x, d in ((15, 10), (45, 6)):
        hand.step("block", shape="cylinder", diameter=f"{d}", height="20", x=f"{x}", y="20", result="cut")
    return hand


def rows(hand: Hand, *things: dict[str, object]) -> dict[str, float]:
    found = measure([Thing.model_validate(t) for t in things], hand.build().bodies)
    return {what: value for what, value, _ in found["rows"]}


def face(hand: Hand, way: tuple[float, float, float]) -> dict[str, object]:
    return {"face": hand.face(way)}


def edge(hand: Hand, *place: float) -> dict[str, object]:
    return {"edge": hand.edges(place)[0]}  # type: ignore[arg-type]


def corner(hand: Hand, *place: float) -> dict[str, object]:
    low, high = (0, 0, 0), (60, 40, 20)
    near = hand.edges(tuple(place[i] if i != 2 else 10 for i in range(3)))[0]  # type: ignore[arg-type]
    return {"edge": near, "at": [(p - l) / (h - l) for p, l, h in zip(place, low, high)]}


def wall(hand: Hand, x: float) -> dict[str, object]:
    found = [f for f in hand.packed()["faces"] if f["form"] == "cylindrical"]
    return {"face": min(found, key=lambda f: abs(f["centre"][0] - x))["pick"]}


def test_single_things() -> None:
    hand = drilled()
    top = rows(hand, face(hand, (0, 0, 1)))
    assert top["area"] == pytest.approx(2400 - 34 * PI)
    assert top["outline"] == pytest.approx(200 + 16 * PI)
    assert rows(hand, wall(hand, 15))["diameter"] == pytest.approx(10)
    assert rows(hand, edge(hand, 30, 0, 20)) == {"length": pytest.approx(60)}
    at = rows(hand, corner(hand, 60, 40, 20))
    assert (at["x"], at["y"], at["z"]) == pytest.approx((60, 40, 20))


def test_two_faces() -> None:
    hand = drilled()
    opposite = rows(hand, face(hand, (1, 0, 0)), face(hand, (-1, 0, 0)))
    assert opposite["smallest distance"] == pytest.approx(60)
    assert opposite["distance of planes"] == pytest.approx(60)
    assert opposite["angle"] == pytest.approx(0)
    beside = rows(hand, face(hand, (1, 0, 0)), face(hand, (0, 0, 1)))
    assert beside["smallest distance"] == pytest.approx(0)
    assert beside["angle"] == pytest.approx(PI / 2)


def test_holes_across_their_axes() -> None:
    hand = drilled()
    found = rows(hand, wall(hand, 15), wall(hand, 45))
    assert found["distance of centres"] == pytest.approx(30)
    assert found["smallest distance"] == pytest.approx(30 - 5 - 3)
    skew = Hand()
    skew.step("block", shape="cylinder", diameter="10", height="60", z="-30")
    skew.step("block", shape="cylinder", diameter="6", height="60", tilt="90 deg", x="25", y="30", result="separate")
    one, two = ({"face": skew.face_where(b.id, "cylindrical")} for b in skew.build().bodies)
    assert rows(skew, one, two)["distance of centres"] == pytest.approx(25)
    assert rows(skew, one, two)["angle"] == pytest.approx(PI / 2)


def test_corners_edges_and_slants() -> None:
    hand = drilled()
    across = rows(hand, corner(hand, 0, 0, 0), corner(hand, 60, 40, 20))
    assert across["smallest distance"] == pytest.approx(math.sqrt(3600 + 1600 + 400))
    assert (across["along x"], across["along y"], across["along z"]) == pytest.approx((60, 40, 20))
    assert rows(hand, edge(hand, 30, 0, 0), face(hand, (0, 0, 1)))["angle"] == pytest.approx(0)
    hand.step("chamfer", edges=hand.edges((60, 20, 20)), size="5", form="angle", angle="30 deg")
    slant = max(
        (f for f in hand.packed()["faces"] if f.get("frame")),
        key=lambda f: f["frame"]["normal"][0] * f["frame"]["normal"][2],
    )
    angle = rows(hand, {"face": slant["pick"]}, face(hand, (0, 0, 1)))["angle"]
    assert min(angle, PI / 2 - angle) == pytest.approx(PI / 6)


def test_a_kept_measurement_follows_and_says_when_it_is_lost() -> None:
    hand = drilled()
    hand.do("keep_measurement", part="p1", things=[face(hand, (1, 0, 0)), face(hand, (-1, 0, 0))])
    kept = hand.model.parts[0].measurements[0]
    hand.dimension("60", "75")
    assert {r[0]: r[1] for r in measure(kept.things, hand.build().bodies)["rows"]}[
        "smallest distance"
    ] == pytest.approx(75)
    hand.step(
        "fillet", form="width", middle=[hand.face((1, 0, 0))], sides=[hand.face((0, 1, 0)), hand.face((0, -1, 0))]
    )
    with pytest.raises(Trouble):
        measure(kept.things, hand.build().bodies)
    hand.do("drop_measurement", part="p1", id=kept.id)
    assert hand.model.parts[0].measurements == ()
    with pytest.raises(NotFound):
        hand.do("drop_measurement", part="p1", id=kept.id)
