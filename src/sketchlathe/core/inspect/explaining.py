"""Why a part is not what it should be: single slips that would account for the difference, most likely first.

Each hypothesis is a change of the model (or of how a value was read). It counts when the changed part agrees with all
answers. Among those, the likelier is the one with the simpler cause and the rounder number: nobody means 7.3184 mm.

Numbers are searched by Newton's method on the first answer, one build an evaluation, and then tried as round numbers.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from ..errors import Trouble
from ..model.building import BuildCache, PartBuild, build
from ..model.document import Model, Part
from ..model.edits import apply_edit, parse_edit
from ..quantity import evaluate, names_in
from ..quantity.units import ANGLE, LENGTH, NUMBER, UNITS, Dimension, default_unit, number_text, show
from ..sketch.constraints.dimension import Dimensional
from ..steps.sketch import SketchStep
from .answers import Answer, Meant, actual, agree, expected
from .materials import key_for, material_of, materials_of
from .weighing import Units, Weighed, together, weighed

Progress = Callable[[str, int, int], None]
_WANTED: dict[str, Dimension] = {"length": LENGTH, "angle": ANGLE, "count": NUMBER}
_NEWTON = 6


@dataclass(frozen=True)
class Cause:
    """One explanation. ``cost``: lower is likelier. ``edits`` make the part agree, where that can be done by edits."""

    text: str
    cost: float
    edits: tuple[Mapping[str, Any], ...] = ()
    fix: str = ""
    steps: tuple[str, ...] = ()

    def as_json(self) -> dict[str, Any]:
        """Plain data, for the screen."""
        return {"text": self.text, "edits": [dict(e) for e in self.edits], "fix": self.fix, "steps": list(self.steps)}


@dataclass(frozen=True)
class Knob:
    """A number that somebody typed: what it is called, its value (mm, rad, plain), and the edit that changes it."""

    name: str
    value: float
    dimension: Dimension
    turn: Callable[[str], Mapping[str, Any]] = field(repr=False)
    step: str = ""
    whole: bool = False


class Search:
    """The part, its answers, and builds of it with something changed."""

    def __init__(
        self, model: Model, part_id: str, answers: Sequence[Answer], cache: BuildCache, progress: Progress | None = None
    ) -> None:
        self.model, self.part_id, self._cache, self._progress = model, part_id, cache, progress
        self.units = Units(model.units)
        self.wanted: list[tuple[Answer, Meant]] = [(a, expected(a, self.units)) for a in answers]
        self._places = any(a.what in ("box", "centre") for a in answers)
        self.has = self.weigh(model)

    @property
    def part(self) -> Part:
        """The part as it is."""
        return self.model.part(self.part_id)

    def built(self, model: Model) -> PartBuild:
        """A build of the part in some form of the model."""
        return build(model, model.part(self.part_id), self._cache)

    def weigh(self, model: Model) -> Weighed | None:
        """What the part amounts to in some form of the model; None where a step fails."""
        from ..solid.measuring import amounts, measures

        built = self.built(model)
        if any(r.status == "failed" for r in built.steps):
            return None
        part, out = model.part(self.part_id), []
        measure = measures if self._places else amounts
        for body in built.bodies:
            m = measure(body.shape)
            density = material_of(model, key_for(part, body.id)).density
            out.append(weighed(m.volume, m.area, m.centre, m.box, m.moments, density))
        return together(out)

    def with_edits(self, edits: Sequence[Mapping[str, Any]]) -> Model | None:
        """The model after some edits; None where they are refused."""
        model = self.model
        try:
            for edit in edits:
                model = apply_edit(model, parse_edit(dict(edit)))
        except Trouble:
            return None
        return model

    def after(self, edits: Sequence[Mapping[str, Any]]) -> Weighed | None:
        """What the part amounts to after some edits."""
        model = self.with_edits(edits)
        return None if model is None else self.weigh(model)

    def fits(self, w: Weighed | None) -> bool:
        """Whether figures agree with all answers."""
        return w is not None and all(agree(m, actual(a.what, w)) for a, m in self.wanted)

    def tell(self, text: str, number: int, count: int) -> None:
        """Say where the search is."""
        if self._progress is not None:
            self._progress(text, number, count)


def explain(
    model: Model, part_id: str, answers: Sequence[Answer], cache: BuildCache, progress: Progress | None = None
) -> list[Cause]:
    """The likeliest causes, at most eight; empty when the part agrees or nothing found accounts for it."""
    search = Search(model, part_id, answers, cache, progress)
    if not search.wanted or search.has is None or search.fits(search.has):
        return []
    causes = [c for rule in RULES for c in rule(search)]
    seen: dict[str, Cause] = {}
    for cause in sorted(causes, key=lambda c: c.cost):
        seen.setdefault(cause.text, cause)
    return list(seen.values())[:8]


# --- units and materials: nothing is built


def other_units(search: Search) -> Iterator[Cause]:
    """All lengths read in another unit."""
    assert search.has is not None
    w = search.has
    for factor, text in (
        (25.4, "as if inches had been read as mm: everything is 25.4 times too small"),
        (1 / 25.4, "as if mm had been read as inches: everything is 25.4 times too large"),
        (10.0, "as if cm had been read as mm: everything is 10 times too small"),
        (0.1, "as if mm had been read as cm: everything is 10 times too large"),
        (1000.0, "as if m had been read as mm: everything is 1000 times too small"),
    ):
        box = tuple(tuple(v * factor for v in corner) for corner in w.box)
        k = factor
        scaled = Weighed(
            w.volume * k**3, w.area * k**2, w.mass * k**3, (w.centre[0] * k, w.centre[1] * k, w.centre[2] * k),
            (box[0], box[1]), w.inertia * k**5,
        )  # fmt: skip
        if search.fits(scaled):
            yield Cause(text, 0.3)
    for answer, m in search.wanted:
        # one answer alone is in another unit than it was read in
        for factor, text in _MISREAD.get(answer.what, ()):
            slack = tuple(s * factor for s in m.slack)
            others = all(agree(o, actual(a.what, w)) for a, o in search.wanted if a is not answer)
            if others and agree(Meant(tuple(v * factor for v in m.values), slack), actual(answer.what, w)):
                yield Cause(f"the expected {answer.what} looks as if it were {text}", 0.4)


_MISREAD: dict[str, tuple[tuple[float, str], ...]] = {
    "mass": (
        (1000.0, "in kg"), (0.001, "in mg"), (28.349523125, "in ounces"), (453.59237, "in pounds"),
        (1 / 453.59237, "in grams, not pounds"), (1 / 28.349523125, "in grams, not ounces"),
    ),
    "volume": (
        (1000.0, "in cm³"), (0.001, "in mm³"), (16387.064, "in cubic inches, not mm³"), (16.387064, "in cubic inches, not cm³"),
        (1e6, "in litres"),
    ),
    "area": (
        (100.0, "in cm²"), (0.01, "in mm²"), (645.16, "in square inches, not mm²"), (6.4516, "in square inches, not cm²"),
    ),
}  # fmt: skip


def other_material(search: Search) -> Iterator[Cause]:
    """The same part of something else."""
    assert search.has is not None
    w = search.has
    mass = next((m for a, m in search.wanted if a.what == "mass"), None)
    others = [(a, m) for a, m in search.wanted if a.what != "mass"]
    if mass is None or w.volume <= 0 or not all(agree(m, actual(a.what, w)) for a, m in others):
        return
    density = mass.values[0] / w.volume * 1000
    slack = max(mass.slack[0] / mass.values[0], 2e-3) if mass.values[0] > 0 else 0
    known = bool(others)
    near = sorted(materials_of(search.model).items(), key=lambda item: abs(item[1].density - density))
    named = False
    for key, material in near[:4]:
        off = abs(material.density - density) / material.density
        if off > max(0.03, slack) or key == search.part.material:
            continue
        named = True
        fits = off <= slack
        edits = ({"kind": "set_material", "part": search.part_id, "material": key},)
        exact = "the density" if fits else "close to the density"
        cost = (0.3 if known else 0.9) + (0 if fits else 0.5 + 10 * off)
        yield Cause(
            f"{exact} of {material.name} ({material.density:g} g/cm³), not of {material_of(search.model, search.part.material).name}",
            cost, edits, f"make it of {material.name}",
        )  # fmt: skip
    if known and not named:
        yield Cause(f"only the mass differs: as if the density were {density:.4g} g/cm³", 0.6)


# --- whole steps


def other_steps(search: Search) -> Iterator[Cause]:
    """A step left out, taken in again, doubled, or done another way."""
    part, model = search.part, search.model
    count = len(part.steps)
    now = count if part.now is None else part.now
    if now < count:
        edits: tuple[dict[str, Any], ...] = ({"kind": "set_now", "part": part.id, "now": None},)
        if search.fits(search.after(edits)):
            yield Cause(f"the steps after the Now line are missing ({count - now})", 0.2, edits, "build to the end")
    for number, step in enumerate(part.steps[:now]):
        title = model.title_of(step.id)
        search.tell(f"without {title}", number, now)
        edits = ({"kind": "skip_step", "step": step.id, "skipped": not step.skipped},)
        if search.fits(search.after(edits)):
            if step.skipped:
                yield Cause(f"{title} is skipped; the answer has it", 0.2, edits, f"take {title} in again", (step.id,))
            else:
                yield Cause(
                    f"the difference is what {title} does; the answer is without it",
                    1.0,
                    edits,
                    f"skip {title}",
                    (step.id,),
                )
        if step.skipped or not step.makes_solid:
            continue
        yield from _other_ways(search, step, title)
    yield from _once_more(search)


def _other_ways(search: Search, step: Any, title: str) -> Iterator[Cause]:
    """Other words in a step's choices: the other direction, cutting instead of adding."""
    for name, blank in step.blanks().items():
        if blank.type != "choice" or not step.shown(name):
            continue
        for value, word in blank.words.items():
            if value == getattr(step, name):
                continue
            edits = ({"kind": "set_fields", "step": step.id, "fields": {name: value}},)
            if search.fits(search.after(edits)):
                was = blank.words[getattr(step, name)]
                yield Cause(
                    f"as if {title} were “{word}” instead of “{was}”", 0.9, edits, f"make it “{word}”", (step.id,)
                )


