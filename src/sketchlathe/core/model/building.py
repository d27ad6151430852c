"""Building a part: its steps in order, each cached under a digest of everything it depends on.

A step's key is a digest of its own fields (formulas evaluated), the keys of what it picks from and, for steps that make
solids, the key of the solids before it. Same key, same result. A step that fails leaves the solids before it in place.
What a step's result says is kept apart from its solids, which are had again from those before them (``BuildCache``).
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

from ..errors import CannotBuild, Trouble
from ..making.context import Context
from ..making.results import NO_SOLIDS, BuildCache, Made, PartBuild, Solids, StepResult
from ..names import DRESSED, role
from ..plain_json import digest_of

if TYPE_CHECKING:
    from ..solid.naming import Body
    from ..steps.base import Step
    from .document import Model, Part

Progress = Callable[[str, str, int, int], None]


def build(
    model: Model,
    part: Part,
    cache: BuildCache,
    *,
    progress: Progress | None = None,
    barred: Mapping[str, str] | None = None,
    above: tuple[str, ...] = (),
    known: _Known | None = None,
) -> PartBuild:
    """Build a part up to its Now line. ``progress(step id, key, number, count)`` comes before each step not cached,
    and again behind it, without its key.

    ``barred`` gives, by key, steps that took a worker down before, and what to say of them. ``above``: the parts that
    are being built because this one is brought into them; ``known``: what was built on the way, each part once for each
    set of values.
    """
    if part.id in above:
        raise CannotBuild(f"{part.name} would be brought into itself.")

    known = _Known() if known is None else known

    def others(part_id: str, variant: str) -> PartBuild:
        wanted = known.model(_varied(model, variant)) if variant else model
        place = (_values(wanted), part_id)
        if place not in known.built:
            known.built[place] = build(
                wanted, wanted.part(part_id), cache,
                progress=progress, barred=barred, above=(*above, part.id), known=known,
            )  # fmt: skip
        return known.built[place]

    return _Walk(model, part, cache, progress, barred or {}, others).whole()


class _Walk:
    """One build: along what is known of the steps to where something changed, and on from the last solid there is."""

    def __init__(
        self,
        model: Model,
        part: Part,
        cache: BuildCache,
        progress: Progress | None,
        barred: Mapping[str, str],
        others: Callable[[str, str], PartBuild],
    ) -> None:
        self._model, self._part, self._cache, self._barred, self._others = model, part, cache, barred, others
        self._progress = progress
        self._limit = len(part.steps) if part.now is None else part.now
        self._results: list[StepResult] = []
        self._done: dict[str, StepResult] = {}

    def whole(self) -> PartBuild:
        """All steps."""
        for number, step in enumerate(self._part.steps):
            if number >= self._limit or step.skipped:
                result = self._passed("after" if number >= self._limit else "skipped", step)
            else:
                result = self._step(step, number)
            self._results.append(result)
            if result.status != "after":
                self._done[step.id] = result
        last = self._last()
        return PartBuild(self._part.id, tuple(self._results), last.bodies, last.solid_key)

    def _last(self) -> StepResult:
        return self._results[-1] if self._results else _NOTHING

    def _passed(self, status: str, step: Step) -> StepResult:
        """A step that leaves everything as it is."""
        last = self._last()
        return StepResult(
            step.id, "", status, last.left, last.solid_key, last.left,
            states=last.states, dressed=last.dressed, was_dressed=last.dressed,
        )  # fmt: skip

    def _told(self, step: Step, key: str, number: int) -> None:
        if self._progress is not None:
            self._progress(step.id, key, number, self._limit)

    def _key(self, step: Step, context: Context) -> str:
        last = self._last()

        def find() -> str:
            solids = last.solid_key if step.makes_solid else ""
            return digest_of([type(step).__name__, step.id, step.key_parts(context), solids, context.units])

        standing = step.stands_on(context)
        if standing is None:
            return find()
        return self._cache.key_at(
            digest_of([type(step).__name__, step.id, standing, last.solid_key, context.units]), find
        )

    def _step(self, step: Step, number: int) -> StepResult:
        last = self._last()
        context = Context(self._model, last.left, self._done, step, self._others)
        key = ""
        try:
            key = self._key(step, context)
            known = self._cache.get(key)
            if known is not None:
                return self._again(known, step, number)
            if key in self._barred:
                raise CannotBuild(self._barred[key])
            self._run(step, key, context, number)
        except Trouble as problem:
            result = replace(
                self._passed("failed", step),
                key=key,
                message=_titled(problem.message, context),
                where=problem.where or "",
                advice=tuple(getattr(problem, "fixes", ())),
                blame=tuple(getattr(problem, "blame", ())),
                handle=context.handle,
                spots=context.spots,
                left=Solids(Made(last.bodies, context.tools)) if context.tools else last.left,
                with_tools=bool(context.tools),
            )
            if key and key not in self._barred:
                self._keep(step, result)
            return result
        result = _outcome(step, key, last, context)
        self._keep(step, result)
        return result

    def _keep(self, step: Step, result: StepResult) -> None:
        self._cache.put(result)
        if step.makes_solid if result.status == "ok" else result.with_tools:
            self._cache.put_solids(result.key, result.left.made)

    def _run(self, step: Step, key: str, context: Context, number: int) -> None:
        self._told(step, key, number)
        try:
            step.build(context)
        finally:
            self._told(step, "", number)  # what comes after is not this step's

    def _again(self, known: StepResult, step: Step, number: int) -> StepResult:
        """A result that is known, among the solids of this build."""
        last = self._last()
        if known.status == "failed" or not step.makes_solid:
            # the result of a sketch, or of a step that failed, does not carry the solids it stands among
            known = replace(
                known, left=last.left, given=last.left, solid_key=last.solid_key,
                states=last.states, dressed=last.dressed, was_dressed=last.dressed,
            )  # fmt: skip
            if not known.with_tools:
                return known
        made = self._cache.solids(known.key)
        left = Solids(made) if made is not None else Solids(again=lambda: self._remade(step, known.key, number))
        return replace(known, left=left, given=last.left)

    def _remade(self, step: Step, key: str, number: int) -> Made:
        """The solids of a step whose result is known: from the last before it that are there, one step after the
        other.
        """
        at = number
        while at and not self._results[at - 1].left.at_hand:
            at -= 1
        for earlier in range(at, number):  # a chain of hundreds of steps is no chain of calls
            self._results[earlier].left.made  # noqa: B018
        made = self._cache.solids(key)
        if made is None:
            before = {r.step: r for r in self._results[:number] if r.status != "after"}
            given = self._results[number - 1].left if number else NO_SOLIDS
            context = Context(self._model, given, before, step, self._others)
            try:
                self._run(step, key, context, number)
                made = Made(context.bodies, context.tools)
            except Trouble:  # one that failed with shapes in its hands, which are shown
                made = Made(context.found, context.tools)
            self._cache.put_solids(key, made)
        return made


_NOTHING = StepResult("", "", "ok", NO_SOLIDS, "empty")


def _outcome(step: Step, key: str, last: StepResult, context: Context) -> StepResult:
    """What came of a step that was built."""
    states, dressed, left, solid_key = last.states, last.dressed, last.left, last.solid_key
    if step.makes_solid:
        left, solid_key = Solids(Made(context.bodies, context.tools)), digest_of(["solid", key])
        if context.changed:
            were = {b.id: b for b in context.found}
            states = {
                b.id: last.states[b.id] if b.id in were and were[b.id].shape is b.shape else f"{key}:{b.id}"
                for b in context.bodies
            }
            dressed = _dressed(context.bodies)
    return StepResult(
        step.id,
        key,
        "ok",
        left,
        solid_key,
        last.left,
        states=states,
        dressed=dressed,
        was_dressed=last.dressed,
        with_tools=bool(context.tools),
        sketch=context.sketch,
        advice=tuple(context.advice),
        afterwards=tuple(context.afterwards),
        handle=context.handle,
        tool_result=context.tool_result,
        took=tuple(context.took),
        along=context.along,
        datum=context.datum,
        reference=context.reference,
        moved=context.moved,
        worked_on=context.worked_on,
        free=context.free,
        links=context.links,
        went=context.went,
        hands=context.hands,
        pulls=context.pulls,
        spots=context.spots,
        put=context.put,
        sizes=tuple(context.sizes),
    )


def _dressed(bodies: tuple[Body, ...]) -> dict[str, int]:
    """How many faces carry each rounding's or bevel's atom."""
    found: dict[str, int] = {}
    for body in bodies:
        for name in body.names:
            for atom in name:
                if role(atom) in DRESSED:
                    found[atom] = found.get(atom, 0) + 1
    return found


@dataclass
class _Known:
    """What was built on the way, by the values and the part; and the model with some values, one for all who mean it:
    parts that bring each other as variants would else be built twice as often with every storey.
    """

    built: dict[tuple[tuple[str, ...], str], PartBuild] = field(default_factory=dict)
    models: dict[tuple[str, ...], Model] = field(default_factory=dict)

    def model(self, varied: Model) -> Model:
        """The one that has these values."""
        return self.models.setdefault(_values(varied), varied)


def _values(model: Model) -> tuple[str, ...]:
    return tuple(p.formula for p in model.parameters)


def _varied(model: Model, variant: str) -> Model:
    """The model with a variant's values, its sketches solved for them; made once for a model."""
    from .edits import apply_edit
    from .edits.variants import TakeVariant

    if variant not in model.varied:
        try:
            model.varied[variant] = apply_edit(model, TakeVariant(variant=variant))
        except Trouble as problem:
            raise CannotBuild(f"This variant cannot be had: {problem.message}", where="variant") from problem
    return model.varied[variant]


def _titled(message: str, context: Context) -> str:
    """Messages from deeper layers name steps as {s4}; here they get their titles."""
    return re.sub(r"\{(\w+)\}", lambda m: context.title_of(m.group(1)), message)
