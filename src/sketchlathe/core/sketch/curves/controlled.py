"""A smooth curve that is drawn by its controls: it begins at the first, ends at the last, and leans towards the others.

It is the cubic B-spline of its poles with evenly spaced knots, the outer ones fourfold (three poles: a parabola), so
its curvature is continuous. The Bézier controls of its pieces are fixed mixtures of the poles, by the blossom of the
spline (L. Ramshaw, "Blossoms are polar forms", 1989); they are ``inner`` points, each settled by a linear equation.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from ..equations import residuals as kinds
from .base import XY, Bezier, Curve, Piece, Snap, Vec
from .spline import Spline

if TYPE_CHECKING:
    from ..equations.rows import Rows

MOST_POLES = 200


class ControlSpline(Curve):
    """A spline of ``poles``. Its points are p0, p1, ...; of its pieces the controls are a0, b0, a1, ... and the joints
    between them j1, j2, ...
    """

    kind: Literal["control_spline"] = "control_spline"
    word: ClassVar[str] = "control spline"
    tags: ClassVar[frozenset[str]] = frozenset({"spline", "open", "poles"})
    poles: Annotated[tuple[Vec, ...], Field(min_length=3, max_length=MOST_POLES)]

    @property
    def _count(self) -> int:
        """How many pieces it has."""
        return max(len(self.poles) - 3, 1)

    @property
    def points(self) -> tuple[str, ...]:  # type: ignore[override]
        return tuple(f"p{i}" for i in range(len(self.poles)))

    @property
    def inner(self) -> tuple[str, ...]:  # type: ignore[override]
        return tuple(_inner_names(self._count))

    @property
    def end_points(self) -> tuple[str, str]:
        return "p0", f"p{len(self.poles) - 1}"

    def end_controls(self, end: str) -> tuple[str, str]:
        """The two Bézier controls next to an end, the nearer first."""
        last = self._count - 1
        return ("a0", "b0") if end == "p0" else (f"b{last}", f"a{last}")

    def place(self, name: str) -> XY:
        if name[0] == "p":
            x, y = self.poles[int(name[1:])]
            return (x, y)
        mixed = [(w, self.poles[i]) for i, w in _mixture(len(self.poles), name)]
        return (sum(w * p[0] for w, p in mixed), sum(w * p[1] for w, p in mixed))

    def with_scalars(self, update: Mapping[str, Any]) -> ControlSpline:
        poles = list(self.poles)
        for name, at in update.items():
            if name[0] == "p":
                poles[int(name[1:])] = at
        return self.model_copy(update={"poles": tuple(poles)})

    def _piece_names(self, i: int) -> tuple[str, str, str, str]:
        start, end = self.end_points
        last = self._count - 1
        return (f"j{i}" if i else start, f"a{i}", f"b{i}", end if i == last else f"j{i + 1}")

    def pieces(self) -> list[Piece]:
        return [Bezier(*(self.place(name) for name in self._piece_names(i))) for i in range(self._count)]

    def snaps(self) -> list[Snap]:
        last = len(self.poles) - 1
        return [Snap(p, "end" if i in (0, last) else "point", f"{self.id}.p{i}") for i, p in enumerate(self.poles)]

    def anchor(self) -> tuple[XY, XY]:
        return self.as_spline().anchor()

    def inner_rows(self, rows: Rows) -> None:
        """Where the Bézier controls lie among the poles."""
        for name in self.inner:
            mixture = _mixture(len(self.poles), name)
            poles = [rows.layout.xy(f"{self.id}.p{i}") for i, _ in mixture]
            for k, scalar in enumerate(rows.layout.xy(f"{self.id}.{name}")):
                rows.linear((scalar, *(p[k] for p in poles)), (1.0, *(-w for _, w in mixture)))

    def nearest(self, at: XY) -> float:
        """Where along it the place nearest to a point is: number of the piece plus the parameter in it."""
        return self.as_spline().nearest(at)

    def on_curve(self, rows: Rows, point: str, along: str, value: float) -> None:
        """A point lies on it; ``along`` names the scalar that says where."""
        i = min(max(int(value), 0), self._count - 1)
        places = [rows.layout.xy(f"{self.id}.{name}") for name in self._piece_names(i)]
        t = rows.layout.size(along)
        for k, scalar in enumerate(rows.layout.xy(point)):
            rows.add(kinds.ON_CUBIC, (scalar, *(xy[k] for xy in places), t), (1.0, 1.0, float(i)))

    def as_spline(self) -> Spline:
        """The same curve as a spline through its joints, exactly."""
        pieces = [p for p in self.pieces() if isinstance(p, Bezier)]
        return Spline(
            id=self.id, construction=self.construction, taken=self.taken, led=True, trailed=True,
            through=(*(p.p0 for p in pieces), pieces[-1].p3),
            controls=(*(p.p1 for p in pieces), pieces[-1].p2),
            spans=(1.0,) * len(pieces),
        )  # fmt: skip


def _inner_names(count: int) -> list[str]:
    return [n for i in range(count) for n in (*((f"j{i}",) if i else ()), f"a{i}", f"b{i}")]


@lru_cache(maxsize=4096)
def _mixture(poles: int, name: str) -> tuple[tuple[int, float], ...]:
    """Which poles a Bézier control or joint is made of, with their weights."""
    match = re.fullmatch(r"([abj])(\d+)", name)
    assert match is not None, name
    degree, i = min(3, poles - 1), int(match[2])
    u = float(i)
    if degree == 2:
        # a parabola's controls, raised to a cubic's
        third = 1 / 3
        return ((0, third), (1, 1 - third)) if name == "a0" else ((1, 1 - third), (2, third))
    arguments = {"a": (u, u, u + 1), "b": (u, u + 1, u + 1), "j": (u, u, u)}[match[1]]
    weights = _blossom(poles, i, arguments)
    return tuple((k, float(w)) for k, w in enumerate(weights) if abs(w) > 1e-15)


def _blossom(poles: int, span: int, at: Sequence[float]) -> np.ndarray:
    """Weights (poles,) of the cubic's polar form at three parameters, in a span (de Boor's triangle)."""
    pieces = poles - 3
    knots = [0.0] * 4 + [float(k) for k in range(1, pieces)] + [float(pieces)] * 4
    first = span  # of the four poles that count; the knot vector's span is first + 3
    rows: list[np.ndarray] = [np.eye(poles)[first + k] for k in range(4)]
    for r, t in enumerate(at, 1):
        for k in range(3, r - 1, -1):
            low, high = knots[first + k], knots[first + k + 4 - r]
            f = (t - low) / (high - low)
            rows[k] = (1 - f) * rows[k - 1] + f * rows[k]
    return rows[3]
