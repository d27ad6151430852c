"""Files read back by other libraries, and the command line."""

import io
import json
import math
from pathlib import Path

import numpy as np
import pytest
import trimesh
from tests.conftest import Hand

from sketchlathe.core.errors import CannotBuild
from sketchlathe.core.exchange import FORMATS, Export, file_stem
from sketchlathe.core.exchange.modelfile import dump_model

EXAMPLES = sorted((Path(__file__).parents[2] / "examples").glob("*.json"))


def drilled() -> Hand:
    hand = Hand()
    s = hand.sketch()
    hand.draw(s, "rectangle", (0, 0, "origin", "origin"), (50, 30), sizes=("60", "40"))
    hand.draw(s, "circle", (20, 20), (25, 20), sizes=("20",))
    hand.step("extrude", regions=hand.regions(s), distance="5")
    return hand


EXACT = (60 * 40 - 100 * math.pi) * 5


def written(hand: Hand, kind: str, **options: float) -> bytes:
    built = hand.build()
    return FORMATS[kind]().write(Export(hand.model, hand.model.parts[0], built.bodies, **options))


def test_stl_read_by_trimesh_is_watertight_and_close() -> None:
    mesh = trimesh.load(io.BytesIO(written(drilled(), "stl")), file_type="stl")
    assert mesh.is_watertight
    assert mesh.is_winding_consistent
    assert mesh.volume == pytest.approx(EXACT, rel=1e-3)
    fine = trimesh.load(io.BytesIO(written(drilled(), "stl", chord=0.001, angle=0.05)), file_type="stl")
    assert fine.volume == pytest.approx(EXACT, rel=2e-5)
    assert fine.extents == pytest.approx([60, 40, 5], abs=1e-4)


def test_3mf_read_by_lib3mf(tmp_path: Path) -> None:
    import lib3mf

    path = tmp_path / "part.3mf"
    path.write_bytes(written(drilled(), "3mf"))
    document = lib3mf.get_wrapper().CreateModel()
    document.QueryReader("3mf").ReadFromFile(str(path))
    assert document.GetUnit() == lib3mf.ModelUnit.MilliMeter
    things = document.GetMeshObjects()
    assert things.MoveNext()
    thing = things.GetCurrentMeshObject()
    assert thing.IsManifoldAndOriented()
    points = np.array([list(p.Coordinates) for p in thing.GetVertices()])
    corners = np.array([list(t.Indices) for t in thing.GetTriangleIndices()])
    assert trimesh.Trimesh(points, corners).volume == pytest.approx(EXACT, rel=1e-3)
    assert thing.GetName() == "Part 1"


def test_step_is_ap242_and_exact(tmp_path: Path) -> None:
    from OCP.STEPControl import STEPControl_Reader

    from sketchlathe.core.solid.measuring import volume

    path = tmp_path / "part.step"
    path.write_bytes(written(drilled(), "step"))
    assert b"AP242" in path.read_bytes()[:2000]
    reader = STEPControl_Reader()
    reader.ReadFile(str(path))
    reader.TransferRoots()
    assert volume(reader.OneShape()) == pytest.approx(EXACT, rel=1e-9)


def test_nothing_to_take_out_is_said() -> None:
    with pytest.raises(CannotBuild, match="no solid yet"):
        written(Hand(), "stl")


def test_file_names_are_plain() -> None:
    model = drilled().model.changed(name="Höhen / Platte: ½")
    assert file_stem(model, model.parts[0], 12) == "hohen-platte-1-2-r12"


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda p: p.stem)
def test_examples_build_and_their_meshes_agree_with_the_exact_volume(path: Path) -> None:
    from sketchlathe.core.exchange.modelfile import load_model

    hand = Hand(load_model(path.read_bytes()))
    exact = hand.volume()
    mesh = trimesh.load(io.BytesIO(written(hand, "stl")), file_type="stl")
    assert mesh.is_watertight
    assert mesh.volume == pytest.approx(exact, rel=2e-3)


def test_mast_clamp_has_the_volume_of_its_drawing() -> None:
    from sketchlathe.core.exchange.modelfile import load_model

    clamp = Hand(load_model(next(p for p in EXAMPLES if p.stem == "mast-clamp-half").read_bytes()))
    d, wall, depth, bolt = 42, 5, 24, 5.5
    width, rise = d + 2 * wall, 20
    away = d / 2 + wall / 2  # centre of the mast above the base
    below = (d / 2) ** 2 * math.acos((away - rise) / (d / 2)) - (away - rise) * math.sqrt(
        (d / 2) ** 2 - (away - rise) ** 2
    )
    area = (d + 38) * 8 + width * rise - below
    assert clamp.volume() == pytest.approx(area * depth - 2 * math.pi * (bolt / 2) ** 2 * 8, rel=1e-6)


def test_command_line_inspects_and_exports(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    from sketchlathe.__main__ import main

    model = tmp_path / "m.json"
    model.write_bytes(dump_model(drilled().model))
    assert main(["inspect", str(model)]) == 0
    part = json.loads(capsys.readouterr().out)["parts"][0]
    assert part["volume_mm3"] == pytest.approx(EXACT, rel=1e-9)
    assert part["mass_g"] == pytest.approx(EXACT / 1000 * 1.24, rel=1e-9)
    assert part["box_mm"] == pytest.approx([60, 40, 5], abs=1e-6)
    assert [s["status"] for s in part["steps"]] == ["ok", "ok"]
    assert part["sketches"] == [{"id": part["steps"][0]["id"], "name": "Sketch 1", "freedom": 2}]
    assert main(["export", str(model), "--to", str(tmp_path / "m.stl")]) == 0
    assert trimesh.load(tmp_path / "m.stl").volume == pytest.approx(EXACT, rel=1e-3)
    assert main(["export", str(model), "--to", str(tmp_path / "m.xyz")]) == 1
    assert "known are" in capsys.readouterr().err
    assert main(["inspect", str(tmp_path / "none.json")]) == 1


def test_picture_shows_the_part() -> None:
    from PIL import Image

    from sketchlathe.core.inspect.picture import picture
    from sketchlathe.core.solid.meshing import extract, tessellate

    body = drilled().build().bodies[0]
    tessellate(body.shape, 0.1)
    image = np.asarray(Image.open(io.BytesIO(picture([extract(body.shape)], 160, 90)))).astype(int)
    assert image.shape == (90, 160, 3)
    paper = np.abs(image - [0xF9, 0xF5, 0xEB]).sum(axis=2) < 6
    assert paper[0].all()
    assert 0.15 < 1 - paper.mean() < 0.8


def test_letters_give_watertight_meshes_of_the_exact_volume(hand: Hand) -> None:
    from sketchlathe.core.solid.measuring import measures

    s = hand.sketch()
    hand.draw(s, "text", (0.0, 0.0, "origin", "origin"), (100, 0, "horizontal", None), sizes=("9",), words="Reg&8ß")
    curve = hand.curves(s)[0].id
    hand.step("extrude", regions=[{"sketch": s, "sides": [f"{curve}+"], "known": [curve]}], distance="2")
    built = hand.build()
    exact = sum(measures(b.shape).volume for b in built.bodies)
    ink = max(hand.areas(s))
    assert exact == pytest.approx(2 * ink, rel=1e-9)
    mesh = trimesh.load(io.BytesIO(written(hand, "stl", chord=0.01, angle=0.2)), file_type="stl")
    assert mesh.is_watertight
    assert mesh.volume == pytest.approx(exact, rel=2e-3)
