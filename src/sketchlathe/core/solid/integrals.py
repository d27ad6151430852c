"""What is integrated over faces: area and its centre, and the volume, first and second moments between the face and the
origin.

A solid is the sum of the pyramids from the origin over its faces. With w = r · n dA, a face has ∫w / 3 of the volume,
∫ r w / 4 of the first moments and ∫ r rᵀ w / 5 of the second (a pyramid scales with s, so s² ds, s³ ds, s⁴ ds).
An integral of F over the part D of the parameters' plane that a face takes is one round its boundary (Green): ∮ P dv
with ∂P/∂u = F, or -∮ Q du with ∂Q/∂v = F.

- Planes: D is the face itself, F polynomial, so P is known and nothing is integrated inwards. The curves in space are
  used, not the kernel's curves in parameters.
- Cylinders, cones, spheres, tori turn a line or a circle: r = O + ρ(v)(cos u X + sin u Y) + z(v) Z. P is integrated by
  Gauss from a meridian of the boundary, of which so nothing is left to be done.
- Everything else between its knots: as a grid where the boundary is a rectangle of parameters, else by Green inwards
  along the direction that has fewer knots.

Pieces of a kind are evaluated together. Where it is not known to be exact, Gauss points are added until two rules
agree; what they differ by is told as the error. The kernel's own integrals were off by 1e-4 on such faces, whether they
were asked to refine or not.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Curve2d, BRepAdaptor_Surface
from OCP.GeomAbs import (
    GeomAbs_Circle,
    GeomAbs_Cone,
    GeomAbs_Cylinder,
    GeomAbs_Ellipse,
    GeomAbs_Line,
    GeomAbs_Plane,
    GeomAbs_Sphere,
    GeomAbs_SurfaceOfExtrusion,
    GeomAbs_Torus,
)
from OCP.TopAbs import TopAbs_EXTERNAL, TopAbs_FORWARD, TopAbs_INTERNAL, TopAbs_REVERSED
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS

from .bases import basis
from .kernel import EDGE, Shape
from .patches import At, Patch, bernstein, curve_of, patch_at, span_of, xyz

_POWERS = np.array([0, 1, 1, 1, 1, 2, 2, 2, 3, 3, 3, 3, 3, 3])
COUNT = 14
"""How many numbers of a face: area, ∫x, ∫y, ∫z over it, ∫w, ∫x w, ∫y w, ∫z w, ∫xx w, ∫yy w, ∫zz w, ∫xy w, ∫xz w,
∫yz w.
"""
AGREED = 1e-12  # how well two rules must agree, as a share of what the face could have at most
_TURNS = (GeomAbs_Cylinder, GeomAbs_Cone, GeomAbs_Sphere, GeomAbs_Torus)
_TIGHT = 1.01e-7  # tolerance of edges whose curves meet in their corners
_FLAT_POWERS = np.array([0, 1, 1, 2, 2, 2])
_PLAIN = 6  # Gauss points for a straight edge round a plane: exact for polynomials to the eleventh degree


_Line = tuple[float, float, float, float, float]  # in parameters: sense, u and v of its two ends


@dataclass(frozen=True)
class Face:
    """The integrals of one face, and how far off those over it and those between it and the origin may be, as shares of
    their scale, (2).
    """

    sums: np.ndarray
    error: np.ndarray

    @property
    def scale(self) -> np.ndarray:
        """What each of them could be at most for a face of that area so far from the origin."""
        area = max(abs(float(self.sums[0])), 1e-300)
        far = max(math.sqrt(area), float(np.abs(self.sums[1:4]).max()) / area)
        return np.asarray(area * far**_POWERS)

    def turned(self) -> Face:
        """Of the same face with its material on the other side."""
        return Face(np.concatenate([self.sums[:4], -self.sums[4:]]), self.error)


@lru_cache(maxsize=64)
def gauss(n: int) -> tuple[np.ndarray, np.ndarray]:
    """Places in 0..1 and weights of Gauss's rule with ``n`` points."""
    x, w = np.polynomial.legendre.leggauss(n)
    return (x + 1) / 2, w / 2


def integrals(faces: Sequence[Shape]) -> list[Face]:
    """The integrals of faces, in order."""
    flat, turned, drawn, free = _Flat(), _Turned(), _DrawnOut(), []
    out: list[Face | None] = [None] * len(faces)
    for number, shape in enumerate(faces):
        # seams have two curves; which one is meant goes by the orientation of edge and face
        face = TopoDS.Face(shape.Oriented(TopAbs_FORWARD))
        adaptor = BRepAdaptor_Surface(face, False)
        kind = adaptor.GetType()
        sign = -1.0 if shape.Orientation() == TopAbs_REVERSED else 1.0
        if kind == GeomAbs_Plane:
            flat.add(number, face, adaptor.Plane(), sign)
        elif kind in _TURNS:
            turned.add(number, face, kind, adaptor, sign)
        elif kind != GeomAbs_SurfaceOfExtrusion or not drawn.add(number, face, adaptor, sign):
            free.append((number, face, adaptor, sign))
    for batch in (flat, turned, drawn):
        for number, found in batch.found():
            out[number] = found
    for number, face, adaptor, sign in free:
        out[number] = _free(face, adaptor, sign)
    return [f if f is not None else Face(np.zeros(COUNT), np.zeros(2)) for f in out]


