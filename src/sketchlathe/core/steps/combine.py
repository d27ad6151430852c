"""Combine: bodies united, subtracted, or reduced to their overlap."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..blanks import Blank
from ..errors import CannotBuild
from .base import Step

if TYPE_CHECKING:
    from ..making.context import Context


class Combine(Step):
    """One body with others as tools."""

    kind: Literal["combine"] = "combine"
    word: ClassVar[str] = "Combine"
    chord: ClassVar[str] = "bc"
    synonyms: ClassVar[str] = "join unite subtract intersect boolean"
    group: ClassVar[str] = "body"
    order: ClassVar[int] = 40
    icon: ClassVar[str] = "M4 9.500a6 6 0 1 0 12 0a6 6 0 1 0-12 0M8 14a6 6 0 1 0 11-3"
    hint: ClassVar[str] = "Pick the body to change, then the bodies to change it with."
    sentence: ClassVar[str] = "{how} {target} {tools} and {keep}"
    assembles: ClassVar[bool] = True

    how: Annotated[
        Literal["unite", "subtract", "intersect"],
        Blank("choice", "how", "", {"unite": "unite", "subtract": "subtract from", "intersect": "keep the overlap of"}),
    ] = "unite"
    target: Annotated[tuple[str, ...], Blank("bodies", "body", "The body to change.")] = ()
    tools: Annotated[tuple[str, ...], Blank("bodies", "other bodies", "The bodies to change it with.")] = ()
    keep: Annotated[
        Literal["use", "keep"],
        Blank("choice", "the others", "", {"use": "use the others up", "keep": "keep the others too"}),
    ] = "use"

    def build(self, context: Context) -> None:
        from ..solid.shapes import common, cut, fuse

        if len(self.target) != 1:
            raise CannotBuild("Pick the one body to change.", where="target")
        target = context.bodies_of(self.target, "target")[0]
        if not self.tools:
            raise CannotBuild("Pick at least one other body.", where="tools")
        tools = context.bodies_of(self.tools, "tools")
        if target.id in self.tools:
            raise CannotBuild("A body cannot be combined with itself: pick another.", where="tools")
        made = {
            "unite": lambda: fuse([target], tools, self.id),
            "subtract": lambda: cut(target, tools, self.id),
            "intersect": lambda: common(target, tools, self.id),
        }[self.how]()
        if not made:
            left = (
                "These bodies do not overlap: nothing would be left."
                if self.how == "intersect"
                else "Nothing would be left."
            )
            raise CannotBuild(left, where="tools")
        gone = set() if self.keep == "keep" else set(self.tools)
        context.replace(target, made)
        context.bodies = tuple(b for b in context.bodies if b.id not in gone or b.id in {m.id for m in made})