def _once_more(search: Search) -> Iterator[Cause]:
    """What a step adds or takes, once more or twice more: a copy is missing."""
    assert search.has is not None
    built = search.built(search.model)
    from ..solid.measuring import measures

    totals = []
    for result in built.steps:
        found = [measures(b.shape) for b in result.bodies]
        totals.append((sum(m.volume for m in found), sum(m.area for m in found)))
    volume = next((m for a, m in search.wanted if a.what == "volume"), None)
    area = next((m for a, m in search.wanted if a.what == "area"), None)
    mass = next((m for a, m in search.wanted if a.what == "mass"), None)
    for i, result in enumerate(built.steps):
        if i == 0 or result.status != "ok" or not result.tools:
            continue
        dv, da = totals[i][0] - totals[i - 1][0], totals[i][1] - totals[i - 1][1]
        if abs(dv) < 1e-9 * max(totals[-1][0], 1e-9):
            continue
        title = search.model.title_of(result.step)
        for times, word in ((1, "once more"), (2, "twice more"), (3, "three times more")):
            v, a = search.has.volume + times * dv, search.has.area + times * da
            per = search.has.mass / search.has.volume if search.has.volume else 0.0
            right = [agree(m, (x,)) for m, x in ((volume, v), (area, a), (mass, v * per)) if m is not None]
            if right and all(right):
                does = "adds" if dv > 0 else "takes away"
                yield Cause(
                    f"what {title} {does} is missing {word}: a copy of it was forgotten",
                    0.8 + 0.1 * times,
                    steps=(result.step,),
                )


