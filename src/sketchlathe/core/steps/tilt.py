"""Tilt: a flat face turned about an edge or another line in it; what bounds it follows."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..blanks import AxisRef, Blank, FacePick, Formula
from ..errors import CannotBuild
from .base import Step

if TYPE_CHECKING:
    from ..frames import Frame, Triple
    from ..making.context import Context


class Tilt(Step):
    """Whatever made the face: also of a part that was brought in."""

    kind: Literal["tilt"] = "tilt"
    word: ClassVar[str] = "Tilt"
    chord: ClassVar[str] = "et"
    synonyms: ClassVar[str] = "turn face rotate slope lean incline"
    group: ClassVar[str] = "edge"
    order: ClassVar[int] = 25
    icon: ClassVar[str] = "M4 19.500h16M4 19.500L17 6M9.500 19.500a8 8 0 0 0-2-4M13 5.500l4.500 0l0 4.500"
    hint: ClassVar[str] = "Pick a flat face, then the edge or line it is to turn about."
    sentence: ClassVar[str] = "Tilt {face} about {axis} by {angle}"

    face: Annotated[tuple[FacePick, ...], Blank("faces", "face", "A flat face.", most=1)] = ()
    axis: Annotated[AxisRef, Blank("axis", "axis", "An edge of the face, or a line in its plane.")] = AxisRef()
    angle: Annotated[Formula, Blank("angle", "angle", "Negative turns the other way.", main=True)] = "5 deg"

    def build(self, context: Context) -> None:
        from ..solid.changing import drafted
        from ..solid.digest import centre_of_face, frame_of_face

        if not self.face:
            raise CannotBuild("Pick the flat face that is to turn.", where="face")
        if self.axis == AxisRef():
            raise CannotBuild("Pick the edge or line the face is to turn about.", where="axis")
        angle = context.value(self, "angle")
        if not 1e-5 < abs(angle) < math.radians(80):
            raise CannotBuild("The angle must be above 0° and below 80°.", where="angle")
        found = context.faces_of(self.face, "face")[0]
        plane = frame_of_face(found.body, found.index)
        if plane is None:
            raise CannotBuild("Only flat faces can turn: pick another.", where="face")
        # the face leans from a plane square to it through the axis; before that plane, positive is outwards
        neutral = _square(plane, *context.axis_of(self.axis), centre_of_face(found.body, found.index))
        made = drafted(self.id, found.body, [found.index], neutral, -angle)
        context.replace(found.body, [made])


def _square(plane: Frame, origin: Triple, along: Triple, middle: Triple) -> Frame:
    """The plane through an axis in a face's plane that stands square on the face, its front towards the face's middle
    (so that it does not matter which way an edge runs).
    """
    from ..frames import Frame, cross, dot

    n = plane.normal
    if abs(dot(n, along)) > 1e-6 or abs(plane.height(origin)) > 1e-5:
        raise CannotBuild("The axis must lie in the plane of the face: pick one of its edges.", where="axis")
    across = cross(n, along)
    if dot(across, (middle[0] - origin[0], middle[1] - origin[1], middle[2] - origin[2])) < 0:
        along, across = (-along[0], -along[1], -along[2]), (-across[0], -across[1], -across[2])
    return Frame(origin, along, across)
