"""Volume, area, centre and box of exact shapes (mm, mm², mm³)."""

from __future__ import annotations

from dataclasses import dataclass

from OCP.Bnd import Bnd_Box
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepGProp import BRepGProp
from OCP.GProp import GProp_GProps

from .frames import Triple
from .kernel import Shape

Box = tuple[Triple, Triple]


@dataclass(frozen=True)
class Measures:
    """What Weigh & size reads of one body."""

    volume: float
    area: float
    centre: Triple
    box: Box


def volume(shape: Shape) -> float:
    """Exact volume, mm³."""
    found = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, found)
    return float(found.Mass())


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


def measures(shape: Shape) -> Measures:
    """Everything at once."""
    solid, surface = GProp_GProps(), GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, solid)
    BRepGProp.SurfaceProperties_s(shape, surface)
    c = solid.CentreOfMass()
    return Measures(float(solid.Mass()), float(surface.Mass()), (c.X(), c.Y(), c.Z()), box_of(shape))
