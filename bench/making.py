"""Parts made by edits, for the batteries: the same edits with other numbers give the same ids."""

from __future__ import annotations

from typing import Any

from sketchlathe.core.model.building import build
from sketchlathe.core.model.document import Model, new_model
from sketchlathe.core.model.edits import apply_edit, parse_edit
from sketchlathe.core.model.results import BuildCache, PartBuild
from sketchlathe.core.sketch.regions import arrange

ORIGIN = (0.0, 0.0, "origin", "origin")
XYZ = tuple[float, float, float]


class Maker:
    """Makes a part, one call an act."""

    def __init__(self) -> None:
        self.model: Model = new_model("Battery part")
        self.cache = BuildCache()

    def do(self, kind: str, **fields: Any) -> None:
        """One edit."""
        self.model = apply_edit(self.model, parse_edit({"kind": kind, **fields}))

    def step(self, kind: str, **fields: Any) -> str:
        """A new step; its id."""
        known = {s.id for s in self.model.parts[0].steps}
        self.do("add_step", part="p1", step=kind, fields=fields)
        return next(s.id for s in self.model.parts[0].steps if s.id not in known)

    def sketch(self, plane: Any = "top") -> str:
        """A new sketch on an origin plane, or on what a PlaneRef's data says."""
        return self.step("sketch", plane={"plane": plane} if isinstance(plane, str) else plane)

    def draw(self, sketch: str, tool: str, *places: Any, sizes: tuple[str, ...] = (), **options: Any) -> list[str]:
        """Draw; the new curves' ids."""
        old = {c.id for c in self.model.sketch_step(sketch).sketch.curves}
        full = [{"at": p[:2], **({"snap": p[2], "ref": p[3]} if len(p) > 2 else {})} for p in places]
        self.do("draw", sketch=sketch, tool=tool, places=full, sizes=sizes, options=options)
        return [c.id for c in self.model.sketch_step(sketch).sketch.curves if c.id not in old]

    def regions(self, sketch: str, *which: int) -> list[dict[str, Any]]:
        """Picks of regions, largest first."""
        s = self.model.sketch_step(sketch).sketch
        found = sorted(arrange(s.curves, s.size).regions, key=lambda r: -r.area)
        known = [c.id for c in s.curves]
        return [{"sketch": sketch, "sides": found[i].key, "known": known} for i in which or (0,)]

    def polygon(self, sketch: str, *points: tuple[float, float]) -> None:
        """A closed outline of lines."""
        ids: list[str] = []
        for i, p in enumerate(points):
            q = points[(i + 1) % len(points)]
            start = (*p, "end", f"{ids[-1]}.end") if ids else p
            end = (*q, "end", f"{ids[0]}.start") if i == len(points) - 1 else q
            ids += self.draw(sketch, "line", start, end)

    def prism(self, plane: Any, points: list[tuple[float, float]], **fields: Any) -> str:
        """An outline, extruded."""
        s = self.sketch(plane)
        self.polygon(s, *points)
        return self.step("extrude", regions=self.regions(s), **fields)

    def round(self, plane: Any, x: float, y: float, radius: float, **fields: Any) -> str:
        """A circle, extruded."""
        s = self.sketch(plane)
        self.draw(s, "circle", (x, y), (x + radius, y), sizes=(f"{2 * radius} mm",))
        return self.step("extrude", regions=self.regions(s), **fields)

    def build(self) -> PartBuild:
        """The part."""
        return build(self.model, self.model.parts[0], self.cache)


def box(x: float, y: float, w: float, d: float) -> list[tuple[float, float]]:
    """Corners of a rectangle, counterclockwise."""
    return [(x, y), (x + w, y), (x + w, y + d), (x, y + d)]