def _edges(face: Shape) -> list[tuple[Shape, float]]:
    """The edges of a face (forward) with the sense in which they run round it, the face on their left in parameters."""
    found = []
    walk = TopExp_Explorer(face, EDGE)
    while walk.More():
        edge = walk.Current()
        sense = edge.Orientation()
        if sense not in (TopAbs_INTERNAL, TopAbs_EXTERNAL):
            found.append((TopoDS.Edge(edge), -1.0 if sense == TopAbs_REVERSED else 1.0))
        walk.Next()
    return found


def _loose(edge: Shape) -> bool:
    """Whether an edge's curves need not end where its corners are."""
    return bool(BRep_Tool.Tolerance_s(edge) > _TIGHT)


def _bridges(face: Shape) -> list[_Line]:
    """Straight stretches in parameters over the gaps between the curves of a boundary. The kernel's curves may end a
    hundredth of a millimetre beside a corner; a boundary with gaps encloses nothing.
    """
    arriving: dict[int, list[tuple[float, float]]] = {}
    leaving: dict[int, list[tuple[float, float]]] = {}
    low, high = [math.inf, math.inf], [-math.inf, -math.inf]
    for edge, sense in _edges(face):
        curve = BRepAdaptor_Curve2d(edge, face)
        ends = [(p.X(), p.Y()) for p in (curve.Value(curve.FirstParameter()), curve.Value(curve.LastParameter()))]
        corners = [hash(TopExp.FirstVertex_s(edge)), hash(TopExp.LastVertex_s(edge))]
        for k in (0, 1):
            low[k], high[k] = min(low[k], ends[0][k], ends[1][k]), max(high[k], ends[0][k], ends[1][k])
        if sense < 0:
            ends.reverse()
            corners.reverse()
        leaving.setdefault(corners[0], []).append(ends[0])
        arriving.setdefault(corners[1], []).append(ends[1])
    far = 0.05 * max(h - l for l, h in zip(low, high)) if arriving else 0.0  # farther apart are the two sides of a seam
    found = []
    for corner, ends in arriving.items():
        starts = list(leaving.get(corner, ()))
        for u0, v0 in ends:
            if not starts:
                break
            u1, v1 = min(starts, key=lambda p: math.dist(p, (u0, v0)))
            starts.remove((u1, v1))
            if 1e-13 < math.hypot(u1 - u0, v1 - v0) < far:
                found.append((1.0, u0, v0, u1, v1))
    return found


# planes


