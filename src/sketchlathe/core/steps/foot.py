"""Foot: a small bevel round what lies on the bed, where the first layer is pressed wide."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..advice import Advice
from ..blanks import Blank, FacePick, Formula
from ..errors import CannotBuild
from .base import Step

if TYPE_CHECKING:
    from ..making.context import Context
    from ..solid.naming import Body

_WIDE = 2.0  # mm; a larger bevel is meant to be seen: that is a chamfer


class Foot(Step):
    """Outside and round the holes of the face: both spread, so a part stands true and its holes keep their size."""

    kind: Literal["foot"] = "foot"
    word: ClassVar[str] = "Foot"
    chord: ClassVar[str] = "nf"
    synonyms: ClassVar[str] = "bevel first layer spread bed elephant"
    group: ClassVar[str] = "print"
    order: ClassVar[int] = 63
    icon: ClassVar[str] = "M6 3.500h11v13l-3 3.500h-5L6 16.500M2 20h19"
    hint: ClassVar[str] = "Pick the face that lies on the bed, or leave it to the lowest; type how much is cut off."
    sentence: ClassVar[str] = "Bevel {faces} by {size} against the spread of the first layer[, of {bodies}]"

    faces: Annotated[
        tuple[FacePick, ...],
        Blank("faces", "face on the bed", "A flat face; empty is the lowest of each body.", optional=True,
              nothing="what lies lowest"),
    ] = ()  # fmt: skip
    bodies: Annotated[tuple[str, ...], Blank("bodies", "bodies", "Which bodies, where no face is picked.",
                                             optional=True)] = ()  # fmt: skip
    size: Annotated[
        Formula, Blank("length", "size", "Along the bed and upwards; about the first layer's height.", main=True)
    ] = "0.4 mm"

    def build(self, context: Context) -> None:
        from ..solid import fillets
        from .edge_dressing import dress

        size = context.above(self, "size", 1e-3)
        if size > _WIDE:
            raise CannotBuild(
                "Against the spread of a layer a bevel of up to 2 mm is enough; for a larger one take Chamfer.",
                where="size",
            )
        faces = self._standing(context)
        edges = {
            body.id: [(e, size, size) for e in context.all_edges(body) if self._rim(e, body.names[face])]
            for body, face in faces
        }
        dress(context, self, edges, fillets.chamfer, "size", size)

    @staticmethod
    def _rim(edge: object, name: frozenset[str]) -> bool:
        first, second = edge.first, edge.second  # type: ignore[attr-defined]
        return name in (first, second) and first != second

    def _standing(self, context: Context) -> list[tuple[Body, int]]:
        """The faces that lie on the bed, with their bodies."""
        from ..solid.digest import frame_of_face

        if self.faces:
            found = context.faces_of(self.faces)
            if any(frame_of_face(f.body, f.index) is None for f in found):
                raise CannotBuild("What lies on the bed is flat: pick a flat face.", where="faces")
            return [(f.body, f.index) for f in found]
        if not context.bodies:
            raise CannotBuild("There is no body that could stand on the bed yet.", where="bodies")
        out = []
        for body in context.bodies_of(self.bodies):
            lowest = _lowest(body)
            if lowest is None:
                title = "This part" if len(context.bodies) == 1 else "A body"
                raise CannotBuild(f"{title} has no flat face below: pick the one that is to lie on the bed.",
                                  where="faces")  # fmt: skip
            out.append((body, lowest))
        if len(out) == 1 and len(context.bodies) > 1 and not self.bodies:
            context.advice.append(Advice("Only one of the bodies got a foot."))
        return out


def _lowest(body: Body) -> int | None:
    """The face (0-based) that looks down and lies lowest; None if what is lowest is no flat face."""
    from ..solid.digest import digest
    from ..solid.measuring import rough_box

    facts = digest(body).faces
    down = [
        (f.frame.origin[2], i) for i, f in enumerate(facts) if f.frame is not None and f.frame.normal[2] < -1 + 1e-9
    ]
    low = rough_box(body.shape)[0][2]
    if not down or min(down)[0] > low + 1e-3:
        return None
    return min(down)[1]
