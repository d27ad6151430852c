"""Vents: openings all over a face, with a rim left round them."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..blanks import Blank, FacePick, Formula
from ..errors import CannotBuild
from .base import Step

if TYPE_CHECKING:
    from ..making.context import Context


class Vents(Step):
    """Slots, round holes or hexagons; as many as there is room for when the face changes."""

    kind: Literal["vents"] = "vents"
    word: ClassVar[str] = "Vents"
    chord: ClassVar[str] = "nv"
    synonyms: ClassVar[str] = "grille grid openings speaker air honeycomb slots"
    group: ClassVar[str] = "print"
    order: ClassVar[int] = 62
    icon: ClassVar[str] = "M3 3.500h17v16H3zM6 7.500h11M6 11.500h11M6 15.500h11"
    hint: ClassVar[str] = "Pick a flat face; type how wide the openings are and how much stays between them."
    sentence: ClassVar[str] = (
        "Open {face} with {form} {size} wide, {gap} apart, {rim} from its rim, {reach}[ {depth}][, turned by {turn}]"
    )

    face: Annotated[tuple[FacePick, ...], Blank("faces", "face", "Pick a flat face.", most=1)] = ()
    form: Annotated[
        Literal["slots", "round", "hexagons"],
        Blank("choice", "form", "", {"slots": "slots", "round": "round holes", "hexagons": "hexagons"}),
    ] = "slots"
    size: Annotated[Formula, Blank("length", "width", "Of each opening.", main=True)] = "3 mm"
    gap: Annotated[Formula, Blank("length", "gap", "What stays between two openings.")] = "2 mm"
    rim: Annotated[Formula, Blank("length", "rim", "What stays round all of them.")] = "4 mm"
    reach: Annotated[
        Literal["wall", "depth"],
        Blank("choice", "how deep", "", {"wall": "through the wall behind it", "depth": "to a depth of"}),
    ] = "wall"
    depth: Annotated[Formula, Blank("length", "depth", "", when=("reach", ("depth",)))] = "2 mm"
    turn: Annotated[Formula, Blank("angle", "turned by", "The rows, from level.", optional=True)] = ""

    def build(self, context: Context) -> None:
        from ..solid.vents import cutters, openings, wall_behind

        if not self.face:
            raise CannotBuild("Pick the flat face to open.", where="face")
        size, gap = context.above(self, "size", 1e-2), context.above(self, "gap", 1e-2)
        rim = context.value(self, "rim")
        if rim < 0:
            raise CannotBuild("The rim must not be below zero.", where="rim")
        turn = context.value(self, "turn") if "turn" in self.formulas() else 0.0
        face = context.faces_of(self.face, "face")[0]
        frame, chains = openings(face.body, face.index, self.form, size, gap, rim, turn)
        deep = context.above(self, "depth", 1e-2) if self.reach == "depth" else wall_behind(face.body, frame, chains)
        context.combine(self, cutters(self.id, frame, chains, deep), "cut", (face.body.id,))
