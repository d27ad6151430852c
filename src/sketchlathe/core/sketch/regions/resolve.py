"""Finding a picked region again after the sketch has changed.

A pick is the set of curve sides that bounded it and the curves that existed then. Pieces of curves drawn since
do not separate (flood over them): what was picked stays picked, whatever is drawn in it. A flooded set is the one meant
when it has every stored side that is still drawn and the opposite of none.
"""

from __future__ import annotations

from collections.abc import Collection, Set
from typing import NamedTuple

from .arrangement import Arrangement, Region


class Found(NamedTuple):
    """The regions a pick means now. ``exact`` when its name is unchanged; ``why`` says what is wrong if none.

    ``inside``: those of them that lie in outlines drawn since within what was picked, and touch none of its own curves.
    """

    regions: tuple[Region, ...]
    exact: bool
    why: str = ""
    inside: tuple[Region, ...] = ()


def resolve(arrangement: Arrangement, sides: Collection[str], known: Collection[str]) -> Found:
    """The regions that a pick of ``sides``, made when the curves ``known`` existed, means now."""
    same = arrangement.by_key((*sorted(s for s in sides if s[0] != "#"), *(s for s in sides if s[0] == "#")))
    if same:
        return Found(tuple(same), True)
    wanted = frozenset(s for s in sides if s[0] != "#")
    alive = {owner for edge in arrangement.edges for owner in edge.owners}
    still = {side for side in wanted if side[:-1] in alive}
    if not still:
        return Found((), False, "none of the curves around that region bound anything any more")
    opposite = {side[:-1] + ("-" if side[-1] == "+" else "+") for side in wanted} - wanted
    fitting = []
    for group in _flooded(arrangement, frozenset(known)):
        has = frozenset(s for index in group for s in _old_sides(arrangement, index, known))
        if still <= has and not has & opposite:
            fitting.append(group)
    if len(fitting) == 1:
        regions = tuple(arrangement.regions[i] for i in sorted(fitting[0]))
        return Found(regions, False, inside=_inside(arrangement, fitting[0], still, frozenset(known)))
    if fitting:
        return Found((), False, "several regions now fit what was picked")
    return Found((), False, "that region is not closed any more")


def _old_sides(arrangement: Arrangement, index: int, known: Collection[str]) -> set[str]:
    return {side for side in arrangement.regions[index].sides if side[:-1] in known}


def _flooded(arrangement: Arrangement, known: frozenset[str]) -> list[set[int]]:
    """Regions joined over edges of newer curves."""
    return _joined(arrangement, {e for e, edge in enumerate(arrangement.edges) if not known & set(edge.owners)})


def _joined(arrangement: Arrangement, over: Collection[int]) -> list[set[int]]:
    """Regions joined over some edges."""
    groups = {region.index: {region.index} for region in arrangement.regions}
    for e in over:
        a, b = arrangement.region_of[2 * e], arrangement.region_of[2 * e + 1]
        if a < 0 or b < 0 or groups[a] is groups[b]:
            continue
        joined = groups[a] | groups[b]
        for index in joined:
            groups[index] = joined
    return list({id(group): group for group in groups.values()}.values())


def _inside(
    arrangement: Arrangement, group: Collection[int], sides: Set[str], known: frozenset[str]
) -> tuple[Region, ...]:
    """Of a flooded set, what lies in new outlines that cross none of the picked region's own."""
    islands = _new_islands(arrangement, known)
    new = {e for e, edge in enumerate(arrangement.edges) if not known & set(edge.owners)}
    pieces = [piece for piece in _joined(arrangement, new - islands) if piece <= set(group)]
    own = [piece for piece in pieces if any(sides & arrangement.regions[i].sides for i in piece)]
    return tuple(arrangement.regions[i] for piece in pieces if piece not in own for i in sorted(piece))


def _new_islands(arrangement: Arrangement, known: frozenset[str]) -> set[int]:
    """Edges of hole loops made of newer curves only."""
    found: set[int] = set()
    for region in arrangement.regions:
        for hole in region.holes:
            edges = {h // 2 for h in hole.half_edges}
            if not any(owner in known for e in edges for owner in arrangement.edges[e].owners):
                found |= edges
    return found
