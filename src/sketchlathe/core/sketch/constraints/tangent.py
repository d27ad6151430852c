"""Tangency and smooth joins. Side and branch are the drawing's.

Where a point is known to lie on both curves (``Joints``: a shared end, an end put on a circle, either order of
adding), the equation is an angle there: the distance form would lose rank (its gradient vanishes against the
equations that keep the point on the curve). Which form is taken is asked each time, so a tangency outlives its joint.
An ellipse touches a line by its support function; a circle by a contact point solved with the rest.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any, ClassVar, Literal

from ...errors import BadInput
from ..curves import Vec
from ..curves.controlled import ControlSpline
from ..curves.spline import Spline
from ..equations import residuals as kinds
from .base import Constraint, Does, Mark

if TYPE_CHECKING:
    from ..document import AnySketch, Sketch
    from ..equations.rows import Rows

_NEAR = 1e-6  # ends closer than this (of the sketch's size) are one place

Direction = tuple[tuple[int, ...], float]  # the four scalars of a vector, and the turn from it to the curve's run


def with_shared_renamed(
    renamed: Constraint | None, shared: tuple[str, str] | None, names: Mapping[str, str]
) -> Constraint | None:
    """The point that two curves share may now be another curve's: then it is that one which touches there."""
    if renamed is None or shared is None:
        return renamed
    now = tuple(names.get(ref, ref) for ref in shared)
    if "" in now:
        return None
    on = tuple(
        new.partition(".")[0] if new != old else ref for ref, old, new in zip(renamed.on, shared, now, strict=True)
    )
    return renamed.model_copy(update={"shared": now, "on": on})


