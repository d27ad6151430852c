"""Write the Weather post models of ``examples/``: each is made by the same edits a person makes."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from shapely import Point, Polygon
from svgpathtools import parse_path

from sketchlathe.core.exchange.modelfile import dump_model
from sketchlathe.core.frames import ORIGIN_PLANES
from sketchlathe.core.making.results import BuildCache
from sketchlathe.core.model.building import build
from sketchlathe.core.model.document import Model, Part, new_model
from sketchlathe.core.model.edits import apply_edit, parse_edit
from sketchlathe.core.sketch.regions import Arrangement, Region, arrange
from sketchlathe.core.sketch.solver.freedom import freedom

FOLDER = Path(__file__).parents[1] / "examples"


def _area_of(found: Arrangement, region: Region) -> Polygon:
    """A region as a polygon of many corners."""
    rings = []
    for loop in parse_path(found.path(region)).continuous_subpaths():
        places = [loop.point(k / 200) for k in range(200)]
        rings.append([(p.real, p.imag) for p in places])
    return Polygon(rings[0], rings[1:])


class Maker:
    """A model under construction."""

    def __init__(self, name: str) -> None:
        self.model: Model = new_model(name)
        self.at = "p1"
        self._cache = BuildCache()

    @property
    def part(self) -> Part:
        """The part that is worked on."""
        return self.model.part(self.at)

    def new_part(self, name: str, sort: str = "part") -> str:
        """Another part, worked on from now on; its id."""
        self.do("add_part", name=name, sort=sort)
        self.at = self.model.parts[-1].id
        return self.at

    def do(self, kind: str, **fields: Any) -> None:
        """One edit."""
        self.model = apply_edit(self.model, parse_edit({"kind": kind, **fields}))

    def step(self, kind: str, **fields: Any) -> str:
        """A step; its id."""
        self.do("add_step", part=self.at, step=kind, fields=fields)
        return self.part.steps[-1].id

    def draw(self, sketch: str, tool: str, *points: Any, sizes: tuple[str, ...] = ()) -> list[str]:
        """Draw; the new curves' ids. A point is (x, y) or (x, y, snap, ref)."""
        old = {c.id for c in self.model.sketch_step(sketch).sketch.curves}
        places = [{"at": p[:2], **({"snap": p[2], "ref": p[3]} if len(p) > 2 else {})} for p in points]
        self.do("draw", sketch=sketch, tool=tool, places=places, sizes=sizes)
        return [c.id for c in self.model.sketch_step(sketch).sketch.curves if c.id not in old]

    def dimension(self, sketch: str, *on: str, at: tuple[float, float], value: str) -> None:
        """A dimension."""
        self.do("add_dimension", sketch=sketch, on=on, at=at, value=value)

    def label(self, sketch: str, on: str, at: tuple[float, float]) -> None:
        """Put the text of a line's typed size somewhere else."""
        found = next(
            k for k in self.model.sketch_step(sketch).sketch.constraints if k.kind == "distance" and k.on == (on,)
        )
        self.do("set_dimension", sketch=sketch, id=found.id, label=at)

    def hold(self, sketch: str, constraint: str, *on: str) -> None:
        """A constraint."""
        self.do("add_constraint", sketch=sketch, constraint=constraint, on=on)

    def picks(self, sketch: str, *places: tuple[float, float]) -> list[dict[str, Any]]:
        """Region picks by a point in each."""
        s = self.model.sketch_step(sketch).sketch
        found = arrange(s.curves, s.size)
        out = []
        for x, y in places:
            inside = [r for r in found.regions if _area_of(found, r).contains(Point(x, y))]
            assert len(inside) == 1, (x, y, [r.key for r in inside])
            out.append({"sketch": sketch, "sides": inside[0].key, "known": [c.id for c in s.curves]})
        return out

    def face(
        self, normal: tuple[float, float, float], highest: bool = True, of: str = "", form: str = "flat"
    ) -> dict[str, Any]:
        """A pick of the flat face that looks along ``normal`` and lies farthest that way (of the body a step
        brought), or of the smallest face of another form.
        """
        from sketchlathe.core.frames import dot
        from sketchlathe.core.solid.digest import digest

        bodies = build(self.model, self.part, self._cache).bodies
        body = next(b for b in bodies if b.id.startswith(of))
        if form == "flat":
            faces = [f for f in digest(body).faces if f.frame and dot(f.frame.normal, normal) > 0.999]
            face = max(faces, key=lambda f: dot(f.centre, normal) * (1 if highest else -1))
        else:
            face = min((f for f in digest(body).faces if f.form == form), key=lambda f: f.area)
        return {
            "face": {
                "atoms": sorted(face.name),
                "neighbours": sorted(face.neighbours),
                "siblings": [],
                "centre": [0.5, 0.5, 0.5],
            }
        }

    def save(self, file: str) -> None:
        """Check that it builds and its sketches are held, then write it."""
        for part in self.model.parts:
            built = build(self.model, part, self._cache)
            for result in built.steps:
                assert result.status == "ok", (file, self.model.title_of(result.step), result.message)
            for step in part.steps:
                sketch = getattr(step, "sketch", None)
                if sketch is not None:
                    left = freedom(sketch.valued(self.model.table.values)).count
                    assert left == 0, (file, self.model.title_of(step.id), left)
            print(file, part.name, len(built.bodies), "bodies")
        (FOLDER / file).write_bytes(dump_model(self.model))


