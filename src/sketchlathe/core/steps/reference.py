"""Reference: triangles of an STL or 3MF file, to be seen, measured and cut through; no solid."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from ..advice import Advice
from ..blanks import Blank, Formula
from ..bringing.base import MOST_PACKED
from ..errors import BadInput, CannotBuild
from .base import Step

if TYPE_CHECKING:
    from ..making.context import Context

_UNITS = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}


class Reference(Step):
    """A body of triangles beside the part."""

    kind: Literal["reference"] = "reference"
    word: ClassVar[str] = "Reference"
    order: ClassVar[int] = 45
    in_tray: ClassVar[bool] = False
    hint: ClassVar[str] = "Triangles from a file, to look at and measure."
    sentence: ClassVar[str] = "Show {file} for reference, read in {unit}, at {x}, {y}, {z}[, turned {turn}]"
    makes_solid: ClassVar[bool] = False
    brought: ClassVar[bool] = True

    file: Annotated[str, Blank("text", "file", "What the file is called here."), Field(max_length=80)] = ""
    unit: Annotated[
        Literal["mm", "cm", "m", "in"],
        Blank("choice", "unit", "What a 1 in the file means.", {"mm": "mm", "cm": "cm", "m": "m", "in": "inches"}),
    ] = "mm"
    x: Annotated[Formula, Blank("length", "x", "Where its origin is put.")] = "0 mm"
    y: Annotated[Formula, Blank("length", "y", "Where its origin is put.")] = "0 mm"
    z: Annotated[Formula, Blank("length", "z", "Where its origin is put.")] = "0 mm"
    turn: Annotated[Formula, Blank("angle", "turn", "About the z axis.", optional=True)] = "0 deg"
    data: str = Field(default="", max_length=MOST_PACKED)

    def key_parts(self, context: Context) -> Any:
        fields, uses = super().key_parts(context)
        return [{**fields, "file": ""}, uses]

    def build(self, context: Context) -> None:
        from ..bringing.triangles import unpack_surface

        if not self.data:
            raise CannotBuild("There is no file in this step: bring one in.", where="file")
        by = np.array([context.value(self, n) for n in "xyz"])
        angle = context.value(self, "turn") if "turn" in self.formulas() else 0.0
        try:
            surface = unpack_surface(self.data)
        except BadInput as problem:
            raise CannotBuild(problem.message, where="file") from problem
        c, s = np.cos(angle), np.sin(angle)
        turn = np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]]) * _UNITS[self.unit]
        context.reference = surface.moved(turn, by)
        if not surface.closed:
            context.advice.append(
                Advice(f"Its surface is not closed ({len(surface.open_edges)} open edges): its volume is a guess.")
            )
