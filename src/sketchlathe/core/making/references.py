"""Finding again what was picked, after the part has changed. Never a silent guess.

A face pick stores its atoms, the names around it, and what surrounded its siblings (other faces that had the same
name then). Resolution answers with faces and, where it is less than sure, a word of advice; or says why not.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from ..errors import CannotBuild
from ..names import head

if TYPE_CHECKING:
    from ..blanks import FacePick
    from ..solid.naming import Body


@dataclass(frozen=True)
class Candidate:
    """A face that a pick may mean: its body, index (0-based), name, surroundings and normalised centre."""

    body: Body
    index: int
    name: frozenset[str]
    neighbours: frozenset[str]
    centre: tuple[float, float, float]


@dataclass(frozen=True)
class Resolved:
    """The faces a pick means now. ``advice`` is empty when that is sure."""

    faces: tuple[Candidate, ...]
    advice: str = ""


def find_faces(pick: FacePick, bodies: Sequence[Body]) -> Resolved:
    """The faces that ``pick`` means in ``bodies``. Raises ``CannotBuild`` saying why when there is none."""
    atoms = frozenset(pick.atoms)
    candidates = _candidates(atoms, bodies)
    if not candidates:
        raise CannotBuild(_why_gone(pick, bodies), where="face", blame=(pick.model_dump(mode="json"),))
    exact = [c for c in candidates if c.name == atoms]
    advice = (
        "" if exact else "The face picked here has been joined with another or divided; check that it is the one meant."
    )
    candidates = exact or candidates
    if not pick.siblings:
        if len(candidates) > 1 and not advice:
            advice = f"The face picked here is now in {len(candidates)} pieces."
        return Resolved(tuple(candidates), advice)
    return _among_siblings(pick, candidates, advice)


def _candidates(atoms: frozenset[str], bodies: Sequence[Body]) -> list[Candidate]:
    """Faces whose name is the pick's, or contains it (merged since), or is part of it (divided since)."""
    found = []
    for body in bodies:
        hits = [i for i, name in enumerate(body.names) if name == atoms or atoms <= name or name <= atoms]
        if hits:
            found.extend(describe(body, hits))
    return found


def describe(body: Body, indices: Sequence[int]) -> list[Candidate]:
    """Candidates for some faces of a body, with surroundings and normalised centres."""
    from ..solid.digest import around_faces

    return [
        Candidate(body, i, body.names[i], neighbours, centre) for i, neighbours, centre in around_faces(body, indices)
    ]


def _among_siblings(pick: FacePick, candidates: list[Candidate], advice: str) -> Resolved:
    mine = frozenset(pick.neighbours)
    siblings = [frozenset(s) for s in pick.siblings]
    if all(s == mine for s in siblings):
        return _twins(pick, candidates)
    same = [c for c in candidates if c.neighbours == mine]
    if len(same) == 1:
        return Resolved((same[0],), advice)
    only_mine = mine - frozenset().union(*siblings)
    only_theirs = frozenset().union(*siblings) - mine
    unlike = [c for c in candidates if c.neighbours & only_mine and not c.neighbours & only_theirs]
    if unlike:
        return Resolved(tuple(unlike), advice)
    if len(candidates) == 1 and (candidates[0].neighbours & only_mine or not candidates[0].neighbours & only_theirs):
        return Resolved((candidates[0],), "The face picked here was one of several pieces and is whole again.")
    scored = sorted(candidates, key=lambda c: -_overlap(c.neighbours, mine))
    best = _overlap(scored[0].neighbours, mine)
    rival = max((_overlap(scored[0].neighbours, s) for s in siblings), default=0.0)
    if (len(scored) > 1 and _overlap(scored[1].neighbours, mine) >= best) or rival >= best:
        raise CannotBuild(
            "The face picked here cannot be told from others like it any more: pick it again.",
            where="face",
            blame=(pick.model_dump(mode="json"),),
        )
    return Resolved((scored[0],), "What surrounds the face picked here has changed; check that it is the one meant.")


def _twins(pick: FacePick, candidates: list[Candidate]) -> Resolved:
    """Faces alike in everything but place: the nearest, if clearly nearer than the next."""
    ranked = sorted(candidates, key=lambda c: math.dist(c.centre, pick.centre))
    near = math.dist(ranked[0].centre, pick.centre)
    if len(ranked) == 1 or near < 1e-3:
        return Resolved((ranked[0],))
    if math.dist(ranked[1].centre, pick.centre) >= 3 * near:
        return Resolved((ranked[0],), "The face picked here was found by its place; check that it is the one meant.")
    raise CannotBuild(
        "Several faces now look like the one picked here: pick it again.",
        where="face",
        blame=(pick.model_dump(mode="json"),),
    )


def _overlap(a: frozenset[str], b: frozenset[str]) -> float:
    return len(a & b) / max(len(a | b), 1)


def _why_gone(pick: FacePick, bodies: Sequence[Body]) -> str:
    if not bodies:
        return "There is no solid here yet for the face that was picked: pick a plane or face again."
    makers = {head(atom) for atom in pick.atoms}
    alive = {head(atom) for body in bodies for name in body.names for atom in name}
    if not makers & alive:
        return "The step that made the face picked here makes nothing any more: pick a face again."
    return "The face picked here is gone; a step before this one took it away: pick a face again."
