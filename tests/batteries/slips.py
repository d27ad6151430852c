"""Parts with one known slip each: is the cause that Answer check names first, second or third the right one?"""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from tests.hand import ORIGIN, Hand, box

from sketchlathe.core.amounts.answers import Answer
from sketchlathe.core.amounts.materials import MATERIALS
from sketchlathe.core.amounts.weighing import Weighed
from sketchlathe.core.inspect.explaining import explain
from sketchlathe.core.inspect.searching import Search
from sketchlathe.core.making.results import BuildCache
from sketchlathe.core.model.document import Model
from sketchlathe.core.model.edits import apply_edit, parse_edit
from sketchlathe.core.model.knobs import knobs

from .making import edge, face


@dataclass
class Case:
    """A part with a slip in it, what the answer sheet says, and words that the right cause has."""

    label: str
    model: Model
    answers: list[Answer]
    right: Callable[[str], bool]


def bracket(rng: random.Random) -> Hand:
    """An angle with two holes and a rounded corner."""
    m = Hand()
    w, d, t = rng.choice([50, 60, 80]), rng.choice([30, 40]), rng.choice([5, 6, 8])
    s = m.sketch("front")
    m.draw(s, "rectangle", ORIGIN, (w, t), sizes=(f"{w}", f"{t}"))
    m.step("extrude", regions=m.regions(s), distance=f"{d}", way="both")
    s = m.sketch("front")
    m.draw(s, "rectangle", (0.0, float(t)), (t, t + 35), sizes=(f"{t + 1}", "32"))
    m.step("extrude", regions=m.regions(s), distance=f"{d}", way="both")
    for x in (w - 12, w - 30):
        m.step("block", shape="cylinder", diameter=f"{rng.choice([5, 6])}", height="50", x=f"{x}", z="-5", result="cut")
    m.step("fillet", edges=[edge(m, (w, d / 2, t / 2))], radius=f"{rng.choice([4, 5])}")
    return m


def dial(rng: random.Random) -> Hand:
    """A round plate with a bore, a ring of holes and a bevelled rim."""
    m = Hand()
    r, h = rng.choice([30, 36, 45]), rng.choice([6, 8, 10])
    m.round("top", 0, 0, r, distance=f"{h}")
    m.round("top", 0, 0, rng.choice([5, 8]), reach="through", result="cut")
    hole = m.round("top", r - 8, 0, rng.choice([2, 2.5, 3]), reach="through", result="cut")
    m.step("pattern", steps=[hole], axis={"axis": "z"}, count=f"{rng.choice([4, 6, 8])}")
    m.step("chamfer", edges=[face(m, (0, 0, 1))], size="1")
    return m


def tray(rng: random.Random) -> Hand:
    """A shelled box with a foot."""
    m = Hand()
    w, d, h = rng.choice([50, 60, 72]), rng.choice([30, 40]), rng.choice([15, 20, 24])
    s = m.sketch("top")
    m.draw(s, "rectangle", ORIGIN, (w, d), sizes=(f"{w}", f"{d}"))
    m.step("extrude", regions=m.regions(s), distance=f"{h}")
    m.step("fillet", edges=[edge(m, (0, 0, h / 2)), edge(m, (w, d, h / 2))], radius=f"{rng.choice([4, 6])}")
    m.step("shell", faces=[face(m, (0, 0, 1))], thickness=f"{rng.choice([1.5, 2, 2.5])}")
    m.prism("top", box(10, 10, 8, 9), distance=f"{rng.choice([6, 7])}", way="backwards")
    return m


def pulley(rng: random.Random) -> Hand:
    """A turned wheel with a keyway."""
    m = Hand()
    a, b, h = rng.choice([4, 5]), rng.choice([18, 22, 25]), rng.choice([10, 14])
    s = m.sketch("front")
    m.draw(s, "rectangle", (float(a), 0.0), (b, h), sizes=(f"{b - a}", f"{h}"))
    m.step("revolve", regions=m.regions(s), axis={"axis": "z"})
    s = m.sketch("front")
    m.draw(s, "circle", (b, h / 2), (b + 3, h / 2), sizes=(f"{rng.choice([4, 5])}",))
    m.step("revolve", regions=m.regions(s), axis={"axis": "z"}, result="cut")
    m.prism("top", box(-1, 0, 2, a + 2), reach="through", result="cut")
    return m


FAMILIES = (bracket, dial, tray, pulley)


