"""What every constraint kind declares."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal, NamedTuple

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, SerializeAsAny

from ...errors import BadInput
from ...registry import Registry

if TYPE_CHECKING:
    from ..document import AnySketch, Sketch
    from ..equations.rows import Rows

Does = Literal["joins", "holds", "levels", "sizes", "meets", "smooths"]
"""What a constraint does: makes points one, keeps something where it is, lays it level, sets a size or makes it that of
another, says how two curves meet, lets them meet smoothly.
"""

Ref = Annotated[str, Field(min_length=1, max_length=40)]


class Mark(NamedTuple):
    """A round tag beside the geometry: the point it belongs to and the side it stands on."""

    at: tuple[float, float]
    normal: tuple[float, float]


class Figure(NamedTuple):
    """How a dimension is drawn (ISO 129): the drawing form and its points in the sketch's plane, mm."""

    form: str  # "linear", "radial", "diametral", "angular"
    points: tuple[tuple[float, float], ...]
    label: tuple[float, float]


class Constraint(BaseModel):
    """One constraint of a sketch, on points and curves named in ``on``."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    kind: str = ""
    word: ClassVar[str]  # as a person says it: "horizontal"
    symbol: ClassVar[str]  # mathematical sign for its tag
    chord: ClassVar[str] = ""  # two-letter key
    takes: ClassVar[tuple[tuple[str, ...], ...]]  # each a pattern of "point", "line", "round", "arc", "curve"
    hint: ClassVar[str] = ""  # one line on what it needs
    does: ClassVar[frozenset[Does]] = frozenset()  # for those who do not care which kind it is

    id: str = Field(min_length=1, max_length=20)
    solved: ClassVar[tuple[str, ...]] = ()  # its own fields that are solved with the rest: "contact" (a place), "along"

    on: tuple[Ref, ...] = Field(min_length=1, max_length=4)

    @classmethod
    def __pydantic_init_subclass__(cls, **_: Any) -> None:
        if cls.model_fields["kind"].default:
            CONSTRAINTS.add(cls)

    @classmethod
    def fits(cls, sketch: Sketch, refs: tuple[str, ...]) -> tuple[str, ...] | None:
        """The refs in the order of the first pattern they fit, or None."""
        return next((found for pattern in cls.takes if (found := _arrange(sketch, pattern, refs))), None)

    @classmethod
    def made(cls, sketch: Sketch, id: str, refs: tuple[str, ...], **fields: Any) -> Constraint:
        """A constraint of this kind on ``refs`` as drawn: signs and branches are taken from the drawing."""
        arranged = cls.fits(sketch, refs)
        if arranged is None:
            raise BadInput(f"“{cls.word.capitalize()}” cannot be put on this selection. {cls.hint}".strip())
        return cls.model_validate({"id": id, "on": arranged, **cls.branch(sketch, arranged), **fields})

    @classmethod
    def branch(cls, sketch: Sketch, refs: tuple[str, ...]) -> dict[str, Any]:
        """The fields that record which of several solutions the drawing shows."""
        return {}

    def prepared(self, sketch: AnySketch) -> AnySketch:
        """The sketch made ready for this constraint (a spline's end freed to take a direction)."""
        return sketch

    def followers(self) -> tuple[str, ...]:
        """Ids of curves whose every scalar this constraint settles, so that they need no equations of their own."""
        return ()

    def needs_ends(self, sketch: Sketch) -> bool:
        """Whether it speaks of a curve from end to end (a length, a middle): it is lost when the curve is shortened."""
        return False

    def renamed(self, names: Mapping[str, str]) -> Constraint | None:
        """The constraint with references exchanged; None if one of them becomes empty (is gone)."""
        on = tuple(names.get(ref, ref) for ref in self.on)
        return None if "" in on else self.model_copy(update={"on": on})

    def torn(self, sketch: Sketch) -> Constraint | None:
        """The constraint once points that were joined where it holds have come apart; None if it holds no more."""
        return self

    @property
    def unknowns(self) -> dict[str, Any]:
        """Those of its own fields that are solved with the rest: a place (x, y) or a plain number each."""
        return {name: value for name in self.solved if (value := getattr(self, name)) is not None}

    def members(self) -> frozenset[str]:
        """Ids of the curves it speaks of."""
        return frozenset(ref.partition(".")[0] for ref in self.on)

    def say(self, rows: Rows, sketch: Sketch) -> None:
        """Add this constraint's equations to ``rows``."""
        raise NotImplementedError

    def marks(self, sketch: Sketch) -> list[Mark]:
        """Where its tags stand."""
        return [Mark(*sketch.anchor(ref)) for ref in self.on]

    def sentence(self, sketch: Sketch) -> str:
        """The constraint in words."""
        return f"{self.word} ({', '.join(sketch.name_of(ref) for ref in self.on)})"


def _arrange(sketch: Sketch, pattern: tuple[str, ...], refs: tuple[str, ...]) -> tuple[str, ...] | None:
    """Match refs to the tags of a pattern, whatever order they were picked in."""
    if len(pattern) != len(refs) or len(set(refs)) != len(refs):
        return None
    left = list(refs)
    out: list[str] = []
    for tag in pattern:
        found = next((ref for ref in left if tag in sketch.tags_of(ref)), None)
        if found is None:
            return None
        left.remove(found)
        out.append(found)
    return tuple(out)


CONSTRAINTS: Registry[Constraint] = Registry("constraint", "sketchlathe.core.sketch.constraints")

AnyConstraint = Annotated[SerializeAsAny[Constraint], BeforeValidator(CONSTRAINTS.parse)]
