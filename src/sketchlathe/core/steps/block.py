"""Block: a plain solid with typed sizes, position and turn."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..blanks import Blank, Formula
from ..errors import CannotBuild
from .base import Step
from .outcome import ON, RESULT, Result

if TYPE_CHECKING:
    from ..making.context import Context

_ROUND = ("cylinder", "cone", "sphere", "torus")
_TALL = ("box", "cylinder", "cone")


class Block(Step):
    """A box, cylinder, cone, ball or ring."""

    kind: Literal["block"] = "block"
    word: ClassVar[str] = "Block"
    chord: ClassVar[str] = "bb"
    synonyms: ClassVar[str] = "box cuboid"
    group: ClassVar[str] = "body"
    order: ClassVar[int] = 42
    icon: ClassVar[str] = "M3.500 7l8-4l8 4v9l-8 4l-8-4zM3.500 7l8 4l8-4M11.500 11v9"
    begins: ClassVar[bool] = True
    hint: ClassVar[str] = "Choose a shape, type its sizes and where it stands."
    sentence: ClassVar[str] = (
        "Put a {shape}[ {width} wide, {depth} deep][ of diameter {diameter}][ ending in {top}][ with a tube of {tube}]"
        "[, {height} high,] at {x}, {y}, {z}[, tilted {tilt}][, turned {turn}], {result}[, with {bodies}]"
    )

    shape: Annotated[
        Literal["box", "cylinder", "cone", "sphere", "torus"],
        Blank(
            "choice",
            "shape",
            "",
            {"box": "box", "cylinder": "cylinder", "cone": "cone", "sphere": "ball", "torus": "ring"},
        ),
    ] = "box"
    width: Annotated[Formula, Blank("length", "width", "Along x.", when=("shape", ("box",)), main=True)] = "20 mm"
    depth: Annotated[Formula, Blank("length", "depth", "Along y.", when=("shape", ("box",)))] = "20 mm"
    diameter: Annotated[Formula, Blank("length", "diameter", "", when=("shape", _ROUND))] = "20 mm"
    top: Annotated[Formula, Blank("length", "top diameter", "0 ends in a point.", when=("shape", ("cone",)))] = "10 mm"
    tube: Annotated[Formula, Blank("length", "tube diameter", "", when=("shape", ("torus",)))] = "5 mm"
    height: Annotated[Formula, Blank("length", "height", "", when=("shape", _TALL))] = "10 mm"
    x: Annotated[Formula, Blank("length", "x", "Where it stands.")] = "0 mm"
    y: Annotated[Formula, Blank("length", "y", "Where it stands.")] = "0 mm"
    z: Annotated[Formula, Blank("length", "z", "Where it stands.")] = "0 mm"
    tilt: Annotated[Formula, Blank("angle", "tilt", "About the x axis, first.", optional=True)] = "0 deg"
    turn: Annotated[Formula, Blank("angle", "turn", "About the z axis, then.", optional=True)] = "0 deg"
    result: Annotated[Result, RESULT] = "add"
    bodies: Annotated[tuple[str, ...], ON] = ()

    def face_words(self) -> dict[str, str]:
        # in the order in which the kernel makes them, before it is tilted and turned
        words = {
            "box": ("left side", "right side", "front", "back", "underside", "top"),
            "cylinder": ("round side", "top", "underside"),
            "cone": ("round side", "top", "underside"),
        }.get(self.shape, ())
        return {f"side:{i}": word for i, word in enumerate(words)}

    def _size(self, context: Context, field: str, *, zero: bool = False) -> float:
        value = context.value(self, field)
        if not (0 if zero else 1e-4) <= value <= 1e5 or not math.isfinite(value):
            raise CannotBuild(f"The {self.blanks()[field].label} must be above zero and at most 100 m.", where=field)
        return value

    def build(self, context: Context) -> None:
        from ..frames import Frame
        from ..solid import primitives

        x, y, z = (context.value(self, name) for name in "xyz")
        given = self.formulas()
        tilt, turn = (context.value(self, n) if n in given else 0.0 for n in ("tilt", "turn"))
        ct, st, cr, sr = math.cos(tilt), math.sin(tilt), math.cos(turn), math.sin(turn)
        frame = Frame((x, y, z), (cr, sr, 0.0), (st * sr, -st * cr, ct))
        if self.shape == "box":
            sizes = [self._size(context, name) for name in ("width", "depth", "height")]
            made = primitives.box(self.id, frame, *sizes)
        elif self.shape == "cylinder":
            made = primitives.cylinder(
                self.id, frame, self._size(context, "diameter") / 2, self._size(context, "height")
            )
        elif self.shape == "cone":
            low, high = self._size(context, "diameter") / 2, self._size(context, "top", zero=True) / 2
            if abs(low - high) < 1e-6:
                raise CannotBuild("Both ends of this cone are the same: take a cylinder.", where="top")
            made = primitives.cone(self.id, frame, low, high, self._size(context, "height"))
        elif self.shape == "sphere":
            made = primitives.sphere(self.id, frame, self._size(context, "diameter") / 2)
        else:
            ring, tube = self._size(context, "diameter") / 2, self._size(context, "tube") / 2
            if tube >= ring:
                raise CannotBuild("The tube must be thinner than the ring.", where="tube")
            made = primitives.torus(self.id, frame, ring, tube)
        context.combine(self, [made], self.result, self.bodies)
