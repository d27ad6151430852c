"""Finding picked edges again. Like faces (see ``references``), by names first, then by what meets at their ends."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from ..errors import CannotBuild
from ..names import maker, role, source

if TYPE_CHECKING:
    from ..blanks import EdgePick
    from ..solid.edges import NamedEdge
    from ..solid.naming import Body


@dataclass(frozen=True)
class ResolvedEdges:
    """The edges a pick means now; ``advice`` is empty when that is sure."""

    edges: tuple[NamedEdge, ...]
    advice: str = ""


def find_edges(
    pick: EdgePick, bodies: Sequence[Body], named: dict[str, list[NamedEdge]] | None = None
) -> ResolvedEdges:
    """The edges that ``pick`` means in ``bodies``. Raises ``CannotBuild`` saying why when there is none.

    ``named`` keeps the names of a body's edges between calls.
    """
    from ..solid.edges import named_edges

    first, second = frozenset(pick.first), frozenset(pick.second)
    kept = {} if named is None else named
    exact: list[NamedEdge] = []
    fitting: list[NamedEdge] = []
    for body in bodies:
        if not any(_fits(first, n) for n in body.names) or not any(_fits(second, n) for n in body.names):
            continue
        if body.id not in kept:
            kept[body.id] = named_edges(body)
        for edge in kept[body.id]:
            pair = (edge.first, edge.second)
            if pair in ((first, second), (second, first)):
                exact.append(edge)
            elif (_fits(first, pair[0]) and _fits(second, pair[1])) or (
                _fits(first, pair[1]) and _fits(second, pair[0])
            ):
                fitting.append(edge)
    candidates = exact or fitting
    advice = (
        ""
        if exact
        else "A face beside the edge picked here has been joined with another; check that it is the one meant."
    )
    if not candidates:
        raise CannotBuild(_why_gone(pick, bodies), where="edges", blame=(pick.model_dump(mode="json"),))
    if not pick.siblings:
        if len(candidates) > 1 and not advice:
            advice = f"An edge picked here is now in {len(candidates)} pieces; all of them are used."
        return ResolvedEdges(tuple(candidates), advice)
    return _among_siblings(pick, candidates, advice)


def _fits(wanted: frozenset[str], name: frozenset[str]) -> bool:
    return wanted == name or wanted <= name or name <= wanted


def _among_siblings(pick: EdgePick, candidates: list[NamedEdge], advice: str) -> ResolvedEdges:
    mine = (frozenset(pick.ends[0]), frozenset(pick.ends[1]))
    siblings = [(frozenset(a), frozenset(b)) for a, b in pick.siblings]
    same = [e for e in candidates if e.ends == mine]
    if mine not in siblings:
        if len(same) == 1:
            return ResolvedEdges((same[0],), advice)
        only_mine = (mine[0] | mine[1]) - frozenset().union(*(a | b for a, b in siblings))
        theirs = frozenset().union(*(a | b for a, b in siblings)) - (mine[0] | mine[1])
        unlike = [e for e in candidates if (e.ends[0] | e.ends[1]) & only_mine and not (e.ends[0] | e.ends[1]) & theirs]
        if unlike and not same:
            return ResolvedEdges(tuple(unlike), advice)
        if len(candidates) == 1 and not (candidates[0].ends[0] | candidates[0].ends[1]) & (theirs - only_mine):
            return ResolvedEdges((candidates[0],), "An edge picked here was one of several pieces and is whole again.")
        scored = sorted(candidates, key=lambda e: -_likeness(e.ends, mine))
        best = _likeness(scored[0].ends, mine)
        rival = max((_likeness(scored[0].ends, s) for s in siblings), default=0.0)
        if (len(scored) == 1 or _likeness(scored[1].ends, mine) < best) and rival < best and best > 0:
            return ResolvedEdges(
                (scored[0],), "What surrounds an edge picked here has changed; check that it is the one meant."
            )
        candidates = same or candidates
    else:
        candidates = same or candidates
    return _nearest(pick, candidates, advice)


def _likeness(a: tuple[frozenset[str], frozenset[str]], b: tuple[frozenset[str], frozenset[str]]) -> float:
    return sum(len(x & y) / max(len(x | y), 1) for x, y in zip(a, b))


def _nearest(pick: EdgePick, candidates: list[NamedEdge], advice: str) -> ResolvedEdges:
    """Edges alike in everything but place: the nearest, if clearly nearer than the next."""
    ranked = sorted(candidates, key=lambda e: math.dist(e.centre, pick.centre))
    near = math.dist(ranked[0].centre, pick.centre)
    if len(ranked) == 1 or near < 1e-3:
        return ResolvedEdges((ranked[0],), advice)
    if math.dist(ranked[1].centre, pick.centre) >= 3 * near:
        return ResolvedEdges(
            (ranked[0],), "An edge picked here was found by its place; check that it is the one meant."
        )
    raise CannotBuild(
        "Several edges now look like one that was picked here: pick it again.",
        where="edges",
        blame=(pick.model_dump(mode="json"),),
    )


def _why_gone(pick: EdgePick, bodies: Sequence[Body]) -> str:
    if not bodies:
        return "There is no solid here yet for the edges that were picked: pick them again."
    alive = {atom for body in bodies for name in body.names for atom in name}
    for atom in alive:
        how = {"blend": "rounded", "bevel": "chamfered"}.get(role(atom))
        if how and _between(source(atom), pick):
            return f"An edge picked here is {how} by {{{maker(atom)}}} already: pick again."
    missing = [side for side in (pick.first, pick.second) if not alive & set(side)]
    if missing:
        step = maker(missing[0][0])
        return f"An edge picked here is gone with a face of {{{step}}}: pick again."
    return "Two faces that met in an edge picked here do not meet any more: pick again."


def _between(source: str, pick: EdgePick) -> bool:
    """Whether a blend's source names the two faces of a picked edge."""
    text = source.strip("[]")
    return "+".join(sorted(pick.first)) in text and "+".join(sorted(pick.second)) in text