def missing_hole(search: Search) -> Iterator[Cause]:
    """A round hole straight through between two flat faces: its diameter and depth follow from volume and area."""
    assert search.has is not None
    w = search.has
    volume = next((m for a, m in search.wanted if a.what == "volume"), None)
    mass = next((m for a, m in search.wanted if a.what == "mass"), None)
    if volume is None and mass is not None and w.mass > 0:
        per = w.volume / w.mass
        volume = Meant((mass.values[0] * per,), (mass.slack[0] * per,))
    if volume is None:
        return
    lost, slack = w.volume - volume.values[0], volume.slack[0]
    area = next((m for a, m in search.wanted if a.what == "area"), None)
    unit = UNITS[search.model.units][0]
    found = []
    for extra, word in ((False, "a round hole"), (True, "a round boss or pin")):
        taken = -lost if extra else lost
        if taken <= slack:
            continue
        for depth in _thicknesses(search):
            d = math.sqrt(4 * taken / (math.pi * depth))
            spread = d * slack / taken / 2
            size, digits = roundest(d / unit, spread / unit)
            change = math.pi * size * unit * depth - (0 if extra else math.pi * (size * unit) ** 2 / 2)
            if (
                area is not None
                and abs(w.area + change - area.values[0]) > area.slack[0] + 4 * math.pi * depth * spread
            ):
                continue
            if digits > (3 if area is not None else 2) or abs(math.pi / 4 * (size * unit) ** 2 * depth - taken) > slack:
                continue
            cost = 1.1 + 0.35 * digits + (0.0 if area is not None else 0.3) + (0.4 if extra else 0.0)
            deep = show(depth, LENGTH, search.model.units)
            found.append(Cause(f"{word} of {number_text(size)} {search.model.units} through {deep} is missing", cost))
    yield from sorted(found, key=lambda c: c.cost)[:2]


