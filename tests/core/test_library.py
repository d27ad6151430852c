"""The library: what is said in Python is what the sentences say, and what cannot be is said in the same words."""

from __future__ import annotations

import math
import re
from pathlib import Path

import pytest
import trimesh

from sketchlathe import BadInput, CannotBuild, Formula, Model, NotFound, Refused
from sketchlathe.core.model.edits import apply_edit, parse_edit
from sketchlathe.core.registry import kind_of
from sketchlathe.core.sketch.tools import TOOLS
from sketchlathe.core.sketch.view import describe_constraints
from sketchlathe.core.steps.base import STEPS
from sketchlathe.handbook.samples import SAMPLES
from sketchlathe.library import Part, Sketch

PI = math.pi


def plate(thick: str = "5 mm") -> Model:
    m = Model("Plate")
    wide = m.parameter("wide", "60 mm")
    s = m.sketch("top")
    s.rectangle("origin", (wide, "40 mm"))
    m.extrude(s, thick)
    return m


# what the samples of the handbook come to, by closed formulas, mm³; before the step, and with it
COUNTERBORE = PI * (2.25**2 * 10 + (4**2 - 2.25**2) * 4.4)
CLOSED: dict[str, tuple[float, float]] = {
    "sketch": (60 * 40 * 6, 60 * 40 * 6 + PI * 36 * 8),
    "extrude": (60 * 40 * 6, 60 * 40 * 6 + (30 * 24 - PI * 36) * 14),
    "revolve": (0, PI * (22**2 * 5 + (22**2 + 22 * 9 + 9**2) * 3 / 3 + 81 * 18)),
    "sweep": (PI * 25 * 2, PI * 25 * (30 + PI / 2 * 20 + 25)),
    "hole": (60 * 40 * 10, 60 * 40 * 10 - 4 * COUNTERBORE),
    "fillet": (60 * 40 * 16, 60 * 40 * 16 - (4 - PI) * 64 * 16),
    "chamfer": (60 * 40 * 16, 60 * 40 * 16 - (2 * (60 + 40) * 4.5 - 4 * 9)),
    "shell": (60 * 40 * 26, 60 * 40 * 26 - 56 * 36 * 24),
    "push": (50 * 40 * 10 + 25 * 40 * 14, 50 * 40 * 10 + 37 * 40 * 14),
    "heal": (60 * 40 * 12 - PI * 64 * 12, 60 * 40 * 12),
    "tilt": (50 * 40 * 24, (50 - 12 * math.tan(math.radians(20))) * 40 * 24),
    "pattern": (PI * 900 * 6 - PI * 16 * 6, PI * 900 * 6 - 6 * PI * 16 * 6),
    "mirror": (30 * 40 * 6 + PI * 25 * 12, 2 * (30 * 40 * 6 + PI * 25 * 12)),
    "move": (40 * 30 * 14, 40 * 30 * 14),
    "block": (60 * 40 * 8, 60 * 40 * 8 + PI * 100 * 20),
    "leave_out": (40 * 30 * 10 + 4 / 3 * PI * 8**3, 40 * 30 * 10),
    "bring_part": (PI * 25 * 20, 4 * PI * 25 * 20),
    "place": (50 * 40 * 20, 50 * 40 * 20),
    "bring": (60 * 40 * 6, 60 * 40 * 6 + 30 * 20 * 4 + 4 * 20 * 20),
    "reference": (60 * 40 * 6, 60 * 40 * 6),
    "rib": ((50 * 5 + 5 * 35) * 36, (50 * 5 + 5 * 35) * 36 + 4 * 35 * 25 / 2),
}  # fmt: skip


@pytest.mark.parametrize("kind", [kind_of(k) for k in STEPS])
def test_every_step_kind_can_be_said_and_comes_to_what_it_should(kind: str) -> None:
    assert callable(getattr(Part, kind))
    m = Model(kind)
    making = SAMPLES[kind](m)
    next(making)
    shown = m.parts[-1]
    before = shown.volume
    assert list(making) == []
    assert any(s.kind == kind for part in m.parts for s in part.steps)
    if kind in CLOSED:
        assert (before, shown.volume) == pytest.approx(CLOSED[kind], rel=1e-9)
    assert [r.message for part in m.parts for r in part.built.steps if r.status != "ok"] == []


