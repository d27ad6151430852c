"""Hole: drilled at sketch points or at a place on a face, plain, counterbored or countersunk; sizes typed or from the
ISO tables.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..errors import CannotBuild
from ..model.advice import Advice
from .base import Step
from .blanks import Blank, EdgePick, FacePick, Formula, PointPick
from .iso_holes import FITS, SIZES
from .results import ON

if TYPE_CHECKING:
    from ..model.context import Context
    from ..solid.frames import Frame

_ON_FACE = ("at", ("face",))
_POINT = math.radians(118)  # the usual tip of a twist drill


class Hole(Step):
    """At every picked point a hole into the material, at right angles to the sketch or face."""

    kind: Literal["hole"] = "hole"
    word: ClassVar[str] = "Hole"
    chord: ClassVar[str] = "sh"
    synonyms: ClassVar[str] = "drill bore screw thread counterbore countersink"
    group: ClassVar[str] = "draw"
    order: ClassVar[int] = 6
    icon: ClassVar[str] = "M3 9h6v9M20 9h-6v9M9 18l2.500 2.500L14 18M11.500 2v12"
    hint: ClassVar[str] = "Pick points of a sketch, a face or round edges; type the diameter or choose a screw."
    sentence: ClassVar[str] = (
        "Drill {form} holes {at}[ {points}][ {face}][ {rounds}][, {first} from {first_edge}][, {second} from {second_edge}]"
        " for {screw}[ {fit}][, diameter {diameter}], {reach}[ {depth}]"
        "[, seat {seat_diameter} wide][, {seat_depth} deep][, at {seat_angle}][, in {bodies}]"
    )

    form: Annotated[
        Literal["plain", "counterbored", "countersunk"],
        Blank("choice", "form", "", {"plain": "plain", "counterbored": "counterbored", "countersunk": "countersunk"}),
    ] = "plain"
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
        Blank("points", "points", "Pick points, ends or centres of sketches, or a flat face; pick again to leave one out.",
              when=("at", ("points",)), instead=(("at", "face", "face"), ("at", "round", "rounds"))),
    ] = ()  # fmt: skip
    face: Annotated[
        tuple[FacePick, ...],
        Blank("faces", "face", "Pick a flat face: its middle, unless distances from two edges are given.",
              when=_ON_FACE),
    ] = ()  # fmt: skip
    rounds: Annotated[
        tuple[EdgePick, ...],
        Blank("edges", "round edges", "Pick round edges: the hole is concentric with each.",
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
    screw: Annotated[
        Literal["typed", "M2", "M2.5", "M3", "M4", "M5", "M6", "M8", "M10", "M12"],
        Blank(
            "choice",
            "screw",
            "Sizes from ISO tables; every value can still be changed when typed.",
            {"typed": "typed sizes", **{size: f"{size} screws" for size in SIZES}},
        ),
    ] = "typed"
    fit: Annotated[
        Literal["close", "medium", "free", "tapping", "insert"],
        Blank(
            "choice",
            "fit",
            "ISO 273 clearance, tapping drill, or bore for a heat-set insert.",
            FITS,
            when=("screw", tuple(SIZES)),
        ),
    ] = "medium"
    diameter: Annotated[
        Formula, Blank("length", "diameter", "A length or a formula.", when=("screw", ("typed",)), main=True)
    ] = "5 mm"
    reach: Annotated[
        Literal["through", "depth"],
        Blank("choice", "how deep", "", {"through": "through everything", "depth": "to a depth of"}),
    ] = "through"
    depth: Annotated[
        Formula,
        Blank(
            "length", "depth", "Down to where the drill is full size; its tip goes deeper.", when=("reach", ("depth",))
        ),
    ] = "10 mm"
    seat_diameter: Annotated[
        Formula,
        Blank(
            "length",
            "seat diameter",
            "Of the wide part; empty takes it from the table.",
            when=("form", ("counterbored", "countersunk")),
            optional=True,
        ),
    ] = ""
    seat_depth: Annotated[
        Formula,
        Blank(
            "length",
            "seat depth",
            "Of the wide part; empty takes it from the table.",
            when=("form", ("counterbored",)),
            optional=True,
        ),
    ] = ""
    bodies: Annotated[tuple[str, ...], ON] = ()
    seat_angle: Annotated[
        Formula, Blank("angle", "seat angle", "Between the walls of the countersink.", when=("form", ("countersunk",)), optional=True)
    ] = "90 deg"  # fmt: skip

    def build(self, context: Context) -> None:
        from ..solid.drilling import drill

        if not context.bodies:
            raise CannotBuild("There is no material to drill into yet.", where="at")
        d = self._diameter(context)
        seat_d, seat_h, seat_angle = self._seat(context, d)
        depth = None if self.reach == "through" else self._positive(context, "depth")
        tools = []
        for number, (frame, place) in enumerate(self._places(context)):
            into = self._into(context, frame, place, d)
            low, high = context.heights(frame)
            long = (max(-low, high, 0.0) + 1.0) if depth is None else depth
            tools.append(
                drill(
                    f"{self.id}#{number}" if number else self.id, frame, place, into, d / 2, long,
                    tip=None if depth is None else _POINT, seat=(seat_d / 2, seat_h, seat_angle), form=self.form,
                )
            )  # fmt: skip
        context.combine(self, tools, "cut", self.bodies)
        if depth is not None:
            self._advise(context, depth)

    def _places(self, context: Context) -> list[tuple[Frame, tuple[float, float]]]:
        """Planes and places in them to drill at."""
        if self.at == "points":
            if not self.points:
                raise CannotBuild("Pick at least one point to drill at.", where="points")
            return [(frame, place) for frame, place, _ in context.points_of(self.points)]
        if self.at == "round":
            return self._in_the_middle(context)
        from ..solid.digest import frame_of_face
        from ..solid.drilling import place_on_face

        if not self.face:
            raise CannotBuild("Pick the flat face to drill into.", where="face")
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
        from ..solid.axes import circle_of
        from ..solid.frames import frame_on

        if not self.rounds:
            raise CannotBuild("Pick a round edge; the hole goes through its middle.", where="rounds")
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

    def _advise(self, context: Context, depth: float) -> None:
        """A hole that ends exactly where the material does stops short when the part grows."""
        from ..model.context import heights_over

        frame = self._places(context)[0][0]
        low, high = heights_over(context.found, frame)
        if min(abs(depth + low), abs(depth - high)) < 1e-6:
            context.advice.append(
                Advice("This hole ends exactly at the far side of the material: it stops short when the part grows.",
                       "make it go through everything", {"reach": "through"})
            )  # fmt: skip

    def _positive(self, context: Context, field: str) -> float:
        value = context.value(self, field)
        if not 1e-4 < value < 1e4:
            raise CannotBuild(f"The {self.blanks()[field].label} must be above zero.", where=field)
        return value

    def _diameter(self, context: Context) -> float:
        if self.screw == "typed":
            return self._positive(context, "diameter")
        return SIZES[self.screw].hole(self.fit)

    def _seat(self, context: Context, d: float) -> tuple[float, float, float]:
        """Diameter, depth and angle of the wide part."""
        if self.form == "plain":
            return 0.0, 0.0, 0.0
        size = SIZES.get(self.screw)
        given = self.formulas()
        if "seat_diameter" in given:
            wide = self._positive(context, "seat_diameter")
        elif size is not None:
            wide = size.head if self.form == "counterbored" else size.sunk
        else:
            wide = 2 * d
        if wide <= d:
            raise CannotBuild("The seat must be wider than the hole.", where="seat_diameter")
        if "seat_depth" in given and self.form == "counterbored":
            deep = self._positive(context, "seat_depth")
        else:
            deep = size.head_depth if size is not None else d
        angle = context.value(self, "seat_angle") if "seat_angle" in given else math.pi / 2
        if self.form == "countersunk" and not 0.2 < angle < 3.0:
            raise CannotBuild("The angle of a countersink must be between 12° and 170°.", where="seat_angle")
        return wide, deep, angle

    def _into(self, context: Context, frame: Frame, place: tuple[float, float], d: float) -> float:
        """+1 or -1: along or against the sketch's normal, to where there is material at this point."""
        from ..solid.drilling import material_on

        behind, before = (material_on(context.bodies, frame, place, side) for side in (-1.0, 1.0))
        if behind == before:  # in the middle of a ring: to where the part is
            low, high = context.heights(frame)
            return -1.0 if -low >= high else 1.0
        return -1.0 if behind > before else 1.0
