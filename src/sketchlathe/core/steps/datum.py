"""Datum: a plane, an axis or a point to build on."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from ..blanks import AxisRef, Blank, Formula, PlaneRef, PointPick
from ..errors import CannotBuild
from .base import Step

if TYPE_CHECKING:
    from ..making.context import Context


class DatumStep(Step):
    """A plane at a distance, turned about an axis, midway between two, or through three points; an axis; a point."""

    kind: Literal["datum"] = "datum"
    word: ClassVar[str] = "Datum"
    chord: ClassVar[str] = "sd"
    synonyms: ClassVar[str] = "plane axis point reference"
    group: ClassVar[str] = "draw"
    order: ClassVar[int] = 9
    icon: ClassVar[str] = "M3 15l7-9h10l-7 9zM3 19.500l7-1M13 18l7-1"
    hint: ClassVar[str] = "Choose how the plane or axis is given, then pick what it starts from."
    sentence: ClassVar[str] = (
        "Set {form}[ {plane}][ by {offset}][ and {other}][ about {axis}][ by {angle}][ through {points}]"
        "[ at {x}, {y}, {z}]"
    )
    assembles: ClassVar[bool] = True
    makes_solid: ClassVar[bool] = False

    form: Annotated[
        Literal["offset", "turned", "midway", "points", "axis", "point"],
        Blank(
            "choice", "form", "",
            {"offset": "a plane off", "turned": "a plane turned from", "midway": "a plane midway between",
             "points": "a plane", "axis": "an axis", "point": "a point"},
        ),
    ] = "offset"  # fmt: skip
    plane: Annotated[
        PlaneRef, Blank("plane", "plane", "What it starts from.", when=("form", ("offset", "turned", "midway")))
    ] = PlaneRef()
    offset: Annotated[
        Formula, Blank("length", "distance", "Negative is backwards.", when=("form", ("offset",)), main=True)
    ] = "10 mm"
    other: Annotated[PlaneRef, Blank("plane", "and", "The other plane.", when=("form", ("midway",)))] = PlaneRef()
    axis: Annotated[AxisRef, Blank("axis", "axis", "The axis.", when=("form", ("turned", "axis")))] = AxisRef()
    angle: Annotated[Formula, Blank("angle", "angle", "", when=("form", ("turned",)))] = "45 deg"
    points: Annotated[
        tuple[PointPick, ...], Blank("points", "points", "Three points of sketches.", when=("form", ("points",)))
    ] = ()

    x: Annotated[Formula, Blank("length", "x", "From the origin.", when=("form", ("point",)))] = "0 mm"
    y: Annotated[Formula, Blank("length", "y", "From the origin.", when=("form", ("point",)))] = "0 mm"
    z: Annotated[Formula, Blank("length", "z", "From the origin.", when=("form", ("point",)))] = "0 mm"

    def key_parts(self, context: Context) -> Any:
        """It depends on the solids only through what it picks from them."""
        parts = super().key_parts(context)
        picked: list[Any] = []
        if self.form in ("offset", "turned", "midway"):
            picked.append(context.frame_of(self.plane).as_json())
        if self.form == "midway":
            picked.append(context.frame_of(self.other).as_json())
        if self.form in ("turned", "axis"):
            picked.append(context.axis_of(self.axis))
        return [parts, picked]

    def stands_on(self, context: Context) -> Any:
        return super().key_parts(context)

    def build(self, context: Context) -> None:
        from ..making.results import Datum

        if self.form == "point":
            x, y, z = (context.value(self, name) for name in "xyz")
            context.datum = Datum(None, (x, y, z))
            return
        if self.form == "axis":
            origin, direction = context.axis_of(self.axis)
            context.datum = Datum(None, origin, direction)
            return
        context.datum = Datum(self._frame(context))

    def _frame(self, context: Context) -> Any:
        from ..frames import Frame, cross, dot, frame_on, unit

        if self.form == "points":
            places = [p for _, _, p in context.points_of(self.points)]
            if len(places) != 3:
                raise CannotBuild("Pick exactly three points.", where="points")
            a, b, c = places
            n = cross((b[0] - a[0], b[1] - a[1], b[2] - a[2]), (c[0] - a[0], c[1] - a[1], c[2] - a[2]))
            if math.sqrt(dot(n, n)) < 1e-9:
                raise CannotBuild("These three points lie on one line; pick others.", where="points")
            return frame_on(a, n)
        base = context.frame_of(self.plane)
        if self.form == "offset":
            return Frame(base.place(0, 0, context.value(self, "offset")), base.x, base.normal)
        if self.form == "turned":
            origin, d = context.axis_of(self.axis)
            t = context.value(self, "angle")
            cos, sin = math.cos(t), math.sin(t)

            def turned(v: tuple[float, float, float]) -> tuple[float, float, float]:
                # Rodrigues' formula
                k, w = dot(d, v) * (1 - cos), cross(d, v)
                x, y, z = (v[i] * cos + w[i] * sin + d[i] * k for i in range(3))
                return (x, y, z)

            n = unit(turned(base.normal))
            return frame_on(origin, n)
        other = context.frame_of(self.other)
        if abs(dot(base.normal, other.normal)) > 1 - 1e-9:
            half = base.height(other.origin) / 2
            return Frame(base.place(0, 0, half), base.x, base.normal)
        n = unit(tuple(a + b for a, b in zip(base.normal, other.normal)))  # type: ignore[arg-type]
        return frame_on(_common_point(base, other), n)


def _common_point(a: Any, b: Any) -> tuple[float, float, float]:
    """A point on both planes."""
    from ..frames import cross, dot

    d = cross(a.normal, b.normal)
    da, db = dot(a.normal, a.origin), dot(b.normal, b.origin)
    u, v = cross(b.normal, d), cross(d, a.normal)
    k = dot(d, d)
    return tuple((da * u[i] + db * v[i]) / k for i in range(3))  # type: ignore[return-value]