def _thicknesses(search: Search) -> list[float]:
    """Distances between flat faces that look away from each other, at most a dozen."""
    from ..solid.digest import flat_faces

    found: set[float] = set()
    for body in search.built(search.model).bodies:
        flat = flat_faces(body)
        for n, d in flat:
            for m, e in flat:
                if sum(a * b for a, b in zip(n, m)) < -1 + 1e-9 and d + e > 1e-6:
                    found.add(round(d + e, 6))
    return sorted(found)[:12]


# --- numbers


def knobs(model: Model, part: Part) -> Iterator[Knob]:
    """Every plain number in the part: parameters, blanks, driving dimensions. Formulas follow from these."""
    for p in model.parameters:
        if not names_in(p.formula):
            value = model.table[p.name]
            yield Knob(
                f"the parameter {p.name}", value.value, value.dimension,
                lambda text, n=p.name: {"kind": "set_parameter", "name": n, "formula": text},  # type: ignore[misc]
            )  # fmt: skip
    for step in part.steps:
        if step.skipped:
            continue
        title = model.title_of(step.id)
        for name, formula in step.formulas().items():
            blank = step.blanks()[name]
            if names_in(formula):
                continue
            found = _value(formula, _WANTED[blank.type], model)
            if found is not None:
                yield Knob(
                    f"the {blank.label} of {title}", found, _WANTED[blank.type],
                    lambda text, s=step.id, n=name: {"kind": "set_fields", "step": s, "fields": {n: text}},  # type: ignore[misc]
                    step.id, blank.type == "count",
                )  # fmt: skip
        if isinstance(step, SketchStep):
            for k in step.sketch.constraints:
                if isinstance(k, Dimensional) and k.driving and k.value and not names_in(k.value):
                    found = _value(k.value, k.measures, model)
                    if found is not None:
                        yield Knob(
                            f"the {k.word} in {title}", found, k.measures,
                            lambda text, s=step.id, c=k.id: {"kind": "set_dimension", "sketch": s, "id": c, "value": text},  # type: ignore[misc]
                            step.id,
                        )  # fmt: skip


def _value(formula: str, wanted: Dimension, model: Model) -> float | None:
    try:
        return evaluate(formula, {}, wanted=wanted, length_unit=model.units).value
    except Trouble:
        return None


def other_numbers(search: Search) -> Iterator[Cause]:
    """One number typed wrong."""
    all_knobs = list(knobs(search.model, search.part))
    for number, knob in enumerate(all_knobs):
        search.tell(knob.name, number, len(all_knobs))
        if knob.whole:
            yield from _other_count(search, knob)
        elif abs(knob.value) > 1e-12:
            yield from _other_size(search, knob)


