"""What kind of thing bodies are, whatever their sizes: how many, how many openings run through them, which faces."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from OCP.BRep import BRep_Tool
from OCP.TopAbs import TopAbs_WIRE

from .kernel import EDGE, FACE, SHELL, VERTEX, Shape, each, mapped
from .naming import Body


@dataclass(frozen=True)
class Form:
    """``openings``: the genus of all bodies together, so a plate with two through holes has 2. ``atoms``: all that its
    faces are named by.
    """

    bodies: int
    openings: int
    atoms: frozenset[str]


def form_of(bodies: Sequence[Body]) -> Form:
    """The form of some bodies."""
    return Form(
        len(bodies),
        sum(openings(b.shape) for b in bodies),
        frozenset(atom for b in bodies for name in b.names for atom in name),
    )


def openings(shape: Shape) -> int:
    """The genus of a closed solid, by the formula of Euler and Poincaré: V - E + F - (L - F) = 2 (S - G), with L loops
    of faces and S shells. Edges that are points (the tip of a cone) do not count.
    """
    edges = sum(not BRep_Tool.Degenerated_s(e) for e in each(shape, EDGE))
    vertices, faces, shells = (mapped(shape, kind).Size() for kind in (VERTEX, FACE, SHELL))
    loops = sum(mapped(face, TopAbs_WIRE).Size() for face in each(shape, FACE))
    return int(shells - (vertices - edges + 2 * faces - loops) // 2)
