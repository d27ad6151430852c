"""What is taken out, read back by libraries that are not ours, and compared in volume, area, box and counts."""

import csv
import io
import itertools
import json
import math
import subprocess
import sys
import zipfile
from pathlib import Path

import ezdxf
import pytest
import svgpathtools
import trimesh
from tests.conftest import Hand, plate

from sketchlathe.core.blanks import FacePick
from sketchlathe.core.errors import BadInput, CannotBuild
from sketchlathe.core.exchange import FORMATS, Export
from sketchlathe.core.exchange.archive import load_archive
from sketchlathe.core.exchange.base import separately
from sketchlathe.core.exchange.modelfile import load_model
from sketchlathe.core.exchange.outlines import Outline, of_face, of_section, of_sketch
from sketchlathe.core.frames import frame_on

PI = math.pi


def two_bodies() -> Hand:
    """A drilled plate of brass-coloured PLA, and an oak ball above it."""
    hand = plate("60", "40", "5")
    hand.step("block", shape="cylinder", diameter="20", height="5", x="20", y="20", result="cut")
    hand.step("block", shape="sphere", diameter="20", x="20", y="20", z="30", result="separate")
    plate_id, ball = (b.id for b in hand.build().bodies)
    hand.do("paint", part="p1", body=plate_id, colour="#c9a75a")
    hand.do("set_material", part="p1", material="oak", body=ball)
    return hand


VOLUMES = ((2400 - 100 * PI) * 5, 4 / 3 * PI * 1000)


def export(hand: Hand, outline: Outline | None = None, **how: float) -> Export:
    built = hand.build()
    return Export(hand.model, hand.model.parts[0], built.bodies, outline=outline, built=built, **how)


@pytest.mark.parametrize(
    ("kind", "ending", "scale"), [("stl", "stl", 1), ("stl-text", "stl", 1), ("obj", "obj", 1), ("glb", "glb", 1e3)]
)
def test_meshes_read_by_trimesh(kind: str, ending: str, scale: float) -> None:
    data = FORMATS[kind]().write(export(two_bodies(), chord=0.005, angle=0.05))
    scene = trimesh.load(io.BytesIO(data), file_type=ending, force="scene" if ending != "stl" else None)
    mesh = scene.to_mesh() if isinstance(scene, trimesh.Scene) else scene
    if ending != "glb":  # which keeps faces apart, each with its own normals
        assert mesh.is_watertight
    assert mesh.volume * scale**3 == pytest.approx(sum(VOLUMES), rel=1e-3)
    assert sorted(mesh.extents * scale) == pytest.approx(sorted((60, 40, 40)), abs=0.02)
    if ending == "obj":
        assert data.decode().count("\no ") == 2


def test_glb_stands_upright_and_has_colours() -> None:
    scene = trimesh.load(io.BytesIO(FORMATS["glb"]().write(export(two_bodies()))), file_type="glb")
    assert scene.extents[1] == pytest.approx(0.04, abs=1e-4)
    assert {n for n in scene.graph.nodes if n.startswith("Part")} == {"Part 1, body 1", "Part 1, body 2"}
    names = {g.visual.material.name for g in scene.geometry.values()}
    assert names == {"PLA", "Oak"}


def test_3mf_has_names_colours_and_a_picture(tmp_path: Path) -> None:
    import lib3mf

    path = tmp_path / "part.3mf"
    path.write_bytes(FORMATS["3mf"]().write(export(two_bodies())))
    wrapper = lib3mf.get_wrapper()
    document = wrapper.CreateModel()
    document.QueryReader("3mf").ReadFromFile(str(path))
    things, names, colours = document.GetMeshObjects(), [], []
    while things.MoveNext():
        thing = things.GetCurrentMeshObject()
        names.append(thing.GetName())
        resource, own, has = thing.GetObjectLevelProperty()
        group = document.GetBaseMaterialGroupByID(resource)
        colours.append(wrapper.ColorToRGBA(group.GetDisplayColor(own))[:3])
        assert has
    assert names == ["Part 1, body 1", "Part 1, body 2"]
    assert colours == [(0xC9, 0xA7, 0x5A), (0xB9, 0x8F, 0x5C)]
    with zipfile.ZipFile(path) as inside:
        picture = next(n for n in inside.namelist() if n.endswith(".png"))
        assert inside.read(picture).startswith(b"\x89PNG")


