"""Flat drawings to take out: a sketch, the outline of a flat face, a section. Exact pieces, in mm."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from ..errors import BadInput, CannotBuild
from ..sketch.curves import CURVES, Piece

if TYPE_CHECKING:
    from ..blanks import FacePick
    from ..frames import Frame
    from ..making.results import PartBuild
    from ..solid.naming import Body


@dataclass(frozen=True)
class Drawn:
    """One curve: its pieces in order, and the layer it lies on ("outline", "construction")."""

    pieces: tuple[Piece, ...]
    layer: str = "outline"


@dataclass(frozen=True)
class Outline:
    """A drawing: what it is of, and its curves."""

    title: str
    curves: tuple[Drawn, ...]


def of_sketch(built: PartBuild, step_id: str, title: str) -> Outline:
    """The curves of a sketch, construction ones on a layer of their own."""
    state = next((r.sketch for r in built.steps if r.step == step_id), None)
    if state is None:
        raise CannotBuild("This sketch could not be built, so there is nothing to take out.")
    return Outline(
        title,
        tuple(
            Drawn(tuple(c.pieces()), "construction" if c.construction else "outline")
            for c in state.sketch.curves
            if c.pieces()
        ),
    )


def of_face(bodies: Iterable[Body], pick: FacePick, title: str) -> Outline:
    """The edges round a flat face, seen straight on."""
    from ..making.references import find_faces
    from ..solid.digest import frame_of_face
    from ..solid.kernel import EDGE, FACE, each, mapped
    from ..solid.projecting import curve_of

    found = find_faces(pick, tuple(bodies)).faces
    curves = []
    for candidate in found:
        frame = frame_of_face(candidate.body, candidate.index)
        if frame is None:
            raise BadInput("Only a flat face has an outline that can be drawn: pick a flat one.")
        face = mapped(candidate.body.shape, FACE).FindKey(candidate.index + 1)
        curves += [_drawn(raw) for edge in each(face, EDGE) if (raw := curve_of(edge, frame)) is not None]
    return Outline(title, tuple(curves))


def of_section(bodies: Iterable[Body], plane: Frame, title: str) -> Outline:
    """The outlines of what a plane cuts."""
    from ..solid.kernel import EDGE, each
    from ..solid.projecting import curve_of
    from ..solid.sectioning import section

    curves = []
    for body in bodies:
        cut = section(body, plane)
        if cut is not None:
            edges = (e for e in each(cut.shape, EDGE))
            curves += [_drawn(raw) for edge in edges if (raw := curve_of(edge, plane)) is not None]
    return Outline(title, tuple(curves))


def _drawn(raw: dict[str, object]) -> Drawn:
    return Drawn(tuple(CURVES.parse({**raw, "id": "x1"}).pieces()))
