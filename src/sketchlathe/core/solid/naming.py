"""Names of faces: sets of atoms that say how a face came to be, carried through every operation.

An atom is ``STEP:ROLE`` or ``STEP:ROLE:SOURCE`` (grammar in docs/ARCHITECTURE.md). A split face's pieces share its
name; merged faces unite theirs.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any, NamedTuple

from .kernel import FACE, Shape, ShapeMap, listed, mapped, private

FaceName = frozenset[str]


class Copied(NamedTuple):
    """That a body is a copy: of what (part.body), and the rigid motion from there, the twelve numbers of a matrix (3,
    4) row by row; none where it was mirrored or scaled. ``state`` tells one shape of the original from another.
    """

    of: str
    motion: tuple[float, ...]
    state: str = ""


@dataclass(frozen=True)
class Body:
    """One solid with the names of its faces, in the kernel's order. ``id`` says which step made it.

    ``came``: kept as long as it is only moved, mirrored or scaled: what it is made of and called follows from it, and
    equal copies share their geometry in files.
    """

    id: str
    shape: Shape
    names: tuple[FaceName, ...]
    came: Copied | None = None


def apart(body: Body) -> Body:
    """A body on a copy of its shape that nobody else holds (see ``kernel.private``)."""
    return replace(body, shape=private(body.shape))


def named(id: str, shape: Shape, names: Mapping[int, FaceName], fallback: str) -> Body:
    """A body from names by face index (1-based); a face without one gets ``fallback``."""
    count = mapped(shape, FACE).Size()
    lost = frozenset({fallback})
    return Body(id, shape, tuple(names.get(i) or lost for i in range(1, count + 1)))


def carried(sources: Iterable[Body], operation: Any, result: ShapeMap) -> dict[int, FaceName]:
    """Names in ``result`` (a face map) of what came from ``sources`` through ``operation``'s history.

    A face that is still there keeps its name without asking; only the others are looked up.
    """
    names: dict[int, set[str]] = {}
    for body in sources:
        faces = mapped(body.shape, FACE)
        for i in range(1, faces.Size() + 1):
            face = faces.FindKey(i)
            name = body.names[i - 1]
            at = result.FindIndex(face)
            if at:
                names.setdefault(at, set()).update(name)
                continue
            for piece in listed(operation.Modified(face)):
                at = result.FindIndex(piece)
                if at:
                    names.setdefault(at, set()).update(name)
    return {at: frozenset(name) for at, name in names.items()}
