"""What fillet and chamfer share: sets of edges, each with its sizes; the largest that works when one is too big."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING, Any

from ..advice import Advice
from ..errors import CannotBuild
from ..names import DRESSED, maker, role

if TYPE_CHECKING:
    from ..blanks import EdgePick, FacePick
    from ..making.context import Context
    from ..solid.edges import NamedEdge
    from ..solid.naming import Body
    from .base import Step

Sized = tuple["NamedEdge", float, float]


def gather(
    context: Context,
    sets: Sequence[tuple[Sequence[EdgePick], Sequence[FacePick], float, float, str]],
) -> dict[str, list[Sized]]:
    """Edges by body with their sizes; of picked faces all edges. Later sets win where an edge is in two."""
    found: dict[str, dict[int, Sized]] = {}
    for picks, faces, first, second, where in sets:
        for body, edges in context.edges_of(picks, where).items():
            for edge in edges:
                found.setdefault(body, {})[edge.index] = (edge, first, second)
        for face in context.faces_of(faces, where):
            name = face.name
            for edge in context.all_edges(face.body):
                if name in (edge.first, edge.second) and edge.first != edge.second:
                    found.setdefault(face.body.id, {})[edge.index] = (edge, first, second)
    return {body: list(edges.values()) for body, edges in found.items()}


def dress(
    context: Context,
    step: Step,
    edges: dict[str, list[Sized]],
    make: Callable[[Body, Any, str], Body],
    main: str,
    value: float,
    besides: Mapping[str, float] = {},
) -> None:
    """Apply to every body; on failure say which edge and the largest size that works. ``besides``: other blanks of the
    first set with their sizes, which shrink with it.
    """
    from ..solid.fillets import blamed, largest

    for body in list(context.bodies):
        if body.id not in edges:
            continue
        sized = edges[body.id]
        try:
            made = make(body, sized, step.id)
        except CannotBuild as problem:
            factor = largest(body, sized, make, value)
            bad = blamed(body, sized, make)
            which = f" {len(bad)} of {len(sized)} edges cannot take it by themselves." if bad and len(sized) > 1 else ""
            if factor > 1e-3:
                text = context.at_most(value * factor)
                others = {field: context.at_most(size * factor) for field, size in besides.items()}
                largest_one = " and ".join([text, *others.values()])
                raised = CannotBuild(
                    f"{problem.message}{which} The largest that works here is {largest_one}.",
                    where=main,
                    blame=tuple(_place(e) for e in bad),
                )
                raised.fixes = (Advice(problem.message, f"make it {largest_one}", {main: text, **others}),)
                raise raised from problem
            raise CannotBuild(f"{problem.message}{which}", where=main, blame=tuple(_place(e) for e in bad)) from problem
        context.replace(body, [made])
        context.along += sum(any(maker(a) == step.id and role(a) in DRESSED for a in name) for name in made.names)


def _place(edge: NamedEdge) -> dict[str, Any]:
    from ..solid.edges import edge_shape, middle_of

    return {"at": middle_of(edge_shape(edge)), "body": edge.body.id, "edge": edge.index}
