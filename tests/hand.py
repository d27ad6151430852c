"""A person's hand on a model, for tests, batteries and benchmarks: one method an act."""

from __future__ import annotations

import math
from typing import Any

from sketchlathe.core.making.results import BuildCache, PartBuild
from sketchlathe.core.model.building import build
from sketchlathe.core.model.document import Model, new_model
from sketchlathe.core.model.edits import apply_edit, parse_edit
from sketchlathe.core.sketch.regions import arrange

ORIGIN = (0.0, 0.0, "origin", "origin")
XYZ = tuple[float, float, float]


class Hand:
    """Makes a part: edits it, and looks at what came of it."""

    def __init__(self, model: Model | None = None) -> None:
        self.model = model or new_model("Test part")
        self.cache = BuildCache()

    def do(self, kind: str, **fields: Any) -> Model:
        self.model = apply_edit(self.model, parse_edit({"kind": kind, **fields}))
        return self.model

    def sketch(self, plane: str | dict[str, Any] = "top") -> str:
        """A new sketch on an origin plane, a picked face, or what a PlaneRef's data says; its id."""
        where = {"plane": plane} if isinstance(plane, str) else {"face": plane} if "atoms" in plane else plane
        return self.step("sketch", plane=where)

    def step(self, kind: str, **fields: Any) -> str:
        known = {s.id for s in self.steps}
        self.do("add_step", part="p1", step=kind, fields=fields)
        return next(s.id for s in self.steps if s.id not in known)

    @property
    def steps(self) -> tuple[Any, ...]:
        return self.model.parts[0].steps

    def draw(self, sketch: str, tool: str, *places: Any, sizes: tuple[str, ...] = (), **options: Any) -> list[str]:
        old = {c.id for c in self.curves(sketch)}
        full = [{"at": p[:2], **({"snap": p[2], "ref": p[3]} if len(p) > 2 else {})} for p in places]
        self.do("draw", sketch=sketch, tool=tool, places=full, sizes=sizes, options=options)
        return [c.id for c in self.curves(sketch) if c.id not in old]

    def curves(self, sketch: str) -> tuple[Any, ...]:
        return self.model.sketch_step(sketch).sketch.curves

    def evaluated(self, sketch: str) -> Any:
        return self.model.sketch_step(sketch).sketch.valued(self.model.table.values, self.model.units)

    def areas(self, sketch: str) -> list[float]:
        """Areas of the closed regions (regions of one name together), smallest first."""
        found: dict[Any, float] = {}
        s = self.evaluated(sketch)
        for region in arrange(s.curves, s.size).regions:
            found[region.key] = found.get(region.key, 0.0) + region.area
        return sorted(found.values())

    def freedom(self, sketch: str) -> int:
        from sketchlathe.core.sketch.solver.freedom import freedom

        return freedom(self.evaluated(sketch)).count

    def curve(self, sketch: str, id: str) -> Any:
        return self.model.sketch_step(sketch).sketch.curve(id)

    def constraints(self, sketch: str, kind: str) -> list[Any]:
        return [c for c in self.model.sketch_step(sketch).sketch.constraints if c.kind == kind]

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
        return build(self.model, self.model.parts[0], self.cache)

    def volume(self) -> float:
        from sketchlathe.core.solid.measuring import measures

        built = self.build()
        assert all(r.status in ("ok", "skipped", "after") for r in built.steps), [r.message for r in built.steps]
        return sum(measures(b.shape).volume for b in built.bodies)

    def edges(self, *near: tuple[float, float, float]) -> list[dict[str, Any]]:
        """Picks, as the screen sends them, of the edges whose middles are nearest to some places."""
        from sketchlathe.core.solid.edges import edge_shape, middle_of, named_edges, pick_of

        found = [(e, all_) for b in self.build().bodies for all_ in [named_edges(b)] for e in all_]
        picks = []
        for place in near:
            edge, all_ = min(found, key=lambda f: math.dist(middle_of(edge_shape(f[0])), place))
            picks.append(pick_of(edge, all_))
        return picks

    def messages(self) -> list[str]:
        return [r.message for r in self.build().steps if r.status == "failed"]

    def face(self, normal: tuple[float, float, float]) -> dict[str, Any]:
        """A pick, as the screen sends it, of the flat face farthest along a direction."""
        from sketchlathe.core.frames import dot

        flat = [
            f for f in self.packed()["faces"] if f.get("frame") and dot(tuple(f["frame"]["normal"]), normal) > 0.999
        ]
        return max(flat, key=lambda f: dot(tuple(f["centre"]), normal))["pick"]

    def face_where(self, body: str, form: str) -> dict[str, Any]:
        """A pick of the first face of some form of a body."""
        return next(f["pick"] for f in self.packed(body)["faces"] if f["form"] == form)

    def packed(self, body_id: str = "") -> dict[str, Any]:
        """What the screen gets of a body (the first one)."""
        import json
        import struct

        from sketchlathe.core.solid.digest import digest
        from sketchlathe.core.solid.meshing import extract, tessellate
        from sketchlathe.core.solid.packing import pack

        body = next(b for b in self.build().bodies if body_id in ("", b.id))
        tessellate(body.shape, 0.1)
        data = pack(body, extract(body.shape), digest(body))
        header: dict[str, Any] = json.loads(data[4 : 4 + struct.unpack("<I", data[:4])[0]])
        return header

    def volumes(self) -> list[float]:
        from sketchlathe.core.solid.measuring import measures

        return [measures(b.shape).volume for b in self.build().bodies]

    def advice(self) -> list[Any]:
        return [a for r in self.build().steps for a in r.advice]

    def dimension(self, old: str, new: str) -> None:
        """Change the (only) dimension with some value, in mm."""
        for step in self.steps:
            for k in getattr(getattr(step, "sketch", None), "constraints", ()):
                if getattr(k, "value", "") == f"{old} mm":
                    self.do("set_dimension", sketch=step.id, id=k.id, value=new)
                    return
        raise AssertionError(f"no dimension of {old} mm")

    def box_of_faces(self, word: str) -> tuple[tuple[float, ...], tuple[float, ...]]:
        """The box round all faces with a word in their names."""
        from sketchlathe.core.solid.kernel import FACE, each
        from sketchlathe.core.solid.measuring import box_of

        boxes = [
            box_of(face)
            for body in self.build().bodies
            for face, name in zip(each(body.shape, FACE), body.names)
            if any(word in atom for atom in name)
        ]
        return tuple(min(b[0][i] for b in boxes) for i in range(3)), tuple(
            max(b[1][i] for b in boxes) for i in range(3)
        )


