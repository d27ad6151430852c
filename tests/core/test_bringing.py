"""Files brought in: what is in them is found, and bad ones get a sentence."""

import io
import math
import struct
import time
import zipfile

import ezdxf
import numpy as np
import pytest
import trimesh
from tests.conftest import Hand, plate
from tests.core.test_formats import VOLUMES, drawing, export, two_bodies

from sketchlathe.core.bringing import read_file
from sketchlathe.core.bringing.base import MOST_BYTES, packed, unpacked
from sketchlathe.core.bringing.triangles import unpack_surface
from sketchlathe.core.errors import BadInput
from sketchlathe.core.exchange import FORMATS
from sketchlathe.core.mesh.surface import Surface, welded

PI = math.pi


def bring(hand: Hand, data: bytes, name: str) -> Hand:
    found = read_file(data, name)
    assert found.gives == "step"
    hand.do("bring_file", part="p1", step=found.step, file=found.fields["file"], data=found.fields["data"])
    return hand


# --- solids


def test_step_comes_back_exactly_and_is_worked_on() -> None:
    data = FORMATS["step"]().write(export(two_bodies()))
    hand = bring(Hand(), data, "Plate and ball.step")
    assert sorted(hand.volumes()) == pytest.approx(sorted(VOLUMES), rel=1e-9)
    assert all(any(a.startswith(f"{hand.steps[0].id}:face:") for a in n) for b in hand.build().bodies for n in b.names)
    # a later step picks one of its faces, and follows it when it is put elsewhere
    top = hand.face((0, 0, -1))
    hand.step("extrude", regions=[top], distance="3")
    before = sum(hand.volumes())
    assert before == pytest.approx(sum(VOLUMES) + 3 * (2400 - 100 * PI))
    hand.do("set_fields", step=hand.steps[0].id, fields={"z": "50 mm", "x": "-7 mm"})
    assert sum(hand.volumes()) == pytest.approx(before)
    assert hand.messages() == []


def test_step_subtracted_from_what_is_there() -> None:
    tool = Hand()
    tool.step("block", shape="cylinder", diameter="10", height="50")
    hand = plate("60", "40", "20")
    bring(hand, FORMATS["step"]().write(export(tool)), "pin.stp")
    hand.do("set_fields", step=hand.steps[-1].id, fields={"x": "20 mm", "y": "20 mm", "z": "-5 mm", "result": "cut"})
    assert hand.volume() == pytest.approx(48000 - PI * 25 * 20)


# --- triangles


@pytest.mark.parametrize("kind", ["stl", "stl-text", "3mf"])
def test_triangles_are_a_reference(kind: str) -> None:
    data = FORMATS[kind]().write(export(two_bodies(), chord=0.01, angle=0.1))
    hand = bring(plate("10", "10", "10"), data, f"old part.{FORMATS[kind].ending}")
    built = hand.build()
    ((step, _, surface),) = built.references
    assert step == hand.steps[-1].id
    assert surface.closed
    assert surface.volume == pytest.approx(sum(VOLUMES), rel=2e-3)
    assert hand.volume() == pytest.approx(1000)  # the part is what it was
    hand.do("set_fields", step=step, fields={"unit": "in", "x": "5 mm", "turn": "90 deg"})
    ((_, _, larger),) = hand.build().references
    assert larger.volume == pytest.approx(surface.volume * 25.4**3)
    assert larger.box[1][0] == pytest.approx(5, abs=1e-4)


def test_surfaces_measured_like_trimesh_does() -> None:
    theirs = trimesh.creation.annulus(3, 7, 5)
    theirs.apply_transform(trimesh.transformations.rotation_matrix(0.7, [1, 2, 3], [4, 5, 6]))
    ours = Surface(np.asarray(theirs.vertices, float), np.asarray(theirs.faces))
    assert ours.volume == pytest.approx(theirs.volume)
    assert ours.area == pytest.approx(theirs.area)
    assert ours.centre == pytest.approx(tuple(theirs.center_mass))
    assert ours.closed
    assert len(ours.pieces()) == 1
    holed = Surface(ours.positions, ours.triangles[1:])
    assert not holed.closed
    assert len(holed.open_edges) == 3
    flipped = ours.triangles.copy()
    flipped[0] = flipped[0][::-1]
    assert len(Surface(ours.positions, flipped).open_edges) == 3
    assert len(ours.edges[0]) == len(theirs.edges_unique)


def test_loose_triangles_are_welded() -> None:
    box = trimesh.creation.box((2, 3, 4))
    surface = welded(box.triangles.astype(float))
    assert (len(surface.positions), len(surface.triangles)) == (8, 12)
    assert surface.closed
    assert len(surface.sharp_edges()) == 12


