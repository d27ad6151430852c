"""Files that nonsense found: each made a reader raise what nobody had foreseen."""

from __future__ import annotations

import io
import random
import time
import zipfile

import ezdxf
import pytest
from tests.hand import plate

from sketchlathe.core.bringing import READERS, read_file
from sketchlathe.core.errors import BadInput
from sketchlathe.core.exchange import FORMATS, Export
from sketchlathe.core.making.results import BuildCache
from sketchlathe.core.model.building import build
from sketchlathe.core.registry import kind_of
from sketchlathe.proving.nonsense import broken

SVG = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="10mm" height="10mm" viewBox="0 0 10 10">'
    b'<path d="M0 0 L10 0 A5 5 0 0 1 0 0 z"/><circle cx="3" cy="3" r="1"/></svg>'
)


@pytest.fixture(scope="module")
def samples() -> dict[str, bytes]:
    hand = plate("60", "40", "5")
    part = hand.model.parts[0]
    built = build(hand.model, part, BuildCache())
    drawing = io.StringIO()
    document = ezdxf.new()
    document.modelspace().add_circle((3, 3), 2)
    document.write(drawing)
    written = {
        f.ending: f().write(Export(hand.model, part, built.bodies, 0.1, 0.3, None, built))
        for f in FORMATS
        if kind_of(f) in ("stl", "3mf")
    }
    return {**written, "svg": SVG, "dxf": drawing.getvalue().encode(), "csv": b"name,formula\nwall,3 mm\n"}


@pytest.mark.parametrize("hostile", ["<a" * 100_000, "<" + "a" * 200_000, "<svg " * 50_000, "<svg" + " width" * 40_000])
def test_no_svg_is_looked_at_again_and_again(hostile: str) -> None:
    """Read in linear time: a pattern that goes back over such a text takes minutes."""
    began = time.process_time()
    with pytest.raises(BadInput):
        read_file(f'<svg xmlns="http://www.w3.org/2000/svg">{hostile}</svg>'.encode(), "x.svg")
    assert time.process_time() - began < 20


def test_an_svg_whose_outermost_element_is_another_one() -> None:
    with pytest.raises(BadInput, match="no drawing in it"):
        read_file(b'<g xmlns="http://www.w3.org/2000/svg">' + SVG + b"</g>", "x.svg")


def test_a_zip_of_a_version_that_nobody_knows() -> None:
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        archive.writestr("3D/3dmodel.model", "<model/>")
    for version in (0x54, 0x78, 0xFF):
        bad = bytearray(packed.getvalue())
        bad[bad.rindex(b"PK\x01\x02") + 6] = version
        with pytest.raises(BadInput):
            read_file(bytes(bad), "x.3mf")


@pytest.mark.parametrize("ending", ["svg", "dxf", "csv", "stl", "3mf"])
def test_whatever_is_broken_is_a_sentence(samples, ending: str) -> None:
    rng = random.Random(ending)
    assert any(f".{ending}" in r.endings for r in READERS)
    understood = 0
    for _ in range(150):
        try:
            understood += read_file(broken(rng, samples[ending]), f"x.{ending}") is not None
        except BadInput as problem:
            assert str(problem)[-1] in ".?"
    assert understood < 150
