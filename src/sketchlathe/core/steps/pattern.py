"""Pattern: steps or whole bodies again and again: in rows, round an axis, along a curve, at points."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from ..blanks import AxisRef, Blank, CurvePick, EdgePick, Formula, PointPick
from ..errors import CannotBuild
from .base import Step
from .mirror import WHAT

if TYPE_CHECKING:
    from ..making.context import Context

MOST = 500
_STRAIGHT = ("form", ("round", "row"))


class Pattern(Step):
    """Round an axis (evenly or by an angle), along one or two directions or a curve, or at points."""

    kind: Literal["pattern"] = "pattern"
    word: ClassVar[str] = "Pattern"
    chord: ClassVar[str] = "rp"
    synonyms: ClassVar[str] = "repeat copy grid row circle curve points"
    group: ClassVar[str] = "repeat"
    order: ClassVar[int] = 31
    icon: ClassVar[str] = "M4 4h4v4H4zM15 4h4v4h-4zM4 15h4v4H4zM15 15h4v4h-4z"
    hint: ClassVar[str] = "Pick or choose what to repeat, then an axis and how many."
    sentence: ClassVar[str] = (
        "Repeat {what}[ {steps}][ {bodies}] {form}[ {axis}][ {path}, {turning}][ {points}][, {count} in all][, "
        "{spread}]"
        "[ {angle}][, {spacing} apart]"
        "[, also along {second}][, {second_count} rows][ {second_spacing} apart][, without {leave_out}][, {unite}]"
    )

    assembles: ClassVar[bool] = True
    usual_there: ClassVar[Mapping[str, str]] = {"what": "some", "unite": "separate"}

    what: Annotated[Literal["bodies", "some", "steps"], Blank("choice", "what", "", WHAT)] = "steps"
    steps: Annotated[
        tuple[str, ...],
        Blank("steps", "steps", "Pick what they made, or choose the steps to repeat.", when=("what", ("steps",))),
    ] = ()
    bodies: Annotated[
        tuple[str, ...], Blank("bodies", "bodies", "Choose the bodies to repeat.", when=("what", ("some",)))
    ] = ()
    form: Annotated[
        Literal["round", "row", "path", "points"],
        Blank("choice", "form", "Round an axis, along a direction or a curve, or at points of a sketch.",
              {"round": "round", "row": "along", "path": "along the curve", "points": "at"}),
    ] = "round"  # fmt: skip
    axis: Annotated[
        AxisRef,
        Blank("axis", "axis", "Pick a line, an edge, a round face, or an axis of the origin.", when=_STRAIGHT),
    ] = AxisRef()
    path: Annotated[
        tuple[CurvePick | EdgePick, ...],
        Blank("path", "curve", "A curve of a sketch or edges; the original stands at its nearer end.",
              when=("form", ("path",))),
    ] = ()  # fmt: skip
    turning: Annotated[
        Literal["along", "still"],
        Blank("choice", "turning", "", {"along": "turning with it", "still": "not turning"}, when=("form", ("path",))),
    ] = "along"
    points: Annotated[
        tuple[PointPick, ...],
        Blank(
            "points", "points", "Pick points of sketches: the original stands at the first.", when=("form", ("points",))
        ),
    ] = ()
    count: Annotated[
        Formula,
        Blank("count", "how many", "The original included.", when=("form", ("round", "row", "path")), main=True),
    ] = "4"
    spread: Annotated[
        Literal["even", "step"],
        Blank(
            "choice", "spread", "", {"even": "evenly all round", "step": "with a step of"}, when=("form", ("round",))
        ),
    ] = "even"
    angle: Annotated[Formula, Blank("angle", "angle", "From one to the next.", when=("spread", ("step",)))] = "30 deg"
    spacing: Annotated[Formula, Blank("length", "spacing", "From one to the next.", when=("form", ("row",)))] = "10 mm"
    second: Annotated[
        AxisRef, Blank("axis", "second direction", "Makes a grid; may stay "
                                                   "empty.", when=("form", ("row",)), optional=True)
    ] = AxisRef()  # fmt: skip
    second_count: Annotated[
        Formula,
        Blank("count", "how many rows", "In the second direction.", when=("form", ("row",)), optional=True),
    ] = "1"
    second_spacing: Annotated[
        Formula, Blank("length", "row spacing", "From one row to the next.", when=("form", ("row",)), optional=True)
    ] = "10 mm"
    leave_out: Annotated[
        str,
        Blank(
            "members",
            "left out",
            "Click members in the view, or type their numbers: 3, 5; in a grid column.row, like 2.3. The original is "
            "1.",
            optional=True,
        ),
    ] = ""
    unite: Annotated[
        Literal["united", "separate"],
        Blank("choice", "result", "", {"united": "united with the original", "separate": "as separate bodies"},
              when=("what", ("bodies", "some"))),
    ] = "united"  # fmt: skip

    def build(self, context: Context) -> None:
        from .mirroring import repeat_bodies, repeat_steps

        places = self._places(context)
        skipped = self._left_out()
        motions = [(name, motion) for name, motion in places if name not in skipped]
        self._show_spots(context, places)
        if not motions:
            raise CannotBuild("Every member is left out; leave out fewer.", where="leave_out")

        # faces of a member are called by its place too: what is picked there stays there when there are more columns
        def rename(number: int) -> Any:
            return lambda atom: f"{self.id}#{motions[number][0]}({atom})"

        moves = [motion for _, motion in motions]
        if self.what == "steps":
            if not self.steps:
                raise CannotBuild("Choose at least one step to repeat.", where="steps")
            repeat_steps(context, self, self.steps, moves, rename, "steps")
            return
        bodies = context.bodies_of(self.bodies if self.what == "some" else ())
        if not bodies:
            raise CannotBuild("There is no body to repeat yet.", where="bodies")
        repeat_bodies(context, self, bodies, moves, rename, self.unite == "united")

    def _whole(self, context: Context, field: str) -> int:
        value = context.value(self, field)
        if abs(value - round(value)) > 1e-9 or not 1 <= value <= MOST:
            raise CannotBuild(f"“{self.blanks()[field].label}” must be a whole number from 1 to {MOST}.", where=field)
        return round(value)

    def _places(self, context: Context) -> list[tuple[str, Any]]:
        """(name, motion) of every member but the original, those left out too. In a grid the name is column.row, else a
        number from 2.
        """
        from ..solid.transforms import rotation, translation

        if self.form == "points":
            return self._at_points(context)
        if self.form == "path":
            return self._along(context)
        origin, direction = context.axis_of(self.axis)
        count = self._whole(context, "count")
        if self.form == "round":
            if count < 2:
                raise CannotBuild("A pattern needs at least two members.", where="count")
            step = 2 * math.pi / count if self.spread == "even" else context.value(self, "angle")
            if abs(step) < 1e-9 or abs(step) * (count - 1) > 2 * math.pi + 1e-9:
                raise CannotBuild("With this angle the members would come round onto each other.", where="angle")
            return [(str(i + 1), rotation(origin, direction, i * step)) for i in range(1, count)]
        spacing = context.value(self, "spacing")
        rows, apart, across = 1, 0.0, (0.0, 0.0, 0.0)
        if self._has_second():
            _, across = context.axis_of(self.second)
            rows, apart = self._whole(context, "second_count"), context.value(self, "second_spacing")
        if count * rows < 2 or count * rows > MOST:
            raise CannotBuild(f"A pattern needs from 2 to {MOST} members.", where="count")
        if abs(spacing) < 1e-6 or (rows > 1 and abs(apart) < 1e-6):
            raise CannotBuild("The spacing of a pattern must not be zero.", where="spacing")
        found: list[tuple[str, Any]] = []
        for row in range(rows):
            for i in range(count):
                x, y, z = (direction[k] * i * spacing + across[k] * row * apart for k in range(3))
                found.append((_named(i, row, rows), translation((x, y, z))))
        return found[1:]

    def _at_points(self, context: Context) -> list[tuple[str, Any]]:
        """From the first point to each of the others."""
        from ..solid.transforms import translation

        places = [place for _, _, place in context.points_of(self.points)]
        if not 2 <= len(places) <= MOST:
            raise CannotBuild(f"Pick from 2 to {MOST} points: the original stands at the first.", where="points")
        first = places[0]
        return [
            (str(i), translation(tuple(b - a for a, b in zip(first, place))))  # type: ignore[arg-type]
            for i, place in enumerate(places[1:], 2)
        ]

    def _along(self, context: Context) -> list[tuple[str, Any]]:
        """Evenly along a path, from its end that is nearer to what is repeated to its other; all round a closed one."""
        from ..solid.transforms import translation
        from .mirroring import middle_of_steps

        count = self._whole(context, "count")
        if count < 2:
            raise CannotBuild("A pattern needs at least two members.", where="count")
        path = context.path_of(self.path, "path")
        bodies = () if self.what == "steps" else context.bodies_of(self.bodies if self.what == "some" else ())
        middle = middle_of_steps(context, self.steps, bodies)
        path = path.from_near(middle) if middle is not None else path
        gaps = count if path.closed else count - 1
        stations = path.stations([i / gaps for i in range(count)])
        if self.turning == "along":
            return [(str(i), stations[0].motion_to(s)) for i, s in enumerate(stations[1:], 2)]
        first = stations[0].place
        return [
            (str(i), translation(tuple(b - a for a, b in zip(first, s.place))))  # type: ignore[arg-type]
            for i, s in enumerate(stations[1:], 2)
        ]

    def _has_second(self) -> bool:
        return self.form == "row" and any(self.second.model_dump(exclude={"reversed"}).values())

    def _left_out(self) -> set[str]:
        names = self.leave_out.replace(",", " ").replace(";", " ").split()
        if not all(_MEMBER.fullmatch(n) for n in names):
            raise CannotBuild(
                "Say which members to leave out by their numbers, like 3, 5; in a grid by column.row, like 2.3.",
                where="leave_out",
            )
        return {n.removesuffix(".1") if self.form == "round" or not self._has_second() else n for n in names}

    def lasting(self, value: Callable[[str], float]) -> Pattern:
        """Members left out of a grid are kept by column and row: numbers that run on would move with its columns."""
        if not self._has_second() or not self.leave_out.strip():
            return self
        columns, rows = round(value("count")), round(value("second_count"))
        if columns < 1 or rows < 2:
            return self

        def placed(found: re.Match[str]) -> str:
            number = int(found[0]) - 1
            return _named(number % columns, number // columns, rows) if 0 <= number < columns * rows else found[0]

        text = re.sub(r"(?<![\d.])\d{1,4}(?![\d.])", placed, self.leave_out)
        return self if text == self.leave_out else self.model_copy(update={"leave_out": text})

    def _show_spots(self, context: Context, places: list[tuple[str, Any]]) -> None:
        """Where the members stand, for a preview in which they are picked."""
        from ..solid.transforms import moved_point
        from .mirroring import middle_of_steps

        bodies = () if self.what == "steps" else context.bodies_of(self.bodies if self.what == "some" else ())
        middle = middle_of_steps(context, self.steps, bodies)
        if middle is not None:
            context.spots = tuple((name, moved_point(motion, middle)) for name, motion in places)


_MEMBER = re.compile(r"[1-9]\d{0,3}(\.[1-9]\d{0,3})?")


def _named(column: int, row: int, rows: int) -> str:
    """The name of a member, its column and row from 0."""
    return f"{column + 1}.{row + 1}" if rows > 1 else str(column + 1)
