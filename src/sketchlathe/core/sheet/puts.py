"""What the lines of a sheet put on it."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, TypeAlias

from ..frames import Frame, Triple, cross, dot, unit
from ..quantity.units import LENGTH, ReadIn, show

if TYPE_CHECKING:
    from ..solid.overlaid import Seen

XY: TypeAlias = tuple[float, float]

_S2, _S3 = 1 / math.sqrt(2), 1 / math.sqrt(3)
_ZERO: Triple = (0.0, 0.0, 0.0)
SIDES: dict[str, Frame] = {
    "front": Frame(_ZERO, (1.0, 0.0, 0.0), (0.0, -1.0, 0.0)),
    "above": Frame(_ZERO, (1.0, 0.0, 0.0), (0.0, 0.0, 1.0)),
    "left": Frame(_ZERO, (0.0, -1.0, 0.0), (-1.0, 0.0, 0.0)),
    "right": Frame(_ZERO, (0.0, 1.0, 0.0), (1.0, 0.0, 0.0)),
    "below": Frame(_ZERO, (1.0, 0.0, 0.0), (0.0, 0.0, -1.0)),
    "behind": Frame(_ZERO, (-1.0, 0.0, 0.0), (0.0, 1.0, 0.0)),
    "corner": Frame(_ZERO, (_S2, _S2, 0.0), (_S3, -_S3, _S3)),
}
"""The sides that a part is looked at from, as planes that face the eye: z is up, the front looks along y."""

OPPOSITE = {"front": "behind", "above": "below", "left": "right", "behind": "front", "below": "above", "right": "left"}

IN_FIRST_ANGLE: dict[str, tuple[int, int]] = {
    "front": (0, 0), "above": (0, -1), "below": (0, 1), "left": (1, 0), "right": (-1, 0), "behind": (2, 0),
    "corner": (1, -1),
}  # fmt: skip
"""Column and row (upwards) of views about the one from the front, ISO 5456-2: what is seen from above stands below."""

SIZES: dict[str, tuple[float, float]] = {
    "a4": (210.0, 297.0), "a3": (297.0, 420.0), "a2": (420.0, 594.0), "a1": (594.0, 841.0), "a0": (841.0, 1189.0),
}  # fmt: skip
"""Papers (ISO 216): width and height upright, mm."""

SCALES: tuple[float, ...] = (50, 20, 10, 5, 2, 1, 1 / 2, 1 / 5, 1 / 10, 1 / 20, 1 / 50, 1 / 100, 1 / 200, 1 / 500)
"""Scales of ISO 5455, largest first, and as many more."""


def scale_words(scale: float) -> str:
    """A scale as drawings say it.

    >>> scale_words(2), scale_words(0.2)
    ('2:1', '1:5')
    """
    return f"{scale:g}:1" if scale >= 1 else f"1:{1 / scale:g}"


def faces(frame: Frame, plane: Frame) -> bool:
    """Whether a plane is looked at straight on, from one side or the other."""
    return abs(dot(frame.normal, plane.normal)) > 1 - 1e-9


def side_for(size: Size) -> str:
    """The side from which a size is seen true; empty where none of ``SIDES`` shows it."""
    return next((side for side, frame in SIDES.items() if side != "corner" and faces(frame, size.plane)), "")


@dataclass(frozen=True)
class Paper:
    """The paper, how views are arranged on it, and what its title block says. ``scale`` 0: the largest that fits."""

    wide: float = 297.0
    high: float = 210.0
    called: str = "A4"
    first_angle: bool = True
    scale: float = 0.0
    title: str = ""
    number: str = ""
    by: str = ""


@dataclass(frozen=True)
class Cut:
    """Where what is shown was cut: the plane, which faces the eye, and what of each body lies in it, as rings of the
    view's coordinates (an outline, then its holes).
    """

    plane: Frame
    areas: tuple[tuple[tuple[tuple[XY, ...], ...], ...], ...] = field(repr=False)


@dataclass(frozen=True)
class View:
    """A part looked at from one side. ``lines``: in the coordinates of ``frame``, mm; ``low`` and ``high``: the corners
    of its box in space; ``moved``: how far somebody moved it from where it would stand, mm of paper; ``cut``: where it
    was cut open.
    """

    part: str
    side: str
    frame: Frame
    lines: tuple[Seen, ...] = field(repr=False)
    low: Triple
    high: Triple
    hidden: bool = True
    smooth: bool = False
    moved: XY = (0.0, 0.0)
    cut: Cut | None = None

    def shows_true(self, plane: Frame) -> bool:
        """Whether what lies in a plane is seen as it is."""
        return faces(self.frame, plane)


@dataclass(frozen=True)
class Size:
    """A size as a sketch has it: ``points`` as its form says (``constraints.base.Figure``), in the plane of ``plane``.

    ``at``: where its number stands there. ``text``: see ``mm``. ``step``: whose it is; ``number``: which of its numbers
    (a dimension of a sketch, a blank), where it can be changed.
    """

    form: str
    plane: Frame
    points: tuple[XY, ...]
    at: XY
    text: str
    step: str
    number: str = ""


def dimension_words(mm: float, units: ReadIn) -> str:
    """A length as drawings write it: without its unit, which stands in the title block."""
    return show(mm, LENGTH, units, 3).removesuffix(f" {units.partition('/')[0]}")


_MM = re.compile(r"\{([^{}]+)\}")


def mm(value: float) -> str:
    """A length in a text that is put into the reader's unit later (``in_words``)."""
    return f"{{{value!r}}}"


