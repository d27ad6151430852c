"""Rib: a thin wall from an open curve to the material beside it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..advice import Advice
from ..blanks import Blank, CurvePick, Formula
from ..errors import CannotBuild
from .base import Step

if TYPE_CHECKING:
    from ..making.context import Context


class Rib(Step):
    """The curve need not touch the part: its ends are carried on straight."""

    kind: Literal["rib"] = "rib"
    word: ClassVar[str] = "Rib"
    chord: ClassVar[str] = "sb"
    synonyms: ClassVar[str] = "web gusset stiffener brace"
    group: ClassVar[str] = "draw"
    order: ClassVar[int] = 8
    icon: ClassVar[str] = "M4 3v16h16M4 8l11 11M7.500 19l-3.500-3.500"
    hint: ClassVar[str] = "Pick an open curve of a sketch, type how thick the rib is."
    sentence: ClassVar[str] = "Raise a rib {thickness} thick from {curve} to the material on {side}"

    thickness: Annotated[Formula, Blank("length", "thickness", "Half of it on each side of the sketch.", main=True)] = (
        "2 mm"
    )
    curve: Annotated[
        CurvePick | None,
        Blank("curve", "curve", "An open curve of a sketch, with what hangs together with it."),
    ] = None
    side: Annotated[
        Literal["auto", "left", "right"],
        Blank("choice", "side", "Seen straight on, along the curve.",
              {"auto": "the side that closes", "left": "its left", "right": "its right"}),
    ] = "auto"  # fmt: skip

    def build(self, context: Context) -> None:
        from ..solid.ribs import rib

        if self.curve is None:
            raise CannotBuild("Pick an open curve of a sketch.", where="curve")
        if not context.bodies:
            raise CannotBuild("There is no material for a rib to run to yet.", where="curve")
        thick = context.value(self, "thickness")
        if not 1e-3 <= thick <= 1e4:
            raise CannotBuild("The thickness of a rib must be above zero.", where="thickness")
        frame, chain = context.chain_of(self.curve, "curve")
        sides = {"left": (True,), "right": (False,), "auto": (True, False)}[self.side]
        first: CannotBuild | None = None
        for left in sides:
            try:
                made = rib(self.id, context.bodies, frame, chain, thick, left)
            except CannotBuild as problem:
                first = first or problem
                continue
            context.combine(self, [made], "add")
            return
        assert first is not None
        if self.side != "auto" and first.where == "side":
            first.fixes = (Advice(first.message, "take the side that closes", {"side": "auto"}),)
        raise first