def box(x: float, y: float, w: float, d: float) -> list[tuple[float, float]]:
    """Corners of a rectangle, counterclockwise."""
    return [(x, y), (x + w, y), (x + w, y + d), (x, y + d)]


def plate(width: str = "60", height: str = "40", thick: str = "5") -> Hand:
    """A plate from the origin, its sizes typed."""
    hand = Hand()
    s = hand.sketch()
    hand.draw(s, "rectangle", (0, 0, "origin", "origin"), (50, 30), sizes=(width, height))
    hand.step("extrude", regions=hand.regions(s), distance=thick)
    return hand


def clamp() -> Hand:
    """A plate as wide as ``w`` with a bolt hole 12 from its left side."""
    m = Hand()
    m.do("add_parameter", name="w", formula="40")
    s = m.sketch()
    m.draw(s, "rectangle", ORIGIN, (40, 20), sizes=("w", "20"))
    m.step("extrude", regions=m.regions(s), distance="5")
    hole = m.sketch()
    m.draw(hole, "circle", (12, 10), (15, 10), sizes=("6",))
    centre = f"{m.curves(hole)[0].id}.centre"
    for way, value, at in (("across", "12", [6, -6]), ("along", "10", [-6, 5])):
        m.do("add_dimension", sketch=hole, on=["origin", centre], at=at, way=way, value=value)
    m.step("extrude", regions=m.regions(hole), distance="30", result="cut")
    return m
