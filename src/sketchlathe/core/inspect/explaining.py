"""Why a part is not what it should be: single slips that would account for the difference, most likely first.

Each hypothesis is a change of the model (or of how a value was read). It counts when the changed part agrees with all
answers. Among those, the likelier is the one with the simpler cause and the rounder number: nobody means 7.3184 mm.

Units, materials and whole steps are tried here; single numbers in ``wrong_numbers.py``.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from typing import Any

from ..amounts.answers import Answer, Meant, actual, agree
from ..amounts.weighing import Weighed
from ..making.results import BuildCache
from ..model.document import Model
from ..model.made_of import material_of, materials_of
from ..quantity.units import LENGTH, UNITS, number_text, show
from .searching import Cause, Progress, Search
from .wrong_numbers import other_numbers, roundest


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
            yield Cause(text, 0.3, "another unit")
    for answer, m in search.wanted:
        # one answer alone is in another unit than it was read in
        for factor, text in _MISREAD.get(answer.what, ()):
            slack = tuple(s * factor for s in m.slack)
            others = all(agree(o, actual(a.what, w)) for a, o in search.wanted if a is not answer)
            if others and agree(Meant(tuple(v * factor for v in m.values), slack), actual(answer.what, w)):
                yield Cause(f"the expected {answer.what} looks as if it were {text}", 0.4, "another unit")


_MISREAD: dict[str, tuple[tuple[float, str], ...]] = {
    "mass": (
        (1000.0, "in kg"), (0.001, "in mg"), (28.349523125, "in ounces"), (453.59237, "in pounds"),
        (1 / 453.59237, "in grams, not pounds"), (1 / 28.349523125, "in grams, not ounces"),
    ),
    "volume": (
        (1000.0, "in cm³"), (0.001, "in mm³"), (16387.064, "in cubic inches, not mm³"),
        (16.387064, "in cubic inches, not cm³"),
        (1e6, "in litres"),
    ),
    "area": (
        (100.0, "in cm²"), (0.01, "in mm²"), (645.16, "in square inches, not mm²"),
        (6.4516, "in square inches, not cm²"),
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
            f"{exact} of {material.name} ({material.density:g} g/cm³), not of "
                f"{material_of(search.model, search.part.material).name}",
            cost, "another material", edits, f"make it of {material.name}",
        )  # fmt: skip
    if known and not named:
        yield Cause(f"only the mass differs: as if the density were {density:.4g} g/cm³", 0.6, "another material")


# --- whole steps


def other_steps(search: Search) -> Iterator[Cause]:
    """A step left out, taken in again, doubled, or done another way."""
    part, model = search.part, search.model
    count = len(part.steps)
    now = count if part.now is None else part.now
    if now < count:
        edits: tuple[dict[str, Any], ...] = ({"kind": "set_now", "part": part.id, "now": None},)
        if search.fits(search.after(edits)):
            yield Cause(
                f"the steps after the Now line are missing ({count - now})",
                0.2,
                "a step left out",
                edits,
                "build to the end",
            )
    for number, step in enumerate(part.steps[:now]):
        title = model.title_of(step.id)
        search.tell(f"without {title}", number, now)
        edits = ({"kind": "skip_step", "step": step.id, "skipped": not step.skipped},)
        if search.fits(search.after(edits)):
            if step.skipped:
                yield Cause(
                    f"{title} is skipped; the answer has it", 0.2, "a step left out", edits, f"take {title} in again",
                    (step.id,),
                )  # fmt: skip
            else:
                yield Cause(
                    f"the difference is what {title} does; the answer is without it",
                    1.0,
                    "a step too many",
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
                    f"as if {title} were “{word}” instead of “{was}”", 0.9, "a step done the other way", edits,
                    f"make it “{word}”", (step.id,),
                )  # fmt: skip


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
                    "a copy forgotten",
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
            text = f"{word} of {number_text(size)} {search.model.units} through {deep} is missing"
            found.append(Cause(text, cost, "a hole or a pin missing"))
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


RULES: tuple[Callable[[Search], Iterator[Cause]], ...] = (
    other_units, other_material, other_steps, missing_hole, other_numbers,
)  # fmt: skip
