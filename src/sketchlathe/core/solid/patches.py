"""Surfaces and curves of the kernel as functions of arrays, for what is integrated over them.

A patch answers at many parameters at once with places and normals; where one is not smooth (its knots) is told.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from OCP.GeomAbs import (
    GeomAbs_BezierCurve,
    GeomAbs_BezierSurface,
    GeomAbs_BSplineCurve,
    GeomAbs_BSplineSurface,
    GeomAbs_Circle,
    GeomAbs_Ellipse,
    GeomAbs_Line,
    GeomAbs_SurfaceOfExtrusion,
    GeomAbs_SurfaceOfRevolution,
)
from OCP.gp import gp_Pnt, gp_Pnt2d, gp_Vec, gp_Vec2d

from .bases import basis

At = Callable[[np.ndarray], tuple[np.ndarray, np.ndarray]]
"""Of parameters (n): places and derivatives, (n, d) each."""
AtBoth = Callable[[np.ndarray, np.ndarray], tuple[np.ndarray, np.ndarray]]
"""Of parameters u, v (n): places and r_u × r_v, (n, 3) each."""


@dataclass(frozen=True)
class Patch:
    """A surface: ``at`` as above, and the parameters in u and in v between which it is smooth.

    ``over``: places and normals over a grid of parameters u (n), v (m), as (n m, 3) each, v running faster.
    """

    at: AtBoth
    u_knots: np.ndarray
    v_knots: np.ndarray
    over: AtBoth
    places: Callable[[np.ndarray, np.ndarray], np.ndarray] | None = None  # the same, without normals

    def grid(self, u: np.ndarray, v: np.ndarray) -> np.ndarray:
        """Places over a grid, (n, m, 3)."""
        found = self.places(u, v) if self.places is not None else self.over(u, v)[0]
        return found.reshape(len(u), len(v), 3)


def crossed(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """a × b of vectors (n, 3); numpy's own takes three times as long."""
    out = np.empty(np.broadcast_shapes(a.shape, b.shape))
    for i, j, k in ((0, 1, 2), (1, 2, 0), (2, 0, 1)):
        out[..., i] = a[..., j] * b[..., k] - a[..., k] * b[..., j]
    return out


