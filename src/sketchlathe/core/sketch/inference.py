"""What a snap implies: the word shown at the pointer, and the constraints kept on release."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from .document import Sketch

Implied = list[tuple[str, tuple[str, ...]]]


def _same_place(point: str, ref: str | None) -> Implied:
    return [("coincident", (point, ref))] if ref else []


def _middle(point: str, ref: str | None) -> Implied:
    return [("midpoint", (point, ref))] if ref else []


def _level(point: str, ref: str | None) -> Implied:
    """Of the line being drawn, or level with a point."""
    return [("horizontal", (point, ref) if ref else (point.partition(".")[0],))]


def _plumb(point: str, ref: str | None) -> Implied:
    return [("vertical", (point, ref) if ref else (point.partition(".")[0],))]


def _top_or_side(sketch: Sketch, point: str, ref: str) -> Implied:
    """On a circle where it is level or plumb with its centre."""
    (x, y), (cx, cy) = sketch.point(point), sketch.point(f"{ref}.centre")
    level = "horizontal" if abs(y - cy) <= abs(x - cx) else "vertical"
    return [("coincident", (point, ref)), (level, (point, f"{ref}.centre"))]


def _quadrant(point: str, ref: str | None) -> Implied:
    return [("coincident", (point, ref))] if ref else []


def _of_line(kind: str) -> Callable[[str, str | None], Implied]:
    """The line being drawn (which owns the point) stands so to another curve."""

    def rule(point: str, ref: str | None) -> Implied:
        return [(kind, (point.partition(".")[0], ref))] if ref else []

    return rule


def _touching(point: str, ref: str | None) -> Implied:
    """The line being drawn ends on a round curve and runs along it there."""
    return [("coincident", (point, ref)), ("tangent", (point.partition(".")[0], ref))] if ref else []


def _crossing(point: str, ref: str | None) -> Implied:
    """On two curves at once; the reference names both, joined by a plus."""
    curves = (ref or "").split("+")
    return [("crossing", (point, *curves))] if len(curves) == 2 else []


# word at the pointer -> what it implies for the placed point
SNAPS: dict[str, Callable[[str, str | None], Implied]] = {
    "origin": _same_place,
    "end": _same_place,
    "centre": _same_place,
    "point": _same_place,
    "middle": _middle,
    "quadrant": _quadrant,
    "intersection": _crossing,
    "on line": _same_place,
    "on circle": _same_place,
    "on curve": _same_place,
    "horizontal": _level,
    "vertical": _plumb,
    "level with": _level,
    "plumb with": _plumb,
    "level with middle": _level,
    "plumb with middle": _plumb,
    "parallel": _of_line("parallel"),
    "at right angles": _of_line("perpendicular"),
    "tangent": _of_line("tangent"),
    "touching": _touching,
    "equal length": _of_line("equal"),
}

_ON_IT = (_same_place, _middle, _quadrant, _touching, _crossing)
LINED_UP = frozenset(word for word, rule in SNAPS.items() if rule not in _ON_IT)
"""Words of places that do not lie on what they name, but stand in line with it."""


def implied(sketch: Sketch, point: str, snap: str | None, ref: str | None) -> Implied:
    """Constraints implied by a placed point's snap; a reference that is not there implies nothing."""
    rule = SNAPS.get(snap or "")
    if rule is None or (ref is not None and any(part not in sketch for part in ref.split("+"))):
        return []
    if snap == "quadrant" and ref is not None and "round" in sketch.tags_of(ref):
        return _top_or_side(sketch, point, ref)
    return rule(point, ref)
