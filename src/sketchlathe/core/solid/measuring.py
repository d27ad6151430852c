"""Volume, area, centre and box of exact shapes (mm, mm², mm³)."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Curve2d, BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepGProp import BRepGProp, BRepGProp_Domain, BRepGProp_Face, BRepGProp_Vinert
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_BSplineCurve, GeomAbs_BSplineSurface
from OCP.gp import gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopoDS import TopoDS

from ..frames import Triple
from .kernel import EDGE, FACE, Shape, each

Box = tuple[Triple, Triple]


@dataclass(frozen=True)
class Measures:
    """What Weigh & size reads of one body."""

    volume: float
    area: float
    centre: Triple
    box: Box
    moments: tuple[float, float, float, float, float, float]  # inertia xx, yy, zz, xy, xz, yz about the centre, mm⁵


_Known = dict[tuple[int, bool], list[tuple[Shape, float]]]
_SHARES: _Known = {}  # of faces
_VOLUMES: _Known = {}  # of solids
# what is known holds its faces and solids in memory, beyond the results that are kept: enough for a few builds
_MOST_SHARES, _MOST_VOLUMES = 4_000, 100
_ORIGIN = gp_Pnt(0, 0, 0)
_MANY = 60  # knots of a surface, both ways
_FINE = 1e-9  # how closely refined integrals agree, relative


def volume(shape: Shape) -> float:
    """Exact volume, mm³: the sum of what each face contributes (divergence theorem). Known faces are not measured
    again.
    """
    if len(_VOLUMES) > _MOST_VOLUMES:
        _VOLUMES.clear()
    return _known(_VOLUMES, shape, _sum)


def _sum(shape: Shape) -> float:
    if len(_SHARES) > _MOST_SHARES:
        _SHARES.clear()
    # an edge bounds two faces: to ask each of them once is half the work, and most shapes have no such edge at all
    rational = any(_is_rational_edge(edge) for edge in each(shape, EDGE))
    share = _share if rational else _share_plainly_bounded
    return sum(_known(_SHARES, face, share) for face in each(shape, FACE))


def _share(face: Shape) -> float:
    """The pyramid from the origin over a face, signed by the side its material is on."""
    return _pyramid(face, is_rational(face))


def _share_plainly_bounded(face: Shape) -> float:
    """The same of a face that no rational spline bounds."""
    return _pyramid(face, bool(_is_rational_surface(face)))


def _pyramid(face: Shape, refined: bool) -> float:
    of = BRepGProp_Face(face), BRepGProp_Domain(TopoDS.Face(face)), _ORIGIN
    return float((BRepGProp_Vinert(*of, _FINE) if refined else BRepGProp_Vinert(*of)).Mass())


def is_rational(face: Shape) -> bool:
    """Whether a face or what bounds it is a rational spline, as other programs write circles and stretching makes them.
    The kernel's usual integrals over such faces are off by up to 6e-4; those that refine until they agree are not, and
    cost about a millisecond a face. (Free forms without weights, and those of many short spans as threads are, are
    integrated well, and refining takes seconds.)
    """
    by_surface = _is_rational_surface(face)
    return any(_is_rational_edge(edge) for edge in each(face, EDGE)) if by_surface is None else by_surface


def _is_rational_surface(face: Shape) -> bool | None:
    """Whether its surface makes a face one; None where that is for its edges to say."""
    surface = BRepAdaptor_Surface(face, False)
    if surface.GetType() != GeomAbs_BSplineSurface:
        return None
    if surface.NbUKnots() * surface.NbVKnots() > _MANY:
        return False
    return True if surface.IsURational() or surface.IsVRational() else None


def _is_rational_edge(edge: Shape) -> bool:
    curve = BRepAdaptor_Curve(edge)
    return bool(curve.GetType() == GeomAbs_BSplineCurve and curve.IsRational())


def _known(store: _Known, shape: Shape, make: Callable[[Shape], float]) -> float:
    """What is known of a shape, or what is made of it now."""
    kept = store.setdefault((hash(shape), shape.Orientation() == TopAbs_REVERSED), [])
    for known, value in kept:
        if known.IsSame(shape):
            return value
    value = make(shape)
    kept.append((shape, value))
    return value


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
        patch = _patch_box(face)
        l, h = patch if patch is not None else (np.array(c) for c in _optimal([face]))
        low, high = np.minimum(low, l), np.maximum(high, h)
    return tuple(map(float, low)), tuple(map(float, high))  # type: ignore[return-value]


def _optimal(shapes: Sequence[Shape]) -> Box:
    found = Bnd_Box()
    for shape in shapes:
        BRepBndLib.AddOptimal_s(shape, found, False, False)
    low, high = found.CornerMin(), found.CornerMax()
    return (low.X(), low.Y(), low.Z()), (high.X(), high.Y(), high.Z())


def _patch_box(face: Shape) -> tuple[np.ndarray, np.ndarray] | None:
    """The box of a face that is its surface's whole patch, by a grid over it and finer grids about the farthest points;
    None where the face is cut out of its surface.
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

    def places(us: np.ndarray, vs: np.ndarray) -> np.ndarray:
        found = [surface.Value(u, v) for u in us for v in vs]
        return np.array([(p.X(), p.Y(), p.Z()) for p in found]).reshape(len(us), len(vs), 3)

    nu, nv = (min(12 * n + 1, 240) for n in (surface.NbUKnots(), surface.NbVKnots()))
    us, vs = np.linspace(u0, u1, nu), np.linspace(v0, v1, nv)
    grid = places(us, vs)
    low, high = grid.min(axis=(0, 1)), grid.max(axis=(0, 1))
    for axis in range(3):
        for sign, out in ((-1.0, low), (1.0, high)):
            flat = sign * grid[:, :, axis]
            i, j = np.unravel_index(int(np.argmax(flat)), flat.shape)
            u, v, du, dv = us[i], vs[j], (u1 - u0) / (nu - 1), (v1 - v0) / (nv - 1)
            for _ in range(14):
                fu, fv = np.clip(u + du * _FINER, u0, u1), np.clip(v + dv * _FINER, v0, v1)
                about = sign * places(fu, fv)[:, :, axis]
                a, b = np.unravel_index(int(np.argmax(about)), about.shape)
                u, v, du, dv = fu[a], fv[b], du / 2, dv / 2
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
    surface = GProp_GProps()
    if any(is_rational(f) for f in each(face, FACE)):
        BRepGProp.SurfaceProperties_s(face, surface, _FINE)
    else:
        BRepGProp.SurfaceProperties_s(face, surface)
    c = surface.CentreOfMass()
    return float(surface.Mass()), (c.X(), c.Y(), c.Z())


def measures(shape: Shape) -> Measures:
    """Everything at once."""
    solid = GProp_GProps()
    if any(is_rational(f) for f in each(shape, FACE)):
        BRepGProp.VolumeProperties_s(shape, solid, _FINE)
    else:
        BRepGProp.VolumeProperties_s(shape, solid)
    c = solid.CentreOfMass()
    m = solid.MatrixOfInertia()  # about the centre of mass; its products are the tensor's off-diagonal elements
    moments = tuple(float(m.Value(i, j)) for i, j in ((1, 1), (2, 2), (3, 3), (1, 2), (1, 3), (2, 3)))
    return Measures(float(solid.Mass()), area_and_centre(shape)[0], (c.X(), c.Y(), c.Z()), box_of(shape), moments)  # type: ignore[arg-type]