def parameters(m: Maker, **formulas: str) -> None:
    """Parameters that are not there yet."""
    known = {p.name for p in m.model.parameters}
    for name, formula in formulas.items():
        if name not in known:
            m.do("add_parameter", name=name, formula=formula)


def mast_clamp() -> None:
    m = Maker("Mast clamp, half")
    mast_clamp_in(m)
    m.save("mast-clamp-half.json")


def mast_clamp_in(m: Maker) -> None:
    """The half clamp, in a model that is there."""
    parameters(m, mast_d="42", wall="5", depth="24", bolt="5.5")
    s = m.step("sketch", plane={"plane": "front"})
    base = m.draw(s, "rectangle", (-40, 0), (40, 8), sizes=("mast_d + 38 mm", "8"))
    m.hold(s, "coincident", f"{base[0]}.start", "x_axis")
    m.dimension(s, base[3], "y_axis", at=(-20, -17), value="(mast_d + 38 mm) / 2")
    block = m.draw(s, "rectangle", (-26, 8), (26, 28), sizes=("mast_d + 2 * wall", "20"))
    m.hold(s, "coincident", f"{block[0]}.start", base[2])
    m.dimension(s, block[3], "y_axis", at=(-13, 60), value="mast_d / 2 + wall")
    m.label(s, block[0], (0, 68))
    m.label(s, block[1], (36, 18))
    m.label(s, base[0], (0, -26))
    mast = m.draw(s, "circle", (0, 30), (21, 30), sizes=("mast_d",))
    m.hold(s, "coincident", f"{mast[0]}.centre", "y_axis")
    m.dimension(s, f"{mast[0]}.centre", base[2], at=(60, 20), value="mast_d / 2 + wall / 2")
    m.step("extrude", regions=m.picks(s, (0, 4), (-23, 10)), distance="depth", way="both", result="add")
    holes = m.step("sketch", plane=m.face((0, 0, 1), highest=False))
    for x in (-33.0, 33.0):
        hole = m.draw(holes, "circle", (x, 0), (x + 2.75, 0), sizes=("bolt",))
        m.hold(holes, "coincident", f"{hole[0]}.centre", "x_axis")
        m.dimension(holes, f"{hole[0]}.centre", "y_axis", at=(x / 2, 8), value="mast_d / 2 + wall + 7 mm")
    m.step("extrude", regions=m.picks(holes, (-33, 0), (33, 0)), reach="through", way="backwards", result="cut")
    m.do("set_material", part="p1", material="petg")


def shield_plate() -> None:
    m = Maker("Shield plate")
    shield_plate_in(m)
    m.save("shield-plate.json")


