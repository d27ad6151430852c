"""Volume, area, centre and box of exact shapes (mm, mm², mm³)."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from OCP.Bnd import Bnd_Box
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepGProp import BRepGProp, BRepGProp_Domain, BRepGProp_Face, BRepGProp_Vinert
from OCP.gp import gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopoDS import TopoDS

from .frames import Triple
from .kernel import FACE, Shape, each

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
_MOST_SHARES, _MOST_VOLUMES = 20_000, 500
_ORIGIN = gp_Pnt(0, 0, 0)


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
    return sum(_known(_SHARES, face, _share) for face in each(shape, FACE))


def _share(face: Shape) -> float:
    """The pyramid from the origin over a face, signed by the side its material is on."""
    return float(BRepGProp_Vinert(BRepGProp_Face(face), BRepGProp_Domain(TopoDS.Face(face)), _ORIGIN).Mass())


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
    """A box around a shape: exact for flat and round faces."""
    found = Bnd_Box()
    BRepBndLib.AddOptimal_s(shape, found, False, False)
    low, high = found.CornerMin(), found.CornerMax()
    return (low.X(), low.Y(), low.Z()), (high.X(), high.Y(), high.Z())


def rough_box(shape: Shape) -> Box:
    """A quick box that is never too small."""
    found = Bnd_Box()
    BRepBndLib.Add_s(shape, found, False)
    low, high = found.CornerMin(), found.CornerMax()
    return (low.X(), low.Y(), low.Z()), (high.X(), high.Y(), high.Z())


def amounts(shape: Shape) -> Measures:
    """Volume and area alone, quickly; the rest is nought."""
    surface, nothing = GProp_GProps(), (0.0, 0.0, 0.0)
    BRepGProp.SurfaceProperties_s(shape, surface)
    return Measures(volume(shape), float(surface.Mass()), nothing, (nothing, nothing), (0.0,) * 6)  # type: ignore[arg-type]


def measures(shape: Shape) -> Measures:
    """Everything at once."""
    solid, surface = GProp_GProps(), GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, solid)
    BRepGProp.SurfaceProperties_s(shape, surface)
    c = solid.CentreOfMass()
    m = solid.MatrixOfInertia()  # about the centre of mass; its products are the tensor's off-diagonal elements
    moments = tuple(float(m.Value(i, j)) for i, j in ((1, 1), (2, 2), (3, 3), (1, 2), (1, 3), (2, 3)))
    return Measures(float(solid.Mass()), float(surface.Mass()), (c.X(), c.Y(), c.Z()), box_of(shape), moments)  # type: ignore[arg-type]