class _Flat:
    """Flat faces: their edges as stretches of lines, arcs of conics and splines, in coordinates (a, b) on the plane."""

    def __init__(self) -> None:
        self.planes: list[tuple[int, np.ndarray, np.ndarray, np.ndarray, float]] = []
        self.lines: list[tuple[Any, ...]] = []
        self.arcs: list[tuple[Any, ...]] = []
        self.spans: dict[int, list[tuple[int, float, np.ndarray]]] = {}  # single polynomials by degree
        self.others: list[tuple[int, float, At, np.ndarray]] = []

    def add(self, number: int, face: Shape, plane: Any, sign: float) -> None:
        at = plane.Position()
        x, y = np.array(xyz(at.XDirection())), np.array(xyz(at.YDirection()))
        at_row = len(self.planes)
        # a left-handed system has its normal on the other side of x × y, and the boundary runs the other way round
        self.planes.append((number, np.array(xyz(at.Location())), x, y, sign))
        for edge, sense in _edges(face):
            curve = BRepAdaptor_Curve(edge)
            kind = curve.GetType()
            first, last = curve.FirstParameter(), curve.LastParameter()
            if kind == GeomAbs_Line:
                line = curve.Line()
                p, d = xyz(line.Location()), xyz(line.Direction())
                self.lines.append((at_row, sense, *p, *d, first, last))
                if _loose(edge):
                    self._to_corners(at_row, sense, edge, curve, first, last)
            elif kind in (GeomAbs_Circle, GeomAbs_Ellipse):
                conic = curve.Circle() if kind == GeomAbs_Circle else curve.Ellipse()
                major = conic.Radius() if kind == GeomAbs_Circle else conic.MajorRadius()
                minor = conic.Radius() if kind == GeomAbs_Circle else conic.MinorRadius()
                own = conic.Position()
                self.arcs.append((
                    at_row, sense, *xyz(own.Location()), *(major * v for v in xyz(own.XDirection())),
                    *(minor * v for v in xyz(own.YDirection())), first, last,
                ))  # fmt: skip
                if _loose(edge):
                    self._to_corners(at_row, sense, edge, curve, first, last)
            elif (first, last) == (0.0, 1.0) and (controls := span_of(curve)) is not None:
                self.spans.setdefault(len(controls) - 1, []).append((at_row, sense, controls))
            else:
                place, knots = curve_of(curve)
                self.others.append((at_row, sense, place, _between(knots, first, last)))
                self._to_corners(at_row, sense, edge, curve, first, last)

    def _to_corners(self, row: int, sense: float, edge: Shape, curve: Any, first: float, last: float) -> None:
        """Straight stretches from an edge's first corner to where its curve begins, and from its end to the last: so
        the boundary is closed, wherever the curves end.
        """
        for corner, at, way in ((TopExp.FirstVertex_s(edge), first, 1), (TopExp.LastVertex_s(edge), last, -1)):
            a, b = xyz(BRep_Tool.Pnt_s(corner)), xyz(curve.Value(at))
            if a != b:
                start, end = (a, b) if way > 0 else (b, a)
                self.lines.append((row, sense, *start, *(q - p for p, q in zip(start, end)), 0.0, 1.0))

    def found(self) -> list[tuple[int, Face]]:
        """The integrals of each face added, by its number."""
        if not self.planes:
            return []
        origin, x, y = (np.array([p[i] for p in self.planes]) for i in (1, 2, 3))
        moments = np.zeros((len(self.planes), 6))
        doubt = np.zeros((len(self.planes), 6))
        if self.lines:
            rows = np.array(self.lines)
            t, w = gauss(_PLAIN)
            of = rows[:, 0].astype(int)
            span = rows[:, 9] - rows[:, 8]
            at = rows[:, 8, None] + span[:, None] * t
            places = rows[:, None, 2:5] + at[..., None] * rows[:, None, 5:8]
            slopes = np.broadcast_to(rows[:, None, 5:8], places.shape)
            self._sum(moments, of, rows[:, 1] * span, places, slopes, w, origin, x, y)
        if self.arcs:
            rows = np.array(self.arcs)
            of = rows[:, 0].astype(int)
            span = rows[:, 12] - rows[:, 11]
            t, w = gauss(28)
            at = rows[:, 11, None] + span[:, None] * t
            c, s = np.cos(at)[..., None], np.sin(at)[..., None]
            major, minor = rows[:, None, 5:8], rows[:, None, 8:11]
            places, slopes = rows[:, None, 2:5] + c * major + s * minor, c * minor - s * major
            self._sum(moments, of, rows[:, 1] * span, places, slopes, w, origin, x, y)
        for degree, curves in self.spans.items():
            n = 2 * degree + 1  # exact: what is integrated is of four times the degree, less one
            values, derivatives = bernstein(degree, n)
            controls = np.array([one[2] for one in curves])
            of, senses = np.array([one[0] for one in curves]), np.array([one[1] for one in curves])
            places, slopes = (np.einsum("nk,skd->snd", base, controls) for base in (values, derivatives))
            self._sum(moments, of, senses, places, slopes, gauss(n)[1], origin, x, y)
        for of_one, sense, curve, knots in self.others:
            row = np.array([of_one])
            before, off = None, np.zeros(6)
            for n in (8, 13, 20, 32, 64):
                now = np.zeros((len(self.planes), 6))
                t, w = gauss(n)
                spans = np.diff(knots)
                at = (knots[:-1, None] + spans[:, None] * t).ravel()
                p, d = curve(at)
                shape = (1, len(at), 3)
                weights = (spans[:, None] * w).ravel()
                self._sum(now, row, np.array([sense]), p.reshape(shape), d.reshape(shape), weights, origin, x, y)
                far = float(np.abs(p - origin[of_one]).max()) + 1e-12
                if before is not None:
                    off = np.abs(now - before)[of_one]
                    if (off < AGREED * far**2 * far**_FLAT_POWERS).all():
                        break
                before = now
            moments[of_one] += now[of_one]
            doubt[of_one] += off
        out = []
        for p, m, o, a, b, e in zip(self.planes, moments, origin, x, y, doubt):
            area = max(abs(float(m[0])), 1e-290)
            far = max(math.sqrt(area), float(np.abs(m[1:3]).max()) / area)
            scale = area * far**_FLAT_POWERS  # of a face without an area nothing can be said, and nothing is added
            share = float(np.divide(e, scale, out=np.zeros_like(e), where=np.isfinite(scale) & (scale > 0)).max())
            out.append((p[0], Face(_of_plane(m, o, a, b, p[4]), np.array([share, share]))))
        return out

    @staticmethod
    def _sum(
        moments: np.ndarray, of: np.ndarray, scale: np.ndarray, places: np.ndarray, slopes: np.ndarray,
        weights: np.ndarray, origin: np.ndarray, x: np.ndarray, y: np.ndarray,
    ) -> None:  # fmt: skip
        """Add ∮ of stretches (s) with places and slopes (s, n, 3) to the moments 1, a, b, aa, ab, bb of planes."""
        off = places - origin[of][:, None]
        a, b = np.einsum("snk,sk->sn", off, x[of]), np.einsum("snk,sk->sn", off, y[of])
        db = np.einsum("snk,sk->sn", slopes, y[of]) * weights * scale[:, None]
        terms = (a, a * a / 2, a * b, a**3 / 3, a * a * b / 2, a * b * b)
        for column, term in enumerate(terms):
            moments[:, column] += np.bincount(of, (term * db).sum(axis=1), minlength=len(moments))