READ_STEP = """
import json, sys
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TDocStd import TDocStd_Document
from OCP.TCollection import TCollection_ExtendedString
from OCP.XCAFDoc import XCAFDoc_DocumentTool, XCAFDoc_ColorSurf
from OCP.collections import Sequence_TDF_Label
from OCP.TDataStd import TDataStd_Name
from OCP.GProp import GProp_GProps
from OCP.BRepGProp import BRepGProp
from OCP.Quantity import Quantity_Color
reader = STEPCAFControl_Reader(); reader.SetColorMode(True); reader.SetNameMode(True)
reader.ReadFile(sys.argv[1]); document = TDocStd_Document(TCollection_ExtendedString("x")); reader.Transfer(document)
tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main()); paint = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
labels = Sequence_TDF_Label(); tool.GetFreeShapes(labels); out = []
for i in range(1, labels.Length() + 1):
    label = labels.Value(i); shape = tool.GetShape_s(label); g = GProp_GProps(); BRepGProp.VolumeProperties_s(shape, g)
    s = GProp_GProps(); BRepGProp.SurfaceProperties_s(shape, s)
    name = TDataStd_Name(); label.FindAttribute(TDataStd_Name.GetID_s(), name)
    colour = Quantity_Color(); had = paint.GetColor(shape, XCAFDoc_ColorSurf, colour)
    out.append({"name": name.Get().ToExtString(), "volume": g.Mass(), "area": s.Mass(),
                "colour": Quantity_Color.ColorToHex_s(colour).ToCString() if had else ""})
print("JSON" + json.dumps(out))
"""


def test_step_read_by_the_kernel_in_a_fresh_process(tmp_path: Path) -> None:
    hand = two_bodies()
    hand.do("rename_part", part="p1", name="Schirm № 3")
    path = tmp_path / "part.step"
    path.write_bytes(FORMATS["step"]().write(export(hand)))
    said = subprocess.run(
        [sys.executable, "-c", READ_STEP, str(path)], capture_output=True, text=True, check=True
    ).stdout
    found = json.loads(said.partition("JSON")[2])
    assert [f["name"] for f in found] == ["Schirm № 3, body 1", "Schirm № 3, body 2"]
    assert [f["volume"] for f in found] == pytest.approx(VOLUMES, rel=1e-9)
    assert [f["area"] for f in found] == pytest.approx(
        [2 * (2400 - 100 * PI) + 200 * 5 + 20 * PI * 5, 400 * PI], rel=1e-9
    )
    for f, colour in zip(found, ("#c9a75a", "#b98f5c")):
        off = [int(f["colour"][i : i + 2], 16) - int(colour[i : i + 2], 16) for i in (1, 3, 5)]
        assert max(map(abs, off)) <= 1
    head = path.read_text()[:1500]
    assert "AP242" in head
    assert "Sketch Lathe" in head


def test_bodies_apart_in_a_zip() -> None:
    data = separately(FORMATS["stl"](), export(two_bodies(), chord=0.005, angle=0.05))
    with zipfile.ZipFile(io.BytesIO(data)) as inside:
        assert inside.namelist() == ["part-1-1.stl", "part-1-2.stl"]
        for name, volume in zip(inside.namelist(), VOLUMES):
            mesh = trimesh.load(io.BytesIO(inside.read(name)), file_type="stl")
            assert mesh.volume == pytest.approx(volume, rel=2e-3)


# --- flat drawings


def drawing() -> tuple[Hand, Outline]:
    """A rectangle, a circle, an arc of a slot, an ellipse and a spline, and a construction line."""
    hand = Hand()
    s = hand.sketch()
    hand.draw(s, "rectangle", (0, 0, "origin", "origin"), (60, 40), sizes=("60", "40"))
    hand.draw(s, "circle", (20, 20), (25, 20), sizes=("10",))
    hand.draw(s, "slot", (35, 10), (50, 10), (50, 13))
    hand.draw(s, "ellipse", (40, 28), (50, 28), (40, 32))
    hand.draw(s, "spline", (5, 30), (10, 36), (15, 30), (20, 36))
    (line,) = hand.draw(s, "line", (0.0, 45.0), (60.0, 45.0))[:1]
    hand.do("set_construction", sketch=s, ids=[line], construction=True)
    return hand, of_sketch(hand.build(), s, "Sketch 1")


