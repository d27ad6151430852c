"""Free-form faces against free-form faces: a thread in its nut, a loft through a sweep.

There the kernel takes half a minute to tell a distance, and has called an overlap of 60 mm³ none; closed meshes are
asked instead, and what booleans give is held against them.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.GeomAbs import (
    GeomAbs_BezierSurface,
    GeomAbs_BSplineSurface,
    GeomAbs_OffsetSurface,
    GeomAbs_OtherSurface,
)
from OCP.TopoDS import TopoDS

from ..errors import Trouble
from ..mesh.booleans import shared
from ..mesh.surface import Surface
from .kernel import FACE, Shape, each, private
from .measuring import Box, rough_box
from .meshing import extract, tessellate

_FREE = (GeomAbs_BSplineSurface, GeomAbs_BezierSurface, GeomAbs_OtherSurface, GeomAbs_OffsetSurface)
_TURN = 0.5  # rad, between triangles


def near(a: Box, b: Box, within: float) -> bool:
    """Whether two boxes come as near to each other as that, mm."""
    return all(a[0][i] <= b[1][i] + within and b[0][i] <= a[1][i] + within for i in range(3))


def both_free(one: Shape, other: Shape, within: float) -> bool:
    """Whether both have faces of no named form where they come near to each other."""
    boxes = rough_box(one), rough_box(other)
    return near(*boxes, within) and _free_near(one, boxes[1], within) and _free_near(other, boxes[0], within)


def _free_near(shape: Shape, zone: Box, within: float) -> bool:
    return any(
        BRepAdaptor_Surface(TopoDS.Face(face), False).GetType() in _FREE and near(rough_box(face), zone, within)
        for face in each(shape, FACE)
    )


def surface_of(shape: Shape, chord: float) -> Surface:
    """Triangles that lie as near to a shape as that, mm."""
    own = private(shape, mesh=False)
    tessellate(own, chord, _TURN)
    mesh = extract(own, edges=False)
    return Surface(mesh.positions.astype(np.float64), mesh.triangles.astype(np.int64))


def hides_overlap(first: Sequence[Shape], second: Sequence[Shape], found: float, chord: float = 0.05) -> bool:
    """Whether shapes share more than the mm³ a boolean ``found``, by meshes; only looked at where free-form faces
    meet, and said of pieces thicker than the meshes are rough.
    """
    pairs = [(i, k) for i, a in enumerate(first) for k, b in enumerate(second) if both_free(a, b, 0.0)]
    by_mesh = 0.0
    try:
        ones = {i: surface_of(first[i], chord) for i in {i for i, _ in pairs}}
        others = {k: surface_of(second[k], chord) for k in {k for _, k in pairs}}
        for i, k in pairs:
            both = shared(ones[i], others[k], chord)
            by_mesh = max(by_mesh, both.volume - chord * both.area)
    except Trouble:  # a mesh that cannot be made, or does not close, says nothing
        return False
    return by_mesh > found * (1 + 1e-6) + 1e-6