def _of_plane(moments: np.ndarray, origin: np.ndarray, x: np.ndarray, y: np.ndarray, sign: float) -> np.ndarray:
    """From the moments 1, a, b, aa, ab, bb of a face on a plane to the integrals in space."""
    one, a, b, aa, ab, bb = moments
    if one < 0:  # the kernel's plane is left-handed: it ran round the other way
        one, a, b, aa, ab, bb = -moments
        sign = -sign
    height = sign * float(origin @ np.cross(x, y))
    first = one * origin + a * x + b * y
    mixed = a * x + b * y
    second = (
        one * np.outer(origin, origin) + np.outer(origin, mixed) + np.outer(mixed, origin)
        + aa * np.outer(x, x) + bb * np.outer(y, y) + ab * (np.outer(x, y) + np.outer(y, x))
    )  # fmt: skip
    return np.array([
        one, *first, height * one, *(height * first),
        *(height * second[i, j] for i, j in ((0, 0), (1, 1), (2, 2), (0, 1), (0, 2), (1, 2))),
    ])  # fmt: skip


def _between(knots: np.ndarray, first: float, last: float) -> np.ndarray:
    """A stretch of parameters cut at the knots within it."""
    near = 1e-12 * (1 + abs(last - first))
    inner = knots[(knots > first + near) & (knots < last - near)]
    return np.concatenate([[first], inner, [last]])


# faces that a line or a circle makes by turning


