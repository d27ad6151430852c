"""Shell: a body hollowed out to walls."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..advice import Advice
from ..blanks import Blank, FacePick, Formula
from ..errors import CannotBuild
from .base import Step
from .largest import largest_that_works

if TYPE_CHECKING:
    from ..making.context import Context


class Shell(Step):
    """Walls of one thickness, open at the picked faces; closed all round when none is picked."""

    kind: Literal["shell"] = "shell"
    word: ClassVar[str] = "Shell"
    chord: ClassVar[str] = "es"
    synonyms: ClassVar[str] = "hollow wall"
    group: ClassVar[str] = "edge"
    order: ClassVar[int] = 22
    icon: ClassVar[str] = "M4 6v13h15V6M4 6h3v10h9V6h3"
    hint: ClassVar[str] = "Pick the faces that are to be open, type the thickness of the walls."
    sentence: ClassVar[str] = (
        "Shell with walls of {thickness} {way}, open at {faces}[, {other} thick at {others}][, of {bodies}]"
    )

    thickness: Annotated[Formula, Blank("length", "thickness", "A length or a formula.", main=True)] = "2 mm"
    way: Annotated[
        Literal["inward", "outward"],
        Blank("choice", "side", "Where the walls grow.", {"inward": "inward", "outward": "outward"}),
    ] = "inward"
    faces: Annotated[
        tuple[FacePick, ...],
        Blank("faces", "open faces", "Pick faces to leave open; none makes a closed hollow.", optional=True),
    ] = ()
    other: Annotated[
        Formula, Blank("length", "other thickness", "Of the walls at the faces picked next.", optional=True)
    ] = ""
    others: Annotated[
        tuple[FacePick, ...],
        Blank("faces", "faces of other thickness", "Faces whose walls have another thickness.", optional=True),
    ] = ()
    bodies: Annotated[
        tuple[str, ...], Blank("bodies", "bodies", "Only needed when nothing is open.", optional=True)
    ] = ()

    def build(self, context: Context) -> None:
        from ..solid.shelling import shell

        thick = context.value(self, "thickness")
        if not 1e-4 < thick < 1e5:
            raise CannotBuild("The thickness of the walls must be above zero.", where="thickness")
        opened: dict[str, list[int]] = {}
        for face in context.faces_of(self.faces):
            opened.setdefault(face.body.id, []).append(face.index)
        other = self._others(context)
        targets = list(opened) or [b.id for b in context.bodies_of(self.bodies)]
        if not targets:
            raise CannotBuild("There is no body to hollow out yet.", where="faces")
        outward = self.way == "outward"
        for body in list(context.bodies):
            if body.id not in targets:
                continue
            faces = opened.get(body.id, [])
            try:
                made = shell(body, faces, thick, self.id, outward=outward, others=other.get(body.id))
            except CannotBuild as problem:
                if outward:
                    raise
                trial = partial(shell, body, faces, step="trial", others=other.get(body.id))
                low = largest_that_works(lambda t, trial=trial: trial(thickness=t), thick)  # type: ignore[misc]
                if low < 0.01 * thick:
                    raise
                text = context.at_most(low)
                raised = CannotBuild(f"{problem.message} The thickest that works is about {text}.", where="thickness")
                raised.fixes = (Advice(problem.message, f"make it {text}", {"thickness": text}),)
                raise raised from problem
            context.replace(body, [made])

    def _others(self, context: Context) -> dict[str, dict[int, float]]:
        """By body, the faces whose walls have a thickness of their own."""
        if not self.others:
            return {}
        if "other" not in self.formulas():
            raise CannotBuild("Type how thick the walls at the picked faces are.", where="other")
        own = context.value(self, "other")
        if not 1e-4 < own < 1e5:
            raise CannotBuild("The other thickness must be above zero.", where="other")
        found: dict[str, dict[int, float]] = {}
        for face in context.faces_of(self.others, "others"):
            found.setdefault(face.body.id, {})[face.index] = own
        return found
