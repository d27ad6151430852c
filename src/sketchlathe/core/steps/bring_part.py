"""Bring part: bodies of another part of the model, as they are there now."""

from __future__ import annotations

import math
import re
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..advice import Advice
from ..blanks import Blank, Formula
from ..errors import CannotBuild
from .base import Step

if TYPE_CHECKING:
    import numpy as np

    from ..making.context import Context
    from ..model.document import Model

MOST = 100
MOST_BODIES = 1000  # in one part: more can be neither shown nor checked


class BringPart(Step):
    """Copies of another part, moved to a place, which follow that part when it changes."""

    kind: Literal["bring_part"] = "bring_part"
    word: ClassVar[str] = "Bring part"
    chord: ClassVar[str] = "bt"
    synonyms: ClassVar[str] = "copy of a part follow assembly insert"
    group: ClassVar[str] = "body"
    order: ClassVar[int] = 46
    icon: ClassVar[str] = "M4 6.500l5-2.500l5 2.500v6l-5 2.500l-5-2.500zM4 6.500l5 2.500l5-2.500M9 9v6M16 12v8M12 16h8"
    hint: ClassVar[str] = "Choose a part of this model; it follows that part."
    sentence: ClassVar[str] = (
        "Bring part {part}[ as {variant}] at {x}, {y}, {z}[, turned {turn} about z][, tilted {tilt} about x][, rolled "
        "{roll} about y]"
        "[, {count} of them,][ one every {apart} along x]"
    )
    assembles: ClassVar[bool] = True
    begins: ClassVar[bool] = True

    part: Annotated[str, Blank("part", "part", "Which part of this model."), Field(max_length=20)] = ""
    variant: Annotated[
        str, Blank("variant", "variant", "With which set of values it is built.", optional=True), Field(max_length=20)
    ] = ""
    x: Annotated[Formula, Blank("length", "x", "Where its origin is put.")] = "0 mm"
    y: Annotated[Formula, Blank("length", "y", "Where its origin is put.")] = "0 mm"
    z: Annotated[Formula, Blank("length", "z", "Where its origin is put.")] = "0 mm"
    turn: Annotated[Formula, Blank("angle", "turn", "About the z axis.", optional=True)] = "0 deg"
    tilt: Annotated[Formula, Blank("angle", "tilt", "About the x axis, before it is turned.", optional=True)] = "0 deg"
    roll: Annotated[Formula, Blank("angle", "roll", "About the y axis, before the others.", optional=True)] = "0 deg"
    count: Annotated[Formula, Blank("count", "copies", "How many of them.", optional=True)] = "1"
    apart: Annotated[Formula, Blank("length", "distance of copies", "From one to the next.", optional=True)] = "20 mm"

    def brings(self) -> str:
        return self.part

    def body_word(self, model: Model, rest: str) -> str:
        part = next((p for p in model.parts if p.id == self.part), None)
        copy, _, source = rest.partition(".")
        if part is None or not copy:
            return ""
        name = self.name or part.name
        if source and (part.sort == "together" or any(n.body == source for n in part.body_names)):
            name = f"{name}: {model.title_of_body(source)}"
        same = [s.id for s in model.part_of(self.id).steps if s.brings() == self.part and not s.name]
        number = [f"{same.index(self.id) + 1}"] if not self.name and len(same) > 1 else []
        number += [copy] if self.count.strip() not in ("", "1") else []
        return f"{name} {'.'.join(number)}".strip()

    def key_parts(self, context: Context) -> Any:
        fields, uses = super().key_parts(context)
        built = context.part_built(self.part, "part", self.variant)
        return [fields, uses, built.solid_key, [r.message for r in built.failed], context.part_gone(self.part)]

    def build(self, context: Context) -> None:
        from ..making.results import Hand
        from ..solid.naming import Body
        from ..solid.transforms import copied, copy_of, rotation, translation

        if not self.part:
            raise CannotBuild("Choose the part to bring.", where="part")
        built = context.part_built(self.part, "part", self.variant)
        failed = built.failed
        if not built.bodies:
            why = f": {failed[0].message}" if failed else ": it has no solid yet."
            raise CannotBuild(f"{context.part_name(self.part)} cannot be brought{why}", where="part")
        if failed:
            context.advice.append(Advice(f"{context.part_name(self.part)} is not whole: {failed[0].message}"))
        if context.part_gone(self.part):
            back = ({"kind": "bring_back_part", "part": self.part},)
            text = f"{context.part_name(self.part)} was deleted: it keeps its last shape here."
            context.advice.append(Advice(text, "bring it back", edits=back))
        count = round(context.value(self, "count")) if self.count.strip() else 1
        if not 1 <= count <= MOST:
            raise CannotBuild(f"There may be 1 to {MOST} copies.", where="count")
        if count * len(built.bodies) + len(context.bodies) > MOST_BODIES:
            raise CannotBuild(f"This would make more than {MOST_BODIES} bodies in one part.", where="part")
        by = tuple(context.value(self, n) for n in "xyz")
        if max(map(abs, by)) > 1e5:
            raise CannotBuild("A part may be put at most 100 m away.", where="x")
        apart = context.value(self, "apart") if self.apart.strip() and count > 1 else 0.0
        made: list[Body] = []
        originals = [copy_of(b, f"{self.part}.{b.id}", built.solid_key) for b in built.bodies]
        for n in range(count):
            motion = translation((by[0] + n * apart, by[1], by[2]))
            for field, axis in (("turn", (0.0, 0.0, 1.0)), ("tilt", (1.0, 0.0, 0.0)), ("roll", (0.0, 1.0, 0.0))):
                if getattr(self, field).strip():
                    motion.Multiply(rotation((0.0, 0.0, 0.0), axis, context.value(self, field)))
            tag = f"{self.id}#{n + 1}"
            made += [
                copied(b, motion, f"{self.id}.{n + 1}.{b.id}", lambda atom, tag=tag: f"{tag}({atom})")  # type: ignore[misc]
                for b in originals
            ]
        typed = all(_is_plain(getattr(self, n)) for n in "xyz")
        if count == 1 and typed:
            ids = tuple(b.id for b in made)
            context.hands = tuple(
                Hand(id, self.id, ids, shift=(self.id, ("x", "y", "z")), shifted=(by[0], by[1], by[2])) for id in ids
            )
        context.tools = tuple(made)
        context.bodies = (*context.bodies, *made)


def _is_plain(formula: str) -> bool:
    """Whether a length is a number, not a formula that a hand would overwrite."""
    return re.fullmatch(r"\s*[-−+]?[\d.,/ ]+\s*[a-zµ\"]*\s*", formula) is not None


def blanks_for(turn: np.ndarray, shift: np.ndarray) -> dict[str, str]:
    """What stands in the blanks for a rigid motion: a rotation matrix (3, 3) as turn about z after tilt about x after
    roll about y, and a shift (mm).
    """
    tilt = math.asin(max(-1.0, min(1.0, float(turn[2, 1]))))
    angles = {
        "turn": math.atan2(-turn[0, 1], turn[1, 1]), "tilt": tilt, "roll": math.atan2(-turn[2, 0], turn[2, 2]),
    }  # fmt: skip
    places = {name: f"{round(float(v), 9) + 0.0:.12g} mm" for name, v in zip("xyz", shift)}
    return {**places, **{n: f"{round(math.degrees(a), 9) + 0.0:.12g} deg" for n, a in angles.items()}}
