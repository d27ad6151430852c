"""Triangles of exact bodies, got out of the kernel in bulk.

Node-by-node access costs 200 ms for 40 k triangles; a compound of bare triangulated faces written with BinTools and
read with numpy costs a tenth. Layout of one triangulation there: counts (2 x int32), two flags, deflection, nodes,
optional UV, triangles (1-based), optional normals.
"""

from __future__ import annotations

import io
import struct
from dataclasses import dataclass

import numpy as np
from OCP.BinTools import BinTools
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.IMeshTools import IMeshTools_MeshAlgoType, IMeshTools_Parameters
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Compound, TopoDS_Face

from ..errors import CannotBuild
from ..mesh.surface import same_places
from .foreseeing import check_fineness
from .kernel import EDGE, FACE, Shape, each, private
from .ribbons import tessellate_ribbons

VIEW_ANGLE = 0.3
WELD = 1e-5  # mm; nodes closer than this are one in an exported mesh


@dataclass(frozen=True)
class Mesh:
    """Triangles of one body; faces and edges are ranges, in the kernel's order.

    positions (n, 3) float32 mm, normals (n, 3) float32, triangles (t, 3) uint32; ``faces`` (f, 2) first triangle
    and count; ``lines`` (k, 3) float32 points of edge polylines; ``edges`` (e, 2) first point and count.
    """

    positions: np.ndarray
    normals: np.ndarray
    triangles: np.ndarray
    faces: np.ndarray
    lines: np.ndarray
    edges: np.ndarray


def view_tolerance(box_size: float) -> float:
    """Chord tolerance for the screen, mm: a two-thousandth of the part."""
    return max(box_size / 2000.0, 1e-5)


def tessellate(shape: Shape, chord: float, angle: float = VIEW_ANGLE) -> None:
    """Put triangles on a shape: chord error at most ``chord`` mm, turn at most ``angle`` rad."""
    if not tessellate_ribbons(shape, chord, angle, lambda others: _tessellate(others, chord, angle)):
        _tessellate(shape, chord, angle)


def _tessellate(shape: Shape, chord: float, angle: float) -> None:
    parameters = IMeshTools_Parameters()
    parameters.MeshAlgo = IMeshTools_MeshAlgoType.IMeshTools_MeshAlgoType_Delabella
    parameters.Deflection = chord
    parameters.Angle = angle
    parameters.InParallel = False
    parameters.Relative = False
    parameters.CleanModel = False
    BRepMesh_IncrementalMesh(shape, parameters)
    if any(BRep_Tool.Triangulation_s(face, TopLoc_Location()) is None for face in each(shape, FACE)):
        # the fast algorithm leaves out some walls over free curves; the other one fills in what is missing
        parameters.MeshAlgo = IMeshTools_MeshAlgoType.IMeshTools_MeshAlgoType_Watson
        BRepMesh_IncrementalMesh(shape, parameters)


def extract(shape: Shape, *, edges: bool = True) -> Mesh:
    """The mesh of a tessellated shape as arrays; without its edges where nobody needs them."""
    builder, compound = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(compound)
    triangulations, reversed_faces, locations = [], [], []
    for face in each(shape, FACE):
        location = TopLoc_Location()
        triangulation = BRep_Tool.Triangulation_s(face, location)
        if triangulation is None:
            raise CannotBuild("One face of this part cannot be shown; it may be too thin.")
        bare = TopoDS_Face()
        builder.MakeFace(bare, triangulation)
        builder.Add(compound, bare)
        triangulations.append(triangulation)
        reversed_faces.append(face.Orientation() == TopAbs_REVERSED)
        locations.append(location)
    out = io.BytesIO()
    BinTools.Write_s(compound, out)
    # faces that are moved copies of one another share a triangulation, which is written once
    order = {id(t): i for i, t in enumerate({id(t): t for t in triangulations}.values())}
    unique = _read_triangulations(out.getvalue(), len(order))
    parts = [unique[order[id(t)]] for t in triangulations]
    points, triangles, faces = [], [], []
    first_point = first_triangle = 0
    for (nodes, corners), flipped, location in zip(parts, reversed_faces, locations):
        if not location.IsIdentity():
            nodes = _moved(nodes, location)
        if flipped:
            corners = corners[:, ::-1]
        points.append(nodes)
        triangles.append(corners + first_point)
        faces.append((first_triangle, len(corners)))
        first_point += len(nodes)
        first_triangle += len(corners)
    lines, ranges = np.zeros((0, 3), np.float32), np.zeros((0, 2), np.uint32)
    if edges:
        lines, ranges = _polylines(shape, triangulations, [p[0] for p in parts], locations)
    positions, corners = np.concatenate(points), np.concatenate(triangles)
    return Mesh(
        positions.astype(np.float32),
        _vertex_normals(positions, corners).astype(np.float32),
        corners.astype(np.uint32),
        np.array(faces, np.uint32),
        lines,
        ranges,
    )


