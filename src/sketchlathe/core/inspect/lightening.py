"""The lightest part that still is what it must be: two or three numbers, limits on walls and size.

A compass search (Kolda, Lewis, Torczon 2003, "Optimization by direct search"): from where the part is, each number is
moved both ways by a step; what is lighter and holds is taken, and where nothing is, the step is halved. No slopes are
needed, and what does not hold (it cannot be built, is another part, has too thin a wall) is just not taken.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..errors import BadInput, Refused
from ..making.results import BuildCache
from ..model.document import Model
from ..model.knobs import Knob, knob_of
from ..quantity import LENGTH, evaluate
from .figures import Given, thinnest_wall
from .flexing import Probe, handy
from .searching import Progress, Search

MOST = 3  # numbers at once
MOST_BUILDS = 120
FIRST, LEAST = 0.25, 0.004  # steps, as shares of a number's value


@dataclass(frozen=True)
class Must:
    """What must still be so: no wall thinner than ``wall`` (mm; 0: any), a box no longer than ``most`` and no shorter
    than ``least`` along x, y, z (mm; None: any).
    """

    wall: float = 0.0
    least: tuple[float | None, ...] = (None, None, None)
    most: tuple[float | None, ...] = (None, None, None)

    @classmethod
    def of(cls, model: Model, raw: Mapping[str, Any]) -> Must:
        """As typed: ``wall``, and sides like ``60`` (no longer) or ``>60`` (no shorter). Raises ``BadInput``."""

        def length(text: str) -> float:
            return evaluate(text, model.table.values, wanted=LENGTH, length_unit=model.units).value

        wall = str(raw.get("wall") or "").strip()[:400]
        least: list[float | None] = [None, None, None]
        most: list[float | None] = [None, None, None]
        for k, axis in enumerate("xyz"):
            for word, into in (("least", least), ("most", most)):
                text = str(raw.get(f"{word} {axis}") or "").strip()[:400]
                into[k] = length(text) if text else None
        return cls(length(wall) if wall else 0.0, tuple(least), tuple(most))


@dataclass(frozen=True)
class Lightest:
    """What the parameters are to be, what the part then weighs (g), how many builds it took, and what held it back."""

    formulas: dict[str, str]
    mass: float
    builds: int
    held: str


def lightest(
    model: Model,
    part_id: str,
    names: Sequence[str],
    must: Must,
    cache: BuildCache,
    progress: Progress | None = None,
) -> Lightest:
    """The values of some parameters at which a part is lightest, found from where they are now. They stay within limits
    that somebody gave them, else between a third and three times what they are. Raises ``Refused`` where the part is
    not as it must be to begin with.
    """
    if not 1 <= len(set(names)) <= MOST:
        raise BadInput(f"Choose one to {MOST} parameters.")
    part = model.part(part_id)
    chosen = [knob_of(model, part, f"p:{n}") for n in dict.fromkeys(names)]
    spans = [_span(model, k) for k in chosen]
    search, probe = Search(model, part_id, (), cache, places=True), Probe(model, part_id, cache)
    known: dict[tuple[float, ...], tuple[float, str]] = {}

    def weigh(point: tuple[float, ...]) -> tuple[float, str]:
        """The mass at some values, and why it may not be so (empty: it may)."""
        if point not in known:
            if progress is not None:
                said = ", ".join(f"{k.title} {k.said(v, model, 4)}" for k, v in zip(chosen, point))
                progress(said, len(known) + 1, MOST_BUILDS)
            edits = [k.turned(v, model) for k, v in zip(chosen, point)]
            outcome = probe.try_edits(edits)
            changed = search.with_edits(edits)
            weighed = search.weigh(changed) if changed is not None and outcome.holds else None
            if changed is None or weighed is None:
                known[point] = 0.0, outcome.why or "it cannot be built"
            else:
                given = Given(changed, changed.part(part_id), search.built(changed), weighed)
                known[point] = weighed.mass, _amiss(given, must)
        return known[point]

    at = tuple(k.value for k in chosen)
    mass, why = weigh(at)
    if why:
        raise Refused(f"The part is not as it must be to begin with: {why}.")
    step, held = FIRST, ""
    while step >= LEAST and len(known) < MOST_BUILDS:
        better = None
        for i, (knob, span) in enumerate(zip(chosen, spans)):
            for sense in (-1, 1):
                value = min(max(at[i] + sense * step * abs(knob.value), span[0]), span[1])
                if knob.whole:
                    value = float(round(value))
                point = (*at[:i], value, *at[i + 1 :])
                if point == at or len(known) >= MOST_BUILDS:
                    continue
                other, why = weigh(point)
                if why:
                    held = why
                elif other < mass * (1 - 1e-9) and (better is None or other < better[0]):
                    better = other, point
        if better is None:
            step /= 2
        else:
            mass, at = better
    rounded = tuple(handy(v, k.value) for v, k in zip(at, chosen))
    final = weigh(rounded)
    if final[1]:  # the round numbers are not as they must be
        rounded, final = at, (mass, "")
    return Lightest(
        {n: k.said(v, model) for n, k, v in zip(dict.fromkeys(names), chosen, rounded)}, final[0], len(known), held
    )


def _span(model: Model, knob: Knob) -> tuple[float, float]:
    limits = next((k for k in model.limits if k.knob == knob.id), None)
    ends = sorted((knob.value / 3, knob.value * 3))
    if limits is not None:
        for i, text in enumerate((limits.low, limits.high)):
            if text:
                ends[i] = evaluate(text, model.table.values, wanted=knob.dimension, length_unit=model.units).value
    return ends[0], ends[1]


def _amiss(given: Given, must: Must) -> str:
    """What is not as it must be, in words; empty: nothing."""
    low, high = given.weighed.box
    for k, axis in enumerate("xyz"):
        side, least, most = high[k] - low[k], must.least[k], must.most[k]
        if most is not None and side > most * (1 + 1e-9):
            return f"the box along {axis} would be longer than {most:g} mm"
        if least is not None and side < least * (1 - 1e-9):
            return f"the box along {axis} would be shorter than {least:g} mm"
    if must.wall:
        wall = thinnest_wall(given, 2 * must.wall)
        if wall is not None and wall < must.wall * 0.999:
            return f"a wall would be {wall:.3g} mm thin"
    return ""
