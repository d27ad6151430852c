"""How many triangles there will be, told beforehand: against what the kernel then makes, and what is too many."""

from __future__ import annotations

import time
from typing import Any

import pytest
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakeSphere, BRepPrimAPI_MakeTorus
from tests.hand import Hand, plate

from sketchlathe.core.errors import CannotBuild
from sketchlathe.core.making.results import BuildCache
from sketchlathe.core.model.building import build
from sketchlathe.core.solid.foreseeing import MOST, foreseen
from sketchlathe.core.solid.meshing import for_export


def built(hand: Hand) -> Any:
    return build(hand.model, hand.model.parts[0], BuildCache())


SHAPES = {
    "ball": lambda: BRepPrimAPI_MakeSphere(20.0).Shape(),
    "rod": lambda: BRepPrimAPI_MakeCylinder(8.0, 30.0).Shape(),
    "ring": lambda: BRepPrimAPI_MakeTorus(30.0, 6.0).Shape(),
    "box": lambda: BRepPrimAPI_MakeBox(10.0, 20.0, 30.0).Shape(),
    "plate": lambda: built(plate("60", "40", "5")).bodies[0].shape,
}


@pytest.mark.parametrize("name", SHAPES)
@pytest.mark.parametrize(("chord", "angle"), [(0.1, 0.3), (0.01, 0.2), (0.003, 0.06)])
def test_the_count_is_right_to_a_factor_of_three(name: str, chord: float, angle: float) -> None:
    count = len(for_export(SHAPES[name](), chord, angle).triangles)
    assert count / 3 <= foreseen(SHAPES[name](), chord, angle) <= 3 * count + 12


def test_a_mesh_that_would_be_too_fine_is_refused_before_it_is_made() -> None:
    ball = BRepPrimAPI_MakeSphere(200.0).Shape()
    began = time.monotonic()
    with pytest.raises(CannotBuild, match=r"about \d+ million triangles, .* a chord of (0\.\d+) mm would do") as told:
        for_export(ball, 0.0001, 0.02)
    assert time.monotonic() - began < 2
    coarser = float(str(told.value).split("a chord of ")[1].split(" mm")[0])
    assert foreseen(ball, coarser, coarser**0.5) < MOST
    assert len(for_export(ball, 0.05, 0.2).triangles) < MOST
