"""How many triangles a mesh will have, told before it is made: one that is too fine takes minutes, and all the
memory.
"""

from __future__ import annotations

import math

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepLProp import BRepLProp_SLProps
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Line, GeomAbs_Plane

from ..errors import CannotBuild
from .kernel import EDGE, FACE, Shape, each
from .measuring import area_and_centre, rough_box

MOST = 4_000_000  # triangles of one export: 200 MB as STL, some 20 s
SHORTER = 0.56  # the kernel's legs against the longest that would do (measured on balls, rods, rings: 0.52 to 0.56)
_LOOKS = (0.1, 0.5, 0.9)  # shares of a face's patch at which its curvature is looked at


def foreseen(shape: Shape, chord: float, angle: float) -> float:
    """About how many triangles a mesh will have whose chords are off by at most ``chord`` mm and turn by at most
    ``angle`` rad: right to a factor of two or three.

    On a face with the radii r₁ and r₂ a triangle's legs are √(8·chord·r) long (the sagitta of a chord), at most
    ``angle``·r, at most what the face is across.
    """
    return sum(_of_face(face, chord, angle) for face in each(shape, FACE))


def _of_face(face: Shape, chord: float, angle: float) -> float:
    surface = BRepAdaptor_Surface(face)
    if surface.GetType() == GeomAbs_Plane:
        return sum(_along(edge, chord, angle) for edge in each(face, EDGE))
    area, (low, high) = area_and_centre(face)[0], rough_box(face)
    across = max(math.dist(low, high), 1e-9)
    (u0, u1, v0, v1) = BRepTools.UVBounds_s(face)
    legs = []
    for s in _LOOKS:
        for t in _LOOKS:
            facts = BRepLProp_SLProps(surface, u0 + s * (u1 - u0), v0 + t * (v1 - v0), 2, 1e-9)
            if facts.IsCurvatureDefined():
                bent = abs(facts.MaxCurvature()), abs(facts.MinCurvature())
                legs.append([_leg(k, chord, angle, across) for k in bent])
    if not legs:
        return 2.0
    one, other = np.median(np.array(legs), axis=0)
    return 2.0 * area / max(float(one * other), 1e-12)


def _along(edge: Shape, chord: float, angle: float) -> float:
    """About how many pieces an edge will have."""
    curve = BRepAdaptor_Curve(edge)
    if curve.GetType() != GeomAbs_Circle:
        return 2.0 if curve.GetType() == GeomAbs_Line else 20.0
    radius = curve.Circle().Radius()
    round_it = radius * abs(curve.LastParameter() - curve.FirstParameter())
    return max(2.0, round_it / max(_leg(1.0 / radius, chord, angle, round_it), 1e-12))


def _leg(curvature: float, chord: float, angle: float, across: float) -> float:
    if curvature * across < 1e-6:
        return across
    return min(SHORTER * min(math.sqrt(8.0 * chord / curvature), angle / curvature), across)


def check_fineness(shape: Shape, chord: float, angle: float) -> None:
    """Raises ``CannotBuild`` with what would do, where a mesh would have too many triangles."""
    count = foreseen(shape, chord, angle)
    if count <= MOST:
        return
    coarser = chord
    while coarser < 10 and foreseen(shape, coarser, max(angle, math.sqrt(coarser))) > MOST / 2:
        coarser *= 2
    raise CannotBuild(
        f"So fine a mesh would have about {count / 1e6:.0f} million triangles, and {MOST / 1e6:.0f} million are what "
        f"is made here: a chord of {coarser:.2g} mm would do."
    )
