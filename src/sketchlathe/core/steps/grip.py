"""Grip: grooves or ridges that give a hold on a knob, a lid or a handle."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..blanks import Blank, FacePick, Formula
from ..errors import CannotBuild
from .base import Step

if TYPE_CHECKING:
    from ..making.context import Context


class Grip(Step):
    """Along the whole of a round side, or in rows over a flat face; as many as there is room for when it changes."""

    kind: Literal["grip"] = "grip"
    word: ClassVar[str] = "Grip"
    chord: ClassVar[str] = "ng"
    synonyms: ClassVar[str] = "knurl ribs grooves flutes knob handle hold"
    group: ClassVar[str] = "print"
    order: ClassVar[int] = 64
    icon: ClassVar[str] = "M5 4.500h13v15H5zM8.200 4.500v15M11.500 4.500v15M14.800 4.500v15"
    hint: ClassVar[str] = "Pick the round side of a knob or a flat face; type how wide and deep."
    sentence: ClassVar[str] = (
        "Give {face} a grip of {form}, {size} wide and {depth} deep, {gap} apart, {rim} from its rim[, turned by "
        "{turn}]"
    )

    face: Annotated[tuple[FacePick, ...], Blank("faces", "face", "A round side from outside, or a flat face.",
                                                most=1)] = ()  # fmt: skip
    form: Annotated[
        Literal["grooves", "ridges"],
        Blank("choice", "form", "Cut in, or standing out.", {"grooves": "grooves", "ridges": "ridges"}),
    ] = "grooves"
    size: Annotated[Formula, Blank("length", "width", "Of each.", main=True)] = "2 mm"
    depth: Annotated[Formula, Blank("length", "depth", "At its middle; of ridges how far they stand out.")] = "0.8 mm"
    gap: Annotated[Formula, Blank("length", "gap", "What stays between two, at least.")] = "2 mm"
    rim: Annotated[Formula, Blank("length", "rim", "What stays free at the ends.")] = "1 mm"
    turn: Annotated[Formula, Blank("angle", "turned by", "Rows on a flat face, from level.", optional=True)] = ""

    def build(self, context: Context) -> None:
        from ..solid.barrels import barrel_of
        from ..solid.digest import frame_of_face
        from ..solid.grips import flat_grip, round_grip

        if not self.face:
            raise CannotBuild("Pick the round side or the flat face to give a grip.", where="face")
        size, gap, deep = (context.above(self, f, 1e-2) for f in ("size", "gap", "depth"))
        rim = context.value(self, "rim")
        if rim < 0:
            raise CannotBuild("The rim must not be below zero.", where="rim")
        face = context.faces_of(self.face, "face")[0]
        ridges = self.form == "ridges"
        turn = context.value(self, "turn") if "turn" in self.formulas() else 0.0
        if frame_of_face(face.body, face.index) is not None:
            tools = flat_grip(self.id, face.body, face.index, ridges, size, gap, deep, rim, turn)
        else:
            barrel = barrel_of(face.body, face.index)
            if barrel is None or barrel.inside:
                raise CannotBuild(
                    "A grip goes on a flat face, or on a side that is round all the way, seen from outside.",
                    where="face",
                )
            if turn:
                raise CannotBuild("Round a side they run along its axis: leave the turn empty.", where="turn")
            if size >= 2 * barrel.radius or (not ridges and deep >= barrel.radius):
                raise CannotBuild("That is wider or deeper than the whole side.", where="size")
            tools = round_grip(self.id, barrel, ridges, size, gap, deep, rim)
        context.combine(self, tools, "add" if ridges else "cut", (face.body.id,))