class Tangent(Constraint):
    """Smooth contact of two curves, at a shared end or not; of a spline at a shared end."""

    kind: Literal["tangent"] = "tangent"
    word: ClassVar[str] = "tangent"
    symbol: ClassVar[str] = "⌒"
    does: ClassVar[frozenset[Does]] = frozenset({"meets", "smooths"})
    chord: ClassVar[str] = "kt"
    order: ClassVar[int] = 7
    takes: ClassVar[tuple[tuple[str, ...], ...]] = (
        ("line", "round"),
        ("round", "round"),
        ("line", "elliptic"),
        ("round", "elliptic"),
        ("line", "spline"),
        ("round", "spline"),
        ("spline", "spline"),
    )
    hint: ClassVar[str] = "It takes a line, circle, arc or ellipse and another curve that it may touch."

    shared: tuple[str, str] | None = None
    side: float = 1.0
    other: float = 1.0
    solved: ClassVar[tuple[str, ...]] = ("contact",)
    contact: Vec | None = None

    @classmethod
    def branch(cls, sketch: Sketch, refs: tuple[str, ...]) -> dict[str, Any]:
        a, b = refs
        shared = shared_end(sketch, a, b, [c.shared for c in sketch.constraints if isinstance(c, Tangent) and c.shared])
        tags_a, tags_b = sketch.tags_of(a), sketch.tags_of(b)
        if "spline" in tags_b:
            if shared is None:
                raise BadInput("A spline can be made tangent where one of its ends meets the other curve's end.")
            return {"shared": shared, "side": _turn_drawn(sketch, a, b, shared)}
        if "elliptic" in tags_b and "line" not in tags_a:
            return {"shared": shared} if shared else {"contact": _nearest_contact(sketch, a, b)}
        if "line" in tags_a:
            (x0, y0), (x1, y1) = sketch.ends(a)
            cx, cy = sketch.point(f"{b}.centre")
            cross = (x1 - x0) * (cy - y0) - (y1 - y0) * (cx - x0)
            return {"shared": shared, "side": 1.0 if cross >= 0 else -1.0}
        (ax, ay), (bx, by) = sketch.point(f"{a}.centre"), sketch.point(f"{b}.centre")
        ra, rb = sketch.radius(a), sketch.radius(b)
        apart = math.hypot(bx - ax, by - ay)
        choices = {(1.0, 1.0): ra + rb, (1.0, -1.0): ra - rb, (-1.0, 1.0): rb - ra}
        side, other = min(choices, key=lambda k: abs(choices[k] - apart))
        if shared:
            px, py = sketch.point(shared[0])
            inward = (px - ax) * (px - bx) + (py - ay) * (py - by) > 0
            side, other = ((1.0, -1.0) if ra > rb else (-1.0, 1.0)) if inward else (1.0, 1.0)
        return {"shared": shared, "side": side, "other": other}

    def _signs(self, sketch: Sketch) -> tuple[float, float]:
        """Signs of the radii: both 1 where the circles touch from outside. (Older models kept an angle for joined
        arcs.)
        """
        if self.other:
            return self.side, self.other
        if self.side:
            return 1.0, 1.0
        return (1.0, -1.0) if sketch.radius(self.on[0]) > sketch.radius(self.on[1]) else (-1.0, 1.0)

    def _contact(self, sketch: Sketch) -> tuple[str, str] | None:
        return sketch.joints.contact(self.on[0], self.on[1], self.shared)

    def prepared(self, sketch: AnySketch) -> AnySketch:
        return with_directed_ends(sketch, self.shared)

    def renamed(self, names: Mapping[str, str]) -> Constraint | None:
        return with_shared_renamed(super().renamed(names), self.shared, names)

    def say(self, rows: Rows, sketch: Sketch) -> None:
        a, b = self.on
        layout = rows.layout
        tags_a, tags_b = sketch.tags_of(a), sketch.tags_of(b)
        if "spline" in tags_b:
            assert self.shared is not None
            run_together(rows, sketch, self.on, self.shared, self.side)
            return
        contact = self._contact(sketch)
        if "elliptic" in tags_b:
            self._say_ellipse(rows, "line" in tags_a, contact)
            return
        centre_b = layout.xy(f"{b}.centre")
        if "line" in tags_a:
            ends = layout.ends(a)
            if contact:
                at = layout.xy(contact[1])
                rows.add(kinds.ANGLE, (*ends, *at, *centre_b), (self.side * math.pi / 2, 0.0))
            else:
                rows.add(kinds.TANGENT_LINE, (*centre_b, *ends, layout.size(b)), (self.side, 1.0))
            return
        centre_a = layout.xy(f"{a}.centre")
        side, other = self._signs(sketch)
        if contact:
            at = layout.xy(contact[0])
            turn = math.pi if side == other else 0.0
            rows.add(kinds.ANGLE, (*centre_a, *at, *centre_b, *at), (turn, 0.0))
        else:
            variables = (*centre_a, *centre_b, layout.size(a), layout.size(b))
            rows.add(kinds.TANGENT_ROUND, variables, (side, other))

    def _say_ellipse(self, rows: Rows, line: bool, joint: tuple[str, str] | None) -> None:
        a, b = self.on
        layout, ellipse = rows.layout, rows.ellipse(b)
        if line and joint:
            at = layout.place(joint[1])
            far = max(layout.end_refs(a), key=lambda end: math.dist(layout.place(end), at))
            rows.add(kinds.ELLIPSE_RUN, (*layout.xy(joint[1]), *ellipse, *layout.xy(far)))
        elif line:
            rows.add(kinds.ELLIPSE_LINE, (*ellipse, *layout.ends(a)), (self.side,))
        elif joint:
            rows.add(kinds.ELLIPSE_NORMAL, (*layout.xy(joint[1]), *ellipse, *layout.xy(f"{a}.centre")))
            if self.contact is not None:
                rows.same_point(f"{self.id}.contact", joint[1])
        elif self.contact is not None:
            contact = f"{self.id}.contact"
            rows.on_circle(contact, a)
            rows.on_ellipse(contact, b)
            rows.add(kinds.ELLIPSE_NORMAL, (*layout.xy(contact), *ellipse, *layout.xy(f"{a}.centre")))

    def torn(self, sketch: Sketch) -> Constraint | None:
        """The tangency once its joint is no more; None where the curves can only be tangent at a joint."""
        return _torn(self, sketch)

    def marks(self, sketch: Sketch) -> list[Mark]:
        joint = self.shared if "spline" in sketch.tags_of(self.on[1]) else self._contact(sketch)
        if joint:
            return [Mark(sketch.point(joint[0]), sketch.anchor(self.on[1])[1])]
        return [Mark(*sketch.anchor(self.on[1]))]