# --- drawings


def pasted(found: object, scale: float = 1.0) -> tuple[Hand, str]:
    hand = Hand()
    sketch = hand.sketch()
    hand.do("paste", sketch=sketch, clip=found.data["clip"], scale=scale)  # type: ignore[attr-defined]
    return hand, sketch


@pytest.mark.parametrize("kind", ["dxf", "svg"])
def test_a_drawing_comes_back_with_its_regions(kind: str) -> None:
    hand, outline = drawing()
    found = read_file(FORMATS[kind]().write(export(hand, outline)), f"sketch.{kind}")
    assert found.data["unit"] == "mm"
    again, sketch = pasted(found)
    kinds = sorted(c.kind for c in again.curves(sketch))
    assert {"circle", "arc", "ellipse", "line", "spline"} <= set(kinds)
    before, after = hand.areas(hand.steps[0].id), again.areas(sketch)
    # a rectangle, a circle of 10, a slot and an ellipse of 20 x 8
    for area in (25 * PI, 40 * PI):
        assert any(a == pytest.approx(area, rel=1e-5) for a in after)
    assert max(after) == pytest.approx(max(before), rel=1e-3)


def test_dxf_with_polylines_blocks_and_units(tmp_path) -> None:
    document = ezdxf.new("R2010")
    document.units = 1  # inches
    space = document.modelspace()
    # a slot as a polyline with bulges, 3 x 1 in
    space.add_lwpolyline([(0, 0, 0), (2, 0, 1), (2, 1, 0), (0, 1, 1)], format="xyb", close=True)
    block = document.blocks.new("ring")
    block.add_circle((0, 0), 0.5)
    space.add_blockref("ring", (5, 5), dxfattribs={"xscale": 2, "yscale": 2})
    space.add_text("no curve")
    path = tmp_path / "x.dxf"
    document.saveas(path)
    found = read_file(path.read_bytes(), "x.dxf")
    assert found.data["unit"] == "in"
    assert any("text" in n for n in found.notes)
    hand, sketch = pasted(found, 25.4)
    assert hand.areas(sketch) == pytest.approx(sorted([PI * 25.4**2, (2 + PI / 4) * 25.4**2]))
    joins = hand.constraints(sketch, "coincident")
    assert len(joins) == 4


SVG = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="50mm" viewBox="0 0 100 50">'
    '<g transform="translate(10 20) rotate(90)"><rect width="20" height="10"/></g>'
    '<circle cx="50" cy="25" r="5"/><ellipse cx="70" cy="25" rx="8" ry="3"/>'
    '<path d="M80 40 h10 v-10 a5 5 0 0 0 -10 0 z"/><text x="3" y="3">hello</text></svg>'
)


def test_svg_shapes_with_transforms() -> None:
    found = read_file(SVG.encode(), "x.svg")
    assert "1 texts or pictures left out." in found.notes
    hand, sketch = pasted(found)
    assert hand.areas(sketch) == pytest.approx(sorted([200, 25 * PI, 24 * PI, 100 + 25 * PI / 2]), rel=1e-6)
    low, high = found.data["box"]
    assert (low[0], high[0]) == pytest.approx((0, 90), abs=1e-6)
    assert high[1] == pytest.approx(-20, abs=1e-6)


def test_parameters_from_a_table() -> None:
    found = read_file(b"name;formula;note\nwall;4 mm;outer\nwide;wall * 3;\n", "p.csv")
    assert found.data["rows"] == [
        {"name": "wall", "formula": "4 mm", "note": "outer"}, {"name": "wide", "formula": "wall * 3", "note": ""},
    ]  # fmt: skip
    hand = Hand()
    hand.do("bring_parameters", rows=found.data["rows"])
    assert hand.model.table["wide"].value == pytest.approx(12)
    hand.do("bring_parameters", rows=[{"name": "wall", "formula": "5 mm", "note": ""}])
    assert hand.model.table["wide"].value == pytest.approx(15)
    with pytest.raises(BadInput):
        hand.do(
            "bring_parameters",
            rows=[{"name": "other", "formula": "1 mm", "note": ""}, {"name": "2bad", "formula": "x", "note": ""}],
        )
    assert [p.name for p in hand.model.parameters] == ["wall", "wide"]


# --- bad files


def stl(count: int, claimed: int | None = None) -> bytes:
    return b"x".ljust(80) + struct.pack("<I", count if claimed is None else claimed) + bytes(50 * count)


