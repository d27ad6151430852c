"""Place: a body put where it belongs by what touches what."""

from __future__ import annotations

from collections.abc import Collection
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from ..blanks import Blank, Formula, ThingPick
from ..errors import BadInput, CannotBuild, Trouble
from ..names import maker
from ..together.relations import RELATIONS
from .base import Step

if TYPE_CHECKING:
    from ..frames import Triple
    from ..making.context import Context
    from ..making.results import Hand
    from ..solid.naming import Body
    from ..together import Grip, Placed, Pose, Relation
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
    """One body moved so that up to three relations hold between it and what stands."""

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
        from ..solid.transforms import copied, motion_of
        from ..together import Pose, place
        from ..together.freedom import freedoms

        if len(context.bodies) < 1:
            raise CannotBuild("There is no body to place yet.", where="a")
        relations, body, base = self._relations(context)
        placed = place(relations, [Pose.still()])
        if placed.fights:
            raise CannotBuild(self._fight(placed), where=("a", "a2", "a3")[placed.fights[-1]])
        free = freedoms(placed.relations, placed.poses)[0]
        pose = placed.poses[0]
        if self.turn.strip():
            if free.axis is None:
                raise CannotBuild(f"There is no one axis to turn it about: it {_says(free.said)}.", where="turn")
            pose = pose.then(Pose.about(*free.axis, context.value(self, "turn")))
        if self.slide.strip():
            if free.slide is None:
                raise CannotBuild(f"There is no one way to slide it: it {_says(free.said)}.", where="slide")
            pose = pose.then(Pose.by([v * context.value(self, "slide") for v in free.slide]))
        context.hands = (self._hand(context, body, free),) if free.count else ()
        left = free.without(bool(self.turn.strip()), bool(self.slide.strip()))
        context.free = left.said if left.count else ""
        context.pulls = ((body.id, base, _comes_off(placed, pose)),)
        along = context.bodies_of(self.along, "along") if self.along else []
        motion = motion_of(pose.turn, pose.shift)
        for moved in (body, *(o for o in along if o.id != body.id)):
            context.replace(moved, [copied(moved, motion, moved.id)])

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

    def _relations(self, context: Context) -> tuple[list[Relation], Body, str]:
        """What is said, the body that moves (the one that the first thing belongs to), and the
        id of what it stands on.
        """
        from ..together import Relation

        relations: list[Relation] = []
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
                raise CannotBuild("What moves must be of one body: this is of another.", where=f"a{n}")
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
            relation = Relation(kind, grip, goal, 0, None, value, sense)
            try:
                _ = relation.ordered().rows
            except BadInput as problem:
                raise CannotBuild(problem.message, where=f"how{n}") from problem
            relations.append(relation)
        assert moving is not None
        return relations, moving, base

    def _fight(self, placed: Placed) -> str:
        said = [f"“{_WORDS[placed.relations[i].kind]}”" for i in placed.fights]
        numbers = ("first", "second", "third")
        which = " and the ".join(numbers[i] for i in placed.fights)
        if len(said) == 1:
            return f"The {which} relation, {said[0]}, cannot hold here."
        return f"The {which} relation cannot hold together: {' and '.join(said)}. Change or leave out one of them."


def _comes_off(placed: Placed, pose: Pose) -> Triple:
    """The way a placed body is taken off: out of the face it lies against, else along the axis it is on, upwards."""
    for relation in placed.relations:
        if relation.kind == "against" and relation.a.way and relation.b.way:
            return relation.b.way if relation.one == 0 else relation.a.way
    for relation in placed.relations:
        if relation.kind == "on" and relation.wants and relation.b.way:
            way = relation.b.way if relation.one == 0 else pose.grip(relation.b).way or relation.b.way
            return way if sum(way) >= 0 else (-way[0], -way[1], -way[2])
    return (0.0, 0.0, 1.0)


def _likely(a: Grip, b: Grip) -> str:
    forms = {a.form, b.form}
    if forms == {"plane"} or (forms == {"plane", "line"}):
        return "against"  # an edge may stand for the flat face beside it
    return "touching" if "plane" in forms and forms & {"cylinder", "ball"} else "on"


def _says(said: str) -> str:
    return "is held" if said == "held" else said