def shield_plate_in(m: Maker, thick: str = "thick", *, rim: bool = True) -> None:
    """The plate that keeps the sun off, in a model that is there; ``rim``: with its rim."""
    parameters(m, outer_d="110", inner_d="56", thick="2.4", rod="4.3")
    s = m.step("sketch", plane={"plane": "top"})
    m.draw(s, "circle", (0, 0, "origin", "origin"), (55, 0), sizes=("outer_d",))
    m.draw(s, "circle", (0, 0, "origin", "origin"), (28, 0), sizes=("inner_d",))
    first = m.draw(s, "circle", (0, 41.5), (2, 41.5), sizes=("rod",))[0]
    m.hold(s, "coincident", f"{first}.centre", "y_axis")
    m.dimension(s, f"{first}.centre", "x_axis", at=(8, 20), value="(outer_d + inner_d) / 4")
    for x, y, label in ((-36, -21, (-18, -30)), (36, -21, (18, -30))):
        rod = m.draw(s, "circle", (x, y), (x + 2, y), sizes=())[0]
        m.hold(s, "equal", rod, first)
        m.dimension(s, f"{rod}.centre", "y_axis", at=label, value="(outer_d + inner_d) / 4 * cos(30°)")
        m.dimension(s, f"{rod}.centre", "x_axis", at=(x + 12, -10), value="(outer_d + inner_d) / 4 * sin(30°)")
    m.step("extrude", regions=m.picks(s, (0, 33)), distance=thick, result="add")
    if not rim:
        return
    lip = m.step("sketch", plane=m.face((0, 0, 1)))
    m.draw(lip, "circle", (0, 0, "origin", "origin"), (55, 0), sizes=("outer_d",))
    m.draw(lip, "circle", (0, 0, "origin", "origin"), (53, 0), sizes=(f"outer_d - 2 * {thick}",))
    within = m.model.table["outer_d"].value / 2 - m.model.table["thick"].value / 2
    m.step("extrude", regions=m.picks(lip, (within, 0)), distance="9", result="add")
    m.do("set_material", part="p1", material="asa")


def dial_plate() -> None:
    m = Maker("Compass dial plate")
    m.do("add_parameter", name="size", formula="64")
    s = m.step("sketch", plane={"plane": "top"})
    m.draw(s, "rectangle", (0, 0, "origin", "origin"), (60, 60), sizes=("size", "size"))
    dial = m.draw(s, "circle", (32, 32), (52, 32), sizes=("size * 0.7",))[0]
    m.dimension(s, f"{dial}.centre", "y_axis", at=(16, -8), value="size / 2")
    m.dimension(s, f"{dial}.centre", "x_axis", at=(-8, 16), value="size / 2")
    corner = m.draw(s, "circle", (6, 6), (7.6, 6), sizes=("3.2",))[0]
    m.dimension(s, f"{corner}.centre", "y_axis", at=(3, -16), value="6")
    m.dimension(s, f"{corner}.centre", "x_axis", at=(-16, 3), value="6")
    for x, y in ((58, 6), (58, 58), (6, 58)):
        other = m.draw(s, "circle", (x, y), (x + 1, y))[0]
        m.hold(s, "equal", corner, other)
        m.dimension(s, f"{other}.centre", "y_axis", at=(x / 2, 80), value="6" if x < 32 else "size - 6 mm")
        m.dimension(s, f"{other}.centre", "x_axis", at=(80, y / 2), value="6" if y < 32 else "size - 6 mm")
    m.step("extrude", regions=m.picks(s, (3, 32), (32, 32)), distance="3", result="add")
    well = m.step("sketch", plane=m.face((0, 0, 1)))
    c = m.draw(well, "circle", (32, 32), (50, 32), sizes=("size * 0.6",))[0]
    m.dimension(well, f"{c}.centre", "y_axis", at=(16, -8), value="size / 2")
    m.dimension(well, f"{c}.centre", "x_axis", at=(-8, 16), value="size / 2")
    m.step("extrude", regions=m.picks(well, (32, 32)), distance="1.2", way="backwards", result="cut")
    m.save("compass-dial-plate.json")


def _knuckles(m: Maker, z: str, spans: tuple[tuple[str, str, str], ...]) -> None:
    """Rings round the hinge's axis, and a neck at a height ``z`` that joins each to its plate; each begins a way off
    the middle and is so long, on that side.
    """
    s = m.step("sketch", plane={"plane": "front"})
    m.draw(s, "circle", (0, 0, "origin", "origin"), (4, 0), sizes=("pin_d + 5",))
    for start, length, way in spans:
        m.step("extrude", regions=m.picks(s, (0, 0)), start=start, distance=length, way=way, result="add")
        low = start if way == "forwards" else f"-{start} - {length}"
        m.step("block", width="6", depth=length, height="thick", y=low, z=z, result="add")
    bore = m.step("sketch", plane={"plane": "front"})
    m.draw(bore, "circle", (0, 0, "origin", "origin"), (2, 0), sizes=("pin_d + play",))
    m.step("extrude", regions=m.picks(bore, (0, 0)), distance="60", way="both", result="cut")


