"""Weigh & size against closed formulas; materials of one's own."""

import math

import numpy as np
import pytest
from tests.conftest import Hand, plate

from sketchlathe.core.amounts.materials import MATERIALS, found
from sketchlathe.core.amounts.weighing import Units, Weighed, rows, together, weighed
from sketchlathe.core.errors import BadInput, NotFound, Refused
from sketchlathe.core.inspect.report import part_report
from sketchlathe.core.model.made_of import key_for, material_of, materials_of
from sketchlathe.core.solid.measuring import measures

PI = math.pi


def weigh(hand: Hand, density: float = 1.0) -> Weighed:
    found = [measures(b.shape) for b in hand.build().bodies]
    return together([weighed(m.volume, m.area, m.centre, m.box, m.moments, density) for m in found])


def test_a_box() -> None:
    w = weigh(plate("60", "40", "20"), density=2.7)
    m = 60 * 40 * 20 * 2.7e-3
    assert w.mass == pytest.approx(m)
    assert w.area == pytest.approx(2 * (2400 + 1200 + 800))
    assert w.centre == pytest.approx((30, 20, 10))
    expected = [m / 12 * (40**2 + 20**2), m / 12 * (60**2 + 20**2), m / 12 * (60**2 + 40**2)]
    assert np.diag(w.inertia) == pytest.approx(expected)
    moments, axes = w.principal()
    assert moments == pytest.approx(sorted(expected))
    assert axes == pytest.approx(np.eye(3))


@pytest.mark.parametrize(("tilt", "turn"), [(0, 0), (30, 0), (0, 50), (25, 70)])
def test_a_tilted_box_has_its_axes_where_it_lies(tilt: int, turn: int) -> None:
    hand = Hand()
    hand.step("block", width="30", depth="20", height="10", tilt=f"{tilt} deg", turn=f"{turn} deg", x="7", z="-3")
    w = weigh(hand)
    m = 6.0
    moments, axes = w.principal()
    assert moments == pytest.approx([m / 12 * 500, m / 12 * 1000, m / 12 * 1300])
    a, b = math.radians(tilt), math.radians(turn)
    about_x = np.array([[1, 0, 0], [0, math.cos(a), -math.sin(a)], [0, math.sin(a), math.cos(a)]])
    about_z = np.array([[math.cos(b), -math.sin(b), 0], [math.sin(b), math.cos(b), 0], [0, 0, 1]])
    lying = (about_z @ about_x).T
    assert np.abs(np.sum(axes * lying, axis=1)) == pytest.approx([1, 1, 1])
    assert np.linalg.det(axes) == pytest.approx(1)
    # the tensor itself, products and signs included
    assert w.inertia == pytest.approx(lying.T @ np.diag(moments) @ lying, abs=1e-6)


def test_a_ball_and_a_cylinder_apart_by_steiner() -> None:
    hand = Hand()
    hand.step("block", shape="sphere", diameter="20")
    hand.step("block", shape="cylinder", diameter="10", height="30", x="50", result="separate")
    w = weigh(hand)
    ball, rod = 4 / 3 * PI * 1000 / 1000, PI * 25 * 30 / 1000
    total = ball + rod
    x, z = rod * 50 / total, rod * 15 / total
    assert w.centre == pytest.approx((x, 0, z))
    about_z = 0.4 * ball * 100 + ball * x * x + rod * 25 / 2 + rod * (50 - x) ** 2
    assert w.inertia[2, 2] == pytest.approx(about_z)
    about_y = (
        0.4 * ball * 100 + ball * (x * x + z * z)
        + rod * (3 * 25 + 900) / 12 + rod * ((50 - x) ** 2 + (15 - z) ** 2)
    )  # fmt: skip
    assert w.inertia[1, 1] == pytest.approx(about_y)
    assert w.inertia[0, 2] == pytest.approx(-(ball * x * z + rod * (50 - x) * (15 - z)))


def test_nothing_weighs_nothing() -> None:
    assert together([]).mass == 0


