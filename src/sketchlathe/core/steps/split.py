"""Split: bodies cut apart by a plane, by curves of a sketch, or by a face carried on."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..errors import CannotBuild
from .base import Step
from .blanks import Blank, CurvePick, FacePick, PlaneRef

if TYPE_CHECKING:
    from ..model.context import Context
    from ..solid.naming import Body


class Split(Step):
    """Keep both sides, or one of them."""

    kind: Literal["split"] = "split"
    word: ClassVar[str] = "Split"
    chord: ClassVar[str] = "bs"
    synonyms: ClassVar[str] = "cut halves divide"
    group: ClassVar[str] = "body"
    order: ClassVar[int] = 43
    icon: ClassVar[str] = "M3 8l8-4l8 4v3L3 11zM3 14h16v2l-8 4l-8-4zM1 12.500h21"
    hint: ClassVar[str] = "Pick a plane, a line or curve of a sketch, or a face to cut along."
    sentence: ClassVar[str] = "Split {bodies} along {by}[ {plane}][ {curve}][ {face}], keeping {keep}"

    bodies: Annotated[
        tuple[str, ...], Blank("bodies", "bodies", "Which bodies; all when none is picked.", optional=True)
    ] = ()
    by: Annotated[
        Literal["plane", "curve", "face"],
        Blank("choice", "along", "", {"plane": "the", "curve": "the curves of", "face": "the face"}),
    ] = "plane"
    plane: Annotated[
        PlaneRef,
        Blank("plane", "plane", "Pick an origin plane, a flat face or a datum plane.", when=("by", ("plane",))),
    ] = PlaneRef()
    curve: Annotated[
        CurvePick | None,
        Blank("curve", "curve", "Pick a line or curve of a sketch; all that hangs together with it cuts.",
              when=("by", ("curve",))),
    ] = None  # fmt: skip
    face: Annotated[
        tuple[FacePick, ...],
        Blank("faces", "face", "Pick a face, flat or curved; it cuts wherever it would go on.", when=("by", ("face",))),
    ] = ()
    keep: Annotated[
        Literal["both", "front", "back"],
        Blank("choice", "kept", "", {"both": "both sides", "front": "the side in front", "back": "the side behind"}),
    ] = "both"

    def build(self, context: Context) -> None:
        if not context.bodies:
            raise CannotBuild("There is no body to split yet.", where="bodies")
        cutter = self._cutter(context)
        split = False
        for body in context.bodies_of(self.bodies):
            front, back = cutter(body)
            if front and back:
                split = True
            kept = {"both": [*front, *back], "front": front, "back": back}[self.keep]
            if not kept:
                raise CannotBuild("Nothing of a body would be left on that side.", where="keep")
            named = [
                type(b)(body.id if i == 0 else f"{body.id}.{self.id}.{i}", b.shape, b.names) for i, b in enumerate(kept)
            ]
            context.replace(body, named)
        if not split:
            raise CannotBuild("This does not go through any of the bodies: nothing would be split.", where=self.by)

    def _cutter(self, context: Context) -> Callable[[Body], tuple[list[Body], list[Body]]]:
        """What gives, for a body, what lies in front and what lies behind."""
        from ..solid.splitting import by_chain, by_face, by_plane

        if self.by == "plane":
            frame = context.frame_of(self.plane)
            return lambda body: by_plane(self.id, body, frame)
        if self.by == "curve":
            if self.curve is None:
                raise CannotBuild("Pick a line or curve of a sketch to cut along.", where="curve")
            frame, chain = context.chain_of(self.curve, "curve")
            return lambda body: by_chain(self.id, body, frame, chain)
        faces = context.faces_of(self.face, "face")
        if not faces:
            raise CannotBuild("Pick the face to cut along.", where="face")
        return lambda body: by_face(self.id, body, faces[0].body, faces[0].index)