class _Turned:
    """Cylinders, cones, spheres and tori: stretches of their boundaries in parameters."""

    def __init__(self) -> None:
        self.faces: list[tuple[int, float]] = []
        self.forms: list[tuple[float, ...]] = []  # ρ = r0 + r1 v + r2 cos v, z = z1 v + z2 sin v
        self.frames: list[np.ndarray] = []  # O, X, Y, Z (4, 3)
        self.lines: list[tuple[float, ...]] = []
        self.others: list[tuple[int, float, At, np.ndarray]] = []
        self.meridians: list[float] = []

    def add(self, number: int, face: Shape, kind: Any, adaptor: Any, sign: float) -> None:
        if kind == GeomAbs_Cylinder:
            surface = adaptor.Cylinder()
            form = (surface.Radius(), 0.0, 0.0, 1.0, 0.0)
        elif kind == GeomAbs_Cone:
            surface = adaptor.Cone()
            a = surface.SemiAngle()
            form = (surface.RefRadius(), math.sin(a), 0.0, math.cos(a), 0.0)
        elif kind == GeomAbs_Sphere:
            surface = adaptor.Sphere()
            form = (0.0, 0.0, surface.Radius(), 0.0, surface.Radius())
        else:
            surface = adaptor.Torus()
            form = (surface.MajorRadius(), 0.0, surface.MinorRadius(), 0.0, surface.MinorRadius())
        at = surface.Position()
        row = len(self.faces)
        self.faces.append((number, sign))
        self.forms.append(form)
        self.frames.append(
            np.array([xyz(p) for p in (at.Location(), at.XDirection(), at.YDirection(), at.Direction())])
        )
        meridian = None
        stretches = []
        gaps = False
        for edge, sense in _edges(face):
            curve = BRepAdaptor_Curve2d(edge, face)
            gaps = gaps or _loose(edge)
            first, last = curve.FirstParameter(), curve.LastParameter()
            if curve.GetType() == GeomAbs_Line:
                line = curve.Line()
                p, d = line.Location(), line.Direction()
                u, v, du, dv = p.X(), p.Y(), d.X(), d.Y()
                if abs(dv) < 1e-15:
                    continue
                if abs(du) < 1e-15 and meridian is None:
                    meridian = u
                stretches.append((row, sense, u, v, du, dv, first, last))
            else:
                place, knots = curve_of(curve, 2)
                self.others.append((row, sense, place, _between(knots, first, last)))
                if meridian is None and not stretches:
                    meridian = float(place(np.array([(first + last) / 2]))[0][0, 0])
        if meridian is None:
            meridian = stretches[0][2] + stretches[0][4] * (stretches[0][6] + stretches[0][7]) / 2 if stretches else 0.0
        if gaps or (self.others and self.others[-1][0] == row):
            stretches += [(row, s, u, v, u1 - u, v1 - v, 0.0, 1.0) for s, u, v, u1, v1 in _bridges(face) if v1 != v]
        self.meridians.append(meridian)
        self.lines += [s for s in stretches if abs(s[4]) > 1e-15 or abs(s[2] - meridian) > 1e-15]

    def found(self) -> list[tuple[int, Face]]:
        """The integrals of each face added, by its number."""
        if not self.faces:
            return []
        self._forms, self._frames = np.array(self.forms), np.array(self.frames)
        self._meridians = np.array(self.meridians)
        sums, doubt = (np.zeros((len(self.faces), COUNT)) for _ in range(2))
        if self.lines:
            rows = np.array(self.lines)
            of = rows[:, 0].astype(int)
            upright = np.abs(rows[:, 4]) <= 1e-15
            # along a meridian of a cylinder or a cone all is polynomial, else as smooth as sines over at most a turn
            straight = upright & (self._forms[of][:, 2] == 0.0)
            for some, n, m in ((straight, 4, 24), (~straight, 28, 24)):
                if some.any():
                    self._lines(sums, rows[some], n, m)
        for row, sense, curve, knots in self.others:
            before, off = None, np.zeros(COUNT)
            for n in (12, 20, 36, 64):
                t, w = gauss(n)
                spans = np.diff(knots)
                at = (knots[:-1, None] + spans[:, None] * t).ravel()
                p, d = curve(at)
                of = np.full(len(at), row)
                now = self._around(of, p[:, 0], p[:, 1], d[:, 1] * (spans[:, None] * w).ravel() * sense, 28).sum(axis=0)
                if before is not None:
                    off = np.abs(now - before)
                    wide = float(np.ptp(p[:, 0])) + float(np.ptp(p[:, 1])) + 1e-12
                    far = float(np.abs(self._frames[row, 0]).max()) + float(np.abs(self._forms[row]).max()) + wide
                    if (off < AGREED * wide * far ** (_POWERS + 1)).all():
                        break
                before = now
            sums[row] += now
            doubt[row] += off
        out = []
        for (number, sign), s, e in zip(self.faces, sums, doubt):
            area = abs(s[0]) / s[0] if s[0] else 1.0
            whole = Face(np.concatenate([s[:4] * area, s[4:] * sign]), _NONE)
            share = e / whole.scale
            out.append((number, Face(whole.sums, np.array([share[:4].max(), share[4:].max()]))))
        return out

    def _lines(self, sums: np.ndarray, rows: np.ndarray, n: int, m: int) -> None:
        t, w = gauss(n)
        span = rows[:, 7] - rows[:, 6]
        at = rows[:, 6, None] + span[:, None] * t
        u, v = rows[:, 2, None] + at * rows[:, 4, None], rows[:, 3, None] + at * rows[:, 5, None]
        dv = (rows[:, 5] * span * rows[:, 1])[:, None] * w
        of = np.repeat(rows[:, 0].astype(int), n)
        found = self._around(of, u.ravel(), v.ravel(), dv.ravel(), m)
        np.add.at(sums, of, found)

    def _around(self, of: np.ndarray, u: np.ndarray, v: np.ndarray, dv: np.ndarray, m: int) -> np.ndarray:
        """P dv at places of the boundary (n, 14): integrated along u from the face's meridian by ``m`` points."""
        t, w = gauss(m)
        r0, r1, r2, z1, z2 = self._forms[of].T
        rho, drho = r0 + r1 * v + r2 * np.cos(v), r1 - r2 * np.sin(v)
        z, dz = z1 * v + z2 * np.sin(v), z1 + z2 * np.cos(v)
        span = u - self._meridians[of]
        at = self._meridians[of][:, None] + span[:, None] * t
        c, s = np.cos(at), np.sin(at)
        origin, x, y, up = (self._frames[of][:, i] for i in range(4))
        hand = np.sign(np.einsum("nk,nk->n", np.cross(x, y), up))
        ring = c[..., None] * x[:, None] + s[..., None] * y[:, None]  # (n, m, 3)
        r = origin[:, None] + rho[:, None, None] * ring + (z[:, None] * up)[:, None]
        normal = (hand * rho)[:, None, None] * (dz[:, None, None] * ring - (drho[:, None] * up)[:, None])
        element = np.abs(rho) * np.hypot(dz, drho)
        weights = span[:, None] * w * dv[:, None]
        return _terms(r, np.einsum("nmk,nmk->nm", r, normal), np.broadcast_to(element[:, None], at.shape), weights)


