"""Standard part: a screw, nut, washer, insert or bearing by its standard, put where it belongs; bought, not printed."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from ..blanks import Blank, Formula
from ..errors import CannotBuild, Trouble
from ..quantity import evaluate
from ..quantity.units import LENGTH, show
from ..sizes.iso_holes import SIZES
from ..sizes.iso_nuts import NUTS
from ..sizes.standard_parts import BEARINGS, LENGTHS, SCREWS, WASHERS, Head
from .places import AT_PLACES, AtPlaces

if TYPE_CHECKING:
    from ..frames import Frame
    from ..making.context import Context
    from ..model.document import Model
    from ..solid.naming import Body

_SCREWS = {"cap": "ISO 4762", "button": "ISO 7380-1", "sunk": "ISO 10642", "hexagon": "ISO 4017"}
_OTHERS = {"nut": "ISO 4032", "thin_nut": "ISO 4035", "washer": "ISO 7089", "insert": "Insert", "bearing": "Bearing"}
_THREADED = tuple(k for k in (*_SCREWS, *_OTHERS) if k != "bearing")
_NEAR = 0.051  # mm: a hole this near to a size of the table is that one


class StandardPart(AtPlaces):
    """What comes from a shop. It is drawn by its outer sizes, weighed as steel or brass, counted in the parts list, and
    never printed.
    """

    kind: Literal["standard_part"] = "standard_part"
    word: ClassVar[str] = "Hardware"
    chord: ClassVar[str] = "bh"
    synonyms: ClassVar[str] = "screw bolt nut washer bearing insert standard part fastener iso library buy"
    group: ClassVar[str] = "body"
    order: ClassVar[int] = 48
    icon: ClassVar[str] = "M7 3h10v5H7zM10 8v12l2 2l2-2V8M10 12l4-1.500M10 16l4-1.500"
    assembles: ClassVar[bool] = True
    hint: ClassVar[str] = "Click on the rim of a hole: what goes through it is chosen by its size."
    sentence: ClassVar[str] = f"Put {{what}}[ {{size}}][ {{bearing}}][ × {{length}}] {AT_PLACES}[, {{lies}}][, {{way}}]"

    what: Annotated[
        Literal["cap", "button", "sunk", "hexagon", "nut", "thin_nut", "washer", "insert", "bearing"],
        Blank("choice", "what", "", {
            "cap": "cap screws ISO 4762", "button": "button head screws ISO 7380-1",
            "sunk": "countersunk screws ISO 10642", "hexagon": "hexagon screws ISO 4017", "nut": "nuts ISO 4032",
            "thin_nut": "thin nuts ISO 4035", "washer": "washers ISO 7089", "insert": "heat-set inserts",
            "bearing": "ball bearings ISO 15",
        }),
    ] = "cap"  # fmt: skip
    size: Annotated[
        Literal["M2", "M2.5", "M3", "M4", "M5", "M6", "M8", "M10", "M12"],
        Blank("choice", "size", "The thread.", {k: k for k in SIZES}, when=("what", _THREADED),
              table=("insert", "inserts")),
    ] = "M4"  # fmt: skip
    bearing: Annotated[
        Literal["623", "624", "625", "626", "688", "608", "6000", "6001", "6002", "6003", "6004"],
        Blank("choice", "bearing", "Bore, outer diameter and width.",
              {k: f"{k} ({b.bore:g} × {b.outer:g} × {b.wide:g})" for k, b in BEARINGS.items()},
              when=("what", ("bearing",))),
    ] = "608"  # fmt: skip
    length: Annotated[
        Formula,
        Blank("length", "length", "Under the head; of a countersunk screw the whole.", when=("what", tuple(_SCREWS)),
              main=True),
    ] = "16 mm"  # fmt: skip
    lies: Annotated[
        Literal["on", "in"],
        Blank("choice", "lies", "On what was picked, or let into it.", {"on": "lying on it", "in": "let into it"},
              when=("what", tuple(_OTHERS))),
    ] = "on"  # fmt: skip
    way: Annotated[
        Literal["in", "out"],
        Blank("choice", "way", "Where a screw points.", {"in": "pointing into it", "out": "pointing out of it"},
              when=("what", tuple(_SCREWS)), optional=True),
    ] = "in"  # fmt: skip

    def name_of_one(self, model: Model) -> str:
        """What one of it is called where it is bought."""
        if self.what == "bearing":
            return f"Bearing {self.bearing}"
        if self.what not in _SCREWS:
            return f"{_OTHERS[self.what]} {self.size}"
        long = self._long(model)
        return f"{_SCREWS[self.what]} {self.size}" + (f" × {long:g}" if long is not None else "")

    def thread(self) -> tuple[float, float] | None:
        """Radii of a screw's thread, and of the hole that is drilled for it, mm; None for what is no screw."""
        if self.what not in _SCREWS:
            return None
        return float(self.size[1:]) / 2, SIZES[self.size].tapping / 2

    def _long(self, model: Model) -> float | None:
        try:
            return evaluate(self.length, model.table.values, wanted=LENGTH, length_unit=model.units).value
        except Trouble:
            return None

    def bought(self) -> str:
        return "brass" if self.what == "insert" else "steel"

    def body_word(self, model: Model, rest: str) -> str:
        return self.name or self.name_of_one(model)

    def better_defaults(self, context: Context, touched: Collection[str]) -> dict[str, Any]:
        """What goes through the hole whose rim was picked; inserts and bearings are let in."""
        from ..solid.bought import rounds_about

        found = super().better_defaults(context, touched)
        if "lies" not in touched:
            found["lies"] = "in" if self.what in ("insert", "bearing") else "on"
        if self.at == "round" and self.rounds and context.bodies:
            frame, place = self.places(context)[0]
            rounds = rounds_about(context.bodies, frame, place, 1.0)
            narrowest = 2 * min((radius for _, radius in rounds), default=0.0)
            if "size" not in touched and self.what == "insert":
                found["size"] = min(SIZES, key=lambda size: abs(context.size("inserts", size) - narrowest))
            elif "size" not in touched and self.what != "bearing":
                found["size"] = _thread_for(narrowest)
            if "length" not in touched and self.what in _SCREWS:
                found["length"] = f"{_nearest(self.what, found.get('size', self.size))} mm"
            if "bearing" not in touched and self.what == "bearing":
                rim = 2 * max((radius for deep, radius in rounds if abs(deep) < 1e-6), default=0.0)
                found["bearing"] = min(BEARINGS, key=lambda k: abs(BEARINGS[k].outer - rim))
        return found

    def key_parts(self, context: Context) -> Any:
        return [*super().key_parts(context), self._bore(context)]

    def _bore(self, context: Context) -> tuple[float, float]:
        """Bore and length of an insert, mm; noughts for anything else."""
        if self.what != "insert":
            return 0.0, 0.0
        return context.size("inserts", self.size), context.size("insert_lengths", self.size)

    def build(self, context: Context) -> None:
        if self.what in _SCREWS:
            self._check(context)
        made = []
        for number, (frame, place) in enumerate(self.places(context)):
            into = self.into(context, frame, place) if context.bodies else -1.0
            made.append(self._one(context, f"{self.id}#{number}" if number else self.id, frame, place, into))
        context.combine(self, made, "separate")

    def _check(self, context: Context) -> None:
        """That it is made: the thread with this head, in this length."""
        standard = _SCREWS[self.what]
        heads = SCREWS[standard]
        if self.size not in heads:
            raise CannotBuild(f"There is no {standard} {self.size}: the smallest is {next(iter(heads))}.", where="size")
        head, long = heads[self.size], context.above(self, "length")
        made = [n for n in LENGTHS if head.shortest <= n <= head.longest]
        if all(abs(long - n) > 1e-6 for n in made):
            near = [*[n for n in made if n < long][-1:], *[n for n in made if n > long][:1]]
            others = " or ".join(f"{n} mm" for n in near)
            raise CannotBuild(
                f"{standard} {self.size} is not made {show(long, LENGTH, 'mm')} long: take {others}.", where="length"
            )

    def _one(self, context: Context, name: str, frame: Frame, place: tuple[float, float], into: float) -> Body:
        from ..solid import bought

        if self.what in _SCREWS:
            into = into if self.way == "in" else -into
            head, radius = SCREWS[_SCREWS[self.what]][self.size], float(self.size[1:]) / 2
            long = context.above(self, "length")
            sunk = 0.0
            if self.at == "round" and self.what != "sunk":
                rounds = bought.rounds_about(context.bodies, frame, place, into)
                sunk = bought.seat_below(rounds, head.wide / 2, radius)
            down = replace(frame, origin=frame.place(0.0, 0.0, sunk * into))
            return _screw(self.what, name, down, place, into, head, radius, long)
        if self.lies == "on":
            into = -into
        if self.what in ("nut", "thin_nut"):
            nut, radius = NUTS[self.size], float(self.size[1:]) / 2
            high = nut.high if self.what == "nut" else nut.thin
            room = [(0.0, -1.0, "a"), (radius, -1.0, "thread"), (radius, high + 1, "b"), (0.0, high + 1, "axis")]
            body = bought.hexagon(name, frame, place, into, nut.across, 0.0, high)
            return bought.without_room(body, bought.turned(name, frame, place, into, room), name)
        if self.what == "washer":
            inner, outer, high = WASHERS[self.size]
        elif self.what == "bearing":
            inner, outer, high = BEARINGS[self.bearing]
        else:
            outer, high = self._bore(context)
            inner = float(self.size[1:])
        r, o = inner / 2, outer / 2
        ring = [(r, 0.0, "face"), (o, 0.0, "outside"), (o, high, "back"), (r, high, "bore")]
        return bought.turned(name, frame, place, into, ring)

    def face_words(self) -> dict[str, str]:
        return {
            "side:thread": "thread", "side:head": "head", "side:seat": "under the head", "side:end": "end",
            "side:top": "top", "side:outside": "outside", "side:bore": "bore", "side:face": "face", "side:back": "back",
        }  # fmt: skip


