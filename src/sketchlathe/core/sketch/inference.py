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


def _quadrant(point: str, ref: str | None) -> Implied:
    return [("coincident", (point, ref))] if ref else []


# word at the pointer -> what it implies for the placed point
SNAPS: dict[str, Callable[[str, str | None], Implied]] = {
    "origin": _same_place,
    "end": _same_place,
    "centre": _same_place,
    "point": _same_place,
    "middle": _middle,
    "quadrant": _quadrant,
    "on line": _same_place,
    "on circle": _same_place,
    "horizontal": _level,
    "vertical": _plumb,
    "level with": _level,
    "plumb with": _plumb,
}


def implied(sketch: Sketch, point: str, snap: str | None, ref: str | None) -> Implied:
    """Constraints implied by a placed point's snap; a reference that is not there implies nothing."""
    rule = SNAPS.get(snap or "")
    if rule is None or (ref is not None and ref not in sketch):
        return []
    return rule(point, ref)