def _terms(r: np.ndarray, pyramid: np.ndarray, element: np.ndarray, weights: np.ndarray) -> np.ndarray:
    """The integrands at places (n, m, 3), times weights, summed over m: (n, 14)."""
    x, y, z = r[..., 0], r[..., 1], r[..., 2]
    e, p = element * weights, pyramid * weights
    px, py, pz = p * x, p * y, p * z
    parts = (e, e * x, e * y, e * z, p, px, py, pz, px * x, py * y, pz * z, px * y, px * z, py * z)
    return np.stack([part.sum(axis=-1) for part in parts], axis=-1)


# all other faces


class _DrawnOut:
    """Faces that one polynomial curve makes by being drawn out, bounded by a rectangle: walls of letters."""

    def __init__(self) -> None:
        self.faces: dict[int, list[tuple[Any, ...]]] = {}

    def add(self, number: int, face: Shape, adaptor: Any, sign: float) -> bool:
        """Take a face, if it is such a one."""
        controls = span_of(adaptor.BasisCurve())
        if controls is None:
            return False
        lines, others = _rim(face)
        box = _rectangle(lines) if not others else None
        if box is None:
            return False
        one = (number, sign, controls, xyz(adaptor.Direction()), box, face, adaptor)
        self.faces.setdefault(len(controls) - 1, []).append(one)
        return True

    def found(self) -> list[tuple[int, Face]]:
        """The integrals of each face added, by its number."""
        out = []
        for degree, faces in self.faces.items():
            rough, fine = (self._sums(degree, faces, n) for n in (2 * degree + 10, 2 * degree + 18))
            for one, now, before in zip(faces, fine, rough):
                off = _apart(now, before)
                if off.max() < AGREED:
                    found = Face(np.concatenate([now[:4] * np.sign(now[0]), now[4:] * one[1]]), off)
                else:
                    found = _free(one[5], one[6], one[1])  # a curve that nearly has a kink
                out.append((one[0], found))
        return out

    @staticmethod
    def _sums(degree: int, faces: Sequence[tuple[Any, ...]], n: int) -> np.ndarray:
        t, w = gauss(n)
        controls, way, box = (np.array([one[i] for one in faces]) for i in (2, 3, 4))
        low_u, low_v, high_u, high_v, turn = box.T
        if (low_u == 0.0).all() and (high_u == 1.0).all():
            values, slopes = (base[None] for base in bernstein(degree, n))
        else:
            at = (low_u[:, None] + (high_u - low_u)[:, None] * t).ravel()
            _, values, slopes = basis(np.repeat([0.0, 1.0], degree + 1), degree, at)
            values, slopes = values.reshape(-1, n, degree + 1), slopes.reshape(-1, n, degree + 1)
        place, slope = (base @ controls for base in (values, slopes))  # (f, n, 3)
        normal = np.cross(slope, way[:, None])
        pyramid, element = np.einsum("fnk,fnk->fn", place, normal), np.linalg.norm(normal, axis=-1)
        tv, wv = gauss(3)  # of the second degree along the way
        v = low_v[:, None] + (high_v - low_v)[:, None] * tv
        r = place[:, :, None] + v[:, None, :, None] * way[:, None, None]
        weights = ((high_u - low_u) * (high_v - low_v) * turn)[:, None, None] * w[:, None] * wv
        flat = (len(faces), n * 3)
        return _terms(
            r.reshape(*flat, 3), np.repeat(pyramid, 3, axis=1), np.repeat(element, 3, axis=1), weights.reshape(flat)
        )


def _rim(face: Shape) -> tuple[list[_Line], list[tuple[float, Any]]]:
    """The boundary of a face in parameters: its straight stretches, and the others as the kernel has them."""
    lines, others = [], []
    for edge, sense in _edges(face):
        curve = BRepAdaptor_Curve2d(edge, face)
        if curve.GetType() == GeomAbs_Line:
            a, b = curve.Value(curve.FirstParameter()), curve.Value(curve.LastParameter())
            lines.append((sense, a.X(), a.Y(), b.X(), b.Y()))
        else:
            others.append((sense, curve))
    return lines, others