def zipped(*files: tuple[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files:
            archive.writestr(name, data)
    return out.getvalue()


def nan_stl() -> bytes:
    return b"x".ljust(80) + struct.pack("<I", 1) + struct.pack("<12fH", *([0.0] * 3), *([math.nan] * 9), 0)


STEP = b"ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n#1=NONSENSE(#2,#1);\nENDSEC;\nEND-ISO-10303-21;\n"
GOOD = FORMATS["step"]().write(export(two_bodies()))


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("x.step", b"", "empty"), ("x.exe", b"MZ", "not a kind of file"), ("x", b"abc", "not a kind of file"),
        ("x.stl", bytes(MOST_BYTES + 1), "at most"), ("x.step", b"hello", "not a STEP file"),
        ("x.step", GOOD[: len(GOOD) // 2], "cut short"), ("x.step", STEP, "no closed solid|cannot be read"),
        ("x.step", stl(1), "not a STEP file"), ("x.stl", b"abc", "cut short"), ("x.stl", stl(0), "no triangles"),
        ("x.stl", stl(3, 9), "cut short"), ("x.stl", stl(1, 4_000_000_000), "claims"),
        ("x.stl", nan_stl(), "not numbers"),
        ("x.stl", stl(2), "without area"),
        ("x.stl", b"solid x\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\n", "cut short"),
        ("x.stl", b"solid x\nfacet\nvertex a b c\nvertex 1 2 3\nvertex 1 2 4\nendsolid x\n", "not three numbers"),
        ("x.3mf", b"PK\3\4nonsense", "cannot be unpacked"), ("x.3mf", zipped(("a.txt", b"x")), "no 3MF"),
        ("x.3mf", zipped(("../../etc/x.model", b"x")), "lead out"),
        ("x.3mf", zipped(("3D/3dmodel.model", bytes(310_000_000))), "unpacks to"),
        ("x.3mf", zipped(("3D/3dmodel.model", b"<model>")), "cannot be read|no triangles"),
        ("x.dxf", b"hello", "not a DXF"), ("x.dxf", b"0\nSECTION\n2\nENTITIES\n0\nLINE\n10\nabc\n", "damaged|no lines"),
        ("x.svg", b"\xff\xfe\0", "not text"), ("x.svg", b"<html></html>", "not an SVG"),
        ("x.svg", b'<!DOCTYPE svg [<!ENTITY a "b">]><svg>&a;</svg>', "entities"), ("x.svg", b"<svg><rect", "cut short"),
        ("x.svg", b"<svg>" + b"<g>" * 100 + b"</g>" * 100 + b"</svg>", "nested too deeply"),
        ("x.svg", b"<svg></svg>", "no lines"),
        ("x.svg", b'<svg><path d="M0 0 L1e30 5"/></svg>', "farther than"), ("x.csv", b"", "empty"),
        ("x.csv", b"\0\1", "not a table"), ("x.csv", b"only\n", "too few columns"),
    ],
)  # fmt: skip
def test_bad_files_get_a_sentence(name: str, data: bytes, says: str) -> None:
    with pytest.raises(BadInput, match=says):
        read_file(data, name)


def test_a_damaged_step_in_a_model_is_an_error_on_the_step() -> None:
    hand = plate("10", "10", "10")
    hand.do("bring_file", part="p1", step="bring", file="x.step", data=packed(b"nonsense"))
    hand.do("bring_file", part="p1", step="reference", file="x.stl", data="no base85 ~~~")
    assert len(hand.messages()) == 2
    assert hand.build().bodies[0].names
    with pytest.raises(BadInput):
        unpack_surface(packed(b"12345678"))
    with pytest.raises(BadInput):
        unpacked(packed(bytes(1000)), most=999)


def test_a_model_with_a_large_file_in_it_is_read_again_from_its_own_file() -> None:
    """Packed files are full of brackets; those say nothing of how deeply a document is nested."""
    import random

    from sketchlathe.core.exchange.modelfile import _depth, dump_model, load_model

    data = packed(random.Random(3).randbytes(600_000))
    hand = Hand()
    hand.do("bring_file", part="p1", step="reference", file="vane.stl", data=data)
    assert load_model(dump_model(hand.model)) == hand.model
    nested = '{"a": ' * 70 + '"]]]]"' + "}" * 70
    assert _depth(nested) == 70
    with pytest.raises(BadInput, match="nested too deeply"):
        load_model(nested.encode())
    # texts that do not end, and quotes that are escaped, cost no more than others
    began = time.monotonic()
    for text in ('"' + '\\"' * 2_000_000, '["' + "\\" * 2_000_001, '{"a": "\\\\"}' * 200_000):
        assert _depth(text) <= 1
    assert time.monotonic() - began < 10
