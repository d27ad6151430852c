"""What a step's picks mean now: planes, axes, faces, edges, points, regions, paths."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING, Any

from ..advice import Advice
from ..blanks import AxisRef, CurvePick, EdgePick, Pick, RegionPick
from ..errors import BadInput, CannotBuild
from ..frames import ORIGIN_PLANES, Frame, Triple, dot, unit
from ..sketch.changes.chains import chain_of, connected
from ..sketch.curves import Piece
from ..sketch.regions import Region, resolve
from ..sketch.regions.resolve import Found
from ..together.grips import Grip
from .edge_references import ResolvedEdges, find_edges
from .known import Known
from .lost_picks import explain_lost, with_instead
from .references import Candidate, Resolved, find_faces
from .results import SketchState

if TYPE_CHECKING:
    from ..blanks import FacePick, PlaneRef, PointPick, ThingPick
    from ..solid.edges import NamedEdge
    from ..solid.naming import Body
    from ..solid.paths import Path
    from ..steps.base import Step


class Picked(Known):
    """What picks mean among the bodies there are; what a person should know of it becomes advice."""

    bodies: tuple[Body, ...]
    advice: list[Advice]
    _edges: dict[str, list[NamedEdge]]
    _doubts: dict[str, dict[Pick, Sequence[dict[str, Any]]]]  # by what is said: picks, and what they are taken for

    def advise_once(self, text: str) -> None:
        """Advice, if there is any, that is not repeated."""
        if text and not any(a.text == text for a in self.advice):
            self.advice.append(Advice(text))

    def _advise_of(self, text: str, pick: Pick, meant: Sequence[dict[str, Any]], **more: Any) -> None:
        """Advice on what a pick is taken to mean (``meant``: picks of just that), once for all picks of a step
        that it is true of; a person who finds it right says so with these picks.
        """
        alike = self._doubts.setdefault(text, {})
        alike[pick] = meant
        settled = with_instead(self._step, alike) if self._step is not None else {}
        self.advice[:] = [a for a in self.advice if a.text != text]
        self.advice.append(Advice(text, settled=settled, **more))

    def frame_of(self, plane: PlaneRef) -> Frame:
        """The plane a sketch lies on."""
        if plane.plane:
            return ORIGIN_PLANES[plane.plane]
        if plane.datum:
            datum = self.result_of(plane.datum).datum
            if datum is None or datum.frame is None:
                raise CannotBuild(f"{self._model.title_of(plane.datum)} is not a plane.", where="plane")
            return datum.frame
        if plane.face is None:
            raise CannotBuild("Pick a plane or a flat face to draw on.", where="plane")
        from ..solid.digest import frame_of_face

        found = self._face(plane.face, plane=True)
        frames = {f for c in found.faces if (f := frame_of_face(c.body, c.index)) is not None}
        if not frames:
            raise CannotBuild("The face picked here is not flat any more: pick another.", where="plane")
        if not _one_plane(list(frames)):
            raise CannotBuild(
                "The face picked here is now several faces on different planes: pick again.", where="plane"
            )
        return min(frames, key=lambda f: (f.origin, f.x))

    def axis_of(self, axis: AxisRef) -> tuple[Triple, Triple]:
        """A point on an axis and its unit direction."""
        origin, direction = self._axis_as_picked(axis)
        return origin, (-direction[0], -direction[1], -direction[2]) if axis.reversed else direction

    def _axis_as_picked(self, axis: AxisRef) -> tuple[Triple, Triple]:
        from ..solid import axes

        if axis.axis:
            return (0.0, 0.0, 0.0), {"x": (1.0, 0.0, 0.0), "y": (0.0, 1.0, 0.0), "z": (0.0, 0.0, 1.0)}[axis.axis]
        if axis.datum:
            datum = self.result_of(axis.datum).datum
            if datum is None or datum.direction is None:
                raise CannotBuild(f"{self._model.title_of(axis.datum)} is not an axis.", where="axis")
            return datum.origin, datum.direction
        if axis.sketch and axis.point:
            state = self.result_of(axis.sketch).sketch
            if state is None or axis.point not in state.sketch or "point" not in state.sketch.tags_of(axis.point):
                title = self._model.title_of(axis.sketch)
                raise CannotBuild(
                    f"The point picked for the axis is not in {title} any more: pick another.", where="axis"
                )
            return state.frame.place(*state.sketch.anchor(axis.point)[0]), state.frame.normal
        if axis.sketch and axis.line:
            state = self.result_of(axis.sketch).sketch
            if state is None or axis.line not in state.sketch or "line" not in state.sketch.tags_of(axis.line):
                title = self._model.title_of(axis.sketch)
                raise CannotBuild(f"The line picked as axis is not in {title} any more: pick another.", where="axis")
            a, b = (state.frame.place(*p) for p in state.sketch.ends(axis.line))
            return a, unit((b[0] - a[0], b[1] - a[1], b[2] - a[2]))
        if axis.edge:
            resolved = self._edge(axis.edge)
            found = axes.of_edge(resolved.edges[0])
        elif axis.face:
            face = self._face(axis.face).faces[0]
            found = axes.of_face(face.body, face.index)
        else:
            raise CannotBuild(
                "Pick an axis: a line of a sketch, an edge, a round face or an axis of the origin.", where="axis"
            )
        if found is None:
            raise CannotBuild(
                "What was picked as axis is neither straight nor round any more: pick another.", where="axis"
            )
        return found

    def thing_of(self, pick: ThingPick, where: str, reads: str = "") -> tuple[Grip, Body | None]:
        """What something is placed by, and the body it belongs to (None: what stands).
        ``reads``: see ``Kind.reads``.
        """
        from ..solid import axes
        from ..solid.edges import corner_near

        if pick.face is not None:
            found = self._face(pick.face, where)
            face = found.faces[0]
            grip, body = axes.grip_of_face(face.body, face.index, by_axis=reads == "round"), face.body
        elif pick.edge is not None:
            edges = self._edge(pick.edge, where)
            edge = edges.edges[0]
            body = edge.body
            if pick.at:
                grip = Grip("point", corner_near(body, pick.at))
            elif pick.spot:
                place = axes.spot_of(edge, pick.spot)
                grip = None if place is None else Grip("point", place)
                if grip is None:
                    raise CannotBuild("This edge is not round any more: it has no centre.", where=where)
            else:
                grip = axes.flat_beside(edge) if reads == "flat" else axes.grip_of_edge(edge)
                if grip is None and reads == "flat":
                    raise CannotBuild(
                        "This edge lies between two flat faces or none: pick the face itself.", where=where
                    )
        else:
            return self._standing(pick, where), None
        if grip is None:
            raise CannotBuild(
                "This has a free form: pick a flat or round face, a straight or round edge, or a corner.", where=where
            )
        return grip, body

    def _standing(self, pick: ThingPick, where: str) -> Grip:
        if pick.plane:
            plane = ORIGIN_PLANES[pick.plane]
            return Grip("plane", plane.origin, plane.normal)
        if pick.axis:
            return Grip("line", *self.axis_of(AxisRef(axis=pick.axis)))
        if pick.origin:
            return Grip("point", (0.0, 0.0, 0.0))
        if pick.datum is None:
            raise CannotBuild("Pick what it goes to: a face, an edge, a corner, a plane, an axis.", where=where)
        datum = self.result_of(pick.datum).datum
        if datum is None:
            raise CannotBuild(f"{self._model.title_of(pick.datum)} is not a datum.", where=where)
        if datum.frame is not None:
            return Grip("plane", datum.frame.origin, datum.frame.normal)
        if datum.direction is not None:
            return Grip("line", datum.origin, datum.direction)
        return Grip("point", datum.origin)

    def _face(self, pick: FacePick, where: str = "", plane: bool = False) -> Resolved:
        """What a face pick means now; a lost one fails with its place and with proposals. ``plane``: only its plane is
        wanted, so pieces of one are as good as the whole.
        """
        try:
            found = find_faces(pick, self.bodies)
        except CannotBuild as problem:
            problem.where = where or problem.where
            explain_lost(problem, pick, self._step, self.bodies)
            raise
        if found.advice and not (plane and len(found.faces) > 1):
            from ..solid.digest import pick_of_face

            self._advise_of(found.advice, pick, [pick_of_face(c.body, c.index) for c in found.faces])
        return found

    def _edge(self, pick: EdgePick, where: str = "") -> ResolvedEdges:
        """What an edge pick means now; a lost one fails with its place and with proposals."""
        try:
            found = find_edges(pick, self.bodies, self._edges)
        except CannotBuild as problem:
            problem.where = where or problem.where
            explain_lost(problem, pick, self._step, self.bodies)
            raise
        if found.advice:
            from ..solid.edges import pick_of

            self._advise_of(found.advice, pick, [pick_of(e, self.all_edges(e.body)) for e in found.edges])
        return found

    def edges_of(self, picks: Sequence[EdgePick], where: str = "edges") -> dict[str, list[NamedEdge]]:
        """The edges that picks mean now, by body; each once."""
        found: dict[tuple[str, int], NamedEdge] = {}
        for pick in picks:
            resolved = self._edge(pick, where)
            found.update({(e.body.id, e.index): e for e in resolved.edges})
        out: dict[str, list[NamedEdge]] = {}
        for (body, _), edge in found.items():
            out.setdefault(body, []).append(edge)
        return out

    def all_edges(self, body: Body) -> list[NamedEdge]:
        """Every edge of a body with its names."""
        if body.id not in self._edges:
            from ..solid.edges import named_edges

            self._edges[body.id] = named_edges(body)
        return self._edges[body.id]

    def faces_of(self, picks: Sequence[FacePick], where: str = "faces") -> list[Candidate]:
        """The faces that picks mean now, each once."""
        found: dict[tuple[str, int], Candidate] = {}
        for pick in picks:
            resolved = self._face(pick, where)
            found.update({(c.body.id, c.index): c for c in resolved.faces})
        return list(found.values())

    def bodies_of(self, ids: Sequence[str], where: str = "bodies") -> list[Body]:
        """Bodies by id, in the order given; all of them when none is named."""
        if not ids:
            return list(self.bodies)
        by_id = {b.id: b for b in self.bodies}
        missing = [i for i in ids if i not in by_id]
        if missing:
            raise CannotBuild("A body picked here is not there any more: pick again.", where=where)
        return [by_id[i] for i in ids]

    def points_of(self, picks: Sequence[PointPick]) -> list[tuple[Frame, tuple[float, float], Triple]]:
        """For picked points: the sketch's plane (a level one at a datum point), the place in it, the place in space."""
        found: list[tuple[Frame, tuple[float, float], Triple]] = []
        for pick in picks:
            result = self.result_of(pick.sketch)
            state, datum = result.sketch, result.datum
            if datum is not None and datum.frame is None and datum.direction is None:
                level = ORIGIN_PLANES["top"]
                found.append((Frame(datum.origin, level.x, level.normal), (0.0, 0.0), datum.origin))
                continue
            if state is None or pick.ref not in state.sketch:
                title = self._model.title_of(pick.sketch)
                raise CannotBuild(f"A point picked in {title} is not there any more: pick again.", where="points")
            u, v = state.sketch.point(pick.ref)
            found.append((state.frame, (u, v), state.frame.place(u, v)))
        return found

    def regions_of(self, step: Step, sketch_id: str) -> tuple[SketchState, list[Region]]:
        """The regions that a step's picks in one sketch mean now."""
        state = self.result_of(sketch_id).sketch
        if state is None:
            raise CannotBuild(f"{self._model.title_of(sketch_id)} is not a sketch.", where="regions")
        picks = [p for p in getattr(step, "regions") if isinstance(p, RegionPick)]  # noqa: B009
        found: dict[int, Region] = {}
        for pick in picks:
            if pick.sketch != sketch_id:
                continue
            answer = resolve(state.arrangement, pick.sides, pick.known)
            if not answer.regions:
                raise CannotBuild(
                    f"A region picked in {self._model.title_of(sketch_id)} is lost: {answer.why}. Pick it again.",
                    where="regions",
                )
            if len(answer.regions) > 1 and not answer.exact:
                self._advise_of_pieces(state, pick, answer)
            found.update({r.index: r for r in answer.regions})
        return state, list(found.values())

    def _advise_of_pieces(self, state: SketchState, pick: RegionPick, answer: Found) -> None:
        """Say that a picked region is in pieces now; what lies in new outlines inside it can be left out."""
        known = [c.id for c in state.sketch.curves]

        def picks(regions: Iterable[Region]) -> list[dict[str, Any]]:
            keys = dict.fromkeys(r.key for r in regions)
            return [{"sketch": pick.sketch, "sides": key, "known": known} for key in keys]

        rest = picks(r for r in answer.regions if r not in answer.inside)
        more: dict[str, Any] = {}
        text = f"A picked region is now in {len(answer.regions)} pieces; all of them are used."
        if answer.inside and rest:
            text = (
                f"New outlines in {self._model.title_of(pick.sketch)} lie inside a region picked here: it is used "
                "whole, as before."
            )
            more = {"fix": "leave them out", "fields": with_instead(self._step, {pick: rest}) if self._step else {}}
        self._advise_of(text, pick, picks(answer.regions), **more)

    def chain_of(self, pick: CurvePick, where: str) -> tuple[Frame, tuple[tuple[Piece, str], ...]]:
        """The curves that hang together with a picked one, as pieces end to end, and the sketch's plane."""
        state = self.result_of(pick.sketch).sketch
        title = self._model.title_of(pick.sketch)
        if state is None or pick.curve not in state.sketch:
            raise CannotBuild(f"The curve picked in {title} is not there any more: pick another.", where=where)
        try:
            chain = chain_of(state.sketch, connected(state.sketch, pick.curve))
        except BadInput as problem:
            raise CannotBuild(f"{problem.message} (In {title}.)", where=where) from problem
        pieces: list[tuple[Piece, str]] = []
        for id, forward in chain.links:
            own = state.sketch.curve(id).pieces()
            pieces += [(p if forward else p.reversed(), id) for p in (own if forward else own[::-1])]
        return state.frame, tuple(pieces)

    def path_of(self, picks: Sequence[CurvePick | EdgePick], where: str) -> Path:
        """The path that picked curves (with what hangs together with them) and edges make."""
        from ..solid.digest import name_text
        from ..solid.edges import edge_shape
        from ..solid.paths import path_of
        from ..solid.shapes import edge_of

        edges: list[tuple[Any, str]] = []
        seen: set[tuple[str, str]] = set()
        for pick in picks:
            if isinstance(pick, CurvePick) and (pick.sketch, pick.curve) not in seen:
                frame, chain = self.chain_of(pick, where)
                edges += [(edge_of(piece, frame), owner) for piece, owner in chain]
                seen |= {(pick.sketch, owner) for _, owner in chain}
        for found in self.edges_of([p for p in picks if isinstance(p, EdgePick)], where).values():
            edges += [(edge_shape(e), f"[{name_text(e.first)}+{name_text(e.second)}]") for e in found]
        return path_of(edges)


def _one_plane(frames: list[Frame]) -> bool:
    first = frames[0]
    return all(dot(f.normal, first.normal) > 1 - 1e-9 and abs(first.height(f.origin)) < 1e-6 for f in frames)