def _rectangle(lines: Sequence[_Line]) -> tuple[float, float, float, float, float] | None:
    """The box (low u, v, high u, v) that a boundary goes once round, and in which sense (1: counterclockwise); None
    where it is another shape.
    """
    if not lines:
        return None
    near = 1e-9 * (1 + max(abs(x) for line in lines for x in line[1:]))
    if any(abs(u1 - u0) > near and abs(v1 - v0) > near for _, u0, v0, u1, v1 in lines):
        return None
    # its sides say where it is, not where they end: they may reach a little beyond each other
    us = [(u0 + u1) / 2 for _, u0, v0, u1, v1 in lines if abs(u1 - u0) <= near < abs(v1 - v0)]
    vs = [(v0 + v1) / 2 for _, u0, v0, u1, v1 in lines if abs(v1 - v0) <= near < abs(u1 - u0)]
    if not us or not vs:
        return None
    low_u, high_u, low_v, high_v = min(us), max(us), min(vs), max(vs)
    enclosed = sum(sense * (u0 + u1) / 2 * (v1 - v0) for sense, u0, v0, u1, v1 in lines)
    whole = (high_u - low_u) * (high_v - low_v)
    if whole <= 0 or abs(abs(enclosed) - whole) > 1e-3 * whole:
        return None
    return low_u, low_v, high_u, high_v, 1.0 if enclosed > 0 else -1.0


def _free(face: Shape, adaptor: Any, sign: float) -> Face:
    patch = patch_at(face, adaptor)
    lines, others = _rim(face)
    pieces: list[tuple[float, At, np.ndarray]] = []
    for sense, curve in others:
        place, knots = curve_of(curve, 2)
        stretch = _between(knots, curve.FirstParameter(), curve.LastParameter())
        probes = place(np.linspace(stretch[0], stretch[-1], 33))[0]
        if (np.ptp(probes, axis=0) < 1e-9 * (1 + np.abs(probes).max())).any():  # straight, though not said so
            (u0, v0), (u1, v1) = probes[[0, -1]].tolist()
            lines.append((sense, u0, v0, u1, v1))
        else:
            pieces.append((sense, place, stretch))
    box = _rectangle(lines) if not pieces else None
    if box is not None:
        sums, error = _grid(patch, box)
    elif lines or pieces:
        pieces += [(sense, _straight(*ends), np.array([0.0, 1.0])) for sense, *ends in (*lines, *_bridges(face))]
        sums, error = _by_green(patch, pieces)
    else:
        return Face(np.zeros(COUNT), np.zeros(2))
    turn = 1.0 if sums[0] >= 0 else -1.0
    return Face(np.concatenate([sums[:4] * turn, sums[4:] * sign]), error)


def _straight(u0: float, v0: float, u1: float, v1: float) -> At:
    start, way = np.array([u0, v0]), np.array([u1 - u0, v1 - v0])
    return lambda t: (start + t[:, None] * way, np.broadcast_to(way, (len(t), 2)))


def _evaluated(patch: Patch, u: np.ndarray, v: np.ndarray, weights: np.ndarray) -> np.ndarray:
    """The integrands at parameters (n) times weights, summed: (14)."""
    return _summed(*patch.at(u, v), weights)


def _summed(r: np.ndarray, normal: np.ndarray, weights: np.ndarray) -> np.ndarray:
    pyramid = np.einsum("nk,nk->n", r, normal)
    element = np.sqrt(np.einsum("nk,nk->n", normal, normal))
    return np.asarray(_terms(r[None], pyramid[None], element[None], weights[None])[0])


_RULES = (5, 8, 12, 18, 27, 40)


def _grid(patch: Patch, box: tuple[float, float, float, float, float]) -> tuple[np.ndarray, np.ndarray]:
    """Over a rectangle of parameters: how many points each direction needs is found along a few lines of the other."""
    low_u, low_v, high_u, high_v, turn = box
    us, vs = _between(patch.u_knots, low_u, high_u), _between(patch.v_knots, low_v, high_v)
    (u, wu, doubt), (v, wv, more) = _enough(patch, us, vs, along_u=True), _enough(patch, us, vs, along_u=False)
    return turn * _summed(*patch.over(u, v), np.outer(wu, wv).ravel()), np.maximum(doubt, more)


def _nodes(knots: np.ndarray, n: int) -> tuple[np.ndarray, np.ndarray]:
    """Places and weights of Gauss's rule with ``n`` points between each two knots."""
    t, w = gauss(n)
    spans = np.diff(knots)[:, None]
    return (knots[:-1, None] + spans * t).ravel(), (spans * w).ravel()


