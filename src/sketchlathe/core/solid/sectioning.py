"""Bodies cut by a plane, to look inside: the cut faces with their area, triangles and outlines."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.BRepGProp import BRepGProp
from OCP.gp import gp_Ax3, gp_Dir, gp_Pln, gp_Pnt
from OCP.GProp import GProp_GProps

from ..frames import Frame
from ..mesh.slicing import plane_section, polygons
from ..mesh.surface import Surface
from .kernel import FACE, Shape, mapped, private
from .measuring import area_and_centre, rough_box
from .meshing import extract, tessellate, view_tolerance
from .naming import Body


@dataclass(frozen=True)
class Section:
    """What a plane shows of one body: area (mm²), length of the outlines (mm), triangles and outline pieces.

    positions (n, 3), triangles (t, 3) from 0, lines: polylines of (k, 3) points, mm.
    """

    body: str
    area: float
    outline: float
    positions: np.ndarray
    triangles: np.ndarray
    lines: tuple[np.ndarray, ...]
    shape: Shape | None


def section(body: Body, plane: Frame) -> Section | None:
    """The cut of a body by a plane; None where it is not met."""
    low, high = rough_box(body.shape)
    corners = [(x, y, z) for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])]
    heights = [plane.height(c) for c in corners]
    if min(heights) > 0 or max(heights) < 0:
        return None
    reach = 2 * (math.dist(low, high) + max(math.dist(plane.origin, c) for c in corners)) + 1.0
    axes = gp_Ax3(gp_Pnt(*plane.origin), gp_Dir(*plane.normal), gp_Dir(*plane.x))
    sheet = BRepBuilderAPI_MakeFace(gp_Pln(axes), -reach, reach, -reach, reach).Face()
    common = BRepAlgoAPI_Common(sheet, private(body.shape, mesh=False))
    if not common.IsDone():
        return None
    cut = common.Shape()
    if cut.IsNull() or mapped(cut, FACE).Size() == 0:
        return None
    rim = GProp_GProps()
    BRepGProp.LinearProperties_s(cut, rim)
    tessellate(cut, view_tolerance(math.dist(low, high)))
    mesh = extract(cut)
    lines = tuple(mesh.lines[first : first + count] for first, count in mesh.edges.astype(int))
    # an edge inside the cut is counted twice by its two faces; outlines bound one face only
    single = _bounds_one_face(cut)
    return Section(
        body.id,
        area_and_centre(cut)[0],
        float(rim.Mass()),
        mesh.positions,
        mesh.triangles,
        tuple(line for line, outer in zip(lines, single) if outer and len(line) > 1),
        cut,
    )


def surface_section(id: str, surface: Surface, plane: Frame) -> Section | None:
    """The cut of a surface of triangles by a plane; None where it is not met."""
    loops = plane_section(surface, np.array(plane.origin), np.array(plane.x), np.array(plane.normal))
    if not loops:
        return None
    area = polygons(loops)
    pieces = list(shapely.constrained_delaunay_triangles(area).geoms) if area.area > 0 else []
    corners = np.array([shapely.get_coordinates(t)[:3] for t in pieces]).reshape(-1, 2)
    lines = tuple(_placed(np.vstack([loop.points, loop.points[:1]]), plane) for loop in loops)
    triangles = np.arange(len(corners)).reshape(-1, 3)
    outline = sum(loop.length for loop in loops)
    return Section(id, float(area.area), outline, _placed(corners, plane), triangles, lines, None)


def _placed(points: np.ndarray, plane: Frame) -> np.ndarray:
    """Places of a plane in space."""
    x, y = np.array(plane.x), np.array(plane.y)
    return np.array(plane.origin) + points[:, :1] * x + points[:, 1:] * y  # type: ignore[no-any-return]


def _bounds_one_face(shape: Shape) -> list[bool]:
    from .digest import faces_of_edges

    return [len(around) == 1 for around in faces_of_edges(shape)]
