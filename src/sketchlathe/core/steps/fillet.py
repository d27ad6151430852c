"""Fillet: edges rounded, several radii in one step, or the whole width of a face."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..blanks import Blank, EdgePick, FacePick, Formula
from ..errors import CannotBuild
from .base import Step

if TYPE_CHECKING:
    from ..making.context import Context

_EDGES = ("form", ("edges",))
_OR_NONE = "More edges with a radius of their own; may stay empty."


class Fillet(Step):
    """Round edges. Edges that run on smoothly are rounded along."""

    kind: Literal["fillet"] = "fillet"
    word: ClassVar[str] = "Fillet"
    chord: ClassVar[str] = "ef"
    synonyms: ClassVar[str] = "round radius soften edge"
    group: ClassVar[str] = "edge"
    order: ClassVar[int] = 20
    icon: ClassVar[str] = "M4 19V9a5 5 0 0 1 5-5h10v15z"
    hint: ClassVar[str] = (
        "Pick edges (double click takes what runs on smoothly), or a face for all its edges; type the radius."
    )
    sentence: ClassVar[str] = (
        "Fillet {form}[ {edges}][ with radius {radius}][ growing to {grows} {towards}][ {middle}]"
        "[, between {sides}][, and {more} with {more_radius}]"
        "[, and {third} with {third_radius}]"
    )

    form: Annotated[
        Literal["edges", "width"],
        Blank("choice", "form", "", {"edges": "along", "width": "the whole width of"}),
    ] = "edges"

    edges: Annotated[
        tuple[EdgePick | FacePick, ...],
        Blank("edges", "edges", "Pick edges, or faces for all their edges.", when=_EDGES),
    ] = ()
    radius: Annotated[Formula, Blank("length", "radius", "A length or a formula.", when=_EDGES, main=True)] = "2 mm"
    grows: Annotated[
        Formula, Blank("length", "radius at the other end", "Where it is to grow or shrink evenly along each edge.",
                       when=_EDGES, optional=True)
    ] = ""  # fmt: skip
    towards: Annotated[
        Literal["one", "other"],
        Blank("choice", "end", "Which end has the other radius.", {"one": "at one end", "other": "at the other end"},
              when=_EDGES, after="grows"),
    ] = "one"  # fmt: skip
    middle: Annotated[
        tuple[FacePick, ...],
        Blank("faces", "narrow faces", "Faces to make round over their whole width.", when=("form", ("width",))),
    ] = ()
    sides: Annotated[
        tuple[FacePick, ...],
        Blank("faces", "faces beside", "The two faces it runs between; found by itself when none is picked.",
              when=("form", ("width",)), optional=True),
    ] = ()  # fmt: skip
    more: Annotated[
        tuple[EdgePick | FacePick, ...], Blank("edges", "more edges", _OR_NONE, when=_EDGES, optional=True)
    ] = ()
    more_radius: Annotated[
        Formula, Blank("length", "their radius", "The radius of the second set.", when=_EDGES, optional=True)
    ] = ""
    third: Annotated[
        tuple[EdgePick | FacePick, ...], Blank("edges", "third edges", _OR_NONE, when=_EDGES, optional=True)
    ] = ()
    third_radius: Annotated[
        Formula, Blank("length", "radius of the third", "The radius of the third set.", when=_EDGES, optional=True)
    ] = ""

    def build(self, context: Context) -> None:
        if self.form == "width":
            self._round_over(context)
        else:
            self._round_edges(context)

    def _round_over(self, context: Context) -> None:
        from ..solid.full_rounds import full_round

        if not self.middle:
            raise CannotBuild("Pick the narrow face that is to be round.", where="middle")
        beside = context.faces_of(self.sides, "sides")
        if beside and (len(beside) != 2 or len(self.middle) > 1):
            raise CannotBuild("Pick exactly two faces beside one narrow face, or none.", where="sides")
        for pick in self.middle:
            for face in context.faces_of([pick], "middle"):
                body = next(b for b in context.bodies if b.id == face.body.id)
                context.replace(body, [full_round(body, face.index, self.id, [f.index for f in beside])])

    def _round_edges(self, context: Context) -> None:
        from ..solid import fillets
        from .edge_dressing import dress, gather

        sets = []
        for edges, radius in (("edges", "radius"), ("more", "more_radius"), ("third", "third_radius")):
            picks = getattr(self, edges)
            if not picks:
                continue
            if radius not in self.formulas():
                raise CannotBuild("Type the radius of this set of edges.", where=radius)
            r = context.value(self, radius)
            if not 1e-5 < r < 1e5:
                raise CannotBuild("A fillet's radius must be above zero.", where=radius)
            sets.append((*split_picks(picks), *(self._both(context, r) if edges == "edges" else (r, r)), edges))
        if not sets:
            raise CannotBuild("Pick at least one edge to round.", where="edges")
        first = context.value(self, "radius")
        besides = {"grows": context.value(self, "grows")} if "grows" in self.formulas() and self.edges else {}
        dress(context, self, gather(context, sets), fillets.fillet, "radius", first if besides else sets[0][2], besides)

    def _both(self, context: Context, radius: float) -> tuple[float, float]:
        """The radii at both ends of the first set of edges."""
        if "grows" not in self.formulas():
            return radius, radius
        end = context.value(self, "grows")
        if not 1e-5 < end < 1e5:
            raise CannotBuild("A fillet's radius must be above zero.", where="grows")
        return (radius, end) if self.towards == "one" else (end, radius)


def split_picks(picks: tuple[EdgePick | FacePick, ...]) -> tuple[list[EdgePick], list[FacePick]]:
    """Picked edges and picked faces apart."""
    return [p for p in picks if isinstance(p, EdgePick)], [p for p in picks if isinstance(p, FacePick)]
