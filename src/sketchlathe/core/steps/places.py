"""Where holes, nuts and the like go: at points of sketches, on a face, in the middle of round edges."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Literal

from ..blanks import Blank, EdgePick, FacePick, Formula, PointPick
from ..errors import CannotBuild
from .base import Step

if TYPE_CHECKING:
    from ..frames import Frame
    from ..making.context import Context

_ON_FACE = ("at", ("face",))
AT_PLACES = "{at}[ {points}][ {face}][ {rounds}][, {first} from {first_edge}][, {second} from {second_edge}]"
"""The part of a sentence that says where."""


class AtPlaces(Step):
    """A step that works at places of planes, into the material; no kind by itself."""

    at: Annotated[
        Literal["points", "face", "round"],
        Blank(
            "choice",
            "where",
            "At points of sketches, on a face, or in the middle of round edges.",
            {"points": "at", "face": "on", "round": "in the middle of"},
        ),
    ] = "points"
    points: Annotated[
        tuple[PointPick, ...],
        Blank("points", "points", "Pick points, ends or centres of sketches, or a flat face; pick again to leave one "
                                  "out.",
              when=("at", ("points",)), instead=(("at", "face", "face"), ("at", "round", "rounds"))),
    ] = ()  # fmt: skip
    face: Annotated[
        tuple[FacePick, ...],
        Blank("faces", "face", "Pick a flat face where it goes, or at its middle; its distances from two edges follow.",
              when=_ON_FACE, nears=(("first", "first_edge"), ("second", "second_edge"))),
    ] = ()  # fmt: skip
    rounds: Annotated[
        tuple[EdgePick, ...],
        Blank("edges", "round edges", "Pick round edges: the middle of each.",
              when=("at", ("round",)), only="edge"),
    ] = ()  # fmt: skip
    first: Annotated[
        Formula, Blank("length", "first distance", "Inwards from the edge picked next.", when=_ON_FACE, optional=True)
    ] = ""
    first_edge: Annotated[
        tuple[EdgePick, ...],
        Blank("edges", "first edge", "A straight edge of the face.", when=_ON_FACE, optional=True, most=1, only="edge"),
    ] = ()
    second: Annotated[
        Formula, Blank("length", "second distance", "Inwards from the edge picked next.", when=_ON_FACE, optional=True)
    ] = ""
    second_edge: Annotated[
        tuple[EdgePick, ...],
        Blank("edges", "second edge", "Another edge of the face.", when=_ON_FACE, optional=True, most=1, only="edge"),
    ] = ()

    def places(self, context: Context) -> list[tuple[Frame, tuple[float, float]]]:
        """Planes and places in them to work at."""
        if self.at == "points":
            if not self.points:
                raise CannotBuild("Pick at least one point to work at.", where="points")
            return [(frame, place) for frame, place, _ in context.points_of(self.points)]
        if self.at == "round":
            return self._in_the_middle(context)
        from ..solid.digest import frame_of_face
        from ..solid.drilling import place_on_face

        if not self.face:
            raise CannotBuild("Pick the flat face to go into.", where="face")
        given = self.formulas()
        away = []
        for distance, edge in (("first", self.first_edge), ("second", self.second_edge)):
            if bool(edge) != (distance in given):
                raise CannotBuild("Give a distance and the edge it is measured from.", where=distance)
            if edge:
                found = [e for edges in context.edges_of(edge, f"{distance}_edge").values() for e in edges]
                away.append((context.value(self, distance), found[0]))
        if len(away) == 1:
            raise CannotBuild(
                "A place on a face needs distances from two edges; without any it is the middle.", where="second"
            )
        places = []
        for face in context.faces_of(self.face, "face"):
            frame = frame_of_face(face.body, face.index)
            if frame is None:
                raise CannotBuild("The face picked here is not flat: pick a flat one.", where="face")
            places.append((frame, place_on_face(face.body, face.index, frame, away)))
        return places

    def _in_the_middle(self, context: Context) -> list[tuple[Frame, tuple[float, float]]]:
        """Planes of round edges and their middles in them; edges about one axis in one plane count once."""
        from ..frames import frame_on
        from ..solid.axes import circle_of

        if not self.rounds:
            raise CannotBuild("Pick a round edge; its middle is meant.", where="rounds")
        places: dict[tuple[Frame, tuple[float, float]], None] = {}
        for edges in context.edges_of(self.rounds, "rounds").values():
            for edge in edges:
                circle = circle_of(edge)
                if circle is None:
                    raise CannotBuild("An edge picked here is not round: pick a circle or an arc.", where="rounds")
                frame = frame_on(*circle)
                x, y = frame.flat(circle[0])
                places[frame, (round(x, 9), round(y, 9))] = None
        return list(places)

    def into(self, context: Context, frame: Frame, place: tuple[float, float]) -> float:
        """+1 or -1: along or against the sketch's normal, to where there is material at this point."""
        from ..solid.drilling import material_on

        behind, before = (material_on(context.bodies, frame, place, side) for side in (-1.0, 1.0))
        if behind == before:  # in the middle of a ring: to where the part is
            low, high = context.heights(frame)
            return -1.0 if -low >= high else 1.0
        return -1.0 if behind > before else 1.0
