"""Whether bodies go together: what overlaps, touches, comes too near, and what would cure it. No kernel in here."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Literal

from ..errors import Trouble
from ..forms import FitTold
from ..frames import Triple
from ..model.document import Model, Part
from ..names import body_maker
from ..quantity import evaluate
from ..quantity.expressions import NAME
from ..quantity.units import LENGTH, show
from ..steps.place import Place

USUAL_PLAY = 0.2  # mm between printed parts that are to move or to be put together; process charts say 0.1 to 0.3
WITHIN = 2.0  # mm: what is farther apart is not spoken of


@dataclass(frozen=True)
class Meeting:
    """How two bodies meet: ids, volume shared (mm³), smallest distance (mm) with its ends, area of contact (mm²), and
    the radii of round things in round holes.
    """

    one: str
    other: str
    shared: float
    gap: float
    ends: tuple[Triple, Triple] | None
    contact: float = 0.0
    parted: str = ""  # the step that split them from each other
    snug: tuple[tuple[float, float, Triple], ...] = ()
    bought: bool = False  # both of them
    threads: bool = False  # what they share is no more than the thread of one cuts into the other


@dataclass(frozen=True)
class Finding:
    """One thing to say of two bodies. ``verdict``: bad, warn or fine; ``edits`` would cure it, ``fix`` says how."""

    verdict: Literal["bad", "warn", "fine"]
    one: str
    other: str
    title: str
    figure: str
    text: str
    ends: tuple[Triple, Triple] | None = None
    fix: str = ""
    edits: tuple[dict[str, Any], ...] = field(default=())

    def as_json(self) -> FitTold:
        """Plain data, for the screen."""
        return {
            "verdict": self.verdict, "one": self.one, "other": self.other, "title": self.title, "figure": self.figure,
            "text": self.text, "ends": self.ends, "fix": self.fix, "edits": [dict(e) for e in self.edits],
        }  # fmt: skip


def findings(model: Model, part: Part, meetings: Sequence[Meeting], play: float) -> list[Finding]:
    """What there is to say of bodies that meet, worst first. ``play``: mm that printed parts need between them."""
    found = [_as_one(_of(model, part, m, play)) for m in meetings]
    return sorted(found, key=lambda f: _WORST.index(f.verdict))


_WORST = ("bad", "warn", "fine")


def _as_one(found: Sequence[Finding]) -> Finding:
    """One line a pair: the worst, with what else there is to say of it."""
    first, *rest = sorted(found, key=lambda f: _WORST.index(f.verdict))
    also = dict.fromkeys(f"{f.figure}: {f.text}" for f in rest if (f.figure, f.text) != (first.figure, first.text))
    cure = next((f for f in (first, *rest) if f.fix), first)
    return replace(first, text=" ".join((first.text, *also)), fix=cure.fix, edits=cure.edits)


def _of(model: Model, part: Part, m: Meeting, play: float) -> list[Finding]:
    title = f"{model.title_of_body(m.one)} and {model.title_of_body(m.other)}"
    placed = _relations(part, m)
    found: list[Finding] = []

    def length(mm: float) -> str:
        return show(mm, LENGTH, model.read_in)

    def say(verdict: Literal["bad", "warn", "fine"], figure: str, text: str, **more: Any) -> None:
        found.append(Finding(verdict, m.one, m.other, title, figure, text, **{"ends": m.ends, **more}))

    if m.threads:
        say("fine", f"{m.shared:.4g} mm³", "Its thread cuts in here.")
        return found
    if m.shared:
        fix, edits = _cure(model, placed, play, below=0.0)
        say("bad", f"{m.shared:.4g} mm³", "They overlap: this much belongs to both.", fix=fix, edits=edits)
        return found
    if m.parted or m.bought:
        figure = length(m.gap) if m.gap >= 1e-6 else f"{m.contact:.4g} mm²" if m.contact else "touching"
        why = f"As {model.title_of(m.parted)} parts them." if m.parted else "Both are bought: made to go together."
        say("fine", figure, why)
        return found
    for shaft, hole, at in m.snug:
        if hole - shaft < play - 1e-9:
            say(
                "warn", length(hole - shaft),
                f"Play of a round thing in its hole, under {length(play)}: hole ⌀ {length(2 * (shaft + play))}, "
                f"or shaft ⌀ {length(2 * (hole - play))}.",
                ends=(at, at),
            )  # fmt: skip
        else:
            say("fine", length(hole - shaft), "Play of a round thing in its hole.", ends=(at, at))
    if m.gap < 1e-6:
        seated = any(_gap_of(model, p) in (0.0, None) for p in placed)
        area = f"{m.contact:.4g} mm²" if m.contact else "touching"
        if seated:
            say("fine", area, "Seated, as its place says.", ends=None)
        else:
            fix, edits = _cure(model, placed, play, below=play)
            say("warn", area, "They touch, and nothing says that they should.", fix=fix, edits=edits, ends=None)
    elif m.gap < play - 1e-9:
        fix, edits = _cure(model, placed, play, below=play)
        say("warn", length(m.gap), f"Nearer than the {length(play)} that printing needs.", fix=fix, edits=edits)
    elif not m.snug:
        say("fine", length(m.gap), "Clear all round.")
    return found


def _relations(part: Part, m: Meeting) -> list[tuple[Place, str]]:
    """The relations (step, number) that place one of two bodies by the other."""
    makers = {body_maker(m.one), body_maker(m.other)}
    found = []
    for step in part.steps:
        if isinstance(step, Place) and not step.skipped:
            for n in ("", "2", "3"):
                a, b = step.makers_of(f"a{n}"), step.makers_of(f"b{n}")
                if a and b and makers <= a | b and a & makers and b & makers:
                    found.append((step, n))
    return found


def _gap_of(model: Model, relation: tuple[Place, str]) -> float | None:
    """The gap a relation leaves, mm; None where its kind has none."""
    step, n = relation
    if not step.shown(f"gap{n}"):
        return None
    try:
        text = getattr(step, f"gap{n}").strip() or "0 mm"
        return evaluate(text, model.table.values, wanted=LENGTH, length_unit=model.units).value
    except Trouble:
        return None


def _cure(
    model: Model, placed: Sequence[tuple[Place, str]], play: float, below: float
) -> tuple[str, tuple[dict[str, Any], ...]]:
    """What to change so that a gap is no longer below something: the parameter it is, or the number itself."""
    for step, n in placed:
        gap = _gap_of(model, (step, n))
        if gap is None or gap >= below:
            continue
        good = show(play, LENGTH, model.units)
        formula = getattr(step, f"gap{n}").strip()
        if re.fullmatch(NAME, formula) and any(p.name == formula for p in model.parameters):
            return f"make {formula} {good}", ({"kind": "set_parameter", "name": formula, "formula": good},)
        return f"leave {good}", ({"kind": "set_fields", "step": step.id, "fields": {f"gap{n}": good}},)
    return "", ()
