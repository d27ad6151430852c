"""Measurements that are kept: of picked faces, edges and corners, found again after every change."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from pydantic import BaseModel, ConfigDict, Field

from ..blanks import EdgePick, FacePick, Number
from ..errors import BadInput, CannotBuild
from ..forms import Measured
from ..making.edge_references import find_edges
from ..making.references import find_faces

if TYPE_CHECKING:
    from ..solid.naming import Body


class Thing(BaseModel):
    """A face, an edge, or the corner of an edge that is nearest to ``at`` (0-1 in the body's box)."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    face: FacePick | None = None
    edge: EdgePick | None = None
    at: tuple[Number, Number, Number] | None = None


class Measurement(BaseModel):
    """What is measured, under an id."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: str = Field(pattern=r"^g\d{1,9}$")
    things: tuple[Thing, ...] = Field(min_length=1, max_length=2)


def measure(things: Sequence[Thing], bodies: Sequence[Body]) -> Measured:
    """Things measured, as the screen is told of it. Raises ``CannotBuild`` saying which pick is gone."""
    from ..solid.gauging import gauge

    if not 1 <= len(things) <= 2:
        raise BadInput("Pick one or two things to measure.")
    found = gauge([_shape(t, bodies) for t in things])
    return {"rows": [(r.what, r.value, r.dimension) for r in found.rows], "lines": list(found.lines)}


def _shape(thing: Thing, bodies: Sequence[Body]) -> Any:
    from ..solid.edges import edge_shape
    from ..solid.kernel import FACE, VERTEX, each, mapped
    from ..solid.measuring import rough_box

    if thing.face is not None:
        found = find_faces(thing.face, tuple(bodies)).faces
        return mapped(found[0].body.shape, FACE).FindKey(found[0].index + 1)
    if thing.edge is None:
        raise BadInput("What is to be measured could not be understood.")
    edges = find_edges(thing.edge, bodies).edges
    if not edges:
        raise CannotBuild("A measured edge is gone.")
    shape = edge_shape(edges[0])
    if thing.at is None:
        return shape
    from ..solid.gauging import place

    low, high = rough_box(edges[0].body.shape)
    goal = [l + a * (h - l) for a, l, h in zip(thing.at, low, high)]
    return min(each(shape, VERTEX), key=lambda v: math.dist(place(v), goal))
