"""What differs between two states of a part, in words, and what would bring the older one back.

Steps, curves and dimensions of one model keep their ids for good, so they are paired by them; steps of different models
are paired by kind and order, and only parameters of the same name can be brought across.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from difflib import SequenceMatcher
from typing import Any

from ..errors import NotFound
from ..forms import DifferenceTold, Mark
from ..quantity import names_in, show
from ..quantity.units import LENGTH
from ..registry import kind_of
from ..sketch.constraints import Dimensional
from ..sketch.document import Sketch
from ..steps.base import Step, plain_sentence
from ..steps.sketch import SketchStep
from ..steps.wording import say_blank
from .document import Model, Part
from .made_of import materials_of

_SAME = 1e-7  # of a sketch's size: what lies nearer has not moved


@dataclass(frozen=True)
class Drawn:
    """A curve of one of two sketches: SVG path data (y up) and what became of it."""

    path: str
    mark: Mark
    construction: bool = False


@dataclass(frozen=True)
class Difference:
    """One thing that differs. ``number``: the place of its step in the newer state (in the older, if it is gone; 0 for
    what is no step). ``edits`` bring the older state of it back into the newer; ``key`` tells it from the others.
    """

    key: str
    text: str
    number: int = 0
    detail: str = ""
    edits: tuple[Mapping[str, Any], ...] = ()
    fix: str = ""
    sketches: tuple[tuple[Drawn, ...], tuple[Drawn, ...]] | None = None

    def as_json(self) -> DifferenceTold:
        """Plain data, for the screen."""
        told: DifferenceTold = {
            "key": self.key, "text": self.text, "number": self.number, "detail": self.detail,
            "edits": [dict(e) for e in self.edits], "fix": self.fix,
        }  # fmt: skip
        if self.sketches is not None:
            told["sketches"] = [[{"path": d.path, "mark": d.mark, "construction": d.construction} for d in side]
                                for side in self.sketches]  # fmt: skip
        return told


@dataclass
class _Both:
    """Two states of a part. ``kin``: they are states of one model, or of a copy of it."""

    older: Model
    newer: Model
    was: Part
    now: Part
    kin: bool
    pairs: dict[str, str] = field(default_factory=dict)  # a step of the newer state: the same one of the older


def differences(older: Model, was: Part, newer: Model, now: Part, kin: bool) -> list[Difference]:
    """All that differs between two states of a part, parameters first, then steps in their order."""
    both = _Both(older, newer, was, now, kin)
    both.pairs = _paired(was, now, kin)
    found = [*_parameters(both), *_steps(both)]
    if was.material != now.material or was.made_of != now.made_of:
        found.append(_material(both))
    return found


def unchanged(older: Part, newer: Part, kin: bool) -> int:
    """How many steps are as they were."""
    pairs = _paired(older, newer, kin)
    was = {s.id: s for s in older.steps}
    return sum(s.id in pairs and _plain(s) == _plain(was[pairs[s.id]]) for s in newer.steps)


def _plain(step: Step) -> Any:
    return step.model_dump(mode="json", exclude={"id"})


def _paired(was: Part, now: Part, kin: bool) -> dict[str, str]:
    if kin:
        known = {s.id: kind_of(type(s)) for s in was.steps}
        return {s.id: s.id for s in now.steps if known.get(s.id) == kind_of(type(s))}
    a, b = ([kind_of(type(s)) for s in p.steps] for p in (was, now))
    matcher = SequenceMatcher(None, a, b, autojunk=False)
    return {
        now.steps[block.b + k].id: was.steps[block.a + k].id
        for block in matcher.get_matching_blocks()
        for k in range(block.size)
    }


def _parameters(both: _Both) -> Iterator[Difference]:
    old, new = ({p.name: p for p in m.parameters} for m in (both.older, both.newer))
    for name, p in new.items():
        if name not in old:
            yield Difference(f"p:{name}", f"{name} = {p.formula} is new",
                             edits=({"kind": "delete_parameter", "name": name},), fix="take out again")  # fmt: skip
        elif old[name].formula != p.formula or _value(both.older, name) != _value(both.newer, name):
            values = [_value(m, name) for m in (both.older, both.newer)]
            follows = old[name].formula == p.formula
            yield Difference(
                f"p:{name}",
                f"{name}: {values[0] if follows else old[name].formula} became {values[1] if follows else p.formula}",
                detail=f"it follows from {p.formula}" if follows else "",
                edits=() if follows else ({"kind": "set_parameter", "name": name, "formula": old[name].formula},),
                fix="" if follows else "bring back",
            )
    for name, p in old.items():
        if name not in new:
            edit = {"kind": "add_parameter", "name": name, "formula": p.formula, "note": p.note}
            yield Difference(f"p:{name}", f"{name} = {p.formula} is gone", edits=(edit,), fix="bring back")


def _value(model: Model, name: str) -> str:
    got = model.table[name]
    return show(got.value, got.dimension, model.read_in, 7)


def _steps(both: _Both) -> Iterator[Difference]:
    was = {s.id: (n, s) for n, s in enumerate(both.was.steps, 1)}
    met = set(both.pairs.values())
    for number, step in enumerate(both.now.steps, 1):
        title = both.newer.title_of(step.id)
        if step.id not in both.pairs:
            edit = {"kind": "delete_step", "step": step.id, "with_users": True}
            yield Difference(
                f"s:{step.id}", f"{title} is new", number, plain_sentence(step, both.newer),
                (edit,) if both.kin else (), "take out again" if both.kin else "",
            )  # fmt: skip
        else:
            yield from _step(both, was[both.pairs[step.id]][1], step, number, title)
    for number, step in was.values():
        if step.id in met:
            continue
        edit = _adopted(both, step)
        yield Difference(
            f"s:{step.id}", f"{both.older.title_of(step.id)} is gone", number, plain_sentence(step, both.older),
            (edit,) if both.kin else (), "bring back" if both.kin else "",
        )  # fmt: skip
    yield from _order(both)


def _adopted(both: _Both, step: Step) -> dict[str, Any]:
    """The edit that makes a step what it was, or puts it back where it was."""
    before = [s.id for s in both.was.steps[: both.was.index(step.id)]]
    return {"kind": "adopt_step", "part": both.now.id, "data": step.model_dump(mode="json"), "after": before}


def _order(both: _Both) -> Iterator[Difference]:
    """Steps in another order."""
    order = [both.pairs[s.id] for s in both.now.steps if s.id in both.pairs]
    before = [s.id for s in both.was.steps if s.id in set(order)]
    if order == before:
        return
    stay = {before[b.a + k] for b in SequenceMatcher(None, before, order, autojunk=False).get_matching_blocks()
            for k in range(b.size)}  # fmt: skip
    for id in order:
        if id not in stay:
            new = next(n for n, o in both.pairs.items() if o == id)
            yield Difference(f"o:{new}", f"{both.newer.title_of(new)} stands at another place",
                             both.now.index(new) + 1, f"it was step {both.was.index(id) + 1}")  # fmt: skip


def _step(both: _Both, was: Step, now: Step, number: int, title: str) -> Iterator[Difference]:
    back = (_adopted(both, was),) if both.kin else ()
    fix = "bring back" if both.kin else ""
    said = []
    if was.skipped != now.skipped:
        said.append("left out" if now.skipped else "taken in again")
    for name, blank in now.blanks().items():
        old, new = getattr(was, name), getattr(now, name)
        if old == new or not (was.shown(name) or now.shown(name)):
            continue
        texts = say_blank(was, name, both.older), say_blank(now, name, both.newer)
        if texts[0] != texts[1]:
            said.append(f"{blank.label or name}: {texts[0]} became {texts[1]}")
        elif both.kin:
            said.append(f"other {blank.label or name} picked")
    if was.name != now.name:
        said.append(f"was called {both.older.title_of(was.id)}")
    sketch = isinstance(was, SketchStep) and isinstance(now, SketchStep) and was.sketch != now.sketch
    if said:
        fields = {n: v for n, v in was.model_dump(mode="json").items() if n in was.blanks()}
        only_blanks = was.name == now.name and was.skipped == now.skipped
        edits = ({"kind": "set_fields", "step": now.id, "fields": fields},) if sketch and only_blanks else back
        yield Difference(f"s:{now.id}", f"{title}: {said[0]}", number, "; ".join(said[1:]),
                         edits if both.kin else (), fix)  # fmt: skip
    if sketch:
        yield from _sketch(both, was, now, number, title, back, fix)  # type: ignore[arg-type]


def _sketch(
    both: _Both, was: SketchStep, now: SketchStep, number: int, title: str, back: tuple[Any, ...], fix: str
) -> Iterator[Difference]:
    """Dimensions one by one, then the drawing as a whole."""
    old, new = ({c.id: c for c in s.sketch.constraints if isinstance(c, Dimensional) and c.driving} for s in (was, now))
    for id, k in new.items():
        if both.kin and id in old and old[id].value != k.value:
            edit = {"kind": "set_dimension", "sketch": now.id, "id": id, "value": old[id].value}
            yield Difference(f"d:{now.id}:{id}", f"{title}: {old[id].value} became {k.value}", number,
                             k.sentence(now.sketch), (edit,), "bring back")  # fmt: skip
    sides = drawn(was.sketch, now.sketch, both.kin)
    said = []
    for mark, word in (("new", "new"), ("gone", "gone"), ("moved", "moved")):
        count = sum(d.mark == mark for d in sides[0 if mark == "gone" else 1])
        if count:
            said.append(f"{count} curve{'s' * (count != 1)} {word}")
    if both.kin and len(said) == 1 and "moved" in said[0]:
        far = _farthest(was.sketch, now.sketch)
        said = [f"{said[0]} by up to {show(far, LENGTH, both.newer.read_in, 4)}"]
    ids = [{k.id for k in s.sketch.constraints} for s in (was, now)]
    for count, word in ((len(ids[1] - ids[0]), "new"), (len(ids[0] - ids[1]), "gone")):
        if count and both.kin:
            said.append(f"{count} constraint{'s' * (count != 1)} {word}")
    follows = both.kin and was.sketch.constraints == now.sketch.constraints and len(ids[0]) and _uses_names(now.sketch)
    if follows and not any(d.mark in ("new", "gone") for side in sides for d in side):
        said.append("it follows from a parameter")
        back, fix = (), ""
    if said:
        yield Difference(f"s:{now.id}:drawing", f"{title}: {said[0]}", number, "; ".join(said[1:]), back,
                         fix and "bring the drawing back", sides)  # fmt: skip


def _uses_names(sketch: Sketch) -> bool:
    return any(isinstance(c, Dimensional) and c.driving and c.value and names_in(c.value) for c in sketch.constraints)


def drawn(old: Sketch, new: Sketch, kin: bool) -> tuple[tuple[Drawn, ...], tuple[Drawn, ...]]:
    """The curves of two sketches, each with what became of it; unrelated ones are compared by how they lie."""
    size = _SAME * max(old.size, new.size, 1.0)
    if kin:
        before, after = {c.id: c for c in old.curves}, {c.id: c for c in new.curves}
    else:
        before, after = ({_place(c, 1e-4): c for c in s.curves} for s in (old, new))

    def mark(key: Any, here: Mapping[Any, Any], there: Mapping[Any, Any], absent: Mark) -> Mark:
        if key not in there:
            return absent
        return "moved" if kin and _distance(here[key], there[key]) > size else "same"

    return (
        tuple(Drawn(c.svg(), mark(k, before, after, "gone"), c.construction) for k, c in before.items()),
        tuple(Drawn(c.svg(), mark(k, after, before, "new"), c.construction) for k, c in after.items()),
    )


def _place(curve: Any, grid: float) -> Any:
    numbers = [v for value in curve.scalars.values() for v in (value if isinstance(value, tuple) else (value,))]
    return curve.kind, tuple(round(v / grid) for v in numbers)


def _distance(one: Any, other: Any) -> float:
    """How far the farthest point of a curve has moved (or its radius grown), mm."""
    a, b = one.scalars, other.scalars
    if a.keys() != b.keys():
        return math.inf
    return max((math.dist(a[n], b[n]) if isinstance(a[n], tuple) else abs(a[n] - b[n]) for n in a), default=0.0)


def _farthest(old: Sketch, new: Sketch) -> float:
    before = {c.id: c for c in old.curves}
    moved = [_distance(c, before[c.id]) for c in new.curves if c.id in before]
    return max((m for m in moved if math.isfinite(m)), default=0.0)


def _material(both: _Both) -> Difference:
    names = [materials_of(m)[p.material].name if p.material in materials_of(m) else p.material
             for m, p in ((both.older, both.was), (both.newer, both.now))]  # fmt: skip
    if both.was.material == both.now.material:
        return Difference("m", "Bodies are made of something else")
    edit = {"kind": "set_material", "part": both.now.id, "material": both.was.material}
    known = both.was.material in materials_of(both.newer)
    return Difference("m", f"Material: {names[0]} became {names[1]}", edits=(edit,) if known else (),
                      fix="bring back" if known else "")  # fmt: skip


def conflicts(base: Model, theirs: Model, part_id: str, mine: list[Difference]) -> dict[str, str]:
    """Of what was changed on a copy: what was changed in the original too since then, in words,
    by ``Difference.key``.
    """
    try:
        others = differences(base, base.part(part_id), theirs, theirs.part(part_id), kin=True)
    except NotFound:
        return {d.key: "the part is gone there" for d in mine}
    there = {d.key: d.text for d in others}
    steps = {d.key.split(":")[1]: d.text for d in others if d.key[:2] in ("s:", "d:")}
    found = {}
    for d in mine:
        step = d.key.split(":")[1] if d.key[:2] in ("s:", "d:") else ""
        if d.key in there or (step in steps and not d.key.startswith("d:")):
            found[d.key] = there.get(d.key) or steps[step]
    return found
