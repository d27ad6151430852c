"""Flex test: how far each number of a part goes before the part is another one, or none.

A number is tried outward from its value, in steps that grow, until the part breaks; then the last stretch is halved
until the breaking value is known to ``CLOSE``. What is tried next is decided here (``Reach``), what comes of it is told
by ``Probe``, and who runs it is none of this module's business: a try may end with its worker's life.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from ..errors import BadInput, CannotBuild, Trouble
from ..forms import Corner, ReachTold
from ..making.results import BuildCache, PartBuild
from ..model.building import build
from ..model.document import Model, Part
from ..model.edits import apply_edit, parse_edit
from ..model.knobs import Knob, knob_of
from ..quantity import evaluate
from ..quantity.units import ANGLE, NUMBER
from ..steps.wording import say_face

CLOSE = 0.004  # of the breaking value
LADDER = (1.03, 1.1, 1.25, 1.5, 2.0, 3.0, 5.0, 8.0)
"""Times its value a number is tried, upwards; downwards its value over these."""
RUNGS = 8  # steps each way within a range that was typed
MOST_TYPED = 60


@dataclass(frozen=True)
class Outcome:
    """What came of a try: the part holds, or breaks in ``step`` (its id) because of ``why``.

    ``same``: the number makes no difference to this part at all.
    """

    holds: bool
    step: str = ""
    why: str = ""
    same: bool = False


class Probe:
    """A part as it is, against which tries are held."""

    def __init__(
        self,
        model: Model,
        part_id: str,
        cache: BuildCache,
        barred: Mapping[str, str] | None = None,
        progress: Callable[[str, str, int, int], None] | None = None,
    ) -> None:
        self.model, self.part_id, self._cache, self._progress = model, part_id, cache, progress
        self._forms: dict[str, Any] = {}
        self.has = self._built(model, barred or {})
        self._counts = _counts(model, self.part)

    @property
    def part(self) -> Part:
        """The part as it is."""
        return self.model.part(self.part_id)

    def _built(self, model: Model, barred: Mapping[str, str]) -> PartBuild:
        return build(model, model.part(self.part_id), self._cache, barred=barred, progress=self._progress)

    def try_edits(self, edits: Sequence[Mapping[str, Any]], barred: Mapping[str, str] | None = None) -> Outcome:
        """What comes of the part with some edits; with none, whether it can be built as it is."""
        if not edits:
            bad = next((r for r in self.has.steps if r.status == "failed"), None)
            return Outcome(True, same=True) if bad is None else Outcome(False, bad.step, bad.message)
        model, step = self.model, ""
        try:
            for raw in edits:
                step = str(raw.get("step") or raw.get("sketch") or "")
                model = apply_edit(model, parse_edit(dict(raw)))
        except CannotBuild as problem:
            return Outcome(False, step, problem.message)
        except Trouble as problem:
            return Outcome(False, step, problem.message)
        return self._compared(model, self._built(model, barred or {}))

    def _compared(self, model: Model, built: PartBuild) -> Outcome:
        before = {r.step: r for r in self.has.steps}
        if all(r.key == before[r.step].key for r in built.steps if r.step in before):
            return Outcome(True, same=True)
        plain = _counts(model, model.part(self.part_id)) != self._counts
        for result in built.steps:
            was = before.get(result.step)
            if was is None or was.status != "ok":
                continue
            if result.status == "failed":
                return Outcome(False, result.step, result.message)
            if why := self._changed(was.solid_key, was.bodies, result.solid_key, result.bodies, plain):
                return Outcome(False, result.step, why)
        return Outcome(True)

    def _changed(self, old_key: str, old: Any, new_key: str, new: Any, plain: bool) -> str:
        """How the form of bodies differs, in words. ``plain``: other counts bring other faces, which is no breakage."""
        was, now = self._form(old_key, old), self._form(new_key, new)
        if was == now:
            return ""
        if now.bodies != was.bodies:
            if not now.bodies:
                return "nothing is left of it"
            return f"it falls into {now.bodies} bodies" if now.bodies > was.bodies else "bodies run into one another"
        if plain:
            return ""
        if now.openings < was.openings:
            return "a hole runs out of the side or closes"
        if now.openings > was.openings:
            return "it breaks through: there is an opening more than before"
        lost = sorted(was.atoms - now.atoms)
        if not lost:
            return ""
        more = f" and {len(lost) - 1} more faces are" if len(lost) > 1 else " is"
        return f"the {say_face((lost[0],), self.model)}{more} gone"

    def _form(self, key: str, bodies: Any) -> Any:
        from ..solid.topology import form_of

        if key not in self._forms:
            self._forms[key] = form_of(bodies)
        return self._forms[key]


def _counts(model: Model, part: Part) -> list[float]:
    """What all counts of a part come to."""
    found = []
    for step in part.steps:
        blanks = step.blanks()
        for name, formula in step.formulas().items():
            if blanks[name].type == "count":
                try:
                    found.append(evaluate(formula, model.table.values, wanted=NUMBER, length_unit=model.units).value)
                except Trouble:
                    continue
    return found


@dataclass
class Reach:
    """How far a number goes one way: what to try next, and what is known. ``rungs`` lie outward from ``good``.

    Once the breaking value is known, one more is tried a little beyond it: what is said of the breakage is what is so
    there, not what happens where two faces just touch; and where the part holds there, nothing has broken.
    """

    good: float
    rungs: list[float]
    whole: bool = False
    bad: float | None = None
    outcome: Outcome | None = None
    tries: int = 0
    same: bool = False
    _waits: float | None = field(default=None, repr=False)
    _sure: bool = field(default=False, repr=False)

    def next(self) -> float | None:
        """The value to be tried; None when it is known how far it goes."""
        self._waits = None
        if self.bad is None:
            if self.rungs and not self.same:
                self._waits = self.rungs[0]
        elif self.whole:
            middle = (int(self.good) + int(self.bad)) // 2
            if middle not in (int(self.good), int(self.bad)):
                self._waits = float(middle)
        elif not self._close():
            self._waits = (self.good + self.bad) / 2
        elif not self._sure:
            self._waits = self.bad + (2 * (self.bad - self.good) or math.copysign(1e-3, self.bad - self.good))
        return self._waits

    def _close(self) -> bool:
        assert self.bad is not None
        return abs(self.bad - self.good) <= CLOSE * max(abs(self.bad), abs(self.good))

    def put(self, outcome: Outcome) -> None:
        """What came of the value that was to be tried."""
        value = self._waits
        assert value is not None
        self.tries += 1
        if self.bad is None:
            self.rungs = self.rungs[1:]
            self.same = outcome.holds and outcome.same and self.tries == 1
        elif not self.whole and self._close():
            self._sure = not outcome.holds
            if outcome.holds:
                self.good, self.bad, self.outcome = value, None, None
            else:
                self.outcome = outcome
            return
        if outcome.holds:
            self.good = value
        else:
            self.bad, self.outcome = value, outcome

    def as_json(self, knob: Knob, model: Model) -> ReachTold:
        """Plain data, for the screen: values as they are typed too."""
        at = self.good if self.bad is None else handy(self.good, knob.value)
        told: ReachTold = {
            "at": at, "said": _short(knob, at, model), "edit_at": dict(knob.turned(at, model)),
        }  # fmt: skip
        if self.bad is not None and self.outcome is not None:
            told |= {
                "breaks": self.bad, "breaks_said": _short(knob, self.bad, model), "step": self.outcome.step,
                "where": model.title_of(self.outcome.step) if self.outcome.step else "", "why": self.outcome.why,
                "edit": dict(knob.turned(self.bad, model)),
            }  # fmt: skip
        return told


def handy(value: float, toward: float) -> float:
    """A value of few digits, on the side of another one: what holds at a value holds nearer to where it is now.

    >>> handy(17.5547, 42.0), handy(9.2383, 5.0), handy(0.68751, 5.5), handy(42.0, 42.0)
    (17.6, 9.23, 0.688, 42.0)
    """
    if value in (0.0, toward):
        return value
    grain = 10.0 ** (math.floor(math.log10(abs(value))) - 2)
    steps = value / grain
    rounded = round((math.ceil(steps - 1e-9) if toward > value else math.floor(steps + 1e-9)) * grain, 12)
    return rounded if min(value, toward) <= rounded <= max(value, toward) else value


def _short(knob: Knob, value: float, model: Model) -> str:
    return knob.said(float(f"{value:.4g}"), model, 5)


def reaches(knob: Knob, span: tuple[float, float] | None = None) -> tuple[Reach, Reach]:
    """What is to be tried downwards and upwards; within ``span`` (mm, rad, plain) where one was typed."""
    return tuple(Reach(knob.value, list(rungs), knob.whole) for rungs in _rungs(knob, span))  # type: ignore[return-value]


def _rungs(knob: Knob, span: tuple[float, float] | None) -> Iterator[list[float]]:
    v = knob.value
    for way, end in ((-1, span[0] if span else None), (1, span[1] if span else None)):
        if end is not None:
            steps = [v + (end - v) * k / RUNGS for k in range(1, RUNGS + 1)] if (end - v) * way > 0 else []
        elif v == 0:
            steps = [way * s for s in (0.1, 0.5, 2.0, 10.0, 50.0)]
        else:
            outward = (way > 0) == (v > 0)
            steps = [v * f if outward else v / f for f in LADDER]
        if knob.dimension == ANGLE and end is None:
            steps = [s for s in steps if abs(s) < 6.28]
        if knob.whole:
            rounded = dict.fromkeys(float(round(s)) for s in steps if end is not None or s >= 1)
            steps = [s for s in rounded if s != v]
        yield steps


def span_of(knob: Knob, low: str, high: str, model: Model) -> tuple[float, float] | None:
    """A range as typed, in the number's own measure; None where nothing is typed. Raises ``BadInput``."""
    if not low.strip() and not high.strip():
        return None
    ends = []
    for text, usual in ((low, knob.value), (high, knob.value)):
        if not text.strip():
            ends.append(usual)
            continue
        bare = knob.dimension == NUMBER
        got = evaluate(text, model.table.values, wanted=None if bare else knob.dimension, length_unit=model.units)
        ends.append(got.value)
    if ends[0] > ends[1]:
        raise BadInput(f"The range of {knob.title} is empty: it ends before it begins.", where=knob.id)
    return ends[0], ends[1]


def corners(model: Model, part: Part, chosen: Sequence[tuple[str, float, float]]) -> list[Corner]:
    """What is to be tried in pairs: each two chosen numbers (id, lowest, highest) at the ends of their ranges."""
    found: list[Corner] = []
    for i, (one, *ends) in enumerate(chosen):
        for other, *others in chosen[i + 1 :]:
            a, b = knob_of(model, part, one), knob_of(model, part, other)
            found += [
                {"numbers": [one, other], "values": [x, y],
                 "edits": [dict(a.turned(x, model)), dict(b.turned(y, model))],
                 "says": f"{a.title} {_short(a, x, model)} with {b.title} {_short(b, y, model)}"}
                for x in ends for y in others
            ]  # fmt: skip
    return found
