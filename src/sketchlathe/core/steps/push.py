"""Push: faces moved out or in, whatever made them; a hole is widened, a wall is moved, a boss grows."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from ..advice import Advice
from ..blanks import Blank, FacePick, Formula
from ..errors import CannotBuild
from .base import Step
from .largest import largest_that_works

if TYPE_CHECKING:
    from ..making.context import Context
    from ..solid.naming import Body


class Push(Step):
    """Flat faces move square to themselves, round ones change their radius; the faces beside follow."""

    kind: Literal["push"] = "push"
    word: ClassVar[str] = "Push"
    chord: ClassVar[str] = "ep"
    synonyms: ClassVar[str] = "move face offset resize widen thicken"
    group: ClassVar[str] = "edge"
    order: ClassVar[int] = 24
    icon: ClassVar[str] = "M4 4v15M8.500 4v15M8.500 11.500H20M16 7.500l4 4l-4 4"
    hint: ClassVar[str] = "Pick faces, type how far they move or pull the handle."
    sentence: ClassVar[str] = "Push {faces} {way} by {by}"

    faces: Annotated[tuple[FacePick, ...], Blank("faces", "faces", "Flat or round faces.")] = ()
    way: Annotated[
        Literal["out", "in"],
        Blank("choice", "way", "Out of the material makes the part larger, a hole narrower.",
              {"out": "out", "in": "in"}),
    ] = "out"  # fmt: skip
    by: Annotated[Formula, Blank("length", "distance", "A length or a formula.", main=True)] = "2 mm"

    def build(self, context: Context) -> None:
        if not self.faces:
            raise CannotBuild("Pick the faces that are to move.", where="faces")
        by = context.value(self, "by") * (1 if self.way == "out" else -1)
        if not 1e-5 < abs(by) < 1e5:
            raise CannotBuild("A distance of 0 moves nothing; type how far.", where="by")
        found = context.faces_of(self.faces)
        self._handle(context, found[0].body, found[0].index)
        by_body: dict[str, list[int]] = {}
        for face in found:
            by_body.setdefault(face.body.id, []).append(face.index)
        for body in list(context.bodies):
            if body.id in by_body:
                context.replace(body, [self._pushed(context, body, by_body[body.id], by)])

    def _pushed(self, context: Context, body: Body, faces: list[int], by: float) -> Body:
        from ..solid.changing import pushed

        try:
            return pushed(self.id, body, faces, by)
        except CannotBuild as problem:
            low = largest_that_works(lambda way: pushed("trial", body, faces, way), by)
            if abs(low) < 1e-3:
                raise
            text = context.at_most(abs(low))
            raised = CannotBuild(f"{problem.message} The farthest that works is about {text}.", where="by")
            raised.fixes = (Advice(problem.message, f"make it {text}", {"by": text}),)
            raise raised from problem

    def _handle(self, context: Context, body: Body, index: int) -> None:
        """An arrow on the first face, where it is flat."""
        from ..solid.digest import centre_of_face, frame_of_face

        frame = frame_of_face(body, index)
        if frame is None:
            return
        sign = 1.0 if self.way == "out" else -1.0
        handle: dict[str, Any] = {
            "field": "by", "origin": list(centre_of_face(body, index)),
            "direction": [sign * v for v in frame.normal], "factor": 1.0,
        }  # fmt: skip
        context.handle = handle
