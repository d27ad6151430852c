"""A smooth curve through points: a cubic spline with continuous curvature, held so by equations of its own.

Between two points it is a cubic Bézier piece. ``controls[i]`` is the Bézier control after point i (for the last
point, the one before it); the interior ones follow from continuity of the second derivative, the end ones from
straight running out, unless the end has a direction of its own (``led``, ``trailed``). ``spans`` are the parameter
lengths of the pieces, taken from the chords when drawn and kept, so that all of this is linear (C. de Boor, "A
Practical Guide to Splines", ch. IV).
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from ..equations import residuals as kinds
from .base import XY, Bezier, Curve, Piece, Snap, Vec

if TYPE_CHECKING:
    from ..equations.rows import Rows

MOST_POINTS = 200


class Spline(Curve):
    """A spline through ``through``. Its points are p0, p1, ... and the end handles ``lead`` and ``trail``."""

    kind: Literal["spline"] = "spline"
    word: ClassVar[str] = "spline"
    tags: ClassVar[frozenset[str]] = frozenset({"spline", "open"})
    through: Annotated[tuple[Vec, ...], Field(min_length=2, max_length=MOST_POINTS)]
    controls: Annotated[tuple[Vec, ...], Field(min_length=2, max_length=MOST_POINTS)]
    spans: Annotated[tuple[Annotated[float, Field(gt=0, allow_inf_nan=False)], ...], Field(min_length=1)]
    led: bool = False
    trailed: bool = False

    @model_validator(mode="before")
    @classmethod
    def _filled(cls, raw: Any) -> Any:
        """Spans and controls may be left out: they follow from the points."""
        if isinstance(raw, dict) and "controls" not in raw and isinstance(raw.get("through"), list | tuple):
            raw = {**raw, **shaped(raw["through"])}
        return raw

    @model_validator(mode="after")
    def _matched(self) -> Spline:
        n = len(self.through)
        if len(self.controls) != n or len(self.spans) != n - 1:
            raise ValueError("a spline needs one control a point and one span between each two")
        return self

    @property
    def points(self) -> tuple[str, ...]:  # type: ignore[override]
        return (*(f"p{i}" for i in range(len(self.through))), "lead", "trail")

    @property
    def inner(self) -> tuple[str, ...]:  # type: ignore[override]
        # q0 and qn are the Bézier controls next to the end handles: curvature at the ends is measured with them
        return (*(f"t{i}" for i in range(1, len(self.through) - 1)), "q0", "qn")

    @property
    def end_points(self) -> tuple[str, str]:
        return "p0", f"p{len(self.through) - 1}"

    def end_controls(self, end: str) -> tuple[str, str]:
        """The two Bézier controls next to an end, the nearer first."""
        return ("lead", "q0") if end == "p0" else ("trail", "qn")

    def place(self, name: str) -> XY:
        if name in ("lead", "trail"):
            x, y = self.controls[0 if name == "lead" else -1]
        elif name in ("q0", "qn"):
            x, y = self._second(name == "q0")
        else:
            x, y = (self.through if name[0] == "p" else self.controls)[int(name[1:])]
        return (x, y)

    def _second_weight(self, first: bool) -> tuple[int, int, float]:
        """Where the second control comes from: point, control, and the factor of (control - point)."""
        n = len(self.through) - 1
        if first:
            return 1, 1, (1.0 if n == 1 else -self.spans[0] / self.spans[1])
        return n - 1, n - 1, 1.0

    def _second(self, first: bool) -> XY:
        i, j, f = self._second_weight(first)
        (px, py), (cx, cy) = self.through[i], self.controls[j]
        return (px + (cx - px) * f, py + (cy - py) * f)

    def with_scalars(self, update: Mapping[str, Any]) -> Spline:
        through, controls = list(self.through), list(self.controls)
        for name, at in update.items():
            if name == "lead":
                controls[0] = at
            elif name == "trail":
                controls[-1] = at
            elif name in ("q0", "qn"):
                continue  # it follows from the others
            elif name[0] == "p":
                through[int(name[1:])] = at
            else:
                controls[int(name[1:])] = at
        return self.model_copy(update={"through": tuple(through), "controls": tuple(controls)})

    def tangents(self) -> list[XY]:
        """Derivatives at the points, per unit of span."""
        out: list[XY] = []
        last = len(self.through) - 1
        for i, (p, c) in enumerate(zip(self.through, self.controls)):
            f = 3 / self.spans[i] if i < last else -3 / self.spans[-1]
            out.append(((c[0] - p[0]) * f, (c[1] - p[1]) * f))
        return out

    def pieces(self) -> list[Piece]:
        tangents = self.tangents()
        out: list[Piece] = []
        for i, span in enumerate(self.spans):
            a, b, (ux, uy), (vx, vy) = self.through[i], self.through[i + 1], tangents[i], tangents[i + 1]
            third = span / 3
            out.append(Bezier(a, (a[0] + ux * third, a[1] + uy * third), (b[0] - vx * third, b[1] - vy * third), b))
        return out

    def snaps(self) -> list[Snap]:
        last = len(self.through) - 1
        return [Snap(p, "end" if i in (0, last) else "point", f"{self.id}.p{i}") for i, p in enumerate(self.through)]

    def anchor(self) -> tuple[XY, XY]:
        pieces = self.pieces()
        piece = pieces[len(pieces) // 2]
        assert isinstance(piece, Bezier)
        t = 0.5 if len(pieces) % 2 else 0.0
        a, b = piece.at(max(t - 0.01, 0.0)), piece.at(t + 0.01)
        dx, dy = b[0] - a[0], b[1] - a[1]
        long = math.hypot(dx, dy) or 1.0
        return piece.at(t), (-dy / long, dx / long)

    def inner_rows(self, rows: Rows) -> None:
        """Continuous second derivatives inside, none at ends without a direction."""
        n = len(self.through) - 1
        names = ["lead", *(f"t{i}" for i in range(1, n)), "trail"]
        p = [rows.layout.xy(f"{self.id}.p{i}") for i in range(n + 1)]
        c = [rows.layout.xy(f"{self.id}.{name}") for name in names]
        # the tangent at point i as a combination of scalars: f (control - point)
        f = [3 / s for s in self.spans] + [-3 / self.spans[-1]]
        s = self.spans
        for i in range(1, n):
            a, b = 1 / s[i - 1], 1 / s[i]
            size = 3 * (a * a + b * b)
            weights = {("c", i - 1): a * f[i - 1], ("p", i - 1): -a * f[i - 1] + 3 * a * a,
                       ("c", i): 2 * (a + b) * f[i], ("p", i): -2 * (a + b) * f[i] - 3 * a * a + 3 * b * b,
                       ("c", i + 1): b * f[i + 1], ("p", i + 1): -b * f[i + 1] - 3 * b * b}  # fmt: skip
            self._weighted(rows, p, c, weights, size)
        ends = ((self.led, 0, 1, 0), (self.trailed, n, n - 1, n - 1))
        for directed, i, j, k in ends:
            if not directed:
                a = (1 if i == 0 else -1) / s[k]
                weights = {("c", i): 2 * f[i], ("p", i): -2 * f[i] + 3 * a, ("c", j): f[j], ("p", j): -f[j] - 3 * a}
                self._weighted(rows, p, c, weights, 3 / s[k])

        for name, first in (("q0", True), ("qn", False)):
            i, j, g = self._second_weight(first)
            for k, q in enumerate(rows.layout.xy(f"{self.id}.{name}")):
                rows.linear((q, p[i][k], c[j][k]), (1.0, g - 1.0, -g))

    def nearest(self, at: XY) -> float:
        """Where along the spline the place nearest to a point is: number of the piece plus the parameter in it."""
        best, where = math.inf, 0.0
        for i, piece in enumerate(self.pieces()):
            assert isinstance(piece, Bezier)
            for t in np.linspace(0, 1, 33).tolist():
                d = math.dist(piece.at(t), at)
                if d < best:
                    best, where = d, i + t
        return where

    def on_curve(self, rows: Rows, point: str, along: str, value: float) -> None:
        """A point lies on the spline; ``along`` names the scalar that says where."""
        n = len(self.through) - 1
        i = min(max(int(value), 0), n - 1)
        t = rows.layout.size(along)
        first, second = ("lead" if i == 0 else f"t{i}"), ("trail" if i == n - 1 else f"t{i + 1}")
        f = 1.0 if i == n - 1 else -self.spans[i] / self.spans[i + 1]
        names = (f"p{i}", first, second, f"p{i + 1}")
        places = [rows.layout.xy(f"{self.id}.{name}") for name in names]
        for k, scalar in enumerate(rows.layout.xy(point)):
            rows.add(kinds.ON_CUBIC, (scalar, *(xy[k] for xy in places), t), (1.0, f, float(i)))

    @staticmethod
    def _weighted(
        rows: Rows,
        p: Sequence[tuple[int, int]],
        c: Sequence[tuple[int, int]],
        weights: Mapping[tuple[str, int], float],
        size: float,
    ) -> None:
        for k in (0, 1):
            scalars = [(p if which == "p" else c)[i][k] for which, i in weights]
            rows.linear(scalars, [w / size for w in weights.values()])


def shaped(through: Sequence[Sequence[float]], lead: XY | None = None, trail: XY | None = None) -> dict[str, Any]:
    """Spans (chords) and controls of the spline through some points, ends free or with a given tangent direction.

    ``lead`` and ``trail`` are directions in which the curve runs at its two ends (any length).
    """
    p = np.array(through, float)
    if p.ndim != 2 or p.shape[1] != 2 or len(p) < 2 or not np.all(np.isfinite(p)):
        return {"spans": [], "controls": []}
    chords = np.hypot(*np.diff(p, axis=0).T)
    # doubled points: a small span keeps the mathematics whole
    s = np.maximum(chords, 1e-6 * max(float(chords.max()), 1e-9))
    n = len(s)
    matrix = np.zeros((n + 1, n + 1))
    right = np.zeros((n + 1, 2))
    for i in range(1, n):
        a, b = 1 / s[i - 1], 1 / s[i]
        matrix[i, i - 1 : i + 2] = a, 2 * (a + b), b
        right[i] = 3 * a * a * (p[i] - p[i - 1]) + 3 * b * b * (p[i + 1] - p[i])
    for row, other, span, wanted in ((0, 1, 0, lead), (n, n - 1, n - 1, trail)):
        if wanted is None:
            matrix[row, row], matrix[row, other] = 2, 1
            right[row] = 3 * (p[span + 1] - p[span]) / s[span]
        else:
            matrix[row, row] = 1
            right[row] = np.array(wanted) / math.hypot(*wanted)
    tangents = np.linalg.solve(matrix, right)
    thirds = np.append(s, -s[-1]) / 3
    controls = p + tangents * thirds[:, None]
    return {"spans": s.tolist(), "controls": controls.tolist(), "led": lead is not None, "trailed": trail is not None}
