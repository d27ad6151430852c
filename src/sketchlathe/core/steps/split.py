"""Split: bodies cut apart by a plane, by curves of a sketch, or by a face carried on."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..blanks import Blank, CurvePick, FacePick, Formula, PlaneRef
from ..errors import CannotBuild
from .base import Step

if TYPE_CHECKING:
    from ..making.context import Context
    from ..solid.naming import Body

_JOINTS = ("dowels", "pegs", "dovetails")


class Split(Step):
    """Keep both sides, or one of them."""

    kind: Literal["split"] = "split"
    word: ClassVar[str] = "Split"
    chord: ClassVar[str] = "bs"
    synonyms: ClassVar[str] = "cut halves divide dowel peg joint bed"
    group: ClassVar[str] = "body"
    order: ClassVar[int] = 43
    icon: ClassVar[str] = "M3 8l8-4l8 4v3L3 11zM3 14h16v2l-8 4l-8-4zM1 12.500h21"
    hint: ClassVar[str] = "Pick a plane, a line or curve of a sketch, or a face to cut along."
    sentence: ClassVar[str] = (
        "Split {bodies} along {by}[ {plane}][ {curve}][ {face}], keeping {keep}[, {joint}][: {count} of them][,"
        " {across} across][, {deep} deep][, with {play} of play]"
    )

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
    joint: Annotated[
        Literal["plain", "dowels", "pegs", "dovetails"],
        Blank("choice", "joint", "What helps the sides together after printing; along a plane or a flat face.",
              {"plain": "plain", "dowels": "joined by loose dowels", "pegs": "joined by pegs on the side behind",
               "dovetails": "joined by dovetails that slide in"},
              when=("keep", ("both",)), optional=True),
    ] = "plain"  # fmt: skip
    count: Annotated[
        Formula, Blank("count", "how many", "On each cut face.", when=("joint", _JOINTS))
    ] = "2"  # fmt: skip
    across: Annotated[
        Formula, Blank("length", "width", "Of the holes, or of tongues where they are widest.", when=("joint", _JOINTS))
    ] = "5 mm"
    deep: Annotated[Formula, Blank("length", "depth", "Of each hole or tongue.", when=("joint", _JOINTS))] = "6 mm"
    play: Annotated[
        Formula, Blank("length", "play", "Dowels and tongues are that much thinner.", when=("joint", _JOINTS))
    ] = "0.2 mm"

    def build(self, context: Context) -> None:
        if not context.bodies:
            raise CannotBuild("There is no body to split yet.", where="bodies")
        cutter = self._cutter(context)
        split = False
        for body in context.bodies_of(self.bodies):
            front, back = cutter(body)
            if front and back:
                split = True
            if self.joint != "plain" and self.keep == "both" and front and back:
                front, back = self._joined(context, front, back)
            kept = {"both": [*front, *back], "front": front, "back": back}[self.keep]
            if not kept:
                raise CannotBuild("Nothing of a body would be left on that side.", where="keep")
            named = [
                type(b)(body.id if i == 0 else f"{body.id}.{self.id}.{i}", b.shape, b.names) for i, b in enumerate(kept)
            ]
            context.replace(body, named)
        if not split:
            raise CannotBuild("This does not go through any of the bodies: nothing would be split.", where=self.by)

    def _joined(self, context: Context, front: list[Body], back: list[Body]) -> tuple[list[Body], list[Body]]:
        """The sides with holes and what goes into them."""
        from ..solid.digest import frame_of_face
        from ..solid.jointing import dovetailed, joined

        plane = context.frame_of(self.plane) if self.by == "plane" else None
        if self.by == "face":
            (found, *_) = context.faces_of(self.face, "face")
            plane = frame_of_face(found.body, found.index)
        if plane is None:
            raise CannotBuild("A joint needs a flat cut: split along a plane or a flat face.", where="joint")
        if len(front) != 1 or len(back) != 1:
            raise CannotBuild("A joint needs a cut into two pieces: this one makes more.", where="joint")
        count = context.value(self, "count")
        if abs(count - round(count)) > 1e-9 or not 1 <= count <= 24:
            raise CannotBuild("Type a whole number, from 1 to 24.", where="count")
        across, deep, play = (context.value(self, f) for f in ("across", "deep", "play"))
        if min(across, deep) <= 1e-3 or not 0 <= play < min(across, deep) / 2:
            raise CannotBuild("Width and depth must be above zero, and the play small beside them.", where="across")
        if self.joint == "dovetails":
            one, other = dovetailed(self.id, front[0], back[0], plane, round(count), across, deep, play)
            return [one], [other]
        one, other, loose = joined(
            self.id, front[0], back[0], plane, round(count), across, deep, play, pegs=self.joint == "pegs"
        )
        return [one], [other, *loose]

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