class Smooth(Constraint):
    """A spline joins another curve with the same direction and the same curvature."""

    kind: Literal["smooth"] = "smooth"
    word: ClassVar[str] = "smooth"
    symbol: ClassVar[str] = "∿"
    does: ClassVar[frozenset[Does]] = frozenset({"meets", "smooths"})
    chord: ClassVar[str] = "kg"
    order: ClassVar[int] = 8
    takes: ClassVar[tuple[tuple[str, ...], ...]] = (("line", "spline"), ("round", "spline"), ("spline", "spline"))
    hint: ClassVar[str] = "It takes a spline and the line, arc or spline that its end meets."

    shared: tuple[str, str]
    side: float = 0.0
    bend: float = 1.0

    @classmethod
    def branch(cls, sketch: Sketch, refs: tuple[str, ...]) -> dict[str, Any]:
        a, b = refs
        shared = shared_end(sketch, a, b)
        if shared is None:
            raise BadInput("A smooth join needs a spline whose end meets the other curve's end.")
        bend = 1.0
        if "round" in sketch.tags_of(a):
            p, q, r = (_control(sketch, ref) for ref in _end_controls(sketch, shared[1]))
            turn = (q[0] - p[0]) * (r[1] - q[1]) - (q[1] - p[1]) * (r[0] - q[0])
            centre = sketch.point(f"{a}.centre")
            toward = (q[0] - p[0]) * (centre[1] - p[1]) - (q[1] - p[1]) * (centre[0] - p[0])
            bend = 1.0 if (toward or turn) >= 0 else -1.0
        return {"shared": shared, "side": _turn_drawn(sketch, a, b, shared), "bend": bend}

    def prepared(self, sketch: AnySketch) -> AnySketch:
        return with_directed_ends(sketch, self.shared)

    def renamed(self, names: Mapping[str, str]) -> Constraint | None:
        return with_shared_renamed(super().renamed(names), self.shared, names)

    def say(self, rows: Rows, sketch: Sketch) -> None:
        run_together(rows, sketch, self.on, self.shared, self.side)
        a = self.on[0]
        layout = rows.layout
        p, h, q = (layout.xy(ref) for ref in _end_controls(sketch, self.shared[1]))
        tags = sketch.tags_of(a)
        if "line" in tags:
            rows.add(kinds.POINT_LINE, (*q, *p, *h), (0.0,), (0,))
        elif "round" in tags:
            scale = sketch.radius(a)
            rows.add(kinds.BEND, (*p, *h, *q, layout.size(a)), (self.bend, scale), (1,))
        else:
            _, h2, q2 = (layout.xy(ref) for ref in _end_controls(sketch, self.shared[0]))
            size = (
                math.dist(sketch.point(self.shared[0]), _control(sketch, _end_controls(sketch, self.shared[0])[1])) ** 2
            )
            rows.add(kinds.BENDS, (*p, *h, *q, *h2, *q2), (size / sketch.size,), (0,))

    def torn(self, sketch: Sketch) -> Constraint | None:
        """Nothing is left of a smooth join without the joint."""
        return _torn(self, sketch)

    def marks(self, sketch: Sketch) -> list[Mark]:
        return [Mark(sketch.point(self.shared[0]), sketch.anchor(self.on[1])[1])]


def _torn(constraint: Tangent | Smooth, sketch: Sketch) -> Constraint | None:
    try:
        return type(constraint).made(sketch, constraint.id, constraint.on)
    except BadInput:
        return None


def shared_end(sketch: Sketch, a: str, b: str, taken: Sequence[tuple[str, str]] = ()) -> tuple[str, str] | None:
    """The pair of ends at which two curves meet, if they do; of two such, one that is not ``taken`` already."""
    near = _NEAR * sketch.size
    ends = [
        [f"{ref}.{name}" for name in (sketch.curve(ref).end_points or ())] if not ref.endswith("_axis") else []
        for ref in (a, b)
    ]
    found = [
        (first, second)
        for first in ends[0]
        for second in ends[1]
        if math.dist(sketch.point(first), sketch.point(second)) <= near
    ]
    return min(found, key=lambda pair: pair in taken or pair[::-1] in taken, default=None)