def test_every_tool_and_constraint_is_a_method_with_its_description() -> None:
    for tool in TOOLS:
        assert all(step in getattr(Sketch, kind_of(tool)).__doc__ for step in tool.steps)
    for told in describe_constraints():
        assert told["hint"] in getattr(Sketch, told["kind"]).__doc__
    # the names of blanks are the names of what is said
    import inspect

    for kind in STEPS:
        said = list(inspect.signature(getattr(Part, kind_of(kind))).parameters)[1:]
        assert sorted(said) == sorted(kind.blanks())


def test_numbers_follow_and_what_they_break_is_refused_with_nothing_changed() -> None:
    m = plate()
    wide = m.parameters["wide"]
    m.fillet(m.edges(along="z"), "8 mm")
    assert m.volume == pytest.approx(5 * (2400 - (4 - PI) * 64), rel=1e-12)
    wide.set("92 mm")
    assert m.box == pytest.approx((92, 40, 5), abs=1e-9)
    m.material = "PETG"
    assert m.mass == pytest.approx(m.volume / 1000 * 1.27, rel=1e-6)
    with pytest.raises(CannotBuild, match="Fillet 1"):
        wide.set("10 mm")
    assert wide.value == 92 and len(m.steps) == 3
    with pytest.raises(CannotBuild, match=r"largest that works here is"):
        m.fillet(m.faces("up").only, "60 mm")
    assert len(m.steps) == 3
    extrude = m.steps[1]
    extrude.distance = 7
    assert extrude.distance == "7 mm" and m.box[2] == pytest.approx(7)
    extrude.change(distance=wide / 10 + "1 mm", way="backwards")
    assert m.box[2] == pytest.approx(10.2) and m.weighed.box[1][2] == pytest.approx(0)
    with pytest.raises(Refused):
        m.steps[0].delete()
    m.steps[2].delete()
    assert [s.kind for s in m.steps] == ["sketch", "extrude"]


def test_what_is_picked_is_what_was_meant_or_it_is_said_what_there_was() -> None:
    m = plate("10 mm")
    bore = m.extrude(_circle(m, 20, 20, "12 mm"), reach="through", result="cut")
    assert m.volume == pytest.approx(24000 - PI * 36 * 10, rel=1e-12)
    assert len(m.edges(along="z")) == 4 and len(m.edges(form="circular")) == len(bore.edges(form="circular")) == 2
    assert bore.faces(form="cylindrical").only.radius == pytest.approx(6)
    assert m.faces("up").only.area == pytest.approx(2400 - PI * 36)
    assert m.edges(along="x").highest("up").highest("front").only.middle == pytest.approx((30, 0, 10))
    assert m.faces().largest.form == "flat" and m.faces().smallest.form == "cylindrical"
    for wrong, told in (
        (lambda: m.edges(radius=7), "of radius 7"),
        (lambda: m.edges(along="z").only, "4 edges"),
        (lambda: m.faces(form="spherical"), "spherical"),
        (lambda: Model("Empty").edges(), "make a solid first"),
        (lambda: m.sketch("top").region(3, 3), "No closed region"),
    ):
        with pytest.raises(NotFound, match=told):
            wrong()
    for bad in (lambda: m.edges(along="q"), lambda: m.faces("north")):
        with pytest.raises(BadInput, match="say "):
            bad()


def _circle(m: Model, x: float, y: float, size: str) -> Sketch:
    s = m.sketch(m.faces("up").only)
    s.circle((x, y), size)
    return s