@pytest.mark.parametrize(
    ("units", "mass", "volume", "box"),
    [
        (Units("mm", "g", 5), "59.52 g", "48 cm³", "60 × 40 × 20 mm"),
        (Units("in", "oz", 4), "2.1 oz", "2.929 in³", "2.362 × 1.575 × 0.7874 in"),
        (Units("m", "kg", 3), "0.0595 kg", "0.000048 m³", "0.06 × 0.04 × 0.02 m"),
        (Units("cm", "lb", 6), "0.131219 lb", "48 cm³", "6 × 4 × 2 cm"),
    ],
)
def test_read_in_a_persons_units(units: Units, mass: str, volume: str, box: str) -> None:
    read = {r.what: r for r in rows(weigh(plate("60", "40", "20"), 1.24), units)}
    assert (read["mass"].text, read["volume"].text, read["box"].text) == (mass, volume, box)
    assert float(read["mass"].exact) == pytest.approx(59.52)


@pytest.mark.parametrize("bad", [("furlong", "g", 5), ("mm", "stone", 5), ("mm", "g", 40)])
def test_units_that_nobody_reads(bad: tuple[str, str, int]) -> None:
    with pytest.raises(BadInput):
        Units(*bad)


def test_materials_are_many_and_found_by_words() -> None:
    assert len(MATERIALS) >= 40
    assert all(m.source and 0.01 < m.density < 25 for m in MATERIALS.values())
    assert "oak" in found("wood", MATERIALS.items())
    assert found("alum 7075", MATERIALS.items()) == ["aluminium-7075"]
    assert found("no such stuff", MATERIALS.items()) == []


def test_a_material_of_ones_own_for_one_body() -> None:
    hand = plate("60", "40", "20")
    hand.step("block", width="10", depth="10", height="10", z="40", result="separate")
    hand.do("keep_material", name="Ballast mix", density=3.5, colour="#445566")
    own = hand.model.materials[0].id
    block = hand.build().bodies[1].id
    hand.do("set_material", part="p1", material="oak")
    hand.do("set_material", part="p1", material=own, body=block)
    assert key_for(hand.model, hand.model.parts[0], block) == own
    assert part_report(hand.model, hand.model.parts[0], hand.build())["mass_g"] == pytest.approx(48 * 0.71 + 3.5)
    hand.do("keep_material", id=own, name="Ballast mix", density=4, colour="#445566")
    assert material_of(hand.model, own).density == 4
    with pytest.raises(Refused, match="made of it"):
        hand.do("delete_material", id=own)
    hand.do("set_material", part="p1", material="", body=block)
    hand.do("delete_material", id=own)
    assert own not in materials_of(hand.model)
    assert part_report(hand.model, hand.model.parts[0], hand.build())["mass_g"] == pytest.approx(49 * 0.71)


@pytest.mark.parametrize(
    "fields",
    [
        {"name": "", "density": 1}, {"name": "x", "density": 0}, {"name": "x", "density": -3},
        {"name": "x", "density": 1e9},
        {"name": "PLA", "density": 1}, {"name": "x", "density": 1, "colour": "red"},
        {"name": "x", "density": float("nan")},
        {"name": "x" * 61, "density": 1},
    ],
)  # fmt: skip
def test_materials_that_cannot_be(fields: dict[str, object]) -> None:
    hand = plate()
    with pytest.raises(BadInput):
        hand.do("keep_material", **fields)
    with pytest.raises(NotFound):
        hand.do("delete_material", id="m99")
    assert hand.model.materials == ()


def test_what_is_nothing_but_rounding_is_nought() -> None:
    hand = Hand()
    hand.step("block", shape="cylinder", diameter="30", height="20")
    hand.step("block", shape="sphere", diameter="24", z="30")
    read = {r.what: r for r in rows(weigh(hand), Units())}
    assert read["centre of mass"].text.startswith("0, 0, ") and read["centre of mass"].exact.startswith("0.0 0.0 ")
    assert {read[f"inertia {pair}"].text for pair in ("xy", "xz", "yz")} == {"0 g·mm²"}
