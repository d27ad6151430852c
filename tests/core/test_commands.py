"""What a person types in a terminal: inspect and export of files, every format, bad files, bad options."""

import csv
import fcntl
import io
import json
import math
import os
import subprocess
import sys
import zipfile
from pathlib import Path

import ezdxf
import pytest
import trimesh
from tests.hand import Hand, plate

from sketchlathe.__main__ import main
from sketchlathe.core.exchange import FORMATS
from sketchlathe.core.exchange.modelfile import dump_model
from sketchlathe.core.registry import kind_of

ROOT = Path(__file__).parents[2]
SOLID = [kind_of(f) for f in FORMATS if f.of == "part"]
FLAT = [kind_of(f) for f in FORMATS if f.of == "outline"]


def ring() -> Hand:
    """A plate of 60 x 40 x 5 with a hole of 10 in its middle, and a parameter."""
    hand = plate()
    hand.do("add_parameter", name="bore", formula="10 mm")
    s = hand.sketch(hand.face((0, 0, 1)))
    hand.draw(s, "circle", (30, 20), (35, 20), sizes=("bore",))
    hand.step("extrude", regions=hand.regions(s), reach="through", result="cut", way="backwards")
    return hand


VOLUME = (2400 - 25 * math.pi) * 5


@pytest.fixture
def file(tmp_path) -> str:
    path = tmp_path / "ring.lathe.json"
    path.write_bytes(dump_model(ring().model))
    return str(path)


def test_inspect_says_what_it_amounts_to(file, capsys) -> None:
    assert main(["inspect", file]) == 0
    told = json.loads(capsys.readouterr().out)
    (part,) = told["parts"]
    assert told["units"] == "mm"
    assert part["volume_mm3"] == pytest.approx(VOLUME)
    assert [s["status"] for s in part["steps"]] == ["ok"] * 4


@pytest.mark.parametrize("kind", SOLID)
def test_every_format_is_written(file, tmp_path, kind) -> None:
    out = tmp_path / f"out.{FORMATS[kind].ending}"
    assert main(["export", file, "--to", str(out), "--as", kind]) == 0
    assert out.stat().st_size > 40


def test_a_sheet_is_written_by_its_name_and_a_part_is_none(tmp_path, capsys) -> None:
    hand = ring()
    hand.do("add_part", sort="sheet", of="p1", name="Ring, drawn")
    model = tmp_path / "drawn.json"
    model.write_bytes(dump_model(hand.model))
    assert main(["inspect", str(model)]) == 0
    assert [p["name"] for p in json.loads(capsys.readouterr().out)["parts"]][1] == "Ring, drawn"
    assert main(["export", str(model), "--to", str(tmp_path / "a.pdf")]) == 0  # the only sheet there is
    assert (tmp_path / "a.pdf").read_bytes().startswith(b"%PDF")
    for ending in ("svg", "dxf"):
        out = tmp_path / f"b.{ending}"
        assert main(["export", str(model), "--to", str(out), "--part", "Ring, drawn"]) == 0
        assert b"made of" in out.read_bytes()
    assert main(["export", str(model), "--to", str(tmp_path / "c.stl"), "--part", "Ring, drawn"]) == 1
    assert "is written of a part" in capsys.readouterr().err


@pytest.mark.parametrize("kind", FLAT)
@pytest.mark.parametrize("of", [["--sketch", "Sketch 2"], ["--section", "z=2.5"]], ids=["sketch", "section"])
def test_drawings_of_a_sketch_and_of_a_section(file, tmp_path, kind, of) -> None:
    out = tmp_path / f"out.{FORMATS[kind].ending}"
    assert main(["export", file, "--to", str(out), "--as", kind, *of]) == 0
    if kind == "dxf":
        circles = ezdxf.readfile(out).modelspace().query("CIRCLE")
        assert [c.dxf.radius for c in circles] == [pytest.approx(5)]
    else:
        assert b"<svg" in out.read_bytes()


@pytest.mark.parametrize(("chord", "angle"), [("1", "1.0"), ("0.1", "0.3"), ("0.005", "0.05")])
def test_fineness_is_what_was_asked(file, tmp_path, chord, angle) -> None:
    """The mesh of a bore lies inside its circle by at most the chord: its area is too small by less than that."""
    out = tmp_path / "ring.stl"
    assert main(["export", file, "--to", str(out), "--chord", chord, "--angle", angle]) == 0
    mesh = trimesh.load(out)
    assert mesh.is_watertight
    assert 0 <= mesh.volume - VOLUME <= 2 * math.pi * 5 * 5 * float(chord)


def test_a_table_of_parameters_is_read_by_a_reader_of_tables(file, tmp_path) -> None:
    kinds = [k for k in SOLID if FORMATS[k].ending == "csv"]
    texts = []
    for kind in kinds:
        out = tmp_path / f"{kind}.csv"
        assert main(["export", file, "--to", str(out), "--as", kind]) == 0
        texts.append(list(csv.reader(io.StringIO(out.read_text(encoding="utf-8-sig")))))
    assert any(row[:1] == ["bore"] for rows in texts for row in rows)


