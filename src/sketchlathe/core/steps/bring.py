"""Bring in: exact solids of a STEP file, worked on by the steps that follow."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..advice import Advice
from ..blanks import Blank, Formula
from ..bringing.base import MOST_PACKED, unpacked
from ..errors import BadInput, CannotBuild
from .base import Step
from .outcome import ON, RESULT, Result

if TYPE_CHECKING:
    from ..making.context import Context


class BringIn(Step):
    """The solids of a file, moved to a place. The file itself is kept in the model."""

    kind: Literal["bring"] = "bring"
    word: ClassVar[str] = "Bring in"
    chord: ClassVar[str] = "bi"
    synonyms: ClassVar[str] = "import open STEP STL mesh reference"
    group: ClassVar[str] = "body"
    order: ClassVar[int] = 44
    icon: ClassVar[str] = "M11.500 2v12M7 10l4.500 4.500L16 10M4 15v5h15v-5"
    hint: ClassVar[str] = "Choose a file: STEP as a solid, STL or 3MF as a reference."
    sentence: ClassVar[str] = "Bring in {file} at {x}, {y}, {z}, {result}[, with {bodies}]"
    brought: ClassVar[bool] = True
    begins: ClassVar[bool] = True

    file: Annotated[str, Blank("text", "file", "What the file is called here."), Field(max_length=80)] = ""
    x: Annotated[Formula, Blank("length", "x", "Where its origin is put.")] = "0 mm"
    y: Annotated[Formula, Blank("length", "y", "Where its origin is put.")] = "0 mm"
    z: Annotated[Formula, Blank("length", "z", "Where its origin is put.")] = "0 mm"
    result: Annotated[Result, RESULT] = "add"
    bodies: Annotated[tuple[str, ...], ON] = ()
    data: str = Field(default="", max_length=MOST_PACKED)

    def key_parts(self, context: Context) -> Any:
        fields, uses = super().key_parts(context)
        return [{**fields, "file": ""}, uses]

    def build(self, context: Context) -> None:
        from ..solid.naming import Body
        from ..solid.stepfile import read_step
        from ..solid.transforms import copied, translation

        if not self.data:
            raise CannotBuild("There is no file in this step: bring one in.", where="file")
        by = tuple(context.value(self, n) for n in "xyz")
        try:
            solids, notes = read_step(unpacked(self.data), self.file)
        except BadInput as problem:
            raise CannotBuild(problem.message, where="file") from problem
        context.advice.extend(Advice(n) for n in notes)
        bodies = []
        for number, solid in enumerate(solids):
            id = self.id if number == 0 else f"{self.id}.{number}"
            tag = f"{number}." if len(solids) > 1 else ""
            names = tuple(frozenset({f"{self.id}:face:{tag}{i}"}) for i in range(solid.faces))
            bodies.append(copied(Body(id, solid.shape, names), translation(by), id))  # type: ignore[arg-type]
        context.combine(self, bodies, self.result, self.bodies)
