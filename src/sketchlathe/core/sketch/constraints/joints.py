"""Which points of a sketch are one by its constraints, and which lie on a curve by them: where two curves are known
to meet.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ..document import Sketch


class Joints:
    """Points joined with points and with curves, as coincidences say. Made once a sketch (``Sketch.joints``)."""

    def __init__(self, sketch: Sketch) -> None:
        self._sketch = sketch
        self._parent: dict[str, str] = {}
        self._put: dict[str, list[str]] = {}  # by curve: points that were put on it
        for constraint in sketch.constraints:
            if "joins" not in constraint.does:
                continue
            point, target = (self._place(ref) for ref in constraint.on)
            if "point" in sketch.tags_of(target):
                self._parent[self._leader(point)] = self._leader(target)
            else:
                self._put.setdefault(target, []).append(point)

    def _place(self, ref: str) -> str:
        return (
            f"{ref}.at"
            if "." not in ref and ref in self._sketch._by_id and "point" in self._sketch.tags_of(ref)
            else ref
        )

    def _leader(self, ref: str) -> str:
        while (above := self._parent.get(ref, ref)) != ref:
            ref = above
        return ref

    def joined(self, a: str, b: str) -> bool:
        """Whether two points are one place."""
        return self._leader(a) == self._leader(b)

    def _points_on(self, curve: str) -> Iterable[str]:
        ends = [] if curve.endswith("_axis") else [f"{curve}.{n}" for n in self._sketch.curve(curve).end_points or ()]
        return (*ends, *self._put.get(curve, ()))

    def contacts(self, a: str, b: str) -> list[tuple[str, str]]:
        """Pairs of points, the first on curve ``a``, the second on ``b``, that are one place;
        ends of the curves first.
        """
        on_a = {self._leader(p): p for p in reversed(list(self._points_on(a)))}
        return [(on_a[leader], p) for p in self._points_on(b) if (leader := self._leader(p)) in on_a]

    def contact(self, a: str, b: str, near: tuple[str, str] | None = None) -> tuple[str, str] | None:
        """One such pair: the one that ``near`` names if that is still a joint, else the first."""
        found = self.contacts(a, b)
        if near is not None:
            # a pair of ends that was named is meant, even where the curves meet elsewhere too
            found.sort(key=lambda pair: not (self.joined(pair[0], near[0]) or self.joined(pair[1], near[1])))
        return found[0] if found else None
