"""Volume, area, centre and box of exact shapes (mm, mm², mm³)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRepAdaptor import BRepAdaptor_Curve2d, BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_BSplineSurface
from OCP.TopAbs import TopAbs_FORWARD, TopAbs_REVERSED
from OCP.TopoDS import TopoDS

from ..frames import Triple
from . import integrals
from .kernel import EDGE, FACE, Shape, each
from .patches import patch_at

Box = tuple[Triple, Triple]


@dataclass(frozen=True)
class Measures:
    """What Weigh & size reads of one body."""

    volume: float
    area: float
    centre: Triple
    box: Box
    moments: tuple[float, float, float, float, float, float]  # inertia xx, yy, zz, xy, xz, yz about the centre, mm⁵


_KNOWN: dict[int, list[tuple[Shape, integrals.Face]]] = {}
# what is known holds its faces in memory, beyond the results that are kept: enough for a few builds
_MOST = 4_000
ROUNDING = 3e-16  # of sums over many places, as a share of what a face could have at most


def _shares(shape: Shape) -> list[integrals.Face]:
    """The integrals of a shape's faces. Each face is measured once; those not known yet are measured together."""
    faces = list(each(shape, FACE))
    found = [_known(face) for face in faces]
    new = [face for face, known in zip(faces, found) if known is None]
    if new:
        if sum(map(len, _KNOWN.values())) > _MOST:
            _KNOWN.clear()
        forward = [TopoDS.Face(face.Oriented(TopAbs_FORWARD)) for face in new]
        for face, share in zip(forward, integrals.integrals(forward)):
            _KNOWN.setdefault(hash(face), []).append((face, share))
        found = [known or _known(face) for known, face in zip(found, faces)]
    return [known for known in found if known is not None]


def _known(face: Shape) -> integrals.Face | None:
    """What is known of a face, its pyramid signed by the side its material is on."""
    for known, share in _KNOWN.get(hash(face), ()):
        if known.IsSame(face):
            return share.turned() if face.Orientation() == TopAbs_REVERSED else share
    return None


def volume(shape: Shape) -> float:
    """Exact volume, mm³: the sum of what each face contributes (divergence theorem). Known faces are not measured
    again.
    """
    return math.fsum(share.sums[4] for share in _shares(shape)) / 3


def box_of(shape: Shape) -> Box:
    """A box around a shape: exact for flat and round faces, for free forms to a millionth of their size.

    The kernel takes seconds over free forms such as threads, so of these only those are asked that may reach beyond the
    others, and whole patches are searched here.
    """
    free = [f for f in each(shape, FACE) if BRepAdaptor_Surface(f, False).GetType() == GeomAbs_BSplineSurface]
    if not free:
        return _optimal([shape])
    plain = [f for f in each(shape, FACE) if not any(f.IsSame(o) for o in free)]
    low, high = (np.array(c) for c in _optimal(plain)) if plain else (np.full(3, np.inf), np.full(3, -np.inf))
    for face in free:
        l, h = (np.array(c) for c in rough_box(face))
        if (l >= low).all() and (h <= high).all():
            continue
        patch = _patch_box(face, low, high)
        l, h = patch if patch is not None else (np.array(c) for c in _optimal([face]))
        low, high = np.minimum(low, l), np.maximum(high, h)
    return tuple(map(float, low)), tuple(map(float, high))  # type: ignore[return-value]


def _optimal(shapes: Sequence[Shape]) -> Box:
    found = Bnd_Box()
    for shape in shapes:
        BRepBndLib.AddOptimal_s(shape, found, False, False)
    low, high = found.CornerMin(), found.CornerMax()
    return (low.X(), low.Y(), low.Z()), (high.X(), high.Y(), high.Z())


def _patch_box(face: Shape, within_low: np.ndarray, within_high: np.ndarray) -> tuple[np.ndarray, np.ndarray] | None:
    """The box of a face that is its surface's whole patch, by a grid over it and finer grids about the farthest points
    (where these may reach beyond a box that is there already); None where the face is cut out of its surface.
    """
    surface = BRepAdaptor_Surface(face, False)
    u0, u1, v0, v1 = (
        surface.FirstUParameter(), surface.LastUParameter(), surface.FirstVParameter(), surface.LastVParameter(),
    )  # fmt: skip
    near = 1e-6 * (1 + abs(u1 - u0) + abs(v1 - v0))
    if any(abs(a - b) > near for a, b in zip(BRepTools.UVBounds_s(face), (u0, u1, v0, v1))):
        return None
    for edge in each(face, EDGE):
        rim = BRepAdaptor_Curve2d(edge, face)
        for share in (0.1, 0.5, 0.8):
            p = rim.Value(rim.FirstParameter() + share * (rim.LastParameter() - rim.FirstParameter()))
            if min(abs(p.X() - u0), abs(p.X() - u1), abs(p.Y() - v0), abs(p.Y() - v1)) > near:
                return None

    if surface.NbUKnots() == surface.NbVKnots() == 2 and surface.UDegree() == surface.VDegree() == 1:
        corners = [surface.Value(u, v) for u in (u0, u1) for v in (v0, v1)]  # nothing of it lies outside these
        at = np.array([(p.X(), p.Y(), p.Z()) for p in corners])
        return at.min(axis=0), at.max(axis=0)

    patch = patch_at(face, surface)

    nu, nv = (min(12 * n + 1, 240) for n in (surface.NbUKnots(), surface.NbVKnots()))
    us, vs = np.linspace(u0, u1, nu), np.linspace(v0, v1, nv)
    grid = patch.grid(us, vs)
    low, high = grid.min(axis=(0, 1)), grid.max(axis=(0, 1))
    # between nodes a surface swells by less than it does from one to the next
    swell = max(float(np.abs(np.diff(grid, axis=k)).max(initial=0.0)) for k in (0, 1))
    for axis in range(3):
        for sign, out, there in ((-1.0, low, within_low), (1.0, high, within_high)):
            if sign * out[axis] + swell < sign * there[axis]:
                continue
            flat = sign * grid[:, :, axis]
            i, j = np.unravel_index(int(np.argmax(flat)), flat.shape)
            u, v, du, dv = us[i], vs[j], (u1 - u0) / (nu - 1), (v1 - v0) / (nv - 1)
            for _ in range(9):
                fu, fv = np.clip(u + du * _FINER, u0, u1), np.clip(v + dv * _FINER, v0, v1)
                about = sign * patch.grid(fu, fv)[:, :, axis]
                a, b = np.unravel_index(int(np.argmax(about)), about.shape)
                u, v, du, dv = fu[a], fv[b], du / 3, dv / 3
                out[axis] = sign * max(sign * out[axis], float(about[a, b]))
    return low, high


