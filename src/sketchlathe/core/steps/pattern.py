"""Pattern: steps or whole bodies again and again, in rows or round an axis."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from ..errors import CannotBuild
from .base import Step
from .blanks import AxisRef, Blank, Formula
from .mirror import WHAT

if TYPE_CHECKING:
    from ..model.context import Context

MOST = 500


class Pattern(Step):
    """Round an axis (evenly or by an angle), or along one or two directions."""

    kind: Literal["pattern"] = "pattern"
    word: ClassVar[str] = "Pattern"
    chord: ClassVar[str] = "rp"
    group: ClassVar[str] = "repeat"
    order: ClassVar[int] = 31
    icon: ClassVar[str] = "M4 4h4v4H4zM15 4h4v4h-4zM4 15h4v4H4zM15 15h4v4h-4z"
    hint: ClassVar[str] = "Choose what to repeat, then an axis and how many."
    sentence: ClassVar[str] = (
        "Repeat {what}[ {steps}][ {bodies}] {form} {axis}, {count} in all[, {spread}][ {angle}][, {spacing} apart]"
        "[, also along {second}][, {second_count} rows][ {second_spacing} apart][, without {leave_out}][, {unite}]"
    )

    what: Annotated[Literal["bodies", "some", "steps"], Blank("choice", "what", "", WHAT)] = "steps"
    steps: Annotated[
        tuple[str, ...], Blank("steps", "steps", "Choose the steps to repeat.", when=("what", ("steps",)))
    ] = ()
    bodies: Annotated[
        tuple[str, ...], Blank("bodies", "bodies", "Choose the bodies to repeat.", when=("what", ("some",)))
    ] = ()
    form: Annotated[Literal["round", "row"], Blank("choice", "form", "", {"round": "round", "row": "along"})] = "round"
    axis: Annotated[AxisRef, Blank("axis", "axis", "Pick a line, an edge, a round face, or an axis of the origin.")] = (
        AxisRef()
    )
    count: Annotated[Formula, Blank("count", "how many", "The original included.", main=True)] = "4"
    spread: Annotated[
        Literal["even", "step"],
        Blank(
            "choice", "spread", "", {"even": "evenly all round", "step": "with a step of"}, when=("form", ("round",))
        ),
    ] = "even"
    angle: Annotated[Formula, Blank("angle", "angle", "From one to the next.", when=("spread", ("step",)))] = "30 deg"
    spacing: Annotated[Formula, Blank("length", "spacing", "From one to the next.", when=("form", ("row",)))] = "10 mm"
    second: Annotated[
        AxisRef, Blank("axis", "second direction", "Makes a grid; may stay empty.", when=("form", ("row",)), optional=True)
    ] = AxisRef()  # fmt: skip
    second_count: Annotated[
        Formula,
        Blank("count", "how many rows", "In the second direction.", when=("form", ("row",)), optional=True),
    ] = "1"
    second_spacing: Annotated[
        Formula, Blank("length", "row spacing", "From one row to the next.", when=("form", ("row",)), optional=True)
    ] = "10 mm"
    leave_out: Annotated[
        str, Blank("text", "left out", "Numbers of members, like 3, 5; the original is 1.", optional=True)
    ] = ""
    unite: Annotated[
        Literal["united", "separate"],
        Blank("choice", "result", "", {"united": "united with the original", "separate": "as separate bodies"},
              when=("what", ("bodies", "some"))),
    ] = "united"  # fmt: skip

    def uses(self) -> tuple[str, ...]:
        axes = [x for a in (self.axis, self.second) for x in (a.sketch, a.datum) if x]
        return tuple(dict.fromkeys((*(self.steps if self.what == "steps" else ()), *axes)))

    def build(self, context: Context) -> None:
        from .mirroring import repeat_bodies, repeat_steps

        motions = self._motions(context)
        if not motions:
            raise CannotBuild("Every member is left out; leave out fewer.", where="leave_out")

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

    def _motions(self, context: Context) -> list[tuple[int, Any]]:
        """(member number from 2, motion) of every copy that is wanted."""
        from ..solid.placing import rotation, translation

        origin, direction = context.axis_of(self.axis)
        count = self._whole(context, "count")
        skipped = self._left_out()
        found: list[tuple[int, Any]] = []
        if self.form == "round":
            if count < 2:
                raise CannotBuild("A pattern needs at least two members.", where="count")
            step = 2 * math.pi / count if self.spread == "even" else context.value(self, "angle")
            if abs(step) < 1e-9 or abs(step) * (count - 1) > 2 * math.pi + 1e-9:
                raise CannotBuild("With this angle the members would come round onto each other.", where="angle")
            return [(i + 1, rotation(origin, direction, i * step)) for i in range(1, count) if i + 1 not in skipped]
        spacing = context.value(self, "spacing")
        rows, apart, across = 1, 0.0, (0.0, 0.0, 0.0)
        if any((self.second.axis, self.second.sketch, self.second.edge, self.second.face, self.second.datum)):
            _, across = context.axis_of(self.second)
            rows, apart = self._whole(context, "second_count"), context.value(self, "second_spacing")
        if count * rows < 2 or count * rows > MOST:
            raise CannotBuild(f"A pattern needs from 2 to {MOST} members.", where="count")
        if abs(spacing) < 1e-6 or (rows > 1 and abs(apart) < 1e-6):
            raise CannotBuild("The spacing of a pattern must not be zero.", where="spacing")
        for row in range(rows):
            for i in range(count):
                number = row * count + i + 1
                if number > 1 and number not in skipped:
                    x, y, z = (direction[k] * i * spacing + across[k] * row * apart for k in range(3))
                    found.append((number, translation((x, y, z))))
        return found

    def _left_out(self) -> set[int]:
        words = self.leave_out.replace(",", " ").split()
        if not all(w.isdigit() for w in words):
            raise CannotBuild("Say which members to leave out by their numbers, like 3, 5.", where="leave_out")
        return {int(w) for w in words}
