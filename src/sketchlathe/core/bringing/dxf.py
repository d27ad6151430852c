"""DXF drawings as curves of a sketch: lines, arcs, circles, ellipses, polylines with bulges, splines; blocks taken
apart.
"""

from __future__ import annotations

import io
import math
from typing import Any, ClassVar

from ..errors import BadInput
from .base import READERS, Brought, Reader
from .chaining import Raw, arc, circle, clip_of, ellipse, ellipse_arc, line, smooth

MOST_THINGS = 20_000
_UNITS = {1: "in", 2: "ft", 4: "mm", 5: "cm", 6: "m", 13: "µm", 14: "dm"}


@READERS.add
class Dxf(Reader):
    """A flat drawing; what is not flat or not a curve is left out and told."""

    kind: ClassVar[str] = "dxf"
    word: ClassVar[str] = "DXF"
    endings: ClassVar[tuple[str, ...]] = (".dxf",)
    gives: ClassVar[str] = "curves"
    most: ClassVar[int] = 12_000_000

    def read(self, data: bytes, name: str) -> Brought:
        from ezdxf import disassemble, recover
        from ezdxf.lldxf.const import DXFError

        if b"SECTION" not in data[:4000]:
            raise BadInput(f"“{name}” is not a DXF file: it has no sections.")
        try:
            document, _ = recover.read(io.BytesIO(data))
        except (DXFError, OSError, ValueError, KeyError, IndexError, RecursionError, UnicodeError) as error:
            raise BadInput(f"“{name}” is damaged, or cut short: it cannot be read as DXF.") from error
        curves: list[Raw] = []
        left: dict[str, int] = {}
        try:
            for number, thing in enumerate(disassemble.recursive_decompose(document.modelspace())):
                if number > MOST_THINGS:
                    raise BadInput(
                        f"“{name}” has more than {MOST_THINGS} things in it, which is the most that can be read."
                    )
                found = _curves(thing)
                if found is None:
                    left[thing.dxftype()] = left.get(thing.dxftype(), 0) + 1
                else:
                    curves += found
        except (DXFError, ValueError, ZeroDivisionError, RecursionError) as error:
            raise BadInput(f"“{name}” is damaged: a curve in it cannot be read.") from error
        notes = tuple(f"{n} × {kind.lower()} left out: not a flat curve." for kind, n in sorted(left.items()))
        return Brought("curves", data={**clip_of(curves, name), "unit": _UNITS.get(document.units, "")}, notes=notes)


def _curves(thing: Any) -> list[Raw] | None:
    """What one thing of a drawing becomes; None when it is no flat curve."""
    kind, d = thing.dxftype(), thing.dxf
    if kind == "LINE":
        a, b = (d.start.x, d.start.y), (d.end.x, d.end.y)
        return [line(a, b)] if math.dist(a, b) > 1e-9 else []
    if kind in ("CIRCLE", "ARC") and abs(d.extrusion.z) > 1 - 1e-9:
        centre = thing.ocs().to_wcs(d.center)
        c = (centre.x, centre.y)
        if kind == "CIRCLE":
            return [circle(c, d.radius)]
        ends = [(thing.start_point.x, thing.start_point.y), (thing.end_point.x, thing.end_point.y)]
        if d.extrusion.z < 0:  # seen from behind: the other way round
            ends.reverse()
        return [arc(c, d.radius, ends[0], ends[1])]
    if kind == "ELLIPSE" and abs(d.extrusion.z) > 1 - 1e-9:
        c, tip = (d.center.x, d.center.y), (d.center.x + d.major_axis.x, d.center.y + d.major_axis.y)
        minor = math.dist(c, tip) * d.ratio
        if abs((d.end_param - d.start_param) % (2 * math.pi)) < 1e-9:
            return [ellipse(c, tip, minor)]
        ends = [(thing.start_point.x, thing.start_point.y), (thing.end_point.x, thing.end_point.y)]
        if d.extrusion.z < 0:
            ends.reverse()
        return [ellipse_arc(c, tip, minor, ends[0], ends[1])]
    if kind in ("LWPOLYLINE", "POLYLINE"):
        if kind == "POLYLINE" and not thing.is_2d_polyline:
            return None
        return [c for part in thing.virtual_entities() for c in _curves(part) or []]
    if kind == "SPLINE":
        tool = thing.construction_tool()
        low, high = tool.knots()[tool.order - 1], tool.knots()[-tool.order]

        def at(t: float) -> tuple[float, float]:
            p = tool.point(low + (high - low) * min(max(t, 0.0), 1.0))
            return (p.x, p.y)

        spread = max(math.dist(at(0.0), at(i / 8)) for i in range(1, 9))
        # a long spline becomes several, so that each stays close
        parts = max(1, min(12, len(tool.control_points) // 8))
        made = [smooth(lambda t, i=i: at((i + t) / parts), max(spread, 1e-6)) for i in range(parts)]  # type: ignore[misc]
        return [m for m in made if m is not None]
    return [] if kind == "POINT" else None
