"""Two points, lines or round curves mirror each other across a line."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any, ClassVar, Literal

from ..equations import residuals as kinds
from .base import Constraint, Mark
from .coincident import point_ref

if TYPE_CHECKING:
    from ..document import Sketch
    from ..equations.rows import Rows


class Symmetric(Constraint):
    """Mirror images of each other. ``crossed``: the start of one is the image of the other's end."""

    kind: Literal["symmetric"] = "symmetric"
    word: ClassVar[str] = "symmetric"
    symbol: ClassVar[str] = "⇔"
    chord: ClassVar[str] = "ks"
    order: ClassVar[int] = 11
    takes: ClassVar[tuple[tuple[str, ...], ...]] = (
        ("point", "point", "line"),
        ("line", "line", "line"),
        ("round", "round", "line"),
    )
    hint: ClassVar[str] = "It takes two points (or two lines, circles or arcs) and the line between them."

    crossed: bool = False

    @classmethod
    def made(cls, sketch: Sketch, id: str, refs: tuple[str, ...], **fields: Any) -> Constraint:
        # of three lines, the one picked last mirrors the others
        if len(refs) == 3 and all("line" in sketch.tags_of(r) for r in refs):
            return cls.model_validate({"id": id, "on": refs, **cls.branch(sketch, refs), **fields})
        return super().made(sketch, id, refs, **fields)

    @classmethod
    def branch(cls, sketch: Sketch, refs: tuple[str, ...]) -> dict[str, Any]:
        a, b, axis = refs
        if "line" not in sketch.tags_of(a) or "line" not in sketch.tags_of(b):
            return {}
        image = mirror_image(sketch, axis, sketch.ends(a)[0])
        near, far = (math.dist(image, end) for end in sketch.ends(b))
        return {"crossed": far < near}

    def needs_ends(self, sketch: Sketch) -> bool:
        return "line" in sketch.tags_of(self.on[0])

    def say(self, rows: Rows, sketch: Sketch) -> None:
        a, b, axis = self.on
        tags = sketch.tags_of(a)
        if "point" in tags:
            say_mirrored(rows, point_ref(sketch, a), point_ref(sketch, b), axis)
        elif "line" in tags:
            ends = rows.layout.end_refs(b)
            for first, second in zip(rows.layout.end_refs(a), reversed(ends) if self.crossed else ends):
                say_mirrored(rows, first, second, axis)
        else:
            say_mirrored(rows, f"{a}.centre", f"{b}.centre", axis)
            rows.same(rows.layout.size(a), rows.layout.size(b))

    def marks(self, sketch: Sketch) -> list[Mark]:
        return [Mark(*sketch.anchor(ref)) for ref in self.on[:2]]


def say_mirrored(rows: Rows, a: str, b: str, axis: str) -> None:
    """Two points are mirror images across a line."""
    variables = (*rows.layout.xy(a), *rows.layout.xy(b), *rows.layout.ends(axis))
    rows.add(kinds.SYMMETRIC_ALONG, variables)
    rows.add(kinds.SYMMETRIC_ACROSS, variables)


def mirror_image(sketch: Sketch, axis: str, p: tuple[float, float]) -> tuple[float, float]:
    """Where a point stands in the mirror."""
    (ax, ay), (bx, by) = sketch.ends(axis)
    ux, uy = bx - ax, by - ay
    t = ((p[0] - ax) * ux + (p[1] - ay) * uy) / (ux * ux + uy * uy)
    return (2 * (ax + t * ux) - p[0], 2 * (ay + t * uy) - p[1])
