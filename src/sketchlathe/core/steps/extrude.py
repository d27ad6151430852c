"""Extrude: regions of a sketch, a flat face, or a wall along curves, swept straight off their plane."""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Mapping
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal, Self

from ..advice import Advice
from ..blanks import Blank, CurvePick, FacePick, Formula, RegionPick
from ..errors import CannotBuild
from ..quantity import names_in
from ..sheet.puts import length_along, mm
from .base import Step
from .outcome import ON, RESULT, Result

if TYPE_CHECKING:
    from ..frames import Frame, Triple
    from ..making.context import Context
    from ..making.results import StepResult
    from ..solid.naming import Body
    from ..solid.sweeping import Swept, SweptFace

_ROOM = 1.0  # mm beyond the part on both sides of a cut through everything


class Extrude(Step):
    """Add material, cut it away, keep the overlap, or make a separate body."""

    kind: Literal["extrude"] = "extrude"
    word: ClassVar[str] = "Extrude"
    chord: ClassVar[str] = "se"
    synonyms: ClassVar[str] = "boss thicken height prism cut wall"
    group: ClassVar[str] = "draw"
    order: ClassVar[int] = 2
    icon: ClassVar[str] = "M4 14l8 4 8-4M4 14v-3l8 4 8-4v3M12 10V2M9 5l3-3 3 3"
    hint: ClassVar[str] = "Pick closed regions of a sketch, then type how far or pull the handle."
    sentence: ClassVar[str] = (
        "Extrude {regions} {reach}[ {distance}][ {target}] {way}[, and {other} the other way]"
        "[, beginning {start} off the sketch][, tapering {taper}][, as a wall {wall} thick], {result}[, with {bodies}]"
    )

    regions: Annotated[
        tuple[RegionPick | FacePick | CurvePick, ...],
        Blank(
            "regions", "regions", "Pick closed regions or a flat face, for a wall also open curves; again leaves out."
        ),
    ] = ()  # fmt: skip
    reach: Annotated[
        Literal["distance", "through", "face"],
        Blank(
            "choice",
            "how far",
            "By a distance, through everything, or up to a face.",
            {"distance": "by", "through": "through everything", "face": "up to"},
        ),
    ] = "distance"
    distance: Annotated[
        Formula,
        Blank("length", "distance", "A length or a formula.", when=("reach", ("distance",)), main=True),
    ] = "10 mm"
    target: Annotated[
        tuple[FacePick, ...],
        Blank("faces", "face", "The face to end at, flat or curved.", when=("reach", ("face",))),
    ] = ()
    way: Annotated[
        Literal["forwards", "backwards", "both"],
        Blank(
            "choice",
            "direction",
            "Forwards is towards the person looking straight on.",
            {
                "forwards": "forwards",
                "backwards": "backwards",
                "both": "evenly both ways",
            },
        ),
    ] = "forwards"
    other: Annotated[
        Formula,
        Blank(
            "length",
            "other way",
            "How far backwards; empty is not at all.",
            when=("reach", ("distance",)),
            optional=True,
        ),
    ] = ""
    start: Annotated[Formula, Blank("length", "start", "How far off the sketch it begins.", optional=True)] = ""
    taper: Annotated[
        Formula,
        Blank("angle", "taper", "Narrowing outwards; negative widens.", when=("reach", ("distance",)), optional=True),
    ] = ""
    wall: Annotated[
        Formula, Blank("length", "wall", "A thin wall along the outline instead of all of it.", optional=True)
    ] = ""
    result: Annotated[Result, RESULT] = "add"
    bodies: Annotated[tuple[str, ...], ON] = ()

    def better_defaults(self, context: Context, touched: Collection[str]) -> dict[str, Any]:
        """A cut goes to the side with more material; material is added on the other side. A distance pulled or typed
        back into the material cuts, out of it adds again.
        """
        bodies, done = context.bodies, context.done
        if "way" in touched or not self.regions or not bodies:
            return {}
        if "result" not in touched and self.reach == "distance" and "distance" in touched:
            frame = _frame_of(self.regions[0], bodies, done)
            back = frame is not None and (self._goes_back(context) or self.way == "backwards")
            if back and frame is not None and _material_beside(self.regions[0], frame, bodies, done)[0] > 0:
                return {"result": "cut", "way": "forwards"}
            if not back and self.result == "cut":
                return {"result": "add", "way": "forwards"}
        from ..making.context import heights_over

        frame = _frame_of(self.regions[0], bodies, done)
        if frame is None:
            return {}
        low, high = heights_over(bodies, frame)
        if self.reach == "face" and self.target:
            try:
                height = frame.height(_centre_of(self.target[0], bodies))
            except CannotBuild:  # lost: the build says so
                return {}
            return {"way": "backwards" if height < -1e-9 else "forwards"}
        behind, before = _material_beside(self.regions[0], frame, bodies, done)
        if behind == before:
            behind, before = -low, high
        inwards = "backwards" if behind > before else "forwards"
        return {"way": inwards if self.result in ("cut", "overlap") else "forwards"}

    def _goes_back(self, context: Context) -> bool:
        """Whether its distance is below nought."""
        try:
            return context.value(self, "distance") < 0
        except CannotBuild:
            return False

    def lasting(self, value: Callable[[str], float]) -> Self:
        """A distance typed with a minus says the other way in so many words."""
        text = self.distance.strip()
        other = {"forwards": "backwards", "backwards": "forwards"}.get(self.way)
        if (
            self.reach != "distance"
            or other is None
            or "other" in self.formulas()
            or not re.match(r"[-−]\s*[\d.]", text)
        ):
            return self
        if names_in(text) or value("distance") >= 0:
            return self
        rest = text[1:].strip()
        if re.search(r"[-−+]", rest):
            return self
        return self.model_copy(update={"distance": rest, "way": other})

    def wants_words(self) -> bool:
        more = {"taper", "wall", "start"} & self.formulas().keys()
        return self.reach != "distance" or self.result in ("cut", "overlap") or bool(more)

    def build(self, context: Context) -> None:
        if not self.regions:
            raise CannotBuild("Pick at least one closed region to extrude.", where="regions")
        bases = self._bases(context)
        tools = [self._shape(context, base) for base in bases]
        try:
            context.combine(self, tools, self.result, self.bodies)
        except CannotBuild as problem:
            if problem.where == "way" and self.way != "both":
                other = "backwards" if self.way == "forwards" else "forwards"
                problem.fixes = (Advice(problem.message, f"cut {other} instead", {"way": other}),)
            raise
        self._advise(context, bases[0].frame)

    def _bases(self, context: Context) -> list[Swept | SweptFace]:
        """What is swept: profiles of regions, walls along curves, faces."""
        from ..sketch.thin_walls import wall_along, walled
        from ..solid.digest import frame_of_face
        from ..solid.sweeping import Swept, SweptFace

        wall = context.value(self, "wall") if "wall" in self.formulas() else None
        if wall is not None and wall < 1e-4:
            raise CannotBuild("The thickness of a wall must be above zero.", where="wall")
        bases: list[Swept | SweptFace] = []
        regions = [p for p in self.regions if isinstance(p, RegionPick)]
        for sketch_id in dict.fromkeys(p.sketch for p in regions):
            state, found = context.regions_of(self, sketch_id)
            if not bases:
                self._handle(context, state.frame, state.middle_of(found))
            for profile in state.arrangement.outline(found):
                made = [profile] if wall is None else walled(profile, wall)
                bases += [Swept(self.id, state.frame, p) for p in made]
        for pick in self.regions:
            if isinstance(pick, CurvePick):
                if wall is None:
                    raise CannotBuild("Open curves are extruded as a wall: type how thick it is.", where="wall")
                frame, chain = context.chain_of(pick, "regions")
                bases.append(Swept(self.id, frame, wall_along(chain, wall)))
                if len(bases) == 1:
                    self._handle(context, frame, chain[0][0].first)
        for face in context.faces_of([p for p in self.regions if isinstance(p, FacePick)], "regions"):
            flat = frame_of_face(face.body, face.index)
            if flat is None:
                raise CannotBuild("The face picked here is not flat any more: pick another.", where="regions")
            bases.append(SweptFace(self.id, flat, face.body, face.index))
            if len(bases) == 1:
                self._handle(context, flat, _middle(face.body, face.index, flat))
        return bases

    def _shape(self, context: Context, base: Swept | SweptFace) -> Body:
        """The new shape over one of them."""
        from ..solid.sweeping import tapered, up_to

        given = self.formulas()
        taper = context.value(self, "taper") if "taper" in given else 0.0
        start = context.value(self, "start") if "start" in given else 0.0
        if abs(taper) > 1.4:
            raise CannotBuild("A taper must be below 80°.", where="taper")
        if self.reach == "face":
            targets = context.faces_of(self.target, "target")
            if not targets:
                raise CannotBuild("Pick the face to end at.", where="target")
            sign = -1.0 if self.way == "backwards" else 1.0
            low, high = context.heights(base.frame)
            reach = max(abs(low), abs(high)) + _ROOM
            end = (targets[0].body, targets[0].index)
            try:
                return up_to(base, start, sign, reach, end)
            except CannotBuild as problem:
                raise self._behind(problem, lambda: up_to(base, start, -sign, reach, end)) from problem
        low, high = self._heights(context, base.frame, start)
        if taper:
            return tapered(base, low, high, taper, self.way == "backwards")
        return base.prism(low, high)

    def _behind(self, problem: CannotBuild, other_way: Callable[[], Body]) -> CannotBuild:
        """A face that is not reached may lie behind the sketch: then that way is offered."""
        try:
            other_way()
        except CannotBuild:
            return problem
        way = "forwards" if self.way == "backwards" else "backwards"
        found = CannotBuild(
            "This face lies behind the sketch." if way == "backwards" else "This face lies before the sketch.",
            where="way",
        )
        found.fixes = (Advice(found.message, f"go {way} to it", {"way": way}),)
        return found

    def _heights(self, context: Context, frame: Frame, start: float) -> tuple[float, float]:
        """Heights above the sketch's plane between which the shape lies, mm."""
        if self.reach == "through":
            if self.result in ("add", "separate"):
                raise CannotBuild(
                    "“Through everything” is for cutting; to add material give a distance.", where="reach"
                )
            low, high = context.heights(frame)
            low, high = min(low, 0.0) - _ROOM, max(high, 0.0) + _ROOM
            return {"forwards": (start, high), "backwards": (low, -start)}.get(self.way, (low, high))
        distance = context.value(self, "distance")
        other = context.value(self, "other") if "other" in self.formulas() else 0.0
        if abs(distance) < 1e-6:
            raise CannotBuild("A distance of 0 makes nothing; type how far.", where="distance")
        if max(abs(distance), abs(other), abs(start)) > 1e5:
            raise CannotBuild("A distance may be at most 100 m.", where="distance")
        if self.way == "both":
            return -abs(distance) / 2, abs(distance) / 2
        low, high = start - other, start + distance
        if self.way == "backwards":
            low, high = -start - distance, -start + other
        return (low, high) if low < high else (high, low)

    def _advise(self, context: Context, frame: Frame) -> None:
        """A depth that ends exactly at the far face goes through as long as nothing grows: say so."""
        if self.result != "cut" or self.reach != "distance" or self.way not in ("forwards", "backwards"):
            return
        low, high = heights_of(context.found, frame)
        end = context.value(self, "distance") * (-1.0 if self.way == "backwards" else 1.0)
        if abs(end - (low if self.way == "backwards" else high)) < 1e-6 and abs(end) > 1e-6:
            context.advice.append(
                Advice("This cut ends exactly at the far face: it stops short when the part grows.",
                       "make it go through everything", {"reach": "through"})
            )  # fmt: skip

    def _handle(self, context: Context, frame: Frame, at: tuple[float, float]) -> None:
        """The arrow in the view that does the same as the distance."""
        if self.reach != "distance":
            return
        sign = -1.0 if self.way == "backwards" else 1.0
        n = frame.normal
        context.handle = {
            "field": "distance",
            "origin": list(frame.place(*at)),
            "direction": [sign * n[0], sign * n[1], sign * n[2]],
            "factor": 2.0 if self.way == "both" else 1.0,
            "through": self.way != "both",  # it may be pulled through nought to the other side
        }
        start = context.value(self, "start") if "start" in self.formulas() else 0.0
        long = context.value(self, "distance")
        low = -long / 2 if self.way == "both" else sign * start
        high = long / 2 if self.way == "both" else sign * (start + long)
        context.sizes.append(length_along(frame.place(*at), n, low, high, mm(abs(long)), self.id, "distance"))