def sheet(w: Weighed, rng: random.Random) -> list[Answer]:
    """An answer sheet as exercises have it: volume and mass, sometimes area, to five digits."""
    found = [Answer(what="volume", text=f"{w.volume / 1000:.5g} cm³"), Answer(what="mass", text=f"{w.mass:.5g} g")]
    kind = rng.randrange(3)
    if kind == 0:
        found.append(Answer(what="area", text=f"{w.area / 100:.5g} cm²"))
    return found[:1] if kind == 1 else found


def _weigh(model: Model) -> Weighed | None:
    return Search(model, "p1", [], BuildCache()).has


def _changed(model: Model, **edit: Any) -> Model:
    return apply_edit(model, parse_edit(edit))


def cases(each: int, first_seed: int = 1) -> Iterator[Case]:
    """Wrong size, missing step, wrong unit, wrong material: by turns, over all families."""
    kinds = (wrong_size, missing_step, wrong_size, wrong_unit, wrong_material)
    for seed in range(first_seed, first_seed + each):
        for family in FAMILIES:
            rng = random.Random(f"{family.__name__}{seed}")
            kind = kinds[(seed + FAMILIES.index(family)) % len(kinds)]
            found = kind(family(rng).model, rng)
            if found is not None:
                found.label = f"{family.__name__} seed {seed}: {kind.__name__}, {found.label}"
                yield found


def wrong_size(model: Model, rng: random.Random) -> Case | None:
    """One typed number is another round one."""
    found = [k for k in knobs(model, model.parts[0]) if abs(k.value) > 1e-9]
    answer = _weigh(model)
    rng.shuffle(found)
    for knob in found:
        if knob.whole:
            wrong = f"{round(knob.value) + rng.choice([-1, 1])}"
        else:
            value = knob.value
            step = 1.0 if abs(value) >= 10 else 0.5
            wrong = f"{round(value + rng.choice([-2, -1, 1, 2]) * step, 3)} mm"
        try:
            slipped = apply_edit(model, parse_edit(dict(knob.turn(wrong))))
        except Exception:
            continue
        has = _weigh(slipped)
        if has is None or answer is None or abs(has.volume - answer.volume) < 1e-4 * answer.volume:
            continue
        return Case(
            f"{knob.name} {wrong}", slipped, sheet(answer, rng), lambda text, k=knob: f"as if {k.name} " in text
        )  # type: ignore[misc]
    return None


def missing_step(model: Model, rng: random.Random) -> Case | None:
    """A step is skipped, or was not made."""
    answer = _weigh(model)
    steps = [s for s in model.parts[0].steps if s.makes_solid][1:]
    rng.shuffle(steps)
    for step in steps:
        title = model.title_of(step.id)
        slipped = _changed(model, kind="skip_step", step=step.id, skipped=True)
        has = _weigh(slipped)
        if has is not None and answer is not None and abs(has.volume - answer.volume) > 1e-4 * answer.volume:
            return Case(
                f"{title} skipped",
                slipped,
                sheet(answer, rng),
                lambda text, t=title: text.startswith(f"{t} is skipped"),
            )  # type: ignore[misc]
    return None


def wrong_unit(model: Model, rng: random.Random) -> Case | None:
    """The drawing was in inches or cm and was read as mm; or the answer is."""
    answer = _weigh(model)
    if answer is None:
        return None
    factor, word = rng.choice([(25.4, "inches had been read as mm"), (10.0, "cm had been read as mm")])
    volume = f"{answer.volume * factor**3 / 1000:.5g} cm³"
    return Case(word, model, [Answer(what="volume", text=volume)], lambda text: word in text)


def wrong_material(model: Model, rng: random.Random) -> Case | None:
    """The part is of something else."""
    key = rng.choice([k for k in MATERIALS if k != "pla"])
    answer = _weigh(_changed(model, kind="set_material", part="p1", material=key))
    assert answer is not None
    sheet_ = [
        Answer(what="mass", text=f"{answer.mass:.5g} g"),
        Answer(what="volume", text=f"{answer.volume / 1000:.5g} cm³"),
    ]
    density = f"({MATERIALS[key].density:g} g/cm³)"
    return Case(f"{key}", model, sheet_ if rng.random() < 0.7 else sheet_[:1], lambda text: density in text)


def explained(each: int, first_seed: int = 1) -> tuple[float, int, list[str]]:
    """Share (%) of cases whose cause is among the first three, how many there were, and the others."""
    count, missed = 0, []
    for case in cases(each, first_seed):
        count += 1
        found = explain(case.model, "p1", case.answers, BuildCache(1 << 30))
        if not any(case.right(c.text) for c in found[:3]):
            missed.append(
                f"{case.label}: {[a.text for a in case.answers]} → {[(c.text, round(c.cost, 2)) for c in found[:5]]}"
            )
    return 100 * (1 - len(missed) / count), count, missed
