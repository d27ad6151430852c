"""Snap hook: a springy beam with a catch, and how far it is strained when it snaps."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..advice import Advice
from ..blanks import AxisRef, Blank, Formula
from ..errors import CannotBuild
from .outcome import ON
from .places import AT_PLACES, AtPlaces

if TYPE_CHECKING:
    from ..frames import Frame
    from ..making.context import Context

STRAINS = {"PLA": 0.02, "PETG": 0.04, "ABS": 0.04, "nylon": 0.06}
"""What printed beams stand once or twice without breaking, about half of what moulded ones do."""


class SnapHook(AtPlaces):
    """It stands on a flat face; the strain follows from the beam's formula, 3/2 thickness times catch over length
    squared.
    """

    kind: Literal["snap_hook"] = "snap_hook"
    word: ClassVar[str] = "Snap hook"
    chord: ClassVar[str] = "ns"
    synonyms: ClassVar[str] = "clip catch cantilever latch click"
    group: ClassVar[str] = "print"
    order: ClassVar[int] = 61
    icon: ClassVar[str] = "M3 20h17M8 20V5l3-2.500l6 5.500h-5v12"
    hint: ClassVar[str] = "Pick a point of a sketch or a flat face; type length, thickness and how far it catches."
    sentence: ClassVar[str] = (
        f"Stand a snap hook {AT_PLACES}"
        ", {length} long, {width} wide, {thickness} thick, catching by {catch} towards {side}[, on {bodies}]"
    )

    length: Annotated[Formula, Blank("length", "length", "From the face to the catch.", main=True)] = "15 mm"
    width: Annotated[Formula, Blank("length", "width", "")] = "6 mm"
    thickness: Annotated[Formula, Blank("length", "thickness", "The way it bends.")] = "1.6 mm"
    catch: Annotated[Formula, Blank("length", "catch", "How far it reaches beyond the beam.")] = "1 mm"
    side: Annotated[AxisRef, Blank("axis", "side", "The direction it catches to.")] = AxisRef(axis="x")
    bodies: Annotated[tuple[str, ...], ON] = ()

    def build(self, context: Context) -> None:
        from ..solid.hooks import hook

        long, wide, thick, catch = (context.above(self, f, 1e-2) for f in ("length", "width", "thickness", "catch"))
        if catch > 3 * thick or long < 2 * thick:
            raise CannotBuild(
                "A hook needs a beam at least twice as long as it is thick, and a smaller catch.", where="length"
            )
        tools = []
        for number, (frame, place) in enumerate(self.places(context)):
            out = -self.into(context, frame, place) if context.bodies else 1.0
            name = f"{self.id}#{number}" if number else self.id
            tools.append(hook(name, self._upright(context, frame, place, out), long, wide, thick, catch))
        context.combine(self, tools, "add", self.bodies)
        self._advise(context, 1.5 * thick * catch / long**2, thick, catch)

    def _upright(self, context: Context, frame: Frame, place: tuple[float, float], out: float) -> Frame:
        """A frame at the foot: x the way it catches, y up the beam."""
        from ..frames import Frame, cross, dot, unit

        _, way = context.axis_of(self.side)
        up = tuple(out * v for v in frame.normal)
        along = dot(way, up)  # type: ignore[arg-type]
        flat = tuple(w - along * u for w, u in zip(way, up))
        if math.hypot(*flat) < 0.5:
            raise CannotBuild("A hook catches along the face it stands on: pick another direction.", where="side")
        x = unit(flat)  # type: ignore[arg-type]
        return Frame(frame.place(*place), x, cross(x, up))  # type: ignore[arg-type]

    def _advise(self, context: Context, strain: float, thick: float, catch: float) -> None:
        if strain <= min(STRAINS.values()):
            return
        stand = [name for name, most in STRAINS.items() if strain <= most]
        needed = context.at_least(math.sqrt(1.5 * thick * catch / min(STRAINS.values())))
        says = f"{' and '.join(stand)} stand that, others break" if stand else "no usual filament stands that"
        context.advice.append(
            Advice(f"It is strained by {100 * strain:.1f} % when it snaps: "
                   f"{says}.", f"make it {needed} long", {"length": needed})
        )  # fmt: skip