def _end_controls(sketch: Sketch, end: str) -> tuple[str, str, str]:
    """End, handle and second control of a spline at one of its ends."""
    id, _, name = end.partition(".")
    curve = sketch.curve(id)
    assert isinstance(curve, Spline | ControlSpline)
    handle, second = curve.end_controls(name)
    return end, f"{id}.{handle}", f"{id}.{second}"


def _control(sketch: Sketch, ref: str) -> tuple[float, float]:
    """Where a point or an inner control of a curve is."""
    id, _, name = ref.partition(".")
    return sketch.curve(id).place(name)


def _outward(sketch: Sketch, curve: str, end: str) -> tuple[tuple[float, float], float]:
    """A vector at the end of a curve drawn, and the turn from it to the way the curve leaves its end."""
    p = sketch.point(end)
    tags = sketch.tags_of(curve)
    if "spline" in tags:
        q, turn = _control(sketch, _end_controls(sketch, end)[1]), 0.0
    elif "line" in tags:
        q, turn = next(e for e in sketch.ends(curve) if math.dist(e, p) > 0), 0.0
    else:
        q = sketch.point(f"{curve}.centre")
        # from the radius inwards to the way the arc runs: an arc leaves its start counterclockwise
        turn = -math.pi / 2 if end.endswith(".start") else math.pi / 2
    return (q[0] - p[0], q[1] - p[1]), turn


def _turn_drawn(sketch: Sketch, a: str, b: str, shared: tuple[str, str]) -> float:
    """0 when both curves leave the shared end the same way (a cusp), π when one runs on into the other."""
    (ux, uy), ta = _outward(sketch, a, shared[0])
    (vx, vy), tb = _outward(sketch, b, shared[1])
    turn = math.remainder(math.atan2(ux * vy - uy * vx, ux * vx + uy * vy) + tb - ta, 2 * math.pi)
    return 0.0 if abs(turn) < math.pi / 2 else math.pi


def run_together(rows: Rows, sketch: Sketch, on: tuple[str, ...], shared: tuple[str, str], turn: float) -> None:
    """Two curves that meet at an end run along one tangent there."""
    vectors = []
    offset = turn
    for curve, end, sign in ((on[0], shared[0], 1.0), (on[1], shared[1], -1.0)):
        p = rows.layout.xy(end)
        tags = sketch.tags_of(curve)
        if "spline" in tags:
            q = rows.layout.xy(_end_controls(sketch, end)[1])
        elif "line" in tags:
            q = rows.layout.xy(next(e for e in rows.layout.end_refs(curve) if e != end))
        else:
            q = rows.layout.xy(f"{curve}.centre")
            offset += sign * (-math.pi / 2 if end.endswith(".start") else math.pi / 2)
        vectors.append((*p, *q))
    rows.add(kinds.ANGLE, (*vectors[0], *vectors[1]), (offset, 0.0))


def with_directed_ends(sketch: AnySketch, shared: tuple[str, str] | None) -> AnySketch:
    """The sketch with spline ends free to take a direction where a constraint gives them one."""
    changed: dict[str, Spline] = {}
    for end in shared or ():
        id, _, name = end.partition(".")
        curve = sketch.curve(id)
        if isinstance(curve, Spline):
            curve = changed.get(id, curve)
            changed[id] = curve.model_copy(update={"led" if name == "p0" else "trailed": True})
    return sketch.with_curves(changed.get(c.id, c) for c in sketch.curves) if changed else sketch


def _nearest_contact(sketch: Sketch, round_ref: str, ellipse_ref: str) -> tuple[float, float]:
    """A first place of contact: the point of the ellipse nearest to the circle's rim."""
    centre, radius = sketch.point(f"{round_ref}.centre"), sketch.radius(round_ref)
    piece = sketch.curve(ellipse_ref).pieces()[0]
    places = [piece.at(2 * math.pi * i / 720) for i in range(720)]  # type: ignore[union-attr]
    return min(places, key=lambda p: abs(math.dist(p, centre) - radius))
