"""Emboss: letters and regions raised on a face or engraved in it, flat or round."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..blanks import Blank, FacePick, Formula, RegionPick
from ..errors import CannotBuild
from .base import Step

if TYPE_CHECKING:
    from ..frames import Frame
    from ..making.context import Context
    from ..making.references import Candidate
    from ..sketch.regions import Profile
    from ..solid.naming import Body


class Emboss(Step):
    """On a round face lengths of the sketch are lengths along the surface: letters keep their shape."""

    kind: Literal["emboss"] = "emboss"
    word: ClassVar[str] = "Emboss"
    chord: ClassVar[str] = "em"
    synonyms: ClassVar[str] = "engrave text letters wrap raise label name"
    group: ClassVar[str] = "edge"
    order: ClassVar[int] = 26
    icon: ClassVar[str] = "M3 19.500c4-3 13-3 17 0M3 19.500V8c4-3 13-3 17 0v11.500M9 14.500l2.500-6l2.500 6M10 12.500h3"
    hint: ClassVar[str] = "Pick letters or closed regions of a sketch, and the face they go on, flat or round."
    sentence: ClassVar[str] = "{way} {regions} on {face} by {height}"

    way: Annotated[
        Literal["raise", "engrave"],
        Blank("choice", "way", "Out of the face, or into it.", {"raise": "raise", "engrave": "engrave"}),
    ] = "raise"
    regions: Annotated[
        tuple[RegionPick, ...], Blank("regions", "regions", "Letters or closed regions of a sketch beside the face.")
    ] = ()
    face: Annotated[
        tuple[FacePick, ...],
        Blank("faces", "face", "A flat face, or a round one; the sketch lies along its axis.", most=1),
    ] = ()
    height: Annotated[Formula, Blank("length", "height", "How far out or in.", main=True)] = "0.8 mm"

    def build(self, context: Context) -> None:
        if not self.regions:
            raise CannotBuild("Pick letters or closed regions of a sketch.", where="regions")
        if not self.face:
            raise CannotBuild("Pick the face they go on.", where="face")
        height = context.value(self, "height")
        if not 1e-3 <= height <= 1e3:
            raise CannotBuild("The height must be above zero.", where="height")
        face = context.faces_of(self.face, "face")[0]
        tools: list[Body] = []
        ends: list[float] = []
        for sketch_id in dict.fromkeys(pick.sketch for pick in self.regions):
            state, regions = context.regions_of(self, sketch_id)
            for number, profile in enumerate(state.arrangement.outline(regions)):
                name = f"{self.id}#{number}" if number else self.id
                ends += self._ends(profile, state.frame, face)
                tools.append(self._over(name, profile, state.frame, face, height))
        if ends and max(ends) - min(ends) > 2 * math.pi:
            raise CannotBuild("These regions are wider than once round the face: make them smaller.", where="regions")
        context.combine(self, tools, "add" if self.way == "raise" else "cut", (face.body.id,))

    def _ends(self, profile: Profile, plane: Frame, face: Candidate) -> tuple[float, ...]:
        """From where to where a profile goes round a round face, rad; nothing for flat ones."""
        from ..solid.digest import frame_of_face
        from ..solid.wrapping import drum_of, reach

        drum = None if frame_of_face(face.body, face.index) else drum_of(face.body, face.index, plane)
        return () if drum is None else tuple(v / drum.radius for v in reach(profile, plane, drum))

    def _over(self, name: str, profile: Profile, plane: Frame, face: Candidate, height: float) -> Body:
        from ..frames import dot
        from ..solid.digest import frame_of_face
        from ..solid.shapes import prism
        from ..solid.wrapping import drum_of, wrapped

        raised = self.way == "raise"
        flat = frame_of_face(face.body, face.index)
        if flat is not None:
            turned = dot(flat.normal, plane.normal)
            if abs(turned) < 1 - 1e-9:
                raise CannotBuild("The sketch must be parallel to the flat face.", where="face")
            at = plane.height(flat.origin)
            out = math.copysign(height if raised else -height, turned)
            return prism(name, profile, plane, min(at, at + out), max(at, at + out))
        drum = drum_of(face.body, face.index, plane)
        if drum is None:
            raise CannotBuild("Letters go on flat and on cylindrical faces: pick another.", where="face")
        far = drum.radius + (height if raised != drum.hollow else -height)
        if far <= 0.05 * drum.radius:
            raise CannotBuild("So deep there is nothing left of the round part.", where="height")
        return wrapped(name, profile, plane, drum, min(far, drum.radius), max(far, drum.radius))