def _read_triangulations(data: bytes, count: int) -> list[tuple[np.ndarray, np.ndarray]]:
    at = data.index(b"\nTriangulations ") + len(b"\nTriangulations ")
    end = data.index(b"\n", at)
    if int(data[at:end]) != count:
        raise CannotBuild("The triangles of this part could not be read.")
    at = end + 1
    found = []
    for _ in range(count):
        nodes, triangles = struct.unpack_from("<ii", data, at)
        has_uv, has_normals = data[at + 8], data[at + 9]
        at += 10 + 8
        points = np.frombuffer(data, "<f8", 3 * nodes, at).reshape(-1, 3)
        at += 24 * nodes
        if has_uv:
            at += 16 * nodes
        corners = np.frombuffer(data, "<i4", 3 * triangles, at).reshape(-1, 3).astype(np.int64) - 1
        at += 12 * triangles
        if has_normals:
            at += 12 * nodes
        found.append((points, corners))
    return found


def _moved(nodes: np.ndarray, location: TopLoc_Location) -> np.ndarray:
    t = location.Transformation()
    matrix = np.array([[t.Value(r, c) for c in range(1, 5)] for r in range(1, 4)])
    return nodes @ matrix[:, :3].T + matrix[:, 3]  # type: ignore[no-any-return]


def _vertex_normals(nodes: np.ndarray, corners: np.ndarray) -> np.ndarray:
    """Area-weighted normals; faces share no nodes, so round faces come out smooth and flat ones exact."""
    a, b, c = nodes[corners[:, 0]], nodes[corners[:, 1]], nodes[corners[:, 2]]
    facet = np.cross(b - a, c - a)
    normals = np.empty_like(nodes)
    index = corners.ravel()
    for axis in range(3):
        normals[:, axis] = np.bincount(index, np.repeat(facet[:, axis], 3), len(nodes))
    return normals / np.maximum(np.linalg.norm(normals, axis=1), 1e-30)[:, None]  # type: ignore[no-any-return]


def _polylines(
    shape: Shape, triangulations: list[object], nodes: list[np.ndarray], locations: list[TopLoc_Location]
) -> tuple[np.ndarray, np.ndarray]:
    """Edges as the nodes of a face's mesh that lie on them, so that lines and shading meet exactly."""
    from .digest import faces_of_edges

    chunks, ranges, first = [], [], 0
    for edge, around in zip(each(shape, EDGE), faces_of_edges(shape)):
        chunk = np.zeros((0, 3))
        if around and not BRep_Tool.Degenerated_s(edge):
            at = around[0]
            polygon = BRep_Tool.PolygonOnTriangulation_s(edge, triangulations[at], locations[at])
            if polygon is not None:
                index = [polygon.Node(i) - 1 for i in range(1, polygon.NbNodes() + 1)]
                chunk = nodes[at][index]
                if not locations[at].IsIdentity():
                    chunk = _moved(chunk, locations[at])
        chunks.append(chunk)
        ranges.append((first, len(chunk)))
        first += len(chunk)
    return np.concatenate(chunks).astype(np.float32), np.array(ranges, np.uint32)


def meshed(shape: Shape, chord: float, angle: float, *, edges: bool = True) -> Mesh:
    """The mesh of a copy without triangles: the same whatever has been looked at before, and
    nobody else's gets finer.
    """
    own = private(shape, mesh=False)
    tessellate(own, chord, angle)
    return extract(own, edges=edges)


def for_export(shape: Shape, chord: float, angle: float) -> Mesh:
    """A watertight mesh at an export tolerance. Raises ``CannotBuild`` where it would be too large to make."""
    check_fineness(shape, chord, angle)
    return welded(meshed(shape, chord, angle, edges=False))


def welded(mesh: Mesh) -> Mesh:
    """A mesh whose nodes are shared between faces, slivers left out: watertight where the shape is."""
    first, where = same_places(mesh.positions.astype(np.float64), WELD)
    triangles = where[mesh.triangles]
    a, b, c = triangles.T
    triangles = triangles[(a != b) & (b != c) & (c != a)]
    positions = mesh.positions[first]
    empty = np.zeros((0, 2), np.uint32)
    return Mesh(positions, np.zeros_like(positions), triangles.astype(np.uint32), empty, mesh.lines[:0], empty)


def faceted(mesh: Mesh, most: int = 40_000) -> Mesh:
    """A mesh as its triangles are: each flat, with its three edges (left out where there are too many to be seen)."""
    corners = mesh.positions[mesh.triangles].astype(np.float64)
    facet = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals = facet / np.maximum(np.linalg.norm(facet, axis=1), 1e-30)[:, None]
    count = len(corners)
    lines, ranges = np.zeros((0, 3), np.float32), np.zeros((0, 2), np.uint32)
    if count <= most:
        lines = corners[:, [0, 1, 2, 0]].reshape(-1, 3).astype(np.float32)
        ranges = np.stack([np.arange(count) * 4, np.full(count, 4)], axis=1).astype(np.uint32)
    flat = corners.reshape(-1, 3).astype(np.float32)
    triangles = np.arange(3 * count, dtype=np.uint32).reshape(-1, 3)
    return Mesh(flat, np.repeat(normals, 3, axis=0).astype(np.float32), triangles, mesh.faces, lines, ranges)
