"""The law that no kernel call changes a shape that anybody else holds, watched: kept shapes are digested when they are
kept, again before and after every step that is built, and at the end."""

from __future__ import annotations

import hashlib
import io
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from sketchlathe.core.making.results import BuildCache, StepResult
from sketchlathe.core.model import building


def shape_digest(shape: Any) -> str:
    """Topology, tolerances, curves on faces and geometry of a shape, without its triangles and the kernel's marks."""
    from OCP.BinTools import BinTools, BinTools_FormatVersion

    from sketchlathe.core.solid.kernel import EDGE, FACE, SHELL, SOLID, VERTEX, each, private

    own = private(shape, mesh=False)
    for kind in (SOLID, SHELL, FACE, EDGE, VERTEX):
        for thing in each(own, kind):
            thing.Checked(True)  # meshing takes this mark off edges
            thing.Modified(False)
    out = io.BytesIO()
    BinTools.Write_s(own, out, False, False, BinTools_FormatVersion.BinTools_FormatVersion_CURRENT)
    return hashlib.blake2b(out.getvalue(), digest_size=16).hexdigest()


class Damage(AssertionError):
    """A kept shape is not what it was."""


class ShapeWatch:
    """Everything that caches have kept, with its digest then."""

    def __init__(self) -> None:
        self._kept: dict[int, tuple[Any, str, str]] = {}  # by the identity of the body: body, digest, whose

    def note(self, result: StepResult) -> None:
        for body in held(result):
            if id(body) not in self._kept:
                self._kept[id(body)] = (body, shape_digest(body.shape), f"{result.step}/{body.id}")

    def check(self, when: str) -> None:
        hurt = [whose for body, digest, whose in self._kept.values() if shape_digest(body.shape) != digest]
        if hurt:
            raise Damage(f"{when}: changed shapes kept as {hurt}")


def held(result: StepResult) -> list[Any]:
    """The bodies of a result that are at hand: looking makes none."""
    found = [*result.bodies, *result.tools] if result.left.at_hand else []
    return [*found, *(result.before if result.given.at_hand else ())]


@contextmanager
def watched() -> Iterator[ShapeWatch]:
    """While this lasts, every kept shape is watched."""
    watch, put, build_step = ShapeWatch(), BuildCache.put, building._Walk._step

    def put_and_note(self: BuildCache, result: StepResult) -> None:
        put(self, result)
        watch.note(result)

    def build_and_check(self: Any, step: Any, number: int) -> StepResult:
        result = build_step(self, step, number)
        for body in held(result):
            kept = watch._kept.get(id(body))
            if kept is not None and shape_digest(body.shape) != kept[1]:
                raise Damage(f"building {step.kind} {step.id} changed {kept[2]}")
        return result

    BuildCache.put = put_and_note  # type: ignore[method-assign]
    building._Walk._step = build_and_check  # type: ignore[method-assign]
    try:
        yield watch
    finally:
        BuildCache.put = put  # type: ignore[method-assign]
        building._Walk._step = build_step  # type: ignore[method-assign]