def test_dxf_read_by_ezdxf(tmp_path: Path) -> None:
    hand, outline = drawing()
    path = tmp_path / "s.dxf"
    path.write_bytes(FORMATS["dxf"]().write(export(hand, outline)))
    document = ezdxf.readfile(path)
    assert document.units == 4
    assert not document.audit().errors
    kinds: dict[str, int] = {}
    for thing in document.modelspace():
        kinds[thing.dxftype()] = kinds.get(thing.dxftype(), 0) + 1
    assert kinds == {"LINE": 8, "CIRCLE": 1, "ARC": 2, "ELLIPSE": 1, "SPLINE": 3}
    circle = document.modelspace().query("CIRCLE").first
    assert (tuple(circle.dxf.center)[:2], circle.dxf.radius) == (pytest.approx((20, 20)), pytest.approx(5))
    assert [e.dxf.layer for e in document.modelspace().query("LINE")].count("construction") == 2
    ellipse = document.modelspace().query("ELLIPSE").first
    assert math.hypot(*tuple(ellipse.dxf.major_axis)[:2]) == pytest.approx(10)
    assert ellipse.dxf.ratio == pytest.approx(0.4)
    arcs = document.modelspace().query("ARC")
    assert sum(math.radians((a.dxf.end_angle - a.dxf.start_angle) % 360) for a in arcs) == pytest.approx(2 * PI)


def test_svg_read_by_svgpathtools(tmp_path: Path) -> None:
    hand, outline = drawing()
    path = tmp_path / "s.svg"
    path.write_bytes(FORMATS["svg"]().write(export(hand, outline)))
    paths, _, attributes = svgpathtools.svg2paths2(str(path))
    assert attributes["width"].endswith("mm")
    lengths = sorted(p.length() for p in paths)
    want = sorted(sum(_length(p) for p in d.pieces) for d in outline.curves)
    assert lengths == pytest.approx(want, rel=1e-4)
    low, high = min(p.bbox()[2] for p in paths), max(p.bbox()[3] for p in paths)
    assert (low, high) == (pytest.approx(-45), pytest.approx(0, abs=1e-6))


def _length(piece: object) -> float:
    """Length of a piece by a thousand chords."""
    from sketchlathe.core.sketch.curves import Bezier, Segment

    if isinstance(piece, Segment):
        return math.dist(piece.a, piece.b)
    low, high = (0.0, 1.0) if isinstance(piece, Bezier) else (piece.a0, piece.a1)  # type: ignore[attr-defined]
    places = [piece.at(low + (high - low) * i / 1000) for i in range(1001)]  # type: ignore[attr-defined]
    return sum(math.dist(a, b) for a, b in itertools.pairwise(places))


def test_a_faces_outline_and_a_section() -> None:
    hand = two_bodies()
    top = FacePick.model_validate(hand.face((0, 0, 1)))
    face = of_face(hand.build().bodies, top, "top")
    assert sum(_length(p) for d in face.curves for p in d.pieces) == pytest.approx(200 + 20 * PI, rel=1e-5)
    cut = of_section(hand.build().bodies, frame_on((0, 0, 30), (0, 0, 1)), "through the ball")
    assert sum(_length(p) for d in cut.curves for p in d.pieces) == pytest.approx(20 * PI, rel=1e-5)
    with pytest.raises(CannotBuild, match="nothing to draw"):
        FORMATS["svg"]().write(export(hand, of_section(hand.build().bodies, frame_on((0, 0, 99), (0, 0, 1)), "air")))


# --- tables, archive, picture