def _other_count(search: Search, knob: Knob) -> Iterator[Cause]:
    now = round(knob.value)
    for n in (now + 1, now - 1, now + 2, now - 2, 2 * now, now // 2):
        if n >= 1 and n != now and search.fits(search.after([knob.turn(str(n))])):
            yield Cause(
                f"as if {knob.name} were {n} instead of {now}", 0.7, (knob.turn(str(n)),), f"make it {n}", _steps(knob)
            )


def _steps(knob: Knob) -> tuple[str, ...]:
    return (knob.step,) if knob.step else ()


def _other_size(search: Search, knob: Knob) -> Iterator[Cause]:
    assert search.has is not None
    unit, word = _shown_in(knob, search)
    answer, m = search.wanted[0]
    goal, slack = m.values, m.slack

    def at(value: float) -> Weighed | None:
        return search.after([knob.turn(f"{value / unit!r} {word}".strip())])

    def short(w: Weighed) -> float:
        """How far the first answer is off; of a box or a centre the side that is off most."""
        offs = [a - e for a, e in zip(actual(answer.what, w), goal)]
        return max(offs, key=abs) if which is None else offs[which]

    which: int | None = None
    if len(goal) > 1:
        offs = [a - e for a, e in zip(actual(answer.what, search.has), goal)]
        which = max(range(len(offs)), key=lambda i: abs(offs[i]))
    small = slack[which or 0]
    x0, f0 = knob.value, short(search.has)
    if abs(f0) <= small:
        return
    x1 = knob.value * 1.01
    w1 = at(x1)
    if w1 is None:
        x1 = knob.value * 0.99
        w1 = at(x1)
    if w1 is None:
        return
    f1 = short(w1)
    slope = (f1 - f0) / (x1 - x0)
    if abs(slope) * abs(knob.value) < 1e-9 * max(abs(goal[which or 0]), 1e-9):
        return
    for _ in range(_NEWTON):
        if f1 == f0:
            return
        slope = (f1 - f0) / (x1 - x0)
        x2 = x1 - f1 / slope
        # not past zero and not out of sight in one go
        x2 = min(max(x2, x1 / 3), x1 * 3) if knob.value > 0 else max(min(x2, x1 / 3), x1 * 3)
        w2 = at(x2)
        if w2 is None:
            return
        x0, f0, x1, f1 = x1, f1, x2, short(w2)
        if abs(f1) <= small / 4 or abs(x1 - x0) < 1e-12 * abs(x1):
            break
        if abs(x1 / knob.value) > 60 or abs(x1 / knob.value) < 1 / 60:
            return
    if abs(f1) > small:
        return
    slope = (f1 - f0) / (x1 - x0) if x1 != x0 else slope
    spread = (small + abs(f1)) / abs(slope) if slope else 0.0
    size, digits = roundest(x1 / unit, spread / unit)
    if search.fits(at(size * unit)):
        cost = 0.55 + 0.3 * digits + _oddness(size, knob.value / unit)
    elif search.fits(at(x1)):
        size, cost = x1 / unit, 2.6
    else:
        return
    new = show(size * unit, knob.dimension, search.model.units, 5)
    old = show(knob.value, knob.dimension, search.model.units, 5)
    if new != old:
        yield Cause(
            f"as if {knob.name} were {new} instead of {old}", cost, (knob.turn(new),), f"make it {new}", _steps(knob)
        )


def _shown_in(knob: Knob, search: Search) -> tuple[float, str]:
    word = default_unit(knob.dimension, search.model.units)
    return (UNITS[word][0], word) if word else (1.0, "")


def roundest(value: float, spread: float) -> tuple[float, int]:
    """The roundest number within ``spread`` of a value, and how many digits it takes.

    >>> roundest(5.9987, 0.01), roundest(0.898, 0.004), roundest(12.4991, 0.001)
    ((6.0, 1), (0.9, 1), (12.5, 3))
    """
    if value == 0:
        return 0.0, 0
    power = math.floor(math.log10(abs(value)))
    for digits in range(1, 9):
        step = 10.0 ** (power - digits + 1)
        near = round(round(value / step) * step, 12)
        if abs(near - value) <= max(spread, 1e-9 * abs(value)):
            # tens and hundreds have their zeros for nothing; a number above one has its digits before the point too
            return near, digits
    return value, 9


def _oddness(new: float, old: float) -> float:
    """How unlikely a slip from one number to the other is: halves, doubles and tens are likely, far jumps are not."""
    factor = abs(new / old)
    for usual in (2.0, 0.5, 10.0, 0.1, 25.4, 1 / 25.4):
        if abs(factor / usual - 1) < 1e-6:
            return -0.25
    if sorted(number_text(new, 4).replace(".", "")) == sorted(number_text(old, 4).replace(".", "")):
        return -0.2
    return 0.15 * abs(math.log(factor))


RULES: tuple[Callable[[Search], Iterator[Cause]], ...] = (
    other_units, other_material, other_steps, missing_hole, other_numbers,
)  # fmt: skip
