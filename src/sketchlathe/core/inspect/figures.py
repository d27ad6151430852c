"""Figures of a part that a number can be made to come to: what each is called, how its goal is
read, how it is found.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from ..amounts.answers import Answer, What, meant
from ..amounts.weighing import Units, Weighed
from ..errors import BadInput, Trouble
from ..making.results import PartBuild
from ..model.document import Model, Part
from ..model.made_of import printed
from ..model.measurements import measure
from ..quantity import LENGTH, evaluate, show
from ..quantity.units import ANGLE

CLOSE = 1e-11  # of the goal: so that the value found is right to 1e-9


@dataclass(frozen=True)
class Given:
    """What a figure is read off: the part as built, and what it amounts to."""

    model: Model
    part: Part
    built: PartBuild
    weighed: Weighed


@dataclass(frozen=True)
class Figure:
    """One figure. ``read``: its value in g, mm³, mm², mm, rad or s (None where it cannot be had); ``goal``: such a
    value from what a person typed, raising ``BadInput``; ``say``: back into words; ``close``: how near is near enough,
    as a share of the goal. ``places``: the box is needed.
    """

    id: str
    word: str
    read: Callable[[Given], float | None]
    goal: Callable[[str, Model], float]
    say: Callable[[float, Model], str]
    usual: str  # an example of a goal
    close: float = CLOSE
    places: bool = True
    signed: bool = False


def _units(model: Model) -> Units:
    return Units(model.units, "oz" if model.units == "in" else "g")


def _answer(what: What) -> Callable[[str, Model], float]:
    def goal(text: str, model: Model) -> float:
        return meant(Answer(what=what, text=text[:120] or " "), _units(model)).values[0]

    return goal


def _length(text: str, model: Model) -> float:
    return evaluate(text, model.table.values, wanted=LENGTH, length_unit=model.units).value


def _angle(text: str, model: Model) -> float:
    return evaluate(text, model.table.values, wanted=ANGLE, length_unit=model.units).value


def _said(power: int) -> Callable[[float, Model], str]:
    return lambda value, model: _units(model).length_of(value, power)


def _seconds(text: str, model: Model) -> float:
    """A time as people write it.

    >>> _seconds("1 h 20 min", None), _seconds("45", None), _seconds("90 s", None)
    (4800.0, 2700.0, 90.0)
    """
    found = re.fullmatch(
        r"\s*(?:(\d+(?:[.,]\d+)?)\s*h\s*)?(?:(\d+(?:[.,]\d+)?)\s*(?:min\s*|$))?(?:(\d+(?:[.,]\d+)?)\s*s\s*)?", text
    )
    if found is None or not any(found.groups()):
        raise BadInput(f"“{text[:40]}” is not a time, like 45 min or 1 h 20 min.", where="goal")
    hours, minutes, seconds = (float((g or "0").replace(",", ".")) for g in found.groups())
    return 3600 * hours + 60 * minutes + seconds


def _time_said(value: float, model: Model) -> str:
    hours, minutes = divmod(round(value / 60), 60)
    return f"{hours} h {minutes:02d} min" if hours else f"{minutes} min"


def _prints_in(given: Given) -> float | None:
    from ..printing import estimating, layers, laying, printable
    from ..printing.process import Process

    if not (bodies := printed(given.model, given.part, given.built.bodies)):
        return None
    how, raw = Process(), printable.printable(bodies)
    cut = layers.slice_up(raw.laid(laying.layings(raw, how)[0].matrix).surface, how)
    return estimating.estimate(cut, how, given.weighed.mass / max(given.weighed.volume, 1e-12)).seconds


def thinnest_wall(given: Given, most: float = 20.0) -> float | None:
    """The smallest thickness of a wall across the layers of the part as modelled, mm; ``most``
    where none is thinner.
    """
    from ..printing import printable, readiness
    from ..printing.process import Process

    if not (bodies := printed(given.model, given.part, given.built.bodies)):
        return None
    raw = printable.printable(bodies)
    return readiness.thinnest(readiness.Job(raw, Process()), most)


def _side(axis: int) -> Callable[[Given], float]:
    return lambda g: g.weighed.box[1][axis] - g.weighed.box[0][axis]


def _centre(axis: int) -> Callable[[Given], float]:
    return lambda g: g.weighed.centre[axis]


FIGURES: tuple[Figure, ...] = (
    Figure(
        "mass", "mass", lambda g: g.weighed.mass, _answer("mass"), lambda v, m: _units(m).mass_of(v), "40 g",
        places=False,
    ),
    Figure("volume", "volume", lambda g: g.weighed.volume, _answer("volume"), _said(3), "12 cm³", places=False),
    Figure("area", "area", lambda g: g.weighed.area, _answer("area"), _said(2), "80 cm²", places=False),
    *(
        Figure(id, f"box along {axis}", _side(k), _length, _said(1), "60 mm")
        for k, (id, axis) in enumerate((("width", "x"), ("depth", "y"), ("height", "z")))
    ),
    *(
        Figure(f"centre {axis}", f"centre of mass, {axis}", _centre(k), _length, _said(1), "5 mm", signed=True)
        for k, axis in enumerate("xyz")
    ),
    Figure("wall", "smallest wall", thinnest_wall, _length, _said(1), "1.2 mm", close=2e-3),
    Figure("time", "time to print", _prints_in, _seconds, _time_said, "45 min", close=5e-3),
)  # fmt: skip


def figures_of(model: Model, part: Part) -> Iterator[Figure]:
    """All figures of a part: the usual ones, and one for each number of a kept measurement."""
    yield from FIGURES
    for number, kept in enumerate(part.measurements, 1):
        yield Figure(
            f"measure {kept.id}", f"measurement {number}",
            lambda g, things=kept.things: _measured(things, g),  # type: ignore[misc]
            lambda text, m: _length(text, m), lambda v, m: show(v, LENGTH, m.read_in, 6), "20 mm",
        )  # fmt: skip


def _measured(things: Any, given: Given) -> float | None:
    """The first number of a measurement, mm (a length where it has one)."""
    try:
        rows = measure(things, given.built.bodies)["rows"]
    except Trouble:
        return None
    return next((float(row[1]) for row in rows if isinstance(row[1], int | float)), None)


def figure_of(id: str, model: Model, part: Part) -> Figure:
    """The figure with this id. Raises ``BadInput``."""
    for figure in figures_of(model, part):
        if figure.id == id:
            return figure
    raise BadInput("Choose what is to be come to.", where="figure")


def goal_of(figure: Figure, text: str, model: Model) -> float:
    """What is to be come to. Raises ``BadInput``."""
    value = figure.goal(text, model)
    if not figure.signed and not value > 0:
        raise BadInput("What is to be come to must be above zero.", where="goal")
    return value
