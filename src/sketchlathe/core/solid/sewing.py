"""Solids of faces that meet, sewn, with their names."""

from __future__ import annotations

from collections.abc import Sequence

from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid, BRepBuilderAPI_Sewing
from OCP.TopoDS import TopoDS, TopoDS_Shell

from ..errors import CannotBuild
from .kernel import FACE, SHELL, Shape, each, is_valid, mapped
from .measuring import volume
from .naming import Body, FaceName, named


def sewn(
    id: str,
    faces: Sequence[tuple[Shape, FaceName]],
    fallback: str,
    tolerance: float,
    problem: CannotBuild,
    *,
    like: float = 1.0,
    others: Sequence[Shape] = (),
) -> Body:
    """One solid of faces that meet within a tolerance (mm); where they do not close, or give nothing sound, the problem
    is raised. ``like``: the sign of its volume as a shell (-1: the wall of a hollow); ``others``: shells that are part
    of the solid besides; ``fallback``: the atom of a face that lost its name.
    """
    sewing = BRepBuilderAPI_Sewing(tolerance)
    for face, _ in faces:
        sewing.Add(face)
    sewing.Perform()
    shells = list(each(sewing.SewedShape(), SHELL)) or [_shell_of(sewing.SewedShape())]
    if len(shells) != 1 or not BRep_Tool.IsClosed_s(shells[0]):
        raise problem
    shell = shells[0]
    if volume(BRepBuilderAPI_MakeSolid(shell).Solid()) * like < 0:
        shell = TopoDS.Shell(shell.Reversed())
    maker = BRepBuilderAPI_MakeSolid(shell)
    for other in others:
        maker.Add(other)
    solid = maker.Solid()
    if volume(solid) <= 0 or not is_valid(solid):
        raise problem
    found, names = mapped(solid, FACE), dict[int, FaceName]()
    for face, name in faces:
        at = found.FindIndex(sewing.Modified(face)) if sewing.IsModified(face) else found.FindIndex(face)
        at = at or found.FindIndex(sewing.ModifiedSubShape(face))
        if at:
            names[at] = name
    return named(id, solid, names, fallback)


def _shell_of(shape: Shape) -> Shape:
    """A shell of loose faces: of one, mostly, that closes with itself as a torus does."""
    shell, builder = TopoDS_Shell(), BRep_Builder()
    builder.MakeShell(shell)
    for face in each(shape, FACE):
        builder.Add(shell, face)
    shell.Closed(BRep_Tool.IsClosed_s(shell))
    return shell