def test_a_sketch_is_drawn_held_and_measured() -> None:
    s = Model("Drawn").sketch("front")
    a, b, _ = s.outline((0, 0), (50, 0), (10, 30))
    # three points, and the first line was drawn level
    assert s.freedom == 5
    s.coincident(a.start, "origin")
    s.size("60 mm", a)
    s.size("40 mm", b.end, s.x_axis)
    s.size("15 mm", b.end, s.y_axis)
    assert s.freedom == 0 and s.whole.area == pytest.approx(60 * 40 / 2)
    assert a.length == pytest.approx(60) and b.end.at == pytest.approx((15, 40))
    with pytest.raises(Refused):
        s.vertical(a)
    inner = s.circle((20, 12), "8 mm")[0]
    s.size(20, inner.centre, s.y_axis)
    s.size(12, inner.centre, s.x_axis)
    assert s.freedom == 0
    assert s.whole.area == pytest.approx(1200 - PI * 16) and s.region(20, 12).area == pytest.approx(PI * 16)
    assert (s.region(20, 12) + s.whole).area == pytest.approx(1200)
    # an outline within the one within is filled again
    s.circle(inner.centre, "4 mm")
    assert s.whole.area == pytest.approx(1200 - PI * 16 + PI * 4)
    with pytest.raises(BadInput, match="places"):
        s.arc((0, 0), (5, 5))
    with pytest.raises(BadInput, match="sizes were given"):
        s.circle("origin", "3 mm", "4 mm", "5 mm")
    with pytest.raises(BadInput, match="is no place"):
        s.line((0, 0), (3, 4, 5))


def test_what_does_not_fit_is_said_with_what_does() -> None:
    m = plate()
    for wrong, told in (
        (lambda: m.extrude("no sketch", "5 mm"), "takes a sketch"),
        (lambda: m.extrude(m.steps[0], "5 mm", "6 mm"), "in order"),
        (lambda: m.extrude(m.steps[0], height="5 mm"), "no blank “height”"),
        (lambda: m.extrude(m.steps[0], "5 mm", way="sideways"), "forwards or backwards"),
        (lambda: m.extrude(m.steps[0], "5 apples"), "apples"),
        (lambda: m.fillet(m.steps[1], "2 mm"), "takes edges"),
        (lambda: m.sketch("bottom"), "“top”, “front” or “right”"),
        (lambda: m.parameter("wide", "3"), "wide"),
        (lambda: m.parameter("class room", "3"), "class room"),
        (lambda: m.save("/nowhere/at.all.stl"), "cannot be written"),
        (lambda: m.save("plate.xyz"), "no format"),
        (lambda: Model.open("/nowhere.json"), "cannot be read"),
        (lambda: m.bring_file("/nowhere.step"), "cannot be read"),
    ):  # fmt: skip
        with pytest.raises(BadInput, match=told):
            wrong()
    with pytest.raises(AttributeError):
        m.extrood()
    with pytest.raises(NotFound, match="no part “Lid”"):
        m.save("plate.stl", "Lid")
    assert len(m.steps) == 2


def test_what_is_saved_is_what_there_was(tmp_path) -> None:
    m = plate()
    m.fillet(m.edges(along="z"), "8 mm")
    m.save(tmp_path / "plate.json")
    again = Model.open(tmp_path / "plate.json")
    assert again.document == m.document and again.volume == m.volume
    m.save(tmp_path / "plate.stl", chord=0.001, angle=0.02)
    assert trimesh.load(tmp_path / "plate.stl").volume == pytest.approx(m.volume, rel=1e-4)
    lid = m.part("Lid")
    lid.block("60 mm", "40 mm", "2 mm")
    assert m.part("Lid").id == lid.id and [p.name for p in m.parts] == ["Part 1", "Lid"]
    assert "Put a box 60 mm wide" in repr(m) and m._repr_png_().startswith(b"\x89PNG")


