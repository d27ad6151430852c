"""Cut open: a part cut by a plane, looked at from the side that was taken away."""

from __future__ import annotations

from collections.abc import Collection
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

import numpy as np
import shapely

from ..blanks import Blank, Formula
from ..errors import CannotBuild
from ..frames import Frame
from ..quantity.units import LENGTH, show
from ..sheet.puts import SIDES, Cut, View
from .show import FROM, ViewLine

if TYPE_CHECKING:
    from ..making.context import Context
    from ..solid.naming import Body

_AXIS = {"front": "y", "behind": "y", "left": "x", "right": "x", "above": "z", "below": "z"}
_ACROSS = {side: f"across {axis}, seen {FROM[side]}," for side, axis in _AXIS.items()}


class CutOpenLine(ViewLine):
    """A view of what is left of a part when all before a plane is taken away."""

    kind: Literal["cut_open"] = "cut_open"
    word: ClassVar[str] = "Cut open"
    chord: ClassVar[str] = "yc"
    synonyms: ClassVar[str] = "section inside hatch plane A-A"
    order: ClassVar[int] = 3
    icon: ClassVar[str] = "M3.500 5h16v13h-16zM4 12l7-7M4 17.500L16.500 5M9 18L19 8M15 18l4.500-4.500"
    hint: ClassVar[str] = "Choose a part, which way it is cut, and where."
    sentence: ClassVar[str] = "Cut open {part} {side} at {at}[, {hidden}][, moved {x} across][, {y} up]"

    side: Annotated[
        Literal["front", "left", "above", "right", "below", "behind"],
        Blank("choice", "which way", "Which way it is cut, and where it is looked at from.", words=_ACROSS),
    ] = "front"
    at: Annotated[Formula, Blank("length", "place", "Where the plane stands on its axis.")] = "0 mm"

    def better_defaults(self, context: Context, touched: Collection[str]) -> dict[str, Any]:
        """The part that the sheet shows already, cut in its middle."""
        better = super().better_defaults(context, touched)
        part, side = better.get("part", self.part), better.get("side", self.side)
        if "at" not in touched and part:
            low, high = self.box(context, part)
            k = "xyz".index(_AXIS[side])
            better["at"] = f"{(low[k] + high[k]) / 2:.6g} mm"
        return better

    def build(self, context: Context) -> None:
        from ..solid.hidden_lines import seen

        built = self.shown_part(context, self.part)
        if not self.at.strip():
            raise CannotBuild("Say where it is cut.", where="at")
        at, k = context.value(self, "at"), "xyz".index(_AXIS[self.side])
        low, high = self.box(context, self.part)
        if not low[k] + 1e-6 < at < high[k] - 1e-6:
            told = " and ".join(show(v, LENGTH, context.model.read_in) for v in (low[k], high[k]))
            raise CannotBuild(f"The plane does not meet the part: it lies between {told}.", where="at")
        looked = SIDES[self.side]
        origin = tuple(at if i == k else 0.0 for i in range(3))
        plane = Frame(origin, looked.x, looked.normal)  # type: ignore[arg-type]
        left, areas = self._cut(built.bodies, plane)
        context.put = View(
            self.part, self.side, looked, seen(left, looked), low, high, self.hidden == "dashed",
            moved=self.moved(context), cut=Cut(plane, tuple(areas)),
        )  # fmt: skip

    def _cut(
        self, bodies: tuple[Body, ...], plane: Frame
    ) -> tuple[list[Body], list[tuple[tuple[tuple[tuple[float, float], ...], ...], ...]]]:
        """What is behind the plane, and of each body what lies in it."""
        from ..solid.measuring import rough_box
        from ..solid.sectioning import section
        from ..solid.splitting import behind_plane

        left, areas = [], []
        for body in bodies:
            low, high = rough_box(body.shape)
            heights = [plane.height((x, y, z)) for x in (low[0], high[0]) for y in (low[1], high[1])
                       for z in (low[2], high[2])]  # fmt: skip
            if min(heights) >= 0:
                continue
            if max(heights) <= 0:
                left.append(body)
                continue
            left += behind_plane(self.id, body, plane)
            found = section(body, plane)
            if found is not None:
                flat = np.array([[plane.flat(tuple(p)) for p in t] for t in found.positions[found.triangles]])
                areas.append(_rings(shapely.unary_union([shapely.Polygon(t).buffer(1e-6) for t in flat])))
        return left, areas


def _rings(area: Any) -> tuple[tuple[tuple[tuple[float, float], ...], ...], ...]:
    return tuple(
        tuple(tuple((float(x), float(y)) for x, y in ring.coords) for ring in (p.exterior, *p.interiors))
        for p in (area.geoms if hasattr(area, "geoms") else [area])
    )
