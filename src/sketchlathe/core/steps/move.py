"""Move: a body shifted, turned, scaled, or copied there."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..blanks import AxisRef, Blank, Formula
from ..errors import CannotBuild
from .base import Step

if TYPE_CHECKING:
    from collections.abc import Callable

    from ..making.context import Context
    from ..solid.naming import Body


class Move(Step):
    """Shift by three lengths, turn about an axis, or scale about the origin."""

    kind: Literal["move"] = "move"
    word: ClassVar[str] = "Move"
    chord: ClassVar[str] = "bm"
    synonyms: ClassVar[str] = "turn shift copy scale"
    group: ClassVar[str] = "body"
    order: ClassVar[int] = 41
    icon: ClassVar[str] = "M11.500 3v17M3 11.500h17M9 5.500L11.500 3L14 5.500M17.500 9l2.500 2.500l-2.500 2.500"
    hint: ClassVar[str] = "Pick bodies, then type how far or how much."
    sentence: ClassVar[str] = (
        "{how} {bodies}[ by {dx}, {dy}, {dz}][ about {axis} by {angle}][ by a factor of {factor}]"
        "[ along x, {along_y} along y][, {along_z} along z], {keep}"
    )
    assembles: ClassVar[bool] = True

    how: Annotated[
        Literal["shift", "turn", "scale"],
        Blank("choice", "how", "", {"shift": "shift", "turn": "turn", "scale": "scale"}),
    ] = "shift"
    bodies: Annotated[tuple[str, ...], Blank("bodies", "bodies", "The bodies to move.")] = ()
    dx: Annotated[Formula, Blank("length", "along x", "", when=("how", ("shift",)), main=True)] = "0 mm"
    dy: Annotated[Formula, Blank("length", "along y", "", when=("how", ("shift",)))] = "0 mm"
    dz: Annotated[Formula, Blank("length", "along z", "", when=("how", ("shift",)))] = "0 mm"
    axis: Annotated[AxisRef, Blank("axis", "axis", "Pick what to turn about.", when=("how", ("turn",)))] = AxisRef(
        axis="z"
    )
    angle: Annotated[Formula, Blank("angle", "angle", "", when=("how", ("turn",)))] = "90 deg"
    factor: Annotated[Formula, Blank("count", "factor", "2 makes it twice as large.", when=("how", ("scale",)))] = "2"
    along_y: Annotated[
        Formula, Blank("count", "factor along y", "Another one across; empty is alike along all axes.",
                       when=("how", ("scale",)), optional=True)
    ] = ""  # fmt: skip
    along_z: Annotated[
        Formula, Blank("count", "factor along z", "Another one upwards; empty is as along x.",
                       when=("how", ("scale",)), optional=True)
    ] = ""  # fmt: skip
    keep: Annotated[
        Literal["move", "copy"],
        Blank("choice", "the original", "", {"move": "moving the original", "copy": "leaving the original"}),
    ] = "move"

    def build(self, context: Context) -> None:
        from ..solid.transforms import copied, rotation, scaling, stretched, translation

        if not context.bodies:
            raise CannotBuild("There is no body to move yet.", where="bodies")
        bodies = context.bodies_of(self.bodies)
        if self.how == "shift":
            x, y, z = (context.value(self, name) for name in ("dx", "dy", "dz"))
            if max(abs(x), abs(y), abs(z)) > 1e5:
                raise CannotBuild("A body may be moved by at most 100 m.", where="dx")
            motion = translation((x, y, z))
        elif self.how == "turn":
            motion = rotation(*context.axis_of(self.axis), context.value(self, "angle"))
        else:
            factors = self._factors(context)
            motion = scaling((0.0, 0.0, 0.0), factors[0]) if len(set(factors)) == 1 else None

        def made(body: Body, id: str, rename: Callable[[str], str] | None = None) -> Body:
            return stretched(body, factors, id, rename) if motion is None else copied(body, motion, id, rename)

        if self.keep == "copy":
            copies = [made(b, f"{self.id}.{b.id}", lambda atom: f"{self.id}({atom})") for b in bodies]
            context.combine(self, copies, "separate")
            return
        for body in bodies:
            context.replace(body, [made(body, body.id)])

    def _factors(self, context: Context) -> tuple[float, float, float]:
        """The factors along the axes; what is not given is as along x."""
        given = self.formulas()
        found = {field: context.value(self, field) for field in ("factor", "along_y", "along_z") if field in given}
        for field, factor in found.items():
            if not 1e-3 <= factor <= 1e3:
                raise CannotBuild("A factor must be from 0.001 to 1000.", where=field)
        x = found["factor"]
        return x, found.get("along_y", x), found.get("along_z", x)