def _enough(
    patch: Patch, us: np.ndarray, vs: np.ndarray, *, along_u: bool
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Places and weights that are enough in one direction, and how far the last two rules are apart. Where many points
    between two knots are not (a surface that nearly has a kink), it is halved.
    """
    knots, other = (us, vs) if along_u else (vs, us)
    lines = other[0] + (other[-1] - other[0]) * np.array([0.03, 0.37, 0.62, 0.96])
    before, off = None, np.zeros(2)
    last: np.ndarray | None = None
    step: np.ndarray | None = None
    for halved, n in [(0, n) for n in _RULES] + [(k, _RULES[-3]) for k in range(1, 7)]:
        if halved:
            knots = np.sort(np.concatenate([knots, (knots[1:] + knots[:-1]) / 2]))
        t, w = _nodes(knots, n)
        if along_u:
            r, normal = patch.over(t, lines)
            r, normal = (x.reshape(len(t), -1, 3).transpose(1, 0, 2) for x in (r, normal))
        else:
            r, normal = (x.reshape(-1, len(t), 3) for x in patch.over(lines, t))
        pyramid, element = np.einsum("lnk,lnk->ln", r, normal), np.sqrt(np.einsum("lnk,lnk->ln", normal, normal))
        now = _terms(r, pyramid, element, w)
        if before is not None:
            last, step = step, np.max([_apart(a, b) for a, b in zip(now, before)], axis=0)
            # rules come together ever faster: the next step would be as much shorter again
            off = step * np.minimum(1.0, step / np.maximum(last, 1e-300)) if last is not None else step
            if off.max() < AGREED:
                break
        before = now
    return t, w, off


def _apart(now: np.ndarray, before: np.ndarray) -> np.ndarray:
    """How far two results are apart, as a share of what a face of that area at that distance could have at most."""
    share = np.abs(now - before) / np.maximum(np.maximum(Face(now, _NONE).scale, Face(before, _NONE).scale), 1e-290)
    return np.array([share[:4].max(), share[4:].max()])


_NONE = np.zeros(2)


def _by_green(patch: Patch, rim: Sequence[tuple[float, At, np.ndarray]]) -> tuple[np.ndarray, np.ndarray]:
    places = np.concatenate([place(np.linspace(stretch[0], stretch[-1], 33))[0] for _, place, stretch in rim])
    low, high = places.min(axis=0), places.max(axis=0)
    u_inside, v_inside = _within(patch.u_knots, low[0], high[0]), _within(patch.v_knots, low[1], high[1])
    inward = 0 if len(u_inside) <= len(v_inside) else 1  # along which parameter it is integrated inwards
    inner = (u_inside, v_inside)[inward]
    start = float(low[inward])
    pieces = [(sense, place, _cut(place, stretch, u_inside, v_inside)) for sense, place, stretch in rim]
    before, off = None, np.zeros(2)
    for n in (8, 12, 18, 28, 44):
        now = np.zeros(COUNT)
        for sense, place, stretch in pieces:
            t, w = gauss(n)
            spans = np.diff(stretch)
            p, d = place((stretch[:-1, None] + spans[:, None] * t).ravel())
            along = d[:, 1 - inward] * (spans[:, None] * w).ravel() * sense * (1.0 if inward == 0 else -1.0)
            # inwards from the box's side to the boundary, cut at the knots between
            ends = np.concatenate([[start], inner, [np.inf]])
            a, b = np.minimum(ends[:-1], p[:, inward, None]), np.minimum(ends[1:], p[:, inward, None])
            span = b - a
            keep = (np.abs(span) > 0) & (np.abs(along) > 0)[:, None]
            if not keep.any():
                continue
            which, _ = np.nonzero(keep)
            ti, wi = gauss(n)
            s = (a[keep][:, None] + span[keep][:, None] * ti).ravel()
            other = np.repeat(p[which, 1 - inward], n)
            weights = (along[which, None] * span[keep][:, None] * wi).ravel()
            u, v = (s, other) if inward == 0 else (other, s)
            now += _evaluated(patch, u, v, weights)
        if before is not None:
            off = _apart(now, before)
            if off.max() < AGREED:
                break
        before = now
    return now, off


def _within(knots: np.ndarray, low: float, high: float) -> np.ndarray:
    near = 1e-12 * (1 + abs(high - low))
    return knots[(knots > low + near) & (knots < high - near)]


def _cut(place: At, stretch: np.ndarray, us: np.ndarray, vs: np.ndarray) -> np.ndarray:
    """A stretch of the boundary cut also where it crosses knots of the surface."""
    if not len(us) and not len(vs):
        return stretch
    many = np.unique(np.concatenate([np.linspace(a, b, 17) for a, b in itertools.pairwise(stretch)]))
    p = place(many)[0]
    cuts = [stretch]
    for axis, knots in ((0, us), (1, vs)):
        values = p[:, axis]
        for knot in knots:
            side = values > knot
            for i in np.nonzero(side[1:] != side[:-1])[0]:
                a, b = many[i], many[i + 1]
                rising = bool(side[i + 1])
                for _ in range(52):
                    middle = (a + b) / 2
                    over = bool(place(np.array([middle]))[0][0, axis] > knot)
                    a, b = (a, middle) if over == rising else (middle, b)
                cuts.append(np.array([(a + b) / 2]))
    found = np.unique(np.concatenate(cuts))
    return found[np.concatenate([[True], np.diff(found) > 1e-13 * (1 + np.abs(found[1:]))])]