_FINER = np.linspace(-1.0, 1.0, 5)


def rough_box(shape: Shape) -> Box:
    """A quick box that is never too small."""
    found = Bnd_Box()
    BRepBndLib.Add_s(shape, found, False)
    low, high = found.CornerMin(), found.CornerMax()
    return (low.X(), low.Y(), low.Z()), (high.X(), high.Y(), high.Z())


def amounts(shape: Shape) -> Measures:
    """Volume and area alone, quickly; the rest is nought."""
    nothing = (0.0, 0.0, 0.0)
    return Measures(volume(shape), area_and_centre(shape)[0], nothing, (nothing, nothing), (0.0,) * 6)  # type: ignore[arg-type]


def area_and_centre(face: Shape) -> tuple[float, Triple]:
    """Area (mm²) and centroid of a face or of several."""
    sums, doubt = _total(face)
    area = float(sums[0])
    if area <= 0:
        return 0.0, (0.0, 0.0, 0.0)
    x, y, z = (true_digits(float(sums[i]) / area, float(doubt[i]) / area) for i in (1, 2, 3))
    return true_digits(area, float(doubt[0])), (x, y, z)


def _total(shape: Shape) -> tuple[np.ndarray, np.ndarray]:
    """The integrals over a shape's faces, and how far each may be off: by what the faces are unsure of, and by rounding
    where large shares cancel.
    """
    shares = _shares(shape)
    if not shares:
        return np.zeros(integrals.COUNT), np.zeros(integrals.COUNT)
    rows = np.array([share.sums for share in shares])
    unsure = np.repeat(np.array([share.error for share in shares]) + ROUNDING, (4, integrals.COUNT - 4), axis=1)
    scale = np.array([share.scale for share in shares])
    return np.array([math.fsum(column) for column in rows.T]), (unsure * scale).sum(axis=0)


def true_digits(value: float, doubt: float) -> float:
    """A value with the digits of it that are known, where it is known to ± ``doubt``; nought where it may be.

    >>> true_digits(108.0000002, 3e-7), true_digits(5e-9, 1e-8), true_digits(1234.5, 0.0)
    (108.0, 0.0, 1234.5)
    """
    if abs(value) <= doubt:
        return 0.0
    return round(value, math.floor(-math.log10(2 * doubt))) + 0.0 if doubt > 0 else value


def measures(shape: Shape) -> Measures:
    """Everything at once, with the digits that are true."""
    sums, doubt = _total(shape)
    whole = float(sums[4]) / 3
    if whole == 0:
        centre = np.zeros(3)
    else:
        centre = sums[5:8] / 4 / whole
    off_centre = (doubt[5:8] / 4 + np.abs(centre) * doubt[4] / 3) / max(abs(whole), 1e-300)
    # about the centre (Steiner); moments are sums of two squares, products carry a minus
    second, unsure = sums[8:14] / 5, doubt[8:14] / 5
    pairs = ((0, 0), (1, 1), (2, 2), (0, 1), (0, 2), (1, 2))
    own = np.array([second[k] - whole * centre[i] * centre[j] for k, (i, j) in enumerate(pairs)])
    loose = np.array([
        unsure[k] + abs(whole) * (abs(centre[i]) * off_centre[j] + abs(centre[j]) * off_centre[i])
        + abs(centre[i] * centre[j]) * doubt[4] / 3
        for k, (i, j) in enumerate(pairs)
    ])  # fmt: skip
    xx, yy, zz, xy, xz, yz = own
    moments = (yy + zz, xx + zz, xx + yy, -xy, -xz, -yz)
    doubts = (loose[1] + loose[2], loose[0] + loose[2], loose[0] + loose[1], *loose[3:])
    return Measures(
        true_digits(whole, float(doubt[4]) / 3),
        true_digits(float(sums[0]), float(doubt[0])),
        tuple(true_digits(float(c), float(d)) for c, d in zip(centre, off_centre)),  # type: ignore[arg-type]
        box_of(shape),
        tuple(true_digits(float(m), float(d)) for m, d in zip(moments, doubts)),  # type: ignore[arg-type]
    )