def _frame_of(
    pick: RegionPick | FacePick | CurvePick, bodies: tuple[Body, ...], done: Mapping[str, StepResult]
) -> Frame | None:
    """The plane of what was picked first."""
    if isinstance(pick, FacePick):
        from ..making.references import find_faces
        from ..solid.digest import frame_of_face

        found = find_faces(pick, bodies).faces[0]
        return frame_of_face(found.body, found.index)
    state = done[pick.sketch].sketch if pick.sketch in done else None
    return state.frame if state else None


def _material_beside(
    pick: RegionPick | FacePick | CurvePick, frame: Frame, bodies: tuple[Body, ...], done: Mapping[str, StepResult]
) -> tuple[float, float]:
    """How much of the way behind and before what was picked runs through material, mm; (0, 0) where nothing tells."""
    from ..sketch.regions import resolve
    from ..solid.drilling import material_on

    if not isinstance(pick, RegionPick) or pick.sketch not in done:
        return 0.0, 0.0
    state = done[pick.sketch].sketch
    found = resolve(state.arrangement, pick.sides, pick.known).regions if state is not None else ()
    if state is None or not found:
        return 0.0, 0.0
    place = state.middle_of(found)
    return material_on(bodies, frame, place, -1.0), material_on(bodies, frame, place, 1.0)


def _centre_of(pick: FacePick, bodies: tuple[Body, ...]) -> Triple:
    from ..making.references import find_faces
    from ..solid.digest import centre_of_face

    face = find_faces(pick, bodies).faces[0]
    return centre_of_face(face.body, face.index)


def _middle(body: Body, index: int, frame: Frame) -> tuple[float, float]:
    """Where the middle of a flat face lies in its plane."""
    from ..solid.digest import centre_of_face

    return frame.flat(centre_of_face(body, index))


def heights_of(bodies: tuple[Body, ...], frame: Frame) -> tuple[float, float]:
    """Lowest and highest point over a plane, exact for flat and round bodies, mm."""
    from ..solid.measuring import box_of

    corners = [
        (x, y, z)
        for low, high in (box_of(b.shape) for b in bodies)
        for x in (low[0], high[0])
        for y in (low[1], high[1])
        for z in (low[2], high[2])
    ]
    heights = [frame.height(c) for c in corners] or [0.0]
    return min(heights), max(heights)
