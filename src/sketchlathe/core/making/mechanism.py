"""Bodies held by relations of several steps: what is in force, what moves, what is left free.

A relation that a step put in force stays so until something else moves its bodies. Whoever places a body meets all of
them: first it is tried to move that body alone, with what stands on it; where that cannot be, everything that was
placed and hangs together with it moves, by the smallest motion (closed chains: a four-bar linkage). What is free is
counted over all of it.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from ..blanks import ThingPick
from ..errors import CannotBuild
from ..together import Grip, Placed, Pose, Relation
from ..together.freedom import Freedom, freedoms
from ..together.placing import HOLDS, off, solved, with_smallest
from .results import Made, Solids

if TYPE_CHECKING:
    from .context import Context
    from .results import StepResult


@dataclass(frozen=True)
class Link:
    """A relation in force: the step and which of its relations it is, between which bodies (empty: what stands), and
    what was picked of them. Its grips are in space, as the bodies stand.
    """

    step: str
    which: str
    relation: Relation
    one: str
    other: str
    picks: tuple[ThingPick, ThingPick]
    reads: str = ""

    @property
    def bodies(self) -> set[str]:
        """The bodies it holds to each other, or to what stands."""
        return {self.one, self.other} - {""}

    def ordered(self) -> Link:
        """With the lesser thing first, as its equations are written."""
        relation = self.relation.ordered()
        if relation.a is self.relation.a:
            return self
        return replace(self, relation=relation, one=self.other, other=self.one, picks=self.picks[::-1])


def in_force(context: Context) -> list[Link]:
    """The relations of earlier steps that hold still, where their bodies are now. One whose bodies were moved by
    something else since, or do not have what was picked any more, is not in force.
    """
    results = [r for r in context.done.values() if r.status == "ok"]
    if not any(r.links for r in results):
        return []
    found = []
    probe = type(context)(context._model, Solids(Made(context.bodies)), context.done)
    for number, result in enumerate(results):
        for link in result.links:
            grips = [
                _now(probe, results[number:], grip, pick, body, link.reads)
                for grip, pick, body in zip(
                    (link.relation.a, link.relation.b), link.picks, (link.one, link.other), strict=True
                )
            ]
            if grips[0] is None or grips[1] is None:
                continue
            relation = replace(link.relation, a=grips[0], b=grips[1], one=None, other=None)
            if off([relation], []) < HOLDS:
                found.append(replace(link, relation=relation))
    return found


def _now(
    context: Context, results: Sequence[StepResult], grip: Grip, pick: ThingPick, id: str, reads: str
) -> Grip | None:
    """A grip of a body where the body is now; ``results`` from the step on that put it there."""
    if not id:
        return grip
    body = next((b for b in context.bodies if b.id == id), None)
    if body is None:
        return None
    last, pose = results[0], Pose.still()
    for result in results[1:]:
        if id in result.went:
            last, pose = result, pose.then(Pose.of(result.went[id]))
    if context.untouched_since(last, body):
        return pose.grip(grip)
    try:
        return context.thing_of(pick, "", reads)[0]
    except CannotBuild:
        return None


@dataclass(frozen=True)
class Moved:
    """Where bodies go, what they may still do, and the relations as they were solved; or which links (of those given)
    cannot hold together.
    """

    poses: Mapping[str, Pose]
    free: Mapping[str, Freedom]
    links: tuple[Link, ...] = ()
    fights: tuple[Link, ...] = ()


class Mechanism:
    """What takes part when a body is placed: ``own`` relations, those ``earlier``, the bodies that go ``along``."""

    def __init__(
        self, context: Context, body: str, own: Sequence[Link], along: Collection[str], earlier: Sequence[Link]
    ) -> None:
        self.body = body
        self.own = [link.ordered() for link in own]
        goals = set().union(*(link.bodies for link in own)) - {body}
        self.together = self._standing_on(context, {body, *along}, goals)
        self.movable = {pull[0] for r in context.done.values() if r.status == "ok" for pull in r.pulls} | self.together
        links = [*earlier, *self.own]
        self.chain, todo = set(self.together), set(self.together)
        while todo:
            near = {b for link in links if link.bodies & todo for b in link.bodies} & self.movable - self.chain
            self.chain |= near
            todo = near
        self.links = [link for link in links if link.bodies & self.chain]

    @staticmethod
    def _standing_on(context: Context, bodies: set[str], goals: set[str]) -> set[str]:
        """Bodies with those that were placed on them, but for what the body is to be placed on."""
        found = set(bodies)
        pulls = [pull for r in context.done.values() if r.status == "ok" for pull in r.pulls]
        while more := {id for id, base, _ in pulls if base in found and id not in found | goals}:
            found |= more
        there = {b.id for b in context.bodies}
        return found & there

    def _indexed(self, of: Mapping[str, int]) -> tuple[list[Relation], list[Link]]:
        """The relations between bodies that are known by number; those within one number say nothing."""
        relations, links = [], []
        for link in self.links:
            one, other = of.get(link.one), of.get(link.other)
            if one != other:
                relations.append(replace(link.relation, one=one, other=other))
                links.append(link)
        return relations, links

    def placed(self) -> Moved:
        """Where the bodies go so that all holds."""
        as_one = dict.fromkeys(sorted(self.together), 0)
        relations, links = self._indexed(as_one)
        found = solved(relations, [Pose.still()])
        if found is not None:
            return self._told(dict.fromkeys(self.together, found.poses[0]))
        singly = self._numbers()
        if len(set(singly.values())) > 1:
            relations, links = self._indexed(singly)
            found = solved(relations, [Pose.still()] * (max(singly.values()) + 1))
            if found is not None:
                return self._told({id: found.poses[k] for id, k in singly.items()})
        count = max(dict(singly or as_one).values()) + 1
        worst: Placed = with_smallest(relations, [Pose.still()] * count)
        return Moved({}, {}, fights=tuple(links[i] for i in worst.fights))

    def turned(self, moved: Moved, by: Pose) -> Moved:
        """The placed body, with what goes along, moved further by hand; the others follow so that all holds."""
        poses = {
            id: pose.then(by) if id in self.together else pose for id, pose in moved.poses.items()
        }  # fmt: skip
        singly = self._numbers()
        start = [Pose.still()] * (max(singly.values()) + 1)
        for id, k in singly.items():
            start[k] = poses.get(id, Pose.still())
        fixed = {singly[id] for id in self.together}
        relations, links = self._indexed(singly)
        found = solved(relations, start, [k not in fixed for k in range(len(start))])
        if found is None:
            worst = with_smallest(relations, start, [k not in fixed for k in range(len(start))])
            return Moved({}, {}, fights=tuple(links[i] for i in worst.fights))
        return self._told({id: found.poses[k] for id, k in singly.items()})

    def _numbers(self) -> dict[str, int]:
        """A number a body; the one that is placed and what goes along with it have one together."""
        of = dict.fromkeys(sorted(self.together), 0)
        for id in sorted(self.chain - self.together):
            of[id] = len(set(of.values()))
        return of

    def _told(self, poses: Mapping[str, Pose]) -> Moved:
        singly = self._numbers()
        stand = [Pose.still()] * (max(singly.values()) + 1)
        for id, k in singly.items():
            stand[k] = poses.get(id, Pose.still())
        relations, links = self._indexed(singly)
        given = solved(relations, stand, [False] * len(stand))
        relations = list(given.relations) if given is not None else relations
        free = freedoms(relations, stand)
        put = tuple(
            replace(link, relation=replace(
                relation, a=_put(relation.a, relation.one, stand), b=_put(relation.b, relation.other, stand),
                one=None, other=None,
            ))
            for link, relation in zip(links, relations)
        )  # fmt: skip
        return Moved(poses, {id: free[k] for id, k in singly.items()}, put)


def _put(grip: Grip, index: int | None, poses: Sequence[Pose]) -> Grip:
    return grip if index is None else poses[index].grip(grip)
