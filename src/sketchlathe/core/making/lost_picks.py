"""A pick that means nothing any more: where it was, and what could be taken instead. Never taken without asking."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any

from pydantic import BaseModel

from ..advice import Advice
from ..blanks import EdgePick, FacePick
from ..errors import CannotBuild
from ..names import head, origin

if TYPE_CHECKING:
    from ..blanks import Pick as AnyPick
    from ..solid.naming import Body
    from ..steps.base import Step

Pick = EdgePick | FacePick


def explain_lost(problem: CannotBuild, pick: Pick, step: Step | None, bodies: Sequence[Body]) -> None:
    """Put the place of a lost pick, and proposals for the blank it stands in, to what is reported."""
    if not bodies:
        return
    body = _body_of(pick, bodies)
    problem.blame = ({"at": _place(pick, body), "body": body.id},)
    if step is None:
        return
    fixes = []
    instead = _nearest(pick, body)
    field = with_instead(step, {pick: [instead]}) if instead else None
    if field:
        fixes.append(Advice(problem.message, "take the nearest one like it", field))
    without = with_instead(step, {pick: []})
    if without:
        fixes.append(Advice(problem.message, "leave it out", without))
    problem.fixes = tuple(fixes)


def _atoms(pick: Pick) -> list[str]:
    return [*pick.first, *pick.second] if isinstance(pick, EdgePick) else [*pick.atoms]


def _body_of(pick: Pick, bodies: Sequence[Body]) -> Body:
    """The body that has most in common with a pick."""
    makers = {head(atom) for atom in _atoms(pick)}

    def likeness(body: Body) -> int:
        return sum(head(atom) in makers for name in body.names for atom in name)

    return max(bodies, key=likeness)


def _place(pick: Pick, body: Body) -> list[float]:
    """Where it was, by its place in the body's box."""
    from ..solid.measuring import rough_box

    low, high = rough_box(body.shape)
    return [l + c * (h - l) for l, h, c in zip(low, high, pick.centre)]


def _nearest(pick: Pick, body: Body) -> dict[str, Any] | None:
    """A pick of the nearest face or edge that came about like the lost one (same step and role), if there is one."""
    wanted = {origin(atom) for atom in _atoms(pick)}
    if isinstance(pick, FacePick):
        from ..solid.digest import around_faces, pick_of_face

        alike = [i for i, name in enumerate(body.names) if wanted & {origin(a) for a in name}]
        if not alike:
            return None
        around = around_faces(body, alike)
        return pick_of_face(body, min(around, key=lambda f: math.dist(f[2], pick.centre))[0])
    from ..solid.edges import named_edges, pick_of

    edges = named_edges(body)
    alike_edges = [e for e in edges if wanted <= {origin(a) for a in (*e.first, *e.second)} and e.first != e.second]
    if not alike_edges:
        return None
    return pick_of(min(alike_edges, key=lambda e: math.dist(e.centre, pick.centre)), edges)


def with_instead(step: Step, instead: Mapping[AnyPick, Sequence[dict[str, Any]]]) -> dict[str, Any]:
    """The blank with picks replaced by others (left out where there are none): {field: value}; empty when that makes no
    sense.
    """
    for name in step.blanks():
        value = getattr(step, name)
        if isinstance(value, tuple) and any(pick in value for pick in instead):
            kept = [new for v in value for new in (instead[v] if v in instead else [_plain(v)])]
            return {name: kept} if kept else {}
        if isinstance(value, BaseModel):
            for slot in ("face", "edge"):
                found = instead.get(getattr(value, slot, None), ())  # type: ignore[arg-type]
                if len(found) == 1:
                    return {name: {**_plain(value), slot: found[0]}}
    return {}


def _plain(value: Any) -> Any:
    return value.model_dump(mode="json") if isinstance(value, BaseModel) else value
