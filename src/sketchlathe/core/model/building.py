"""Building a part: its steps in order, each cached under a digest of everything it depends on.

A step's key is a digest of its own fields (formulas evaluated), the keys of what it picks from and, for steps that make
solids, the key of the solids before it. Same key, same result. A step that fails leaves the solids before it in place.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

from ..errors import CannotBuild, Trouble
from ..making.context import Context
from ..making.results import BuildCache, PartBuild, StepResult
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

    limit = len(part.steps) if part.now is None else part.now
    results: list[StepResult] = []
    done: dict[str, StepResult] = {}
    bodies: tuple[Body, ...] = ()
    solid_key = "empty"
    for number, step in enumerate(part.steps):
        if number >= limit or step.skipped:
            status = "after" if number >= limit else "skipped"
            result = StepResult(step.id, "", status, bodies, solid_key)
        else:
            context = Context(model, bodies, done, step, others)
            result = _build_step(step, context, solid_key, cache, progress, number, limit, barred or {})
        results.append(result)
        if result.status != "after":
            done[step.id] = result
        bodies, solid_key = result.bodies, result.solid_key
    return PartBuild(part.id, tuple(results), bodies, solid_key)


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


def _build_step(
    step: Step,
    context: Context,
    solid_key: str,
    cache: BuildCache,
    progress: Progress | None,
    number: int,
    count: int,
    barred: Mapping[str, str],
) -> StepResult:
    before = context.bodies
    key = ""
    try:
        key = digest_of(
            [
                type(step).__name__,
                step.id,
                step.key_parts(context),
                solid_key if step.makes_solid else "",
                context.units,
            ]
        )
        cached = cache.get(key)
        if cached is not None:
            # a sketch's result does not carry the solids it was built among
            return cached if step.makes_solid else _among(cached, before, solid_key)
        if key in barred:
            raise CannotBuild(barred[key])
        if progress is not None:
            progress(step.id, key, number, count)
        try:
            step.build(context)
        finally:
            if progress is not None:  # what comes after is not this step's
                progress(step.id, "", number, count)
    except Trouble as problem:
        fixes = tuple(getattr(problem, "fixes", ()))
        blame = tuple(getattr(problem, "blame", ()))
        result = StepResult(
            step.id,
            key,
            "failed",
            before,
            solid_key,
            None,
            _titled(problem.message, context),
            problem.where or "",
            fixes,
            blame,
            context.handle,
            context.tools,
            before=before,
            spots=context.spots,
        )
        return _kept(cache, result) if key and key not in barred else result
    after = context.bodies if step.makes_solid else before
    new_key = digest_of(["solid", key]) if step.makes_solid else solid_key
    return _kept(
        cache,
        StepResult(
            step.id,
            key,
            "ok",
            after,
            new_key,
            context.sketch,
            advice=tuple(context.advice),
            afterwards=tuple(context.afterwards),
            handle=context.handle,
            tools=context.tools,
            tool_result=context.tool_result,
            datum=context.datum,
            reference=context.reference,
            before=before,
            moved=context.moved,
            worked_on=context.worked_on,
            free=context.free,
            links=context.links,
            went=context.went,
            hands=context.hands,
            pulls=context.pulls,
            spots=context.spots,
        ),
    )


def _titled(message: str, context: Context) -> str:
    """Messages from deeper layers name steps as {s4}; here they get their titles."""
    return re.sub(r"\{(\w+)\}", lambda m: context.title_of(m.group(1)), message)


def _kept(cache: BuildCache, result: StepResult) -> StepResult:
    cache.put(result)
    return result


def _among(result: StepResult, bodies: tuple[Body, ...], solid_key: str) -> StepResult:
    return replace(result, bodies=bodies, solid_key=solid_key)
