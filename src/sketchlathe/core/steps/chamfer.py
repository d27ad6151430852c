"""Chamfer: edges cut off."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..blanks import Blank, EdgePick, FacePick, Formula
from ..errors import CannotBuild
from .base import Step
from .fillet import split_picks

if TYPE_CHECKING:
    from ..making.context import Context


class Chamfer(Step):
    """Equal on both sides, two distances, or a distance and an angle."""

    kind: Literal["chamfer"] = "chamfer"
    word: ClassVar[str] = "Chamfer"
    chord: ClassVar[str] = "ec"
    synonyms: ClassVar[str] = "bevel slant edge"
    group: ClassVar[str] = "edge"
    order: ClassVar[int] = 21
    icon: ClassVar[str] = "M4 19V10l6-6h9v15z"
    hint: ClassVar[str] = "Pick edges, or a face for all its edges; type how much is cut off."
    sentence: ClassVar[str] = "Chamfer {edges} by {size} {form}[ {second}][ {angle}]"

    edges: Annotated[
        tuple[EdgePick | FacePick, ...], Blank("edges", "edges", "Pick edges, or faces for all their edges.")
    ] = ()
    size: Annotated[Formula, Blank("length", "size", "A length or a formula.", main=True)] = "1 mm"
    form: Annotated[
        Literal["equal", "two", "angle"],
        Blank(
            "choice",
            "form",
            "How the other side is given.",
            {"equal": "on both sides", "two": "and", "angle": "at an angle of"},
        ),
    ] = "equal"
    second: Annotated[Formula, Blank("length", "other size", "On the other face.", when=("form", ("two",)))] = "2 mm"
    angle: Annotated[Formula, Blank("angle", "angle", "Between 0° and 90°.", when=("form", ("angle",)))] = "45 deg"

    def build(self, context: Context) -> None:
        from ..solid import fillets
        from .edge_dressing import dress, gather

        if not self.edges:
            raise CannotBuild("Pick at least one edge to cut off.", where="edges")
        first = second = context.value(self, "size")
        if self.form == "two":
            second = context.value(self, "second")
        elif self.form == "angle":
            angle = context.value(self, "angle")
            if not 0.01 < angle < math.pi / 2 - 0.01:
                raise CannotBuild("The angle of a chamfer must be between 0° and 90°.", where="angle")
            second = first * math.tan(angle)
        for value, where in ((first, "size"), (second, "second")):
            if not 1e-5 < value < 1e5:
                raise CannotBuild("A chamfer's size must be above zero.", where=where)
        edges = gather(context, [(*split_picks(self.edges), first, second, "edges")])
        dress(context, self, edges, fillets.chamfer, "size", first)
