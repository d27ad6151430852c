"""Place: a body put where it belongs by what touches what."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from ..advice import Advice
from ..blanks import Blank, Formula, ThingPick
from ..errors import BadInput, CannotBuild, Trouble
from ..names import maker
from ..saying import listed, opens
from ..together.relations import RELATIONS
from .base import Step

if TYPE_CHECKING:
    from ..frames import Triple
    from ..making.context import Context
    from ..making.mechanism import Link
    from ..making.results import Hand
    from ..solid.naming import Body
    from ..together import Grip, Pose
    from ..together.freedom import Freedom

How = Literal["against", "flush", "on", "touching", "parallel", "square", "angle"]
_WORDS = {kind: relation.word for kind, relation in RELATIONS.items()}
_GAPS = tuple(kind for kind, relation in RELATIONS.items() if relation.number == "gap")
_ANGLES = tuple(kind for kind, relation in RELATIONS.items() if relation.number == "angle")
_WAYS = tuple(kind for kind, relation in RELATIONS.items() if not relation.sense)
_MOVES = "What moves: a face, an edge or a corner of the body to place."
_TO = "Where it goes: a face, an edge, a corner, a datum, or the origin's planes and axes."
_SIDES = {"": "as it lies", "same": "the same way", "round": "the other way"}
_SENSE = {"": 0, "same": 1, "round": -1}


def _thing(label: str, hint: str, after: str = "") -> Blank:
    only = "body" if hint is _MOVES else ""
    return Blank(
        "thing", label, hint, optional=bool(after), only=only, after=after, must=bool(after) and not only,
        nothing="…" if after else "",
    )  # fmt: skip


class Place(Step):
    """One body moved so that up to three relations hold, and those of earlier steps go on holding."""

    kind: Literal["place"] = "place"
    word: ClassVar[str] = "Place"
    chord: ClassVar[str] = "bp"
    synonyms: ClassVar[str] = "seat align coaxial against touching fit put relation"
    group: ClassVar[str] = "body"
    order: ClassVar[int] = 43
    icon: ClassVar[str] = "M3 20h17M5 16.500h13v3.500H5zM7.500 4h8v7h-8zM11.500 12v3M10 13.500l1.500 1.500l1.500-1.500"
    hint: ClassVar[str] = "Click what moves on one body, then where it goes on another."
    sentence: ClassVar[str] = (
        "Place {a} {how} {b}[ leaving {gap}][ of {angle}][, {side}][, {a2} {how2} {b2}][ leaving {gap2}][ of {angle2}]"
        "[, {a3} {how3} {b3}][ leaving {gap3}][ of {angle3}][, turned by {turn}][, slid by {slide}][, taking {along} "
        "along]"
    )
    assembles: ClassVar[bool] = True

    a: Annotated[ThingPick, _thing("what moves", _MOVES)] = ThingPick()
    how: Annotated[How, Blank("choice", "how it stands", "", _WORDS)] = "against"
    b: Annotated[ThingPick, _thing("where it goes", _TO)] = ThingPick()
    gap: Annotated[Formula, Blank("length", "gap", "Negative goes in.", when=("how", _GAPS), main=True)] = "0 mm"
    angle: Annotated[Formula, Blank("angle", "angle", "", when=("how", _ANGLES))] = "90 deg"
    side: Annotated[
        Literal["", "same", "round"], Blank("choice", "which way round", "", _SIDES, when=("how", _WAYS), optional=True)
    ] = ""
    a2: Annotated[ThingPick, _thing("and what of it", _MOVES, "b")] = ThingPick()
    how2: Annotated[How, Blank("choice", "how that stands", "", _WORDS, after="a2")] = "on"
    b2: Annotated[ThingPick, _thing("where that goes", _TO, "a2")] = ThingPick()
    gap2: Annotated[Formula, Blank("length", "second gap", "", when=("how2", _GAPS), optional=True, after="b2")] = ""
    angle2: Annotated[
        Formula, Blank("angle", "second angle", "", when=("how2", _ANGLES), optional=True, after="b2")
    ] = ""
    a3: Annotated[ThingPick, _thing("what else of it", _MOVES, "b2")] = ThingPick()
    how3: Annotated[How, Blank("choice", "how this stands", "", _WORDS, after="a3")] = "against"
    b3: Annotated[ThingPick, _thing("where this goes", _TO, "a3")] = ThingPick()
    gap3: Annotated[Formula, Blank("length", "third gap", "", when=("how3", _GAPS), optional=True, after="b3")] = ""
    angle3: Annotated[Formula, Blank("angle", "third angle", "", when=("how3", _ANGLES), optional=True, after="b3")] = (
        ""
    )
    turn: Annotated[
        Formula, Blank("angle", "turn", "About the axis it may still turn about.", optional=True, after="b")
    ] = ""
    slide: Annotated[
        Formula, Blank("length", "slide", "Along the way it may still slide.", optional=True, after="b")
    ] = ""
    along: Annotated[
        tuple[str, ...],
        Blank("bodies", "other bodies", "Bodies that keep their place to it.", optional=True, nothing="nothing else"),
    ] = ()

    def build(self, context: Context) -> None:
        from ..making.mechanism import Mechanism, in_force
        from ..solid.transforms import copied, motion_of
        from ..together import Pose

        if len(context.bodies) < 1:
            raise CannotBuild("There is no body to place yet.", where="a")
        links, body, base = self._links(context)
        along = context.bodies_of(self.along, "along") if self.along else []
        mechanism = Mechanism(context, body.id, links, [b.id for b in along], in_force(context))
        moved = mechanism.placed()
        if moved.fights:
            raise self._fight(context, moved.fights)
        free, by = moved.free[body.id], Pose.still()
        if self.turn.strip():
            if free.axis is None:
                raise CannotBuild(f"There is no one axis to turn it about: it {_says(free.said)}.", where="turn")
            by = by.then(Pose.about(*free.axis, context.value(self, "turn")))
        if self.slide.strip():
            if free.slide is None:
                raise CannotBuild(f"There is no one way to slide it: it {_says(free.said)}.", where="slide")
            by = by.then(Pose.by([v * context.value(self, "slide") for v in free.slide]))
        if self.turn.strip() or self.slide.strip():
            moved = mechanism.turned(moved, by)
            if moved.fights:
                where = "turn" if self.turn.strip() else "slide"
                raise CannotBuild(
                    f"So far it cannot go: {self._named(context, moved.fights)} would not hold.", where=where
                )
        context.hands = (self._hand(context, body, free),) if free.count else ()
        left = free.without(bool(self.turn.strip()), bool(self.slide.strip()))
        context.free = {id: f.said if f.count else "" for id, f in moved.free.items()}
        context.free[body.id] = left.said if left.count else ""
        own = tuple(link for link in moved.links if not link.step)
        context.pulls = ((body.id, base, _comes_off(own, body.id)),)
        context.links = tuple(replace(link, step=self.id) for link in own)
        others = []
        for id, pose in moved.poses.items():
            there = next(b for b in context.bodies if b.id == id)
            if id != body.id and _is_still(pose):
                continue
            if id not in (body.id, *self.along):
                others.append(context.title_of_body(id))
            context.went[id] = pose.vector()
            hand = context.hand_before(there) if id != body.id else None
            if hand is not None:
                context.hands = (*context.hands, _carried(hand, pose))
            context.replace(there, [copied(there, motion_of(pose.turn, pose.shift), id)])
        if others:
            context.advise_once(f"So that all holds, {listed(others)} moved too.")

    def _hand(self, context: Context, body: Body, free: Freedom) -> Hand:
        """What of it is left to the hand: its one turn and slide are numbers here, others shift what brought it."""
        from ..making.results import Hand

        before = context.hand_before(body)
        turned, slid = (context.value(self, n) if getattr(self, n).strip() else 0.0 for n in ("turn", "slide"))
        shifts = before is not None and before.shift is not None and free.sliding > 1
        return Hand(
            body.id, self.id, self.along, free.axis, turned, free.slide, slid, free.normal,
            before.shift if before and shifts else None, before.shifted if before and shifts else (0.0, 0.0, 0.0),
        )  # fmt: skip

    def makers_of(self, field: str) -> set[str]:
        """The steps that made what is picked in a blank."""
        pick: ThingPick = getattr(self, field)
        atoms = pick.face.atoms if pick.face else pick.edge.first if pick.edge else ()
        return {id for atom in atoms if (id := maker(atom))} if self.shown(field) else set()

    def better_defaults(self, context: Context, touched: Collection[str]) -> dict[str, Any]:
        """How things that were picked most likely stand to each other."""
        found: dict[str, Any] = {}
        for n in ("", "2", "3"):
            a, b = getattr(self, f"a{n}"), getattr(self, f"b{n}")
            if f"how{n}" in touched or not (a.on_body and b.given):
                continue
            try:
                likely = _likely(*(context.thing_of(pick, f"a{n}")[0] for pick in (a, b)))
            except Trouble:
                continue
            if likely != getattr(self, f"how{n}"):
                found[f"how{n}"] = likely
        return found

    def _links(self, context: Context) -> tuple[list[Link], Body, str]:
        """What is said, the body that moves (the one that the first thing belongs to), and the id of what it
        stands on.
        """
        from ..making.mechanism import Link
        from ..together import Relation

        links: list[Link] = []
        moving: Body | None = None
        base = ""
        for n in ("", "2", "3"):
            a, b, kind = getattr(self, f"a{n}"), getattr(self, f"b{n}"), getattr(self, f"how{n}")
            if n and not (a.given or b.given):
                continue
            if not a.given or not b.given:
                missing = f"a{n}" if not a.given else f"b{n}"
                raise CannotBuild(f"Pick {'what moves' if not a.given else 'where it goes'}.", where=missing)
            reads = RELATIONS[kind].reads
            grip, body = context.thing_of(a, f"a{n}", reads)
            if body is None:
                raise CannotBuild("Pick something of a body: the origin and datums stay where they are.", where=f"a{n}")
            if moving is not None and body.id != moving.id:
                raise CannotBuild(
                    f"What moves is {context.title_of_body(moving.id)}: this is of {context.title_of_body(body.id)}.",
                    where=f"a{n}",
                )
            moving = body
            goal, owner = context.thing_of(b, f"b{n}", reads)
            if owner is not None and owner.id in (moving.id, *self.along):
                raise CannotBuild("A body cannot be placed by itself: pick something of another.", where=f"b{n}")
            base = base or (owner.id if owner is not None else "")
            number = RELATIONS[kind].number
            value = context.value(self, f"{number}{n}") if number and getattr(self, f"{number}{n}").strip() else 0.0
            if number == "gap" and abs(value) > 1e5:
                raise CannotBuild("A gap may be at most 100 m.", where=f"gap{n}")
            sense = _SENSE[self.side] if not n and self.shown("side") else 0
            relation = Relation(kind, grip, goal, None, None, value, sense)
            try:
                _ = relation.ordered().rows
            except BadInput as problem:
                raise CannotBuild(problem.message, where=f"how{n}") from problem
            links.append(Link("", n, relation, moving.id, owner.id if owner is not None else "", (a, b), reads))
        assert moving is not None
        return links, moving, base

    def _fight(self, context: Context, fights: Sequence[Link]) -> CannotBuild:
        """The smallest contradiction, with the ways out: leaving out the steps before that have part in it."""
        own = [link.which for link in fights if not link.step]
        said = self._named(context, fights)
        if len(fights) == 1:
            text = f"{opens(said)} cannot hold here."
        else:
            text = f"{opens(said)} cannot hold together. Change or leave out one of them."
        problem = CannotBuild(text, where=f"a{own[-1]}" if own else "a")
        steps = dict.fromkeys(link.step for link in fights if link.step)
        problem.fixes = tuple(
            Advice(text, f"skip {context.title_of(id)}", edits=({"kind": "skip_step", "step": id, "skipped": True},))
            for id in steps
        )
        return problem

    @staticmethod
    def _named(context: Context, links: Sequence[Link]) -> str:
        """Relations in words, those of this step first."""
        numbers = {"": "first", "2": "second", "3": "third"}
        own = [f"the {numbers[k.which]} relation, “{_WORDS[k.relation.kind]}”" for k in links if not k.step]
        others = [f"“{_WORDS[k.relation.kind]}” of {context.title_of(k.step)}" for k in links if k.step]
        return listed([*own, *others], 6)


def _is_still(pose: Pose) -> bool:
    return max(map(abs, pose.vector())) < 1e-12


def _carried(hand: Hand, pose: Pose) -> Hand:
    """How a body can be moved by hand, once it has been moved."""
    from ..together.grips import triple

    turn = (triple(pose.point(hand.turn[0])), triple(pose.way(hand.turn[1]))) if hand.turn else None
    slide, on = (triple(pose.way(d)) if d else None for d in (hand.slide, hand.on))
    return replace(hand, turn=turn, slide=slide, on=on)


def _comes_off(links: Sequence[Link], body: str) -> Triple:
    """The way a placed body is taken off: out of the face it lies against, else along the axis it is on, upwards."""
    for link in links:
        if link.relation.kind == "against" and link.relation.a.way and link.relation.b.way:
            return link.relation.b.way if link.one == body else link.relation.a.way
    for link in links:
        if link.relation.kind == "on" and link.relation.wants and link.relation.b.way:
            way = link.relation.b.way
            return way if sum(way) >= 0 else (-way[0], -way[1], -way[2])
    return (0.0, 0.0, 1.0)


def _likely(a: Grip, b: Grip) -> str:
    forms = {a.form, b.form}
    if forms == {"plane"} or (forms == {"plane", "line"}):
        return "against"  # an edge may stand for the flat face beside it
    return "touching" if "plane" in forms and forms & {"cylinder", "ball"} else "on"


def _says(said: str) -> str:
    return "is held" if said == "held" else said