def test_bodies_one_by_one_in_a_zip(tmp_path) -> None:
    hand = plate()
    hand.step("block", shape="cylinder", diameter="8", height="9", x="100", result="separate")
    path, out = tmp_path / "two.lathe.json", tmp_path / "two.zip"
    path.write_bytes(dump_model(hand.model))
    assert main(["export", str(path), "--to", str(out), "--as", "stl", "--separate"]) == 0
    volumes = sorted(
        trimesh.load(io.BytesIO(zipfile.ZipFile(out).read(n)), file_type="stl").volume
        for n in zipfile.ZipFile(out).namelist()
    )
    assert volumes == [pytest.approx(16 * math.pi * 9, rel=1e-2), pytest.approx(12000)]


@pytest.mark.parametrize("kind", ["step", "stl", "3mf"])
def test_inspect_of_what_was_exported(file, tmp_path, capsys, kind) -> None:
    out = tmp_path / f"ring.{FORMATS[kind].ending}"
    assert main(["export", file, "--to", str(out), "--as", kind, "--chord", "0.001", "--angle", "0.02"]) == 0
    capsys.readouterr()
    assert main(["inspect", str(out)]) == 0
    (part,) = json.loads(capsys.readouterr().out)["parts"]
    assert part["steps"][0]["status"] == "ok"
    if kind == "step":
        assert part["volume_mm3"] == pytest.approx(VOLUME, rel=1e-9)
    else:
        (surface,) = part["references"]
        assert surface["closed"]
        assert surface["volume_mm3"] == pytest.approx(VOLUME, rel=1e-3)


def test_a_part_with_a_broken_step_is_written_and_said_so(tmp_path, capsys) -> None:
    hand = plate()
    hand.step("fillet", edges=hand.edges((60, 20, 5)), radius="500")
    path, out = tmp_path / "broken.lathe.json", tmp_path / "broken.stl"
    path.write_bytes(dump_model(hand.model))
    assert main(["export", str(path), "--to", str(out)]) == 1
    assert "Fillet" in capsys.readouterr().out
    assert trimesh.load(out).volume == pytest.approx(12000)


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["inspect", "/nowhere/at all.json"], "cannot be read"),
        (["inspect", "{folder}"], "cannot be read"),
        (["inspect", "{junk}"], ""),
        (["export", "{file}", "--to", "{folder}/a.stl", "--chord", "0"], "chord"),
        (["export", "{file}", "--to", "{folder}/a.stl", "--angle", "7"], "angle"),
        (["export", "{file}", "--to", "{folder}/a.stl", "--part", "Roof"], "no part “Roof”"),
        (["export", "{file}", "--to", "/nowhere/a.stl"], "cannot be written"),
        (["export", "{file}", "--to", "{folder}/a.xyz"], ""),
        (["export", "{file}", "--to", "{folder}/a.dxf"], ""),
        (["export", "{file}", "--to", "{folder}/a.dxf", "--sketch", "Sketch 9"], "Sketch 9"),
        (["export", "{file}", "--to", "{folder}/a.dxf", "--section", "q=4"], ""),
    ],
)
def test_what_cannot_be_is_said_in_a_sentence(file, tmp_path, capsys, arguments, says) -> None:
    junk = tmp_path / "junk.json"
    junk.write_bytes(b'{"half": ')
    filled = [a.format(file=file, folder=tmp_path, junk=junk) for a in arguments]
    assert main(filled) != 0
    told = capsys.readouterr()
    text = (told.out + told.err).strip()
    assert says in text
    assert len(text) > 20
    assert "Traceback" not in text


def test_a_missing_library_is_named_with_its_package(monkeypatch, capsys) -> None:
    def broken(name: str) -> object:
        raise ImportError("libGL.so.1: cannot open shared object file: No such file or directory")

    monkeypatch.setattr("sketchlathe.__main__.importlib.import_module", broken)
    assert main(["inspect", "x.json"]) == 1
    said = capsys.readouterr().err
    assert "libGL.so.1" in said
    assert "apt-get install -y libgl1" in said


def test_the_lasting_secret_survives_a_full_disk(tmp_path) -> None:
    from sketchlathe.commands.demo import lasting_secret

    (tmp_path / "secret-key").touch()  # what a first start on a full disk left
    made = lasting_secret(tmp_path)
    assert len(made) >= 64
    assert lasting_secret(tmp_path) == made


def test_whoever_is_started_while_another_sets_up_waits_for_it() -> None:
    setting_up = os.open(ROOT, os.O_RDONLY)
    fcntl.flock(setting_up, fcntl.LOCK_EX)
    started = subprocess.Popen([ROOT / "lathe", "help"], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    try:
        assert started.stderr is not None and "waiting for another one" in started.stderr.readline()
        assert started.poll() is None
        os.close(setting_up)
        said = started.communicate(timeout=60)[0]
        assert "usage" in said and started.returncode == 0
    finally:
        started.kill()


def test_bench_quick_writes_its_figures(tmp_path) -> None:
    """Run as a person runs it: figures and their goals, in a file that other programs read."""
    out = tmp_path / "figures.json"
    done = subprocess.run(
        [sys.executable, "-m", "sketchlathe", "bench", "--quick", "--json", str(out), "--only", "sketches"],
        capture_output=True, text=True, timeout=400, env={**os.environ, "LATHE_ROOT": str(ROOT)},
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    figures = json.loads(out.read_text())
    assert len(figures) > 10
    for name, figure in figures.items():
        assert name.startswith("sketch.") and set(figure) == {"value", "goal", "ok"}
        assert math.isfinite(figure["value"]) and figure["ok"] in (True, False)
        assert name in done.stdout
