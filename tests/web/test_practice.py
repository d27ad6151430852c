"""The exercises that one does alone: what their sets come to by closed formulas, done without a class."""

import json
from math import acos, asin, hypot, pi, sin, sqrt, tan

import pytest
from tests.web.learning import Somebody, There

from sketchlathe.service import practice

TOLD = {e["title"]: e for e in json.loads(practice.FILE.read_bytes())}


def square(d: float) -> float:
    """The area of a round thing."""
    return pi / 4 * d**2


def frustum(low: float, top: float, high: float) -> float:
    """The volume of a cone cut off; its radii."""
    return pi / 3 * high * (low**2 + low * top + top**2)


def funnel(n: dict[str, float]) -> float:
    aside = n["wall"] * hypot(45, n["lower"] / 2 - 10) / 45  # the wall's thickness lies across the slope
    return frustum(n["lower"] / 2, 10, 45) - frustum(n["lower"] / 2 - aside, 10 - aside, 45)


def lens(big: float, small: float) -> float:
    """What a circle has in common with a smaller one whose middle lies on it."""
    half = acos(small / (2 * big))  # at the small one's middle
    other = 2 * asin(small / (2 * big))
    return small**2 * (half - sin(2 * half) / 2) + big**2 * (other - sin(2 * other) / 2)


VOLUMES = {
    "Spacer ring": lambda n: (square(n["outer"]) - square(n["inner"])) * 6,
    "Dial tile": lambda n: (n["side"] ** 2 - square(n["hole"])) * 4,
    "Lug": lambda n: (n["long"] * n["wide"] + square(n["wide"]) / 2 - square(8)) * 5,
    "Block by sizes": lambda n: (n["wide"] * 40 - (4 - pi) * n["corner"] ** 2) * 20,
    "Standoff": lambda n: (square(n["outer"]) - square(6)) * n["long"] - pi * (n["outer"] / 2 - 1 / 3),
    "Two heights": lambda n: n["wide"] * 40 * 5 + square(n["boss"]) * 13,
    "Mast foot": lambda n: n["long"] * 30 * 8 - 2 * (square(n["bolt"]) + square(2 * n["bolt"])) * 4,
    "Float": lambda n: pi / 6 * (n["outer"] ** 3 - (n["outer"] - 2 * n["wall"]) ** 3),
    "Sensor can": lambda n: square(n["outer"]) * 40 - square(n["outer"] - 2 * n["wall"]) * (40 - n["wall"]),
    "Lid of the can": lambda n: (
        square(n["outer"]) * 2 + (square(n["outer"] - 4 - 2 * n["play"]) - square(n["outer"] - 8 - 2 * n["play"])) * 6
    ),
    "Bracket by half": lambda n: 2 * 20 * (n["half"] * 6 + n["high"] * 6 - 36),
    "Flange": lambda n: (square(n["outer"]) - square(n["bore"]) - 6 * square(4.5)) * 5,
    "Pulley blank": lambda n: (
        (square(n["outer"]) - square(8)) * 12 - 2 * pi * (n["outer"] / 2 - n["edge"] / 3) * n["edge"] ** 2
    ),
    "Strap": lambda n: ((n["long"] - n["wide"] / 2) * n["wide"] + square(n["wide"]) / 2) * 4,
    "Gauge tray": lambda n: (
        (n["wide"] * 50 - (4 - pi) * 64) * 25
        - ((n["wide"] - 2 * n["wall"]) * (50 - 2 * n["wall"]) - (4 - pi) * (8 - n["wall"]) ** 2) * (25 - n["wall"])
    ),
    "Hex spacer": lambda n: (sqrt(3) / 2 * n["flats"] ** 2 - square(n["bore"])) * 12,
    "Link": lambda n: (n["apart"] * n["wide"] + square(n["wide"]) - 2 * square(8)) * 4,
    "Roof wedge": lambda n: n["base"] ** 2 * tan(n["slope"] * pi / 180) / 2 * 20,
    "Plate on pads": lambda n: n["wide"] * 50 * 4 + 4 * square(n["pad"]) * 1.5,
    "Rain funnel": funnel,
    "Notched wheel": lambda n: (square(n["outer"]) - square(10) - 8 * lens(n["outer"] / 2, n["notch"] / 2)) * 5,
    "Inch plate": lambda n: (n["wide"] * 38.1 - square(n["hole"])) * 6.35,
}


@pytest.mark.parametrize("title", VOLUMES)
def test_what_a_set_comes_to_is_what_formulas_say(title: str) -> None:
    sets = TOLD[title]["sets"]
    assert len(sets) >= 8
    for one in sets:
        sizes = {
            k: float(v.split()[0].rstrip("°")) * (25.4 if v.endswith("in") else 1) for k, v in one["numbers"].items()
        }
        assert one["answers"]["volume"] == [pytest.approx(VOLUMES[title](sizes), rel=1e-11)]


def test_letters_that_are_cut_grow_with_the_square_of_their_height() -> None:
    sets = TOLD["Cut letters"]["sets"]
    assert len(sets) >= 8
    shares = []
    for one in sets:
        wide, high = (float(one["numbers"][name].split()[0]) for name in ("wide", "letters"))
        shares.append((wide * 30 * 3 - one["answers"]["volume"][0]) / high**2)
    assert shares == pytest.approx([shares[0]] * len(sets), rel=1e-9) and shares[0] > 1


def test_one_is_done_alone_and_again_with_other_numbers(app, database) -> None:
    ben = Somebody(app, database, "Ben Sol")
    page = ben.see("/exercises")
    assert all(title in page for title in TOLD)
    assert ben.see("/exercises").count("<h2>") == len(TOLD)  # stored once
    exercise = page.split("/exercises/")[1].split("/")[0]
    model = ben.goes(f"/exercises/{exercise}/begin").rsplit("/", 1)[1]
    numbers = ben.numbers(model)
    m = There(database, ben.id, model)
    m.step("block", shape="cylinder", diameter="outer", height="6 mm")
    told = ben.exercise(model, "answer").json["html"]
    assert "too large by" in told
    assert "Hand in" not in told
    m.step("block", shape="cylinder", diameter="inner", height="6 mm", result="cut")
    assert "All of it is right" in ben.exercise(model, "answer").json["html"]
    assert "✓ right" in ben.see("/exercises")
    other = ben.goes(f"/exercises/{exercise}/again").rsplit("/", 1)[1]
    assert other != model
    assert ben.numbers(other) != numbers
    assert ben.client.get(f"/models/{model}").status_code == 200
    # nobody teaches it, nobody sees anybody
    carla = Somebody(app, database, "Carla Moor")
    assert "not begun" in carla.see("/exercises")
    assert carla.client.get("/classes/practice/people").status_code == 404
    assert carla.client.get(f"/exercises/{exercise}/taken-out.csv").status_code == 404
    assert carla.post("/classes/practice/end").status_code == 404
    assert carla.post(f"/exercises/{exercise}/again").status_code == 404
    assert carla.post(f"/exercises/{exercise}/away").status_code == 404
    carla.goes("/classes/practice/leave")
    assert "not begun" in carla.see("/exercises")
