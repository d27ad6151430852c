"""What mirror and pattern share: taking what some steps did, or whole bodies, to other places."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

from ..advice import Advice
from ..errors import CannotBuild
from ..names import body_maker

if TYPE_CHECKING:
    from ..frames import Triple
    from ..making.context import Context
    from ..making.results import StepResult
    from ..solid.naming import Body
    from .base import Step

Renaming = Callable[[int], Callable[[str], str]]


def repeat_bodies(
    context: Context, step: Step, bodies: Sequence[Body], motions: Sequence[Any], rename: Renaming, unite: bool
) -> None:
    """Copies of bodies, united with what is there or standing by themselves."""
    from ..solid.transforms import copied

    made = [
        copied(body, motion, f"{step.id}.{number}.{body.id}", rename(number))
        for number, motion in enumerate(motions)
        for body in bodies
    ]
    context.combine(step, made, "add" if unite else "separate")


def repeat_steps(
    context: Context, step: Step, ids: Sequence[str], motions: Sequence[Any], rename: Renaming, field: str
) -> None:
    """What the steps added or took away, done again elsewhere. Shapes are repeated as shapes; what dressed edges is
    repeated as the material it added or took. One n-ary operation a step."""
    from ..solid.transforms import copied

    everything: list[Body] = []
    idle: list[str] = []
    for id in ids:
        result = context.result_of(id)
        before = context.bodies
        for tools, what in _deeds(result):
            made = [
                copied(tool, motion, f"{step.id}.{number}.{tool.id}", rename(number))
                for number, motion in enumerate(motions)
                for tool in tools
            ]
            try:
                context.combine(step, made, what)
            except CannotBuild as problem:
                if problem.where != "way":
                    raise
                idle.append(id)
                continue
            everything.extend(made)
        if context.bodies is before and id not in idle:
            idle.append(id)
    context.tools = tuple(everything)
    if idle:
        _forgotten(context, idle, ids, field)


def middle_of_steps(context: Context, ids: Sequence[str], bodies: Sequence[Body]) -> Triple | None:
    """The middle of what steps added or took away, or of some bodies: where a member of a pattern is picked."""
    from ..solid.measuring import rough_box

    tools = [tool for id in ids for tool in context.result_of(id).tools]
    boxes = [rough_box(body.shape) for body in (tools or bodies)]
    if not boxes:
        return None
    low, high = (tuple(f(box[end][k] for box in boxes) for k in range(3)) for end, f in ((0, min), (1, max)))
    return ((low[0] + high[0]) / 2, (low[1] + high[1]) / 2, (low[2] + high[2]) / 2)


def _deeds(result: StepResult) -> list[tuple[Sequence[Body], str]]:
    """What a step did, as shapes and what became of them."""
    if result.tools and result.tool_result in ("add", "cut", "separate"):
        return [(result.tools, result.tool_result)]
    from ..solid.shapes import without

    before = {b.id: b for b in result.before}
    after = {b.id: b for b in result.bodies}
    gone: list[Body] = []
    added: list[Body] = []
    for id, body in after.items():
        if id not in before:
            added.append(body)
        elif before[id].shape is not body.shape:
            gone.extend(without(before[id], [body], result.step))
            added.extend(without(body, [before[id]], result.step))
    return [(bodies, what) for bodies, what in ((added, "add"), (gone, "cut")) if bodies]


def _worked_on(result: StepResult) -> list[str]:
    """The steps that made the bodies which a step changed."""
    after = {b.id: b.shape for b in result.bodies}
    return [body_maker(b.id) for b in result.before if after.get(b.id) is not b.shape]


def _forgotten(context: Context, idle: Sequence[str], chosen: Sequence[str], field: str) -> None:
    """A repeated step that changes nothing needs other steps repeated too: name them and offer to add them."""
    wanted: list[str] = []
    for id in idle:
        for other in (*context.needed_by(id), *_worked_on(context.result_of(id))):
            if other not in chosen and other not in wanted:
                wanted.append(other)
    titles = " and ".join(f"{{{i}}}" for i in idle)
    if not wanted:
        raise CannotBuild(f"Repeating {titles} there changes nothing: there is no material at that place.", where=field)
    names = " and ".join(f"{{{i}}}" for i in wanted)
    problem = CannotBuild(
        f"Repeating {titles} there changes nothing: it works on what {names} made, which is not repeated.", where=field
    )
    text = " and ".join(context.title_of(i) for i in wanted)
    problem.fixes = (Advice(problem.message, f"add {text}", {field: [*wanted, *chosen]}),)
    raise problem
