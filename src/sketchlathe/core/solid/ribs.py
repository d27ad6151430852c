"""Ribs: thin walls from an open profile to the body around it."""

from __future__ import annotations

import math
from collections.abc import Sequence

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.gp import gp_Pnt

from ..errors import CannotBuild
from ..frames import Frame
from ..sketch.curves import Bezier, Piece, Segment
from ..sketch.curves.pieces import piece_length
from ..sketch.regions import Profile
from .kernel import private
from .measuring import rough_box
from .naming import Body
from .shapes import cut, prism
from .splitting import ends_of

XY = tuple[float, float]


def rib(
    step: str, bodies: Sequence[Body], frame: Frame, chain: Sequence[tuple[Piece, str]], thick: float, left: bool
) -> Body:
    """A wall ``thick`` mm evenly on both sides of a plane, from an open chain in it to the bodies on its left (or
    right).

    The chain's ends are carried on straight into the material; of what the bodies leave of the shape the piece at the
    chain's middle is taken, which must be bounded by them. Raises ``CannotBuild`` with ``where`` otherwise.
    """
    low = [min(v) for v in zip(*(rough_box(b.shape)[0] for b in bodies))]
    high = [max(v) for v in zip(*(rough_box(b.shape)[1] for b in bodies))]
    pieces = [piece for piece, _ in chain]
    (a, into), (b, out) = ends_of(pieces)
    if math.dist(a, b) < 1e-6:
        raise CannotBuild("A rib runs along an open curve: this one is closed.", where="curve")
    reach = 2 * (math.dist(low, high) + math.dist(a, b)) + 10.0
    before = (a[0] - into[0] * reach, a[1] - into[1] * reach)
    after = (b[0] + out[0] * reach, b[1] + out[1] * reach)
    sign = 1.0 if left else -1.0
    far = [
        (p[0] - sign * d[1] * 2 * reach, p[1] + sign * d[0] * 2 * reach) for p, d in ((after, out), (before, into))
    ]  # fmt: skip
    outline: list[tuple[Piece, str]] = [
        (Segment(before, a), "run1"), *chain, (Segment(b, after), "run2"),
        (Segment(after, far[0]), "far1"), (Segment(far[0], far[1]), "far2"), (Segment(far[1], before), "far3"),
    ]  # fmt: skip
    if not left:
        outline = [(piece.reversed(), owner) for piece, owner in outline[::-1]]
    blank = prism(step, Profile(tuple(outline), ()), frame, -thick / 2, thick / 2)
    left_over = [blank]
    for body in bodies:
        left_over = [piece for whole in left_over for piece in cut(whole, [body], step)]
    middle = frame.place(*_middle(pieces))
    vertex = BRepBuilderAPI_MakeVertex(gp_Pnt(*middle)).Vertex()
    found = [b for b in left_over if BRepExtrema_DistShapeShape(private(b.shape), vertex).Value() < 1e-6]
    if len(found) != 1:
        raise CannotBuild("The curve of a rib runs outside the material: here its middle lies inside.", where="curve")
    size = max(h - l for l, h in zip(*rough_box(found[0].shape)))
    if size > reach:
        raise CannotBuild(
            "On this side the rib does not run into material all along: take the other side, or a longer curve.",
            where="side",
        )
    return Body(step, found[0].shape, found[0].names)


def _middle(pieces: Sequence[Piece]) -> XY:
    """The place half way along a chain."""
    lengths = [piece_length(p) for p in pieces]
    left = sum(lengths) / 2
    for piece, long in zip(pieces, lengths):
        if left <= long:
            if isinstance(piece, Segment):
                t = left / long
                return piece.a[0] + (piece.b[0] - piece.a[0]) * t, piece.a[1] + (piece.b[1] - piece.a[1]) * t
            a, b = (0.0, 1.0) if isinstance(piece, Bezier) else (piece.a0, piece.a1)
            return piece.at(a + (b - a) * left / long)
        left -= long
    return pieces[-1].last
