"""What hangs together in a sketch: curves that no equation couples are changed, solved and judged without each other.

Two curves hang together where a constraint speaks of both, directly or by way of others. What stays where it is
whatever happens (the origin, the axes, what was taken from the solid) couples nothing; nor does a size that is only
read off. A portion of a sketch that is a union of such groups has the same solutions by itself as within the whole, so
the cost of a change is that of the groups it touches.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from functools import cached_property
from typing import Any

from pydantic import Field

from ..quantity import Quantity
from ..remembering import once_each
from .constraints import Constraint, Dimensional
from .document import Sketch, ValuedSketch


class Portion(ValuedSketch):
    """Some groups of a ``whole``: its curves are called as there, and it is measured by the size of that."""

    whole: ValuedSketch = Field(exclude=True)

    def _fields(self) -> dict[str, Any]:
        return {**super()._fields(), "whole": self.whole}

    def with_values(self, values: Mapping[str, float]) -> Portion:
        """See ``Sketch``."""
        return Portion.model_construct(**{**self._fields(), "values": dict(values)})

    @cached_property
    def _names(self) -> dict[str, str]:
        return self.whole._names

    def named_values(self) -> dict[str, Quantity]:
        """Those of the whole."""
        return self.whole.named_values()

    @cached_property
    def size(self) -> float:
        """That of the whole."""
        return self.whole.size


@once_each
def _members(constraint: Constraint) -> frozenset[str]:
    return constraint.members()


def portion(whole: ValuedSketch, refs: Iterable[str]) -> Portion:
    """The groups that the curves of some references belong to, with all constraints about them, in their order.

    ``refs`` may name points of curves, the origin, or what is not there.
    """
    curves = {c.id: c for c in whole.curves}
    fixed = {c.id for c in whole.curves if c.taken}
    about: dict[str, list[Constraint]] = {}
    couples = [(k, _members(k)) for k in whole.constraints if not (isinstance(k, Dimensional) and not k.driving)]
    for constraint, members in couples:
        for id in members:
            about.setdefault(id, []).append(constraint)
    stands_on = {c.id: c.along for c in whole.curves if c.kind == "text_along"}  # type: ignore[attr-defined]
    carries: dict[str, list[str]] = {}
    for text, curve in stands_on.items():
        carries.setdefault(curve, []).append(text)
    waiting = [id for id in {ref.partition(".")[0] for ref in refs} if id in curves]
    seen, said = set(waiting), set[str]()
    while waiting:
        id = waiting.pop()
        near = [*carries.get(id, ()), *([stands_on[id]] if id in stands_on else [])]
        if id not in fixed:
            for constraint in about.get(id, ()):
                if constraint.id not in said:
                    said.add(constraint.id)
                    near += _members(constraint)
        for other in near:
            if other not in seen and other in curves:
                seen.add(other)
                waiting.append(other)
    inside = [k for k, members in couples if k.id in said or (members and members <= seen & fixed)]
    return Portion.model_construct(
        curves=tuple(c for c in whole.curves if c.id in seen),
        constraints=tuple(inside),
        values={k.id: whole.values[k.id] for k in inside if k.id in whole.values},
        whole=whole,
    )


def put_back(whole: ValuedSketch, part: Sketch) -> ValuedSketch:
    """The whole with a portion as it has become: its curves moved, its constraints changed, new ones at the end."""
    curves = {c.id: c for c in part.curves}
    constraints = {k.id: k for k in part.constraints}
    old = {k.id for k in whole.constraints}
    found = whole
    if any(curves.get(c.id, c) is not c for c in whole.curves):
        found = found.with_curves(curves.get(c.id, c) for c in whole.curves)
    fresh = [k for k in part.constraints if k.id not in old]
    if fresh or any(constraints.get(k.id, k) is not k for k in whole.constraints):
        found = found.with_constraints((*(constraints.get(k.id, k) for k in whole.constraints), *fresh))
    values = part.values if isinstance(part, ValuedSketch) else {}
    if any(found.values.get(id) != value for id, value in values.items()):
        found = found.with_values({**found.values, **values})
    return found
