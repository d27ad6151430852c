"""Adding constraints: solved, refused with the smallest set they fight with, or left out when
they were only implied.
"""

from __future__ import annotations

from collections.abc import Callable

from ...errors import Refused, Trouble
from ..constraints import CONSTRAINTS, Constraint, Dimensional
from ..coupling import Portion, portion, put_back
from ..document import ValuedSketch
from ..solver.conflict import adds_nothing, fights_with, is_so
from ..solver.solving import Solution, Verdict, solve

Fresh = Callable[[str], str]  # a new id with a prefix: "c" for curves, "k" for constraints


def solved_or_refused(solution: Solution, what: str) -> ValuedSketch:
    """The solved sketch, or ``Refused`` saying why it could not be."""
    if solution.verdict is Verdict.SOLVED:
        return solution.sketch
    sketch = solution.sketch
    if solution.verdict is Verdict.FLIPS:
        raise Refused(f"{what} would turn the shape inside out, so it was left as it is. Try a value between.")
    ids = {c.id: c for c in sketch.constraints}
    strained = tuple(i for i in solution.strained if i in ids)
    named = [ids[i].sentence(sketch) for i in strained[:4]]
    against = f" It fights with: {'; '.join(named)}." if named else ""
    words = tuple(ids[i].sentence(sketch) for i in strained)
    raise Refused(f"{what} cannot be: no shape has all these sizes at once.{against}", fights=strained, words=words)


def add_constraint(sketch: ValuedSketch, constraint: Constraint) -> ValuedSketch:
    """The sketch with one more constraint, solved. ``Refused`` names the smallest set it fights with."""
    if isinstance(constraint, Dimensional) and not constraint.driving:
        return sketch.with_constraints((*sketch.constraints, constraint))
    if isinstance(sketch, Portion):
        return _added(sketch, constraint)
    part: ValuedSketch = portion(sketch, constraint.members())
    if constraint.id in sketch.values:
        part = part.with_value(constraint.id, sketch.values[constraint.id])
    return put_back(sketch, _added(part, constraint))


def _added(sketch: ValuedSketch, constraint: Constraint) -> ValuedSketch:
    sketch = constraint.prepared(sketch)
    if adds_nothing(sketch, constraint):
        refuse_extra(sketch, constraint, fights_with(sketch, constraint), so=is_so(sketch, constraint))
    solution = solve(sketch.with_constraints((*sketch.constraints, constraint)), fresh=(constraint.id,))
    if solution.verdict is Verdict.CONFLICT:
        strained = tuple(i for i in solution.strained if i != constraint.id)
        fights = tuple(i for i in strained if any(c.id == i for c in sketch.constraints))
        refuse_extra(sketch, constraint, fights, so=False)
    return solved_or_refused(solution, constraint.word.capitalize())


def refuse_extra(sketch: ValuedSketch, constraint: Constraint, fights: tuple[str, ...], *, so: bool) -> None:
    """Say that a constraint is one too many, and against which others; ``so``: what it asks is so already."""
    by_id = {c.id: c for c in sketch.constraints}
    telling = [by_id[i] for i in fights if i in by_id]
    loud = [c for c in telling if "joins" not in c.does] or telling
    named = "; ".join(c.sentence(sketch) for c in loud[:5]) or "what is there already"
    asked = f"“{constraint.sentence(sketch)}”"
    text = f"{asked} is settled already by {named}" if so else f"{asked} cannot be together with {named}"
    # what says most comes first: joins are rarely what is to go
    ordered = (*(c for c in telling if "joins" not in c.does), *(c for c in telling if "joins" in c.does))
    words = tuple(c.sentence(sketch) for c in ordered)
    raise Refused(f"One too many: {text}.", where=constraint.id, fights=tuple(c.id for c in ordered), words=words)


def add_if_it_fits(
    sketch: ValuedSketch, fresh: Fresh, kind: str, refs: tuple[str, ...], **fields: object
) -> ValuedSketch:
    """The sketch with a constraint that is implied only: what does not fit or adds nothing is left out."""
    try:
        return add_constraint(sketch, CONSTRAINTS[kind].made(sketch, fresh("k"), refs, **fields))
    except Trouble:
        return sketch


def add_as_drawn(
    sketch: ValuedSketch, fresh: Fresh, kind: str, refs: tuple[str, ...], **fields: object
) -> ValuedSketch:
    """The sketch with a constraint that the drawing satisfies already: not solved here, only put in."""
    constraint = CONSTRAINTS[kind].made(sketch, fresh("k"), refs, **fields)
    sketch = constraint.prepared(sketch)
    return sketch.with_constraints((*sketch.constraints, constraint))