def test_formulas_are_reckoned_as_python_would() -> None:
    w = Formula("w")
    assert str(w - "a + b") == "w - (a + b)" and str(w * -2) == "w * (-2)"
    assert str((w + 2) * 3) == "(w + 2) * 3" and str(10 - w / 2) == "10 - (w / 2)" and str(-w) == "-w"
    m = Model("Reckoned")
    w = m.parameter("w", 10)
    for made, value in (
        ((w + 2) * 3, 36),
        (100 - w / 4, 97.5),
        (2 * w - "5 mm", 15),
        (-w + 30, 20),
        (60 / (w / "1 mm"), 6),
    ):
        m.parameter(f"p{value:.0f}", made)
        assert m.parameters[f"p{value:.0f}"].value == pytest.approx(value)


def test_the_example_script_makes_what_it_says(tmp_path, capsys) -> None:
    from sketchlathe.commands.run import run

    script = Path(__file__).parents[2] / "examples" / "scripts" / "sensor_plate.py"
    assert run([str(script), str(tmp_path)]) == 0
    said = capsys.readouterr().out.splitlines()
    for line, wide in zip(said, (60, 80, 92), strict=True):
        made = trimesh.load(tmp_path / f"sensor-plate-{wide}.stl")
        assert made.extents == pytest.approx((wide, 40, 5), abs=1e-3)
        assert line.startswith(f"{wide} mm wide: {made.volume / 1000:.2f}"[:-1])
    with pytest.raises(BadInput, match="no script"):
        run([str(tmp_path / "none.py")])


def test_the_gallery_makes_what_it_reckons(tmp_path, capsys) -> None:
    from sketchlathe.commands.run import run

    said = {}
    for script in sorted((Path(__file__).parents[2] / "examples" / "scripts").glob("*.py")):
        assert run([str(script), str(tmp_path)]) == 0
        said[script.stem] = capsys.readouterr().out
        assert said[script.stem] and f"./lathe run examples/scripts/{script.name}" in script.read_text()
    made, reckoned = re.findall(r"([\d.]+) mm³", said["ratchet_wheel"])
    assert float(made) == pytest.approx(float(reckoned), abs=2e-3)
    # a tray with rounded corners, and a lid with a lip
    tray = 70 * 50 * 24 - (4 - PI) * 36 * 24 - (66 * 46 - (4 - PI) * 16) * 22
    lid = (70 * 50 - (4 - PI) * 36) * 3 + (65.6 * 45.6 - (4 - PI) * 3.8**2) * 4
    for name, volume in (("tray", tray), ("lid", lid)):
        assert f"{name.title()}: {volume / 1000:.3f} cm³" in said["box_with_lid"]
        assert trimesh.load(tmp_path / f"logger-{name}.stl").volume == pytest.approx(volume, rel=2e-4)
    assert "Closed: 27.0 mm high" in said["box_with_lid"]
    assert re.search(r"^impossible: .*\.$", said["brackets_from_a_table"], re.M)
    assert {p.name for p in tmp_path.glob("*.step")} == {f"bracket-{n}.step" for n in ("small", "medium", "large")}


def test_a_model_that_is_not_whole_is_put_right_step_by_step(tmp_path) -> None:
    m = plate("10 mm")
    m.fillet(m.edges(along="z").near(0, 0, 5), "4 mm")
    m.fillet(m.edges(along="z").near(60, 40, 5), "4 mm")
    # as somebody left it on the screen, where a step that fails stays
    for step in m.steps[2:]:
        raw = {"kind": "set_fields", "step": step.id, "fields": {"radius": "70 mm"}}
        m.document = apply_edit(m.document, parse_edit(raw))
    with pytest.raises(CannotBuild, match="Fillet 1"):
        _ = m.volume
    m.steps[2].radius = "5 mm"
    m.steps[3].radius = "5 mm"
    assert m.volume == pytest.approx(24000 - 2 * (1 - PI / 4) * 25 * 10)
    # a part that another is put together of cannot be changed so that those do not go together any more
    both = m.together()
    here = both.bring_part(m.parts[0])
    other = both.bring_part(m.parts[0], z="40 mm")
    both.place(other.faces("down").only, here.faces("up").only, how="against")
    m.steps[1].distance = "12 mm"
    assert both.box[2] == pytest.approx(24)
