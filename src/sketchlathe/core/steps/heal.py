"""Heal: faces taken away, the body closed over them: a hole, a boss, a rounding of a part that was brought in."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..blanks import Blank, FacePick
from ..errors import CannotBuild
from .base import Step

if TYPE_CHECKING:
    from ..making.context import Context


class Heal(Step):
    """The faces around what is taken away run on until they meet."""

    kind: Literal["heal"] = "heal"
    word: ClassVar[str] = "Heal"
    chord: ClassVar[str] = "eh"
    synonyms: ClassVar[str] = "remove delete face fill hole close unround"
    group: ClassVar[str] = "edge"
    order: ClassVar[int] = 25
    icon: ClassVar[str] = "M3 17h17M3 12h4.500M15.500 12H20M8.500 5l6 6M14.500 5l-6 6"
    hint: ClassVar[str] = "Pick all faces of a hole, a boss or a rounding; the body closes over them."
    sentence: ClassVar[str] = "Heal over {faces}"

    faces: Annotated[tuple[FacePick, ...], Blank("faces", "faces", "All faces of what is to go.")] = ()

    def build(self, context: Context) -> None:
        from ..solid.changing import without_faces

        if not self.faces:
            raise CannotBuild("Pick the faces that are to go.", where="faces")
        by_body: dict[str, list[int]] = {}
        for face in context.faces_of(self.faces):
            by_body.setdefault(face.body.id, []).append(face.index)
        for body in list(context.bodies):
            if body.id in by_body:
                context.replace(body, [without_faces(self.id, body, by_body[body.id])])