def _thread_for(hole: float) -> str:
    """The thread that a hole (mm, diameter) is for: one of whose holes it is, else the thickest that goes through."""
    for size, holes in SIZES.items():
        if any(abs(hole - holes.hole(fit)) < _NEAR for fit in ("close", "medium", "free", "tapping")):
            return size
    through = [size for size in SIZES if float(size[1:]) <= hole + 1e-6]
    return through[-1] if through else next(iter(SIZES))


def _nearest(what: str, size: str) -> int:
    """The usual length nearest to 16 mm in which a screw is made; where it is not made at all, that."""
    head = SCREWS[_SCREWS[what]].get(size)
    made = [n for n in LENGTHS if head and head.shortest <= n <= head.longest]
    return min(made, key=lambda n: abs(n - 16), default=16)


def _screw(
    what: str, name: str, frame: Frame, place: tuple[float, float], into: float, head: Head, radius: float, long: float
) -> Body:
    """One screw whose head sits on the frame's plane (of a countersunk one: ends in it)."""
    from ..solid import bought

    shank = [(radius, 0.0, "thread"), (radius, long, "end"), (0.0, long, "axis")]
    wide, high = head.wide / 2, head.high
    if what == "hexagon":
        body = bought.turned(name, frame, place, into, [(0.0, 0.0, "top"), *shank])
        return bought.with_head(body, bought.hexagon(name, frame, place, into, head.wide, -high, 0.0), name)
    if what == "sunk":
        outline = [(0.0, 0.0, "top"), (wide, 0.0, "head"), (radius, wide - radius, "thread"), *shank[1:]]
        body, top = bought.turned(name, frame, place, into, outline), 0.0
    elif what == "button":
        outline = [(0.0, -high, "head"), (wide, 0.0, "seat"), *shank]
        bulge = (wide**2 + high**2) / (2 * high)
        body, top = bought.turned(name, frame, place, into, outline, bulge), -high
    else:
        outline = [(0.0, -high, "top"), (wide, -high, "head"), (wide, 0.0, "seat"), *shank]
        body, top = bought.turned(name, frame, place, into, outline), -high
    room = bought.hexagon(name, frame, place, into, head.socket, top - 1.0, top + head.deep)
    return bought.without_room(body, room, name)