def _gridded(at: AtBoth) -> AtBoth:
    def over(u: np.ndarray, v: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        return at(np.repeat(u, len(v)), np.tile(v, len(u)))

    return over


def xyz(p: Any) -> tuple[float, float, float]:
    """A kernel point, vector or direction."""
    return p.X(), p.Y(), p.Z()


def _flat(spline: Any, letter: str) -> np.ndarray:
    count = getattr(spline, f"Nb{letter}Knots")()
    knot, times = getattr(spline, f"{letter}Knot"), getattr(spline, f"{letter}Multiplicity")
    return np.repeat([knot(i) for i in range(1, count + 1)], [times(i) for i in range(1, count + 1)])


def _wrapped(t: np.ndarray, knots: np.ndarray, periodic: bool) -> np.ndarray:
    return knots[0] + np.mod(t - knots[0], knots[-1] - knots[0]) if periodic else np.clip(t, knots[0], knots[-1])


def spline_curve(spline: Any, dimensions: int) -> tuple[At, np.ndarray]:
    """A kernel's spline in the plane or in space as a function, and its knots."""
    periodic = bool(spline.IsPeriodic())
    if periodic:
        spline = spline.Copy()
        spline.SetNotPeriodic()
    return _by_controls(spline, _flat(spline, ""), dimensions, periodic)


def _by_controls(spline: Any, flat: np.ndarray, dimensions: int, periodic: bool = False) -> tuple[At, np.ndarray]:
    degree, count = spline.Degree(), spline.NbPoles()
    poles = [spline.Pole(i) for i in range(1, count + 1)]
    weights = np.array([spline.Weight(i) for i in range(1, count + 1)]) if spline.IsRational() else np.ones(count)
    controls = np.array([xyz(p) if dimensions == 3 else (p.X(), p.Y()) for p in poles])
    lifted = np.column_stack([controls * weights[:, None], weights])
    first, last = flat[degree], flat[-degree - 1]

    def at(t: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        start, values, slopes = basis(flat, degree, _wrapped(t, np.array([first, last]), periodic))
        near = lifted[start[:, None] + np.arange(degree + 1)]
        place, slope = np.einsum("nk,nkd->nd", values, near), np.einsum("nk,nkd->nd", slopes, near)
        w = place[:, -1:]
        p = place[:, :-1] / w
        return p, (slope[:, :-1] - p * slope[:, -1:]) / w

    return at, np.unique(flat[degree : len(flat) - degree])


def span_of(adaptor: Any) -> np.ndarray | None:
    """The controls (degree + 1, 3) of a curve in space that is one polynomial over the parameters 0 to 1; else None."""
    kind = adaptor.GetType()
    if kind == GeomAbs_BezierCurve:
        curve = adaptor.Bezier()
    elif kind == GeomAbs_BSplineCurve and adaptor.NbPoles() == adaptor.Degree() + 1:
        curve = adaptor.BSpline()
        if curve.Knot(1) != 0.0 or curve.Knot(2) != 1.0:
            return None
    else:
        return None
    if curve.IsRational():
        return None
    return np.array([xyz(curve.Pole(i)) for i in range(1, curve.NbPoles() + 1)])


@lru_cache(maxsize=256)
def bernstein(degree: int, n: int) -> tuple[np.ndarray, np.ndarray]:
    """Values and derivatives (n, degree + 1) of Bernstein's polynomials at the ``n`` places of Gauss's rule in 0..1."""
    t = (np.polynomial.legendre.leggauss(n)[0] + 1) / 2
    _, values, slopes = basis(np.repeat([0.0, 1.0], degree + 1), degree, t)
    return values, slopes


def curve_of(adaptor: Any, dimensions: int = 3) -> tuple[At, np.ndarray]:
    """A curve on a kernel's adaptor as a function, and its knots (none for a line or a conic). ``dimensions`` 2: of a
    face's parameters.
    """
    kind = adaptor.GetType()
    take = xyz if dimensions == 3 else lambda p: (p.X(), p.Y())
    if kind == GeomAbs_Line:
        line = adaptor.Line()
        origin, way = np.array(take(line.Location())), np.array(take(line.Direction()))
        return lambda t: (origin + t[:, None] * way, np.broadcast_to(way, (len(t), dimensions))), np.zeros(0)
    if kind in (GeomAbs_Circle, GeomAbs_Ellipse):
        conic = adaptor.Circle() if kind == GeomAbs_Circle else adaptor.Ellipse()
        major = conic.Radius() if kind == GeomAbs_Circle else conic.MajorRadius()
        minor = conic.Radius() if kind == GeomAbs_Circle else conic.MinorRadius()
        centre = np.array(take(conic.Location()))
        if dimensions == 3:
            x, y = np.array(take(conic.XAxis().Direction())), np.array(take(conic.YAxis().Direction()))
        else:
            x, y = np.array(take(conic.XAxis().Direction())), np.array(take(conic.YAxis().Direction()))

        def around(t: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
            c, s = np.cos(t)[:, None], np.sin(t)[:, None]
            return centre + major * c * x + minor * s * y, -major * s * x + minor * c * y

        return around, np.zeros(0)
    if kind == GeomAbs_BSplineCurve:
        return spline_curve(adaptor.BSpline(), dimensions)
    if kind == GeomAbs_BezierCurve:
        single = adaptor.Bezier()
        return _by_controls(single, np.repeat([0.0, 1.0], single.Degree() + 1), dimensions)
    point, slope = (gp_Pnt(), gp_Vec()) if dimensions == 3 else (gp_Pnt2d(), gp_Vec2d())

    def asked(t: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        places, slopes = np.empty((len(t), dimensions)), np.empty((len(t), dimensions))
        for i, value in enumerate(t):
            adaptor.D1(float(value), point, slope)
            places[i], slopes[i] = take(point), take(slope)
        return places, slopes

    return asked, np.zeros(0)


_AT_HAND: dict[int, tuple[Any, Patch]] = {}


def patch_at(face: Any, adaptor: Any) -> Patch:
    """The surface of a face (``adaptor`` on it); the last few are at hand: to read one takes a thousand calls."""
    known = _AT_HAND.get(hash(face))
    if known is not None and known[0].IsSame(face):
        return known[1]
    if len(_AT_HAND) >= 48:
        _AT_HAND.clear()
    patch = patch_of(adaptor)
    _AT_HAND[hash(face)] = face, patch
    return patch


def patch_of(adaptor: Any) -> Patch:
    """The surface on a kernel's adaptor."""
    kind = adaptor.GetType()
    if kind == GeomAbs_BSplineSurface:
        return _spline(adaptor.BSpline())
    if kind == GeomAbs_SurfaceOfExtrusion:
        curve, knots = curve_of(adaptor.BasisCurve())
        way = np.array(xyz(adaptor.Direction()))

        def drawn_out(u: np.ndarray, v: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
            place, slope = curve(u)
            return place + v[:, None] * way, crossed(slope, way)

        def over(u: np.ndarray, v: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
            place, slope = curve(u)
            places = (place[:, None] + v[:, None] * way).reshape(-1, 3)
            return places, np.repeat(crossed(slope, way), len(v), axis=0)

        return Patch(drawn_out, knots, np.zeros(0), over)
    if kind == GeomAbs_SurfaceOfRevolution:
        return _turned(adaptor)
    return _asked(adaptor)


def _spline(spline: Any) -> Patch:
    turning = bool(spline.IsUPeriodic()), bool(spline.IsVPeriodic())
    if any(turning):
        spline = spline.Copy()
        if turning[0]:
            spline.SetUNotPeriodic()
        if turning[1]:
            spline.SetVNotPeriodic()
    us, vs = _flat(spline, "U"), _flat(spline, "V")
    p, q = spline.UDegree(), spline.VDegree()
    rational = spline.IsURational() or spline.IsVRational()
    size = spline.NbUPoles(), spline.NbVPoles()
    lifted = np.ones((*size, 4))
    for i in range(size[0]):
        for j in range(size[1]):
            lifted[i, j, :3] = xyz(spline.Pole(i + 1, j + 1))
            if rational:
                lifted[i, j, 3] = spline.Weight(i + 1, j + 1)
    lifted[..., :3] *= lifted[..., 3:]
    u_ends, v_ends = us[[p, -p - 1]], vs[[q, -q - 1]]

    def at(u: np.ndarray, v: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        i, bu, du = basis(us, p, _wrapped(u, u_ends, turning[0]))
        j, bv, dv = basis(vs, q, _wrapped(v, v_ends, turning[1]))
        near = lifted[i[:, None, None] + np.arange(p + 1)[:, None], j[:, None, None] + np.arange(q + 1)]
        along = np.einsum("nk,nkld->nld", bu, near)
        place = np.einsum("nl,nld->nd", bv, along)
        by_v = np.einsum("nl,nld->nd", dv, along)
        by_u = np.einsum("nk,nl,nkld->nd", du, bv, near, optimize=True)
        return told(place, by_u, by_v)

    def over(u: np.ndarray, v: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        (bu, du), (bv, dv) = (
            _filled(knots, degree, _wrapped(t, ends, round))
            for knots, degree, t, ends, round in ((us, p, u, u_ends, turning[0]), (vs, q, v, v_ends, turning[1]))
        )
        flat = lifted.reshape(size[0], -1)
        along, across = ((base @ flat).reshape(-1, size[1], 4) for base in (bu, du))  # (n, controls in v, 4)
        place, by_v, by_u = ((base @ rows).reshape(-1, 4) for base, rows in ((bv, along), (dv, along), (bv, across)))
        return told(place, by_u, by_v)

    def places(u: np.ndarray, v: np.ndarray) -> np.ndarray:
        bu, _ = _filled(us, p, _wrapped(u, u_ends, turning[0]))
        bv, _ = _filled(vs, q, _wrapped(v, v_ends, turning[1]))
        place = (bv @ (bu @ lifted.reshape(size[0], -1)).reshape(-1, size[1], 4)).reshape(-1, 4)
        return place[:, :3] / place[:, 3:] if rational else place[:, :3]

    def told(place: np.ndarray, by_u: np.ndarray, by_v: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        if not rational:
            return place[:, :3], crossed(by_u[:, :3], by_v[:, :3])
        w = place[:, 3:]
        r = place[:, :3] / w
        return r, crossed((by_u[:, :3] - r * by_u[:, 3:]) / w, (by_v[:, :3] - r * by_v[:, 3:]) / w)

    return Patch(at, _spread(us[p:-p], turning[0]), _spread(vs[q:-q], turning[1]), over, places)


def _filled(knots: np.ndarray, degree: int, t: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The whole basis at parameters (n), values and derivatives (n, controls)."""
    start, values, slopes = basis(knots, degree, t)
    out = np.zeros((2, len(t), len(knots) - degree - 1))
    where = start[:, None] + np.arange(degree + 1)
    rows = np.arange(len(t))[:, None]
    out[0, rows, where], out[1, rows, where] = values, slopes
    return out[0], out[1]


def _spread(flat: np.ndarray, periodic: bool) -> np.ndarray:
    """Knots, each once; of a closed spline those of the rounds before and after too."""
    once = np.unique(flat)
    if not periodic:
        return once
    period = once[-1] - once[0]
    return np.unique(np.concatenate([once - period, once, once + period]))


def _turned(adaptor: Any) -> Patch:
    """A curve turned about an axis: u the angle, v the curve's parameter."""
    curve, knots = curve_of(adaptor.BasisCurve())
    axis = adaptor.AxeOfRevolution()
    origin, way = np.array(xyz(axis.Location())), np.array(xyz(axis.Direction()))

    def at(u: np.ndarray, v: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        place, slope = curve(v)
        c, s = np.cos(u)[:, None], np.sin(u)[:, None]

        def turn(vectors: np.ndarray) -> np.ndarray:
            along = (vectors @ way)[:, None] * way
            return along + c * (vectors - along) + s * crossed(way, vectors)

        arm = turn(place - origin)
        return origin + arm, crossed(crossed(way, arm), turn(slope))

    return Patch(at, np.zeros(0), knots, _gridded(at))


def _asked(adaptor: Any) -> Patch:
    """Any other surface: the kernel is asked place by place. Smooth between the knots it tells."""
    point, by_u, by_v = gp_Pnt(), gp_Vec(), gp_Vec()

    def at(u: np.ndarray, v: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        places, us, vs = np.empty((len(u), 3)), np.empty((len(u), 3)), np.empty((len(u), 3))
        for i in range(len(u)):
            adaptor.D1(float(u[i]), float(v[i]), point, by_u, by_v)
            places[i], us[i], vs[i] = xyz(point), xyz(by_u), xyz(by_v)
        return places, crossed(us, vs)

    from OCP.collections import Array1_double
    from OCP.GeomAbs import GeomAbs_CN

    if adaptor.GetType() == GeomAbs_BezierSurface:
        return Patch(at, np.zeros(0), np.zeros(0), _gridded(at))
    knots = []
    for letter in "UV":
        count = getattr(adaptor, f"Nb{letter}Intervals")(GeomAbs_CN)
        found = Array1_double(1, count + 1)
        getattr(adaptor, f"{letter}Intervals")(found, GeomAbs_CN)
        knots.append(np.array([found.Value(i) for i in range(1, count + 2)]))
    return Patch(at, knots[0], knots[1], _gridded(at))
