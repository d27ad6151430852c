"""Edges and faces picked by what they are, not by number: a pick stays when the part's numbers change."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any, Generic, Self, TypeVar

from ..core.errors import BadInput, NotFound
from ..core.frames import Frame, Triple, dot
from ..core.names import maker

WAYS: dict[str, Triple] = {
    "right": (1.0, 0.0, 0.0), "left": (-1.0, 0.0, 0.0), "back": (0.0, 1.0, 0.0), "front": (0.0, -1.0, 0.0),
    "up": (0.0, 0.0, 1.0), "down": (0.0, 0.0, -1.0),
}  # fmt: skip
"""Ways to look from the origin; ``front`` is where the person stands."""
AXES: dict[str, Triple] = {"x": (1.0, 0.0, 0.0), "y": (0.0, 1.0, 0.0), "z": (0.0, 0.0, 1.0)}
_ALONG = math.cos(1e-6)


@dataclass(frozen=True)
class Edge:
    """An edge. ``form``: straight, circular or free; ``length`` and ``radius`` in mm; ``middle``: half way along it;
    ``direction``: a unit vector where it is straight; ``steps``: ids of the steps that made the faces beside it.
    """

    form: str
    length: float
    middle: Triple
    direction: Triple | None
    radius: float | None
    steps: frozenset[str]
    pick: dict[str, Any]

    def __repr__(self) -> str:
        return f"<{self.form} edge, {self.length:.6g} mm, at {_said(self.middle)}>"


@dataclass(frozen=True)
class Face:
    """A face. ``form``: flat, cylindrical, conical, spherical, ring-shaped or free; ``area`` in mm²; ``facing``: its
    unit normal out of the material where it is flat; ``radius`` in mm where it is round; ``steps``: ids of the steps
    that made it.
    """

    form: str
    area: float
    middle: Triple
    facing: Triple | None
    radius: float | None
    steps: frozenset[str]
    pick: dict[str, Any]

    def __repr__(self) -> str:
        return f"<{self.form} face, {self.area:.6g} mm², at {_said(self.middle)}>"


Thing = TypeVar("Thing", Edge, Face)


class Picked(list[Thing], Generic[Thing]):
    """Some edges or faces, to be narrowed down: what is left is never nothing, for then it is said what there was."""

    word = "edges"

    def near(self, x: float, y: float, z: float) -> Thing:
        """The one whose middle is nearest to a place, mm."""
        return min(self, key=lambda t: math.dist(t.middle, (x, y, z)))

    def highest(self, way: str = "up") -> Self:
        """Those whose middle lies farthest one way (see ``WAYS``)."""
        along = _way(way)
        most = max(dot(t.middle, along) for t in self)
        return type(self)(t for t in self if dot(t.middle, along) > most - 1e-6)

    def where(self, wanted: Callable[[Thing], bool], said: str = "what was asked") -> Self:
        """Those of which something holds. Raises ``NotFound`` where none is left."""
        left = type(self)(t for t in self if wanted(t))
        if not left:
            raise NotFound(f"None of these {len(self)} {self.word} is {said}: {_listed(self)}.")
        return left

    @property
    def only(self) -> Thing:
        """The one there is. Raises ``NotFound`` where there are several."""
        if len(self) != 1:
            raise NotFound(f"One is wanted, and these are {len(self)} {self.word}: {_listed(self)}.")
        return self[0]


class Edges(Picked[Edge]):
    """Some edges of a part."""

    @property
    def longest(self) -> Edge:
        """The longest of them."""
        return max(self, key=lambda e: e.length)


class Faces(Picked[Face]):
    """Some faces of a part."""

    word = "faces"

    @property
    def largest(self) -> Face:
        """That with the largest area."""
        return max(self, key=lambda f: f.area)

    @property
    def smallest(self) -> Face:
        """That with the smallest area."""
        return min(self, key=lambda f: f.area)


def edges_among(found: Iterable[Edge], along: str | None, form: str | None, radius: float | None) -> Edges:
    """Those of some edges that run along an axis, have a form, a radius (mm). Raises ``NotFound`` where none does."""
    edges = Edges(found)
    if not edges:
        raise NotFound("There are no edges yet: make a solid first.")
    if along is not None:
        way = _axis(along)
        edges = edges.where(lambda e: e.direction is not None and abs(dot(e.direction, way)) > _ALONG, f"along {along}")
    if form is not None:
        edges = edges.where(lambda e: e.form == form, form)
    if radius is not None:
        edges = edges.where(lambda e: e.radius is not None and abs(e.radius - radius) < 1e-6, f"of radius {radius:g}")
    return edges


def faces_among(found: Iterable[Face], facing: str | None, form: str | None, radius: float | None) -> Faces:
    """Those of some faces that face one way, have a form, a radius (mm). Raises ``NotFound`` where none does."""
    faces = Faces(found)
    if not faces:
        raise NotFound("There are no faces yet: make a solid first.")
    if facing is not None:
        way = _way(facing)
        faces = faces.where(lambda f: f.facing is not None and dot(f.facing, way) > _ALONG, f"facing {facing}")
    if form is not None:
        faces = faces.where(lambda f: f.form == form, form)
    if radius is not None:
        faces = faces.where(lambda f: f.radius is not None and abs(f.radius - radius) < 1e-6, f"of radius {radius:g}")
    return faces


def things_of(body: Any) -> tuple[list[Edge], list[Face]]:
    """What can be picked of a body, in the kernel's order."""
    from ..core.solid.digest import digest, normalised
    from ..core.solid.edges import edge_shape, middle_of, named_edges, picks_of, smooth_seams
    from ..core.solid.measuring import rough_box

    facts = digest(body)
    low, high = rough_box(body.shape)
    faces = []
    for i, f in enumerate(facts.faces):
        alike = [g for j, g in enumerate(facts.faces) if g.name == f.name and j != i]
        pick = {
            "atoms": sorted(f.name),
            "neighbours": sorted(f.neighbours),
            "siblings": [sorted(g.neighbours) for g in alike],
            "centre": [round(v, 6) for v in normalised(f.centre, low, high)],
        }
        faces.append(Face(f.form, f.area, f.centre, _normal(f.frame), f.radius, _makers(f.name), pick))
    named, seams = named_edges(body), smooth_seams(body)
    picks = picks_of(named)
    edges = []
    for n in named:
        e = facts.edges[n.index]
        if n.index in seams or len(e.faces) < 2:  # where a round face closes on itself
            continue
        a, b = (facts.vertices[k] for k in e.ends)
        long = math.dist(a, b)
        straight = e.form == "straight" and long > 0
        direction = tuple((q - p) / long for p, q in zip(a, b)) if straight else None
        edges.append(
            Edge(
                e.form, e.length, middle_of(edge_shape(n)), direction,  # type: ignore[arg-type]
                e.radius, _makers(n.first | n.second), picks[n.index],
            )
        )  # fmt: skip
    return edges, faces


def _normal(frame: Frame | None) -> Triple | None:
    return frame.normal if frame else None


def _makers(atoms: Iterable[str]) -> frozenset[str]:
    return frozenset(maker(a) for a in atoms)


def _axis(word: str) -> Triple:
    if word not in AXES:
        raise BadInput(f"“{word}” is no axis; say x, y or z.")
    return AXES[word]


def _way(word: str) -> Triple:
    if word not in WAYS:
        raise BadInput(f"“{word}” is no way to face; say {', '.join(list(WAYS)[:-1])} or {list(WAYS)[-1]}.")
    return WAYS[word]


def _said(place: Triple) -> str:
    return "(" + ", ".join(f"{v:.6g}" for v in place) + ")"


def _listed(things: list[Any], most: int = 6) -> str:
    said = [repr(t)[1:-1] for t in things[:most]]
    return "; ".join(said) + ("; …" if len(things) > most else "")