def in_words(text: str, units: ReadIn) -> str:
    """A text with its lengths in a unit."""
    return _MM.sub(lambda found: dimension_words(float(found[1]), units), text)


def length_along(origin: Triple, way: Triple, low: float, high: float, text: str, step: str, number: str) -> Size:
    """A length along a direction of space, from one height over ``origin`` to another; seen true from its side."""
    # any plane along it will do: a view that shows the length true is found by its direction
    across = min(((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)), key=lambda a: abs(dot(a, way)))
    plane = Frame(origin, way, unit(cross(way, across)))
    ends = sorted((low, high))
    points = ((ends[0], 0.0), (ends[1], 0.0), (1.0, 0.0))
    return Size("linear", plane, points, (sum(ends) / 2, 0.0), text, step, number)


@dataclass(frozen=True)
class Sizes:
    """Sizes of a part, to be put into its views; ``over_all``: also its width, depth and height where nothing says
    them, for each way through space as any view may show it. ``words``: what cannot be drawn as a size, a line each.
    """

    part: str
    sizes: tuple[Size, ...] = ()
    over_all: tuple[tuple[Size, ...], ...] = ()
    words: tuple[str, ...] = ()


@dataclass(frozen=True)
class Note:
    """Words at a place of the paper, mm from its lower left corner."""

    words: str
    at: XY


Put: TypeAlias = Paper | View | Sizes | Note


def over_all(low: Triple, high: Triple, texts: Sequence[str]) -> tuple[tuple[Size, ...], ...]:
    """Width, depth and height of a box, each as it would be said in the planes that show it."""
    middle = tuple((a + b) / 2 for a, b in zip(low, high))
    found = []
    for axis, text in enumerate(texts):
        if high[axis] - low[axis] < 1e-9:
            continue
        ends = [tuple(v[axis] if k == axis else middle[k] for k in range(3)) for v in (low, high)]
        ways = []
        for side in ("front", "above", "left"):
            frame = SIDES[side]
            if abs(frame.normal[axis]) > 0.5:
                continue
            a, b = (frame.flat(p) for p in ends)  # type: ignore[arg-type]
            way = (1.0, 0.0) if abs(b[0] - a[0]) > abs(b[1] - a[1]) else (0.0, 1.0)
            # it hangs on the corner of the box that is nearest to where it goes
            corner = frame.flat(low)
            across = (corner[1], corner[1]) if way[0] else (corner[0], corner[0])
            a = (a[0], across[0]) if way[0] else (across[0], a[1])
            b = (b[0], across[1]) if way[0] else (across[1], b[1])
            ways.append(Size("linear", frame, (a, b, way), ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2), text, ""))
        found.append(tuple(ways))
    return tuple(found)
