"""A smooth ring through outlines: the kernel has none without a seam, so its surfaces are made here.

Along the ring every pole of the outlines' common spline runs through its places by a periodic cubic spline (C. de Boor,
"A Practical Guide to Splines", ch. XIII), of which the closing conditions are two rows of the system.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.collections import Array1_double, Array1_gp_Pnt, Array1_int, Array2_double, Array2_gp_Pnt
from OCP.Geom import Geom_BSplineSurface, Geom_TrimmedCurve
from OCP.GeomFill import GeomFill_Profiler
from OCP.gp import gp_Pnt
from scipy.interpolate import BSpline

from ..errors import CannotBuild
from ..frames import Frame
from ..sketch.curves import Piece
from .kernel import Shape
from .matching import Section
from .naming import Body
from .sewing import sewn
from .shapes import edge_of


def smooth_ring(step: str, sections: Sequence[Section], problem: CannotBuild) -> Body:
    """One solid through matched outlines (three or more) and on to the first, its curvature continuous all the way
    round. A side for every row of matched curves. Raises ``problem`` where nothing sound comes of it.
    """
    centres = np.array([s.centre for s in sections])
    way = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.roll(centres, -1, axis=0) - centres, axis=1))])
    faces = []
    for row in zip(*(s.chain for s in sections)):
        surface = _surface([(piece, s.frame) for (piece, _), s in zip(row, sections)], way / way[-1])
        owners = "/".join(owner for _, owner in row)
        faces.append((BRepBuilderAPI_MakeFace(surface, 1e-6).Face(), frozenset({f"{step}:side:{owners}"})))
    return sewn(step, faces, f"{step}:side", 1e-5, problem)


def _surface(row: Sequence[tuple[Piece, Frame]], at: np.ndarray) -> Geom_BSplineSurface:
    """The surface through a row of curves at parameters ``at`` (one more than curves, the last closes it)."""
    common = GeomFill_Profiler()
    for piece, frame in row:
        curve = BRep_Tool.Curve_s(edge_of(piece, frame), 0.0, 1.0)
        common.AddCurve(Geom_TrimmedCurve(curve, *_ends(edge_of(piece, frame))))
    common.Perform(1e-7)
    count, knots = common.NbPoles(), common.NbKnots()
    u_knots, u_mults = Array1_double(1, knots), Array1_int(1, knots)
    common.KnotsAndMults(u_knots, u_mults)
    poles = np.array([_poles(common, i + 1, count) for i in range(len(row))])  # (outline, pole, xyzw)
    spline, breaks = _closed(poles.reshape(len(row), -1), at)
    across = spline.reshape(len(spline), count, 4)
    made, weights = Array2_gp_Pnt(1, count, 1, len(across)), Array2_double(1, count, 1, len(across))
    for j, column in enumerate(across, 1):
        for i, (x, y, z, w) in enumerate(column.tolist(), 1):
            made.SetValue(i, j, gp_Pnt(x / w, y / w, z / w))
            weights.SetValue(i, j, w)
    v_knots, v_mults = Array1_double(1, len(breaks)), Array1_int(1, len(breaks))
    for k, value in enumerate(breaks.tolist(), 1):
        v_knots.SetValue(k, value)
        v_mults.SetValue(k, 4 if k in (1, len(breaks)) else 1)
    return Geom_BSplineSurface(made, weights, u_knots, v_knots, u_mults, v_mults, common.Degree(), 3)


def _ends(edge: Shape) -> tuple[float, float]:
    from OCP.BRepAdaptor import BRepAdaptor_Curve

    curve = BRepAdaptor_Curve(edge)
    return curve.FirstParameter(), curve.LastParameter()


def _poles(common: GeomFill_Profiler, index: int, count: int) -> list[tuple[float, float, float, float]]:
    """Poles of one curve with their weights, homogeneous."""
    found, weights = Array1_gp_Pnt(1, count), Array1_double(1, count)
    common.Poles(index, found)
    common.Weights(index, weights)
    out = []
    for i in range(1, count + 1):
        p, w = found.Value(i), weights.Value(i)
        out.append((p.X() * w, p.Y() * w, p.Z() * w, w))
    return out


def _closed(values: np.ndarray, at: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Poles (n + 3, d) of the cubic spline through ``values`` (n, d) at ``at`` (n + 1) that closes with its first and
    second derivative, and its breaks.
    """
    knots = np.concatenate([[at[0]] * 3, at, [at[-1]] * 3])
    size = len(at) + 2
    basis = BSpline(knots, np.eye(size), 3)
    closing = [basis.derivative(k)(at[0]) - basis.derivative(k)(at[-1]) for k in (1, 2)]
    matrix = np.vstack([basis(at), *closing])
    right = np.vstack([values, values[:1], np.zeros((2, values.shape[1]))])
    return np.linalg.solve(matrix, right), at