def logger_hatch() -> None:
    """A hatch that turns about a pin on its frame: three parts that fit, and all of them together."""
    m = Maker("Logger hatch")
    for name, formula in (("wide", "70"), ("thick", "4"), ("pin_d", "4"), ("play", "0.45"), ("open_by", "70 deg")):
        m.do("add_parameter", name=name, formula=formula)
    m.do("rename_part", part="p1", name="Frame")
    m.step("block", width="wide", depth="50", height="thick", x="5", y="-25", z="-thick - 0.2")
    m.step("block", width="wide - 24", depth="30", height="thick + 2", x="17", y="-15", z="-thick - 1", result="cut")
    _knuckles(m, "-thick - 0.2", (("12", "13", "forwards"), ("12", "13", "backwards")))
    m.do("set_material", part="p1", material="petg")
    hatch = m.new_part("Hatch")
    m.step("block", width="wide", depth="50", height="thick", x="5", y="-25", z="0.2")
    _knuckles(m, "0.2", (("-11.7", "23.4", "forwards"),))
    m.do("set_material", part=hatch, material="petg")
    pin = m.new_part("Pin")
    s = m.step("sketch", plane={"plane": "front"})
    m.draw(s, "circle", (0, 0, "origin", "origin"), (2, 0), sizes=("pin_d",))
    m.step("extrude", regions=m.picks(s, (0, 0)), start="-27", distance="53", result="add")
    s = m.step("sketch", plane={"plane": "front"})
    m.draw(s, "circle", (0, 0, "origin", "origin"), (4, 0), sizes=("pin_d + 4",))
    m.step("extrude", regions=m.picks(s, (0, 0)), start="25", distance="2.5", result="add")
    m.do("set_material", part=pin, material="petg")
    m.new_part("Together", "together")
    frame_here = m.step("bring_part", part="p1")
    hatch_here = m.step("bring_part", part=hatch, x="90 mm", z="30 mm")
    pin_here = m.step("bring_part", part=pin, x="-30 mm")
    out = ORIGIN_PLANES["front"].normal
    back = tuple(-v for v in out)
    hinge = {"axis": "y"}  # the frame stands where it was made
    m.step(
        "place", a=m.face(out, of=hatch_here, form="cylindrical"), how="on", b=hinge,
        a2=m.face(out, of=hatch_here), how2="flush", b2=m.face(out, of=frame_here), gap2="0 mm", turn="-open_by",
    )  # fmt: skip
    m.step(
        "place", a=m.face(out, of=pin_here, form="cylindrical"), how="on", b=hinge,
        a2=m.face(back, highest=False, of=pin_here), how2="against", b2=m.face(out, of=frame_here), gap2="0 mm",
    )  # fmt: skip
    m.save("logger-hatch.json")


def logger_cover() -> None:
    """A cover that breathes, with a threaded stub for a cable gland."""
    m = Maker("Logger cover")
    for name, formula in (("cover_w", "84"), ("cover_d", "56"), ("thick", "4"), ("stub", "16")):
        m.do("add_parameter", name=name, formula=formula)
    m.do("rename_part", part="p1", name="Cover")
    m.step("block", width="cover_w", depth="cover_d", height="thick")
    m.step(
        "block",
        shape="cylinder",
        diameter="20",
        height="stub",
        x="cover_w - 20",
        y="cover_d / 2",
        z="thick",
        result="add",
    )
    side = m.face((0.0, 0.0, 1.0), form="cylindrical")["face"]
    m.step("thread", face=[side], size="M20", play="0.3 mm")
    top = m.face((0.0, 0.0, 1.0), highest=False)["face"]
    m.step("vents", face=[top], form="hexagons", size="6 mm", gap="1.6 mm", rim="5 mm")
    m.do("set_material", part="p1", material="petg")
    m.save("logger-cover.json")


if __name__ == "__main__":
    FOLDER.mkdir(exist_ok=True)
    mast_clamp()
    shield_plate()
    dial_plate()
    logger_hatch()
    logger_cover()
