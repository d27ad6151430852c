"""The relations by which things are placed. A kind is one record: its word, what it takes, its equations.

An equation is one row of one of four forms, with p, q points and u, v directions, the first of the one thing, the
second of the other, all in space:

    offset    (p - q) · v - c        how far p lies before q along v
    slant     u · v - c              the cosine between two directions
    apart     |p - q| - c            how far two points are apart
    reach     |(p - q) × v| - c      how far p lies from the line through q along v
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

from ..errors import BadInput
from ..frames import Triple, dot
from .grips import Grip, across

RowForm = Literal["offset", "slant", "apart", "reach"]


@dataclass(frozen=True)
class Row:
    """One equation between two things: see the head of this module. ``at``, ``to``: p, q; ``way``, ``along``: u, v."""

    form: RowForm
    at: Triple = (0.0, 0.0, 0.0)
    to: Triple = (0.0, 0.0, 0.0)
    way: Triple = (0.0, 0.0, 0.0)
    along: Triple = (0.0, 0.0, 0.0)
    constant: float = 0.0


@dataclass(frozen=True)
class Relation:
    """What two grips have to do with each other. ``one`` and ``other``: which bodies they belong to (None: what
    stands).

    ``number``: a gap (mm) or an angle (rad). ``sense``: 1 both directions the same way, -1 against each other; 0: as
    they lie nearer to.
    """

    kind: str
    a: Grip
    b: Grip
    one: int | None
    other: int | None
    number: float = 0.0
    sense: int = 0

    def ordered(self) -> Relation:
        """The same with the lesser thing first: points before lines before planes, as the equations are written."""
        if RELATIONS[self.kind].number == "angle" or _RANK[self.a.form] <= _RANK[self.b.form]:
            return self
        return replace(self, a=self.b, b=self.a, one=self.other, other=self.one)

    @property
    def rows(self) -> list[Row]:
        """Its equations (of an ``ordered`` one). Raises ``BadInput`` where these grips cannot stand so."""
        return RELATIONS[self.kind].rows(self)

    @property
    def wants(self) -> int:
        """The sense its directions must have: 1, -1, or 0 where any will do."""
        kind = RELATIONS[self.kind]
        return (kind.sense or self.sense) if self.a.way and self.b.way and kind.aligned(self) else 0


@dataclass(frozen=True)
class Kind:
    """A kind of relation: how it is said, its number, how its directions must lie, its equations."""

    kind: str
    word: str
    rows: Callable[[Relation], list[Row]]
    number: Literal["", "gap", "angle"] = ""
    sense: int = 0
    aligned: Callable[[Relation], bool] = lambda relation: False
    reads: Literal["", "flat", "round"] = (
        ""  # an edge stands for the flat face beside it; a round flat face for its axis
    )


_ROUND = ("ball", "cylinder")
_LINES = ("line", "cylinder")
_POINTS = ("point", "ball")
_RANK = {"point": 0, "ball": 1, "line": 2, "cylinder": 3, "plane": 4}
SAID = {
    "point": "a point", "line": "a straight edge or axis", "plane": "a flat face", "ball": "a ball",
    "cylinder": "a round face",
}  # fmt: skip


def _cannot(relation: Relation, needs: str) -> BadInput:
    word = RELATIONS[relation.kind].word
    return BadInput(f"“{word}” needs {needs}; this is {SAID[relation.a.form]} and {SAID[relation.b.form]}.")


def _parallel(a: Grip, b: Grip) -> list[Row]:
    assert a.way and b.way
    first, second = across(b.way)
    return [Row("slant", way=a.way, along=first), Row("slant", way=a.way, along=second)]


def _on_line(point: Grip, line: Grip) -> list[Row]:
    assert line.way
    return [Row("offset", point.at, line.at, along=d) for d in across(line.way)]


def _facing(relation: Relation) -> list[Row]:
    a, b = relation.a, relation.b
    if a.form == "plane" and b.form == "plane":
        return [*_parallel(a, b), Row("offset", a.at, b.at, along=b.way or a.at, constant=relation.number)]
    raise _cannot(relation, "two flat faces")


def _on(relation: Relation) -> list[Row]:
    a, b = relation.a, relation.b
    if a.form in _LINES and b.form in _LINES:
        return [*_parallel(a, b), *_on_line(a, b)]
    if a.form in _POINTS and b.form in _LINES:
        return _on_line(a, b)
    if a.form in _POINTS and b.form == "plane":
        return [Row("offset", a.at, b.at, along=b.way or a.at)]
    if a.form in _POINTS and b.form in _POINTS:
        return [Row("offset", a.at, b.at, along=axis) for axis in ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))]
    if a.form in _LINES and b.form == "plane":
        assert a.way and b.way
        return [Row("slant", way=a.way, along=b.way), Row("offset", a.at, b.at, along=b.way)]
    raise _cannot(relation, "an axis on an axis, or a point on a point, an axis or a plane")


def _directions(relation: Relation) -> tuple[Triple, Triple]:
    if relation.a.way is None or relation.b.way is None:
        raise _cannot(relation, "two things that have a direction: flat or round faces, straight or round edges, axes")
    return relation.a.way, relation.b.way


def _alike(relation: Relation) -> bool:
    """Whether both directions are of one sort: along a line, or out of a face."""
    return (relation.a.form == "plane") == (relation.b.form == "plane")


def _parallel_rows(relation: Relation) -> list[Row]:
    a, b = _directions(relation)
    return _parallel(relation.a, relation.b) if _alike(relation) else [Row("slant", way=a, along=b)]


def _square_rows(relation: Relation) -> list[Row]:
    a, b = _directions(relation)
    return [Row("slant", way=a, along=b)] if _alike(relation) else _parallel(relation.a, relation.b)


def _angle_rows(relation: Relation) -> list[Row]:
    a, b = _directions(relation)
    angle = relation.number if _alike(relation) else math.pi / 2 - relation.number
    if abs(math.sin(angle)) < 1e-6:
        return _parallel(relation.a, relation.b)
    return [Row("slant", way=a, along=b, constant=math.cos(angle))]


def _touching(relation: Relation) -> list[Row]:
    a, b = relation.a, relation.b
    r, gap = a.radius, relation.number
    if a.form in _ROUND and b.form == "plane":
        assert b.way
        level = [Row("slant", way=a.way, along=b.way)] if a.form == "cylinder" and a.way else []
        return [*level, Row("offset", a.at, b.at, along=b.way, constant=r + gap)]
    if a.form not in _ROUND or b.form not in _ROUND:
        raise _cannot(relation, "a round face and a flat or round one")
    # one inside the other touches where the radii differ, outside where they add up
    far = abs(a.radius - b.radius) - gap if a.hollow != b.hollow else a.radius + b.radius + gap
    if far <= 1e-9:
        raise BadInput("Both have the same radius: they fit into each other, so choose “on” for their axes.")
    if a.form == "ball" and b.form == "ball":
        return [Row("apart", a.at, b.at, constant=far)]
    level = _parallel(a, b) if a.form == "cylinder" else []
    return [*level, Row("reach", a.at, b.at, along=b.way or a.at, constant=far)]


RELATIONS: dict[str, Kind] = {
    k.kind: k
    for k in (
        Kind("against", "against", _facing, "gap", -1, lambda r: True, "flat"),
        Kind("flush", "flush with", _facing, "gap", 1, lambda r: True, "flat"),
        Kind("on", "on", _on, "", 0, lambda r: r.a.form in _LINES and r.b.form in _LINES, "round"),
        Kind("touching", "touching", _touching, "gap", 0, lambda r: r.a.form == r.b.form == "cylinder"),
        Kind("parallel", "parallel to", _parallel_rows, "", 0, _alike),
        Kind("square", "at right angles to", _square_rows, "", 0, lambda r: not _alike(r)),
        Kind("angle", "at an angle to", _angle_rows, "angle"),
    )
}


def same_way(a: Triple, b: Triple) -> int:
    """1 where two directions lie the same way (or square to each other), -1 where against each other."""
    return -1 if dot(a, b) < -1e-9 else 1