def test_tables_and_archive() -> None:
    hand = two_bodies()
    hand.do("add_parameter", name="wall", formula="4 mm")
    rows = list(csv.reader(io.StringIO(FORMATS["csv-parameters"]().write(export(hand)).decode())))
    assert rows[1][:3] == ["wall", "4 mm", "4 mm"]
    steps = list(csv.reader(io.StringIO(FORMATS["csv-steps"]().write(export(hand)).decode())))
    assert [r[3] for r in steps[1:]] == ["ok"] * 4
    with zipfile.ZipFile(io.BytesIO(FORMATS["archive"]().write(export(hand)))) as inside:
        assert load_model(inside.read("model.json")).as_json() == hand.model.as_json()
        from PIL import Image

        assert Image.open(io.BytesIO(inside.read("pictures/part-1.png"))).size == (960, 600)


@pytest.mark.parametrize("kind", [f.kind for f in FORMATS])
def test_an_empty_part_is_refused_or_written_whole(kind: str) -> None:
    hand = Hand()
    format_ = FORMATS[kind]
    if format_.needs_solid or format_.of in ("outline", "sheet"):
        with pytest.raises(CannotBuild):
            format_().write(export(hand))
    else:
        assert format_().write(export(hand))


def test_command_line_draws(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    from sketchlathe.__main__ import main
    from sketchlathe.core.exchange.modelfile import dump_model

    model = tmp_path / "m.json"
    model.write_bytes(dump_model(two_bodies().model))
    assert main(["export", str(model), "--to", str(tmp_path / "s.dxf")]) == 0
    assert len(ezdxf.readfile(tmp_path / "s.dxf").modelspace()) == 4
    assert main(["export", str(model), "--to", str(tmp_path / "cut.svg"), "--section", "z=30"]) == 0
    assert main(["export", str(model), "--to", str(tmp_path / "all.zip"), "--separate"]) == 0
    assert len(zipfile.ZipFile(tmp_path / "all.zip").namelist()) == 2
    assert main(["export", str(model), "--to", str(tmp_path / "t.stl"), "--as", "stl-text"]) == 0
    assert (tmp_path / "t.stl").read_text().startswith("solid part-1")
    assert main(["export", str(model), "--to", str(tmp_path / "s.dxf"), "--sketch", "Sketch 9"]) == 1
    assert "There is no sketch" in capsys.readouterr().err
    assert main(["export", str(model), "--to", str(tmp_path / "s.dxf"), "--section", "q=1"]) == 1


def zipped(*files: tuple[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files:
            archive.writestr(name, data)
    return out.getvalue()


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"PK\3\4", "cannot be unpacked"), (zipped(("a.txt", b"x")), "no model.json"),
        (zipped(("model.json", b"{")), "damaged"),
        (zipped(("model.json", bytes(30_000_000))), "more than can be read"),
    ],
)  # fmt: skip
def test_archives_that_are_none(data: bytes, says: str) -> None:
    with pytest.raises(BadInput, match=says):
        load_archive(data)


def test_an_archive_comes_back() -> None:
    hand = two_bodies()
    assert load_archive(FORMATS["archive"]().write(export(hand))).as_json() == hand.model.as_json()


def test_command_line_looks_into_other_files(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    from sketchlathe.__main__ import main

    (tmp_path / "two.step").write_bytes(FORMATS["step"]().write(export(two_bodies())))
    (tmp_path / "two.stl").write_bytes(FORMATS["stl"]().write(export(two_bodies())))
    (tmp_path / "two.zip").write_bytes(FORMATS["archive"]().write(export(two_bodies())))
    capsys.readouterr()
    for name in ("two.step", "two.zip"):
        assert main(["inspect", str(tmp_path / name)]) == 0
        part = json.loads(capsys.readouterr().out)["parts"][0]
        assert part["volume_mm3"] == pytest.approx(sum(VOLUMES), rel=1e-9)
    assert main(["inspect", str(tmp_path / "two.stl")]) == 0
    (seen,) = json.loads(capsys.readouterr().out)["parts"][0]["references"]
    assert seen["closed"]
    assert seen["volume_mm3"] == pytest.approx(sum(VOLUMES), rel=2e-3)
    (tmp_path / "two.dxf").write_bytes(b"0\nSECTION\n")
    assert main(["inspect", str(tmp_path / "two.dxf")]) == 1
