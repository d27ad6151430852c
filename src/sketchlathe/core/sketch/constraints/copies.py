"""Curves that follow others: mirror images, rings and rows. Changing the original changes every copy.

``seeds`` are the originals, ``copies`` one tuple for each member with an id for each seed (empty where it was
deleted). All scalars of a copy follow from its seed, so a copy has no equations of its own.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from pydantic import BaseModel, Field

from ...errors import BadInput
from ...quantity import ANGLE, Dimension
from ..curves import Curve
from ..equations import residuals as kinds
from .base import Constraint, Figure, Mark
from .coincident import point_ref
from .dimension import Dimensional
from .distance import beside
from .symmetric import mirror_image, say_mirrored

if TYPE_CHECKING:
    from ..document import Sketch
    from ..equations.rows import Rows

MOST_COPIES = 200

CurveId = Annotated[str, Field(max_length=20)]
Transform = Callable[[tuple[float, float]], tuple[float, float]]


class CopyFields(BaseModel):
    """What all kinds of copies store."""

    seeds: tuple[CurveId, ...] = Field(default=(), max_length=3000)
    copies: tuple[tuple[CurveId, ...], ...] = Field(default=(), max_length=MOST_COPIES)

    turns_over: ClassVar[bool] = False

    def transform(self, sketch: Sketch, member: int) -> Transform:
        """Where member number ``member`` (from 1) puts a point."""
        raise NotImplementedError

    def pairs(self) -> Iterator[tuple[int, str, str]]:
        """(member, seed, copy) of every copy that is there."""
        for number, member in enumerate(self.copies, 1):
            for seed, copy in zip(self.seeds, member):
                if copy:
                    yield number, seed, copy

    def copy_ids(self) -> Iterator[str]:
        """Ids of all copies."""
        return (copy for _, _, copy in self.pairs())

    def followers(self) -> tuple[str, ...]:
        return tuple(self.copy_ids())

    def copied(self, sketch: Sketch, seed: str, member: int, id: str) -> Curve:
        """A new copy of a seed as member number ``member``."""
        curve = sketch.curve(seed)
        moved = curve.moved(self.transform(sketch, member), mirrored=self.turns_over)
        return moved.apart().model_copy(update={"id": id, "taken": False})

    def points_of(self, sketch: Sketch, seed: str, copy: str) -> Iterator[tuple[str, str]]:
        """Pairs of points that correspond."""
        curve = sketch.curve(seed)
        for name in (*curve.points, *curve.inner):
            twin = curve.twin_point(name) if self.turns_over else name
            yield f"{seed}.{name}", f"{copy}.{twin}"

    def same_sizes(self, rows: Rows, sketch: Sketch) -> None:
        """Copies have the sizes of their seeds."""
        for _, seed, copy in self.pairs():
            if sketch.curve(seed).sizes:
                rows.same(rows.layout.size(seed), rows.layout.size(copy))

    def without(self, gone: set[str]) -> Any:
        """What is left when curves are deleted: None when nothing is."""
        kept = [i for i, seed in enumerate(self.seeds) if seed not in gone]
        members = tuple(tuple("" if member[i] in gone else member[i] for i in kept) for member in self.copies)
        if not kept or not any(any(member) for member in members):
            return None
        return self.model_copy(update={"seeds": tuple(self.seeds[i] for i in kept), "copies": members})

    def orphans(self, gone: set[str]) -> set[str]:
        """Copies whose seed is deleted: they go too."""
        return {copy for _, seed, copy in self.pairs() if seed in gone}


class Mirrored(CopyFields, Constraint):
    """Mirror images across a line."""

    kind: Literal["mirrored"] = "mirrored"
    word: ClassVar[str] = "mirrored"
    symbol: ClassVar[str] = "⇋"
    order: ClassVar[int] = 40
    takes: ClassVar[tuple[tuple[str, ...], ...]] = ()
    turns_over: ClassVar[bool] = True

    def transform(self, sketch: Sketch, member: int) -> Transform:
        return lambda p: mirror_image(sketch, self.on[0], p)

    def members(self) -> frozenset[str]:
        return super().members() | set(self.seeds) | set(self.copy_ids())

    def say(self, rows: Rows, sketch: Sketch) -> None:
        for _, seed, copy in self.pairs():
            for a, b in self.points_of(sketch, seed, copy):
                say_mirrored(rows, a, b, self.on[0])
        self.same_sizes(rows, sketch)

    def marks(self, sketch: Sketch) -> list[Mark]:
        return [Mark(*sketch.anchor(self.on[0]))]

    def sentence(self, sketch: Sketch) -> str:
        return f"mirrored across {sketch.name_of(self.on[0])}"


class _Pattern(CopyFields, Dimensional):
    """A pattern: a number of members at a spacing."""

    takes: ClassVar[tuple[tuple[str, ...], ...]] = ()
    counted: ClassVar[str] = "members"

    @property
    def count(self) -> int:
        """Members, the original included."""
        return len(self.copies) + 1

    def members(self) -> frozenset[str]:
        return super().members() | set(self.seeds) | set(self.copy_ids())

    def step(self, sketch: Sketch) -> float:
        """The spacing in force, mm or rad."""
        return sketch.value_of(self.id) or 0.0

    def prefix(self) -> str:
        return f"{self.count} × "

    def places(self, sketch: Sketch) -> tuple[tuple[float, float], tuple[float, float]]:
        """A place of the original and of the first member that is there."""
        for _, seed, copy in self.pairs():
            curve = sketch.curve(seed)
            best = max(curve.points, key=lambda name: math.dist(curve.place(name), self._away_from(sketch)))
            return curve.place(best), sketch.curve(copy).place(best)
        raise BadInput("This pattern has no members left.")

    def _away_from(self, sketch: Sketch) -> tuple[float, float]:
        return (0.0, 0.0)

    def sentence(self, sketch: Sketch) -> str:
        return f"{self.word} of {self.count}"


class Ring(_Pattern):
    """Members round a point, evenly round the full circle or at a given angle."""

    kind: Literal["ring"] = "ring"
    word: ClassVar[str] = "circular pattern"
    symbol: ClassVar[str] = "⟳"
    order: ClassVar[int] = 41
    measures: ClassVar[Dimension] = ANGLE
    scales: ClassVar[bool] = False
    even: bool = True

    def step(self, sketch: Sketch) -> float:
        return 2 * math.pi / self.count if self.even else super().step(sketch)

    def check_value(self, value: float) -> None:
        if not 0 < abs(value) < 2 * math.pi:
            raise BadInput("The angle between members must be between 0° and 360°.", where=self.id)

    def _centre(self, sketch: Sketch) -> tuple[float, float]:
        return sketch.point(point_ref(sketch, self.on[0]))

    def _away_from(self, sketch: Sketch) -> tuple[float, float]:
        return self._centre(sketch)

    def transform(self, sketch: Sketch, member: int) -> Transform:
        cx, cy = self._centre(sketch)
        c, s = math.cos(member * self.step(sketch)), math.sin(member * self.step(sketch))
        return lambda p: (cx + c * (p[0] - cx) - s * (p[1] - cy), cy + s * (p[0] - cx) + c * (p[1] - cy))

    def measure(self, sketch: Sketch) -> float:
        if self.even:
            return self.step(sketch)
        cx, cy = self._centre(sketch)
        p, q = self.places(sketch)
        first = next(number for number, _, _ in self.pairs())
        turn = math.atan2(q[1] - cy, q[0] - cx) - math.atan2(p[1] - cy, p[0] - cx)
        return (turn % (2 * math.pi)) / first

    def equations(self, rows: Rows, sketch: Sketch, value: float) -> None:
        step = 2 * math.pi / self.count if self.even else value
        centre = rows.layout.xy(point_ref(sketch, self.on[0]))
        for member, seed, copy in self.pairs():
            for a, b in self.points_of(sketch, seed, copy):
                say_turned(rows, centre, rows.layout.xy(a), rows.layout.xy(b), member * step)
        self.same_sizes(rows, sketch)

    def figure(self, sketch: Sketch) -> Figure:
        cx, cy = self._centre(sketch)
        rays = []
        for p in self.places(sketch):
            long = math.dist(p, (cx, cy)) or 1.0
            rays.append(((p[0] - cx) / long, (p[1] - cy) / long))
        reach = 0.6 * max(math.dist(p, (cx, cy)) for p in self.places(sketch))
        mid = (rays[0][0] + rays[1][0], rays[0][1] + rays[1][1])
        long = math.hypot(*mid)
        if long < 1e-6:
            mid, long = (-rays[0][1], rays[0][0]), 1.0
        label = self.label or (cx + mid[0] / long * reach, cy + mid[1] / long * reach)
        return Figure("angular", ((cx, cy), rays[0], rays[1]), label)


class Row(_Pattern):
    """Members in a row along a line."""

    kind: Literal["row"] = "row"
    word: ClassVar[str] = "linear pattern"
    symbol: ClassVar[str] = "⋮"
    order: ClassVar[int] = 42

    def check_value(self, value: float) -> None:
        if not 0 < abs(value) <= 1e6:
            raise BadInput("The spacing of a pattern must not be zero.", where=self.id)

    def _run(self, sketch: Sketch) -> tuple[float, float]:
        (ax, ay), (bx, by) = sketch.ends(self.on[0])
        long = math.hypot(bx - ax, by - ay) or 1.0
        return ((bx - ax) / long, (by - ay) / long)

    def transform(self, sketch: Sketch, member: int) -> Transform:
        (ux, uy), d = self._run(sketch), member * self.step(sketch)
        return lambda p: (p[0] + ux * d, p[1] + uy * d)

    def measure(self, sketch: Sketch) -> float:
        (ux, uy), (p, q) = self._run(sketch), self.places(sketch)
        first = next(number for number, _, _ in self.pairs())
        return ((q[0] - p[0]) * ux + (q[1] - p[1]) * uy) / first

    def equations(self, rows: Rows, sketch: Sketch, value: float) -> None:
        ends = rows.layout.ends(self.on[0])
        for member, seed, copy in self.pairs():
            for a, b in self.points_of(sketch, seed, copy):
                variables = (*rows.layout.xy(a), *rows.layout.xy(b), *ends)
                rows.add(kinds.SYMMETRIC_ALONG, variables, (member * value,), (0,))
                rows.add(kinds.STEP_ACROSS, variables, (0.0,), (0,))
        self.same_sizes(rows, sketch)

    def figure(self, sketch: Sketch) -> Figure:
        a, b = self.places(sketch)
        return Figure("linear", (a, b, self._run(sketch)), self.label or beside(a, b, self._run(sketch), sketch.size))


class Regular(Constraint):
    """Lines form a regular polygon about a point."""

    kind: Literal["regular"] = "regular"
    word: ClassVar[str] = "regular polygon"
    symbol: ClassVar[str] = "⬡"
    order: ClassVar[int] = 43
    takes: ClassVar[tuple[tuple[str, ...], ...]] = ()
    counted: ClassVar[str] = "sides"
    sides: tuple[CurveId, ...] = Field(min_length=3, max_length=MOST_COPIES)

    @property
    def count(self) -> int:
        """Number of sides."""
        return len(self.sides)

    def members(self) -> frozenset[str]:
        return super().members() | set(self.sides)

    def say(self, rows: Rows, sketch: Sketch) -> None:
        centre = rows.layout.xy(point_ref(sketch, self.on[0]))
        first = rows.layout.xy(f"{self.sides[0]}.start")
        for i, side in enumerate(self.sides):
            following = self.sides[(i + 1) % len(self.sides)]
            rows.same_point(f"{side}.end", f"{following}.start")
            if i:
                turn = 2 * math.pi * i / len(self.sides)
                say_turned(rows, centre, first, rows.layout.xy(f"{side}.start"), turn)

    def marks(self, sketch: Sketch) -> list[Mark]:
        return [Mark(*sketch.anchor(self.on[0]))]

    def sentence(self, sketch: Sketch) -> str:
        return f"regular polygon with {self.count} sides"


def say_turned(rows: Rows, centre: tuple[int, int], p: tuple[int, int], q: tuple[int, int], turn: float) -> None:
    """Point ``q`` is ``p`` turned about a centre."""
    c, s = math.cos(turn), math.sin(turn)
    (cx, cy), (px, py), (qx, qy) = centre, p, q
    rows.linear((qx, cx, px, py, cy), (1.0, c - 1.0, -c, s, -s))
    rows.linear((qy, cy, py, px, cx), (1.0, c - 1.0, -c, -s, s))


def followers(constraints: tuple[Constraint, ...]) -> set[str]:
    """Ids of all curves that are copies of others."""
    return {id for c in constraints for id in c.followers()}
