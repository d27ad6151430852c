"""A part: its steps are made by methods named as their kinds, and what it amounts to is read off it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..core.errors import BadInput, CannotBuild
from ..core.model.edits import apply_edit, parse_edit
from ..core.registry import kind_of
from ..core.steps.base import STEPS
from ..core.steps.base import Step as StepKind
from .filling import docs_of, fields_of, signature_of
from .made import Step
from .picking import Edge, Edges, Face, Faces, edges_among, faces_among
from .sketches import Sketch

if TYPE_CHECKING:
    from ..core.amounts.weighing import Weighed
    from ..core.making.results import PartBuild
    from ..core.model.document import Part as Document
    from .model import Model


class Part:
    """A part of a model. Every step kind is a method: what it must have in the order of its sentence, the rest by
    name. A step that cannot be made is refused with the reason, and the part stays as it was.

    >>> from sketchlathe import Model
    >>> part = Model("Plate").parts[0]
    >>> plate = part.block("60 mm", "40 mm", "5 mm")
    >>> round(part.volume, 6), part.box
    (12000.0, (60.0, 40.0, 5.0))
    >>> part
    Part 1
      1. Block 1 Put a box 60 mm wide, 40 mm deep, 5 mm high, at 0 mm, 0 mm, 0 mm, adding material
    """

    def __init__(self, model: Model, id: str) -> None:
        self.model, self.id = model, id

    @property
    def document(self) -> Document:
        """It as plain data, with all its steps."""
        return self.model.document.part(self.id)

    @property
    def name(self) -> str:
        """What it is called."""
        return self.document.name

    @name.setter
    def name(self, name: str) -> None:
        self.model.apply("rename_part", part=self.id, name=name)

    @property
    def steps(self) -> list[Step]:
        """Its steps in order."""
        return [self._handle(s) for s in self.document.steps]

    def _handle(self, step: StepKind) -> Step:
        return Sketch(self, step.id) if step.drawn else Step(self, step.id)

    def add(self, kind: str, *said: Any, **named: Any) -> Any:
        """A step of a kind. Raises ``BadInput`` where a blank is filled with what does not fit, ``CannotBuild`` where
        it cannot be made.
        """
        cls = STEPS[kind]
        fields = self._settled(kind, fields_of(cls, said, named))
        before = {s.id for s in self.document.steps}
        self.model.apply("add_step", part=self.id, step=kind, fields=fields)
        made = next(s for s in self.document.steps if s.id not in before)
        return self._handle(made)

    def fill(self, step: str, named: Mapping[str, Any]) -> None:
        """Fill blanks of one of its steps (by its id) anew: see ``Step.change``."""
        known = self.model.document.step(step)
        fields = fields_of(type(known), (), named, {n: getattr(known, n) for n in known.blanks()})
        self.model.apply("set_fields", step=step, fields=fields)

    def bring_file(self, path: str | Path, **named: Any) -> Step:
        """A step that holds a file: solids of a STEP file, triangles to look at and measure. Raises ``BadInput`` where
        it cannot be read or is no solid.
        """
        from ..core.bringing.base import read_file

        file = Path(path)
        try:
            brought = read_file(file.read_bytes(), file.name)
        except OSError as error:
            raise BadInput(f"{path} cannot be read: {error.strerror}.") from error
        if brought.gives != "step":
            raise BadInput(f"“{file.name}” holds {brought.gives}, not a solid: bring it in on the screen.")
        fields = {**brought.fields, **fields_of(STEPS[brought.step], (), named)}
        data, before = fields.pop("data"), {s.id for s in self.document.steps}
        self.model.apply(
            "bring_file", part=self.id, step=brought.step, file=fields.pop("file", file.name), data=data, fields=fields
        )
        return self._handle(next(s for s in self.document.steps if s.id not in before))

    def _settled(self, kind: str, fields: dict[str, Any]) -> dict[str, Any]:
        """The fields of a new step with what the screen would put into its other blanks: a cut goes where there is
        material.
        """
        from ..core.making.context import Context
        from ..core.making.results import NO_SOLIDS
        from ..core.model.building import build

        edit = {"kind": "add_step", "part": self.id, "step": kind, "fields": fields}
        trial = apply_edit(self.model.document, parse_edit(edit))
        known = {s.id for s in self.document.steps}
        step = next(s for s in trial.part(self.id).steps if s.id not in known)
        done = self.model.build(self.id).steps
        context = Context(
            trial, done[-1].left if done else NO_SOLIDS, {r.step: r for r in done}, step,
            lambda other, _: build(trial, trial.part(other), self.model.cache),
        )  # fmt: skip
        return {**step.better_defaults(context, set(fields)), **fields}

    @property
    def built(self) -> PartBuild:
        """What comes of its steps; built once for a state of the model. Raises ``CannotBuild`` where one fails."""
        built = self.model.build(self.id)
        for result in built.failed:
            raise CannotBuild(f"{self.model.document.title_of(result.step)}: {result.message}", where=result.step)
        return built

    @property
    def things(self) -> tuple[list[Edge], list[Face]]:
        """All edges and faces of its bodies."""
        return self.model.things(self.id, self.built)

    def edges(self, along: str | None = None, *, form: str | None = None, radius: float | None = None) -> Edges:
        """Its edges: those that run ``along`` x, y or z, of a ``form`` (straight, circular, free), of a ``radius``
        (mm). Raises ``NotFound`` where there is none, saying what there is.
        """
        return edges_among(self.things[0], along, form, radius)

    def faces(self, facing: str | None = None, *, form: str | None = None, radius: float | None = None) -> Faces:
        """Its faces: those ``facing`` up, down, left, right, front or back, of a ``form`` (flat, cylindrical, conical,
        spherical, ring-shaped, free), of a ``radius`` (mm). Raises ``NotFound`` where there is none.
        """
        return faces_among(self.things[1], facing, form, radius)

    @property
    def weighed(self) -> Weighed:
        """Volume (mm³), area (mm²), mass (g), centre of mass (mm), box (mm), inertia (g·mm²): all bodies together."""
        from ..core.inspect.report import weighed_part

        return weighed_part(self.model.document, self.document, self.built)

    @property
    def volume(self) -> float:
        """mm³."""
        return self.weighed.volume

    @property
    def area(self) -> float:
        """mm²."""
        return self.weighed.area

    @property
    def mass(self) -> float:
        """g, of its material."""
        return self.weighed.mass

    @property
    def box(self) -> tuple[float, float, float]:
        """Width, depth and height, mm."""
        low, high = self.weighed.box
        x, y, z = (h - l for l, h in zip(low, high))
        return (x, y, z)

    @property
    def centre(self) -> tuple[float, float, float]:
        """Its centre of mass, mm."""
        return self.weighed.centre

    @property
    def material(self) -> str:
        """What it is made of, by name; set by key (``petg``) or name."""
        from ..core.model.made_of import material_of

        return material_of(self.model.document, self.document.material).name

    @material.setter
    def material(self, word: str) -> None:
        from ..core.model.made_of import materials_of

        keys = {m.name.lower(): k for k, m in materials_of(self.model.document).items()}
        self.model.apply("set_material", part=self.id, material=keys.get(word.lower(), word.lower()))

    @property
    def sentences(self) -> list[str]:
        """Its steps, said."""
        return [s.sentence for s in self.steps]

    def _repr_png_(self) -> bytes | None:
        """Its picture, for a notebook."""
        from ..core.exchange.base import Export
        from ..core.exchange.png import draw

        built = self.model.build(self.id)
        return draw(Export(self.model.document, self.document, built.bodies), 720, 450) if built.bodies else None

    if TYPE_CHECKING:

        def __getattr__(self, kind: str) -> Callable[..., Any]:
            """The step kinds, which are put in below by their descriptions."""

    def __repr__(self) -> str:
        return "\n".join([self.name, *(f"  {n}. {s}" for n, s in enumerate(self.sentences, 1))])


def _making(kind: str, cls: type[StepKind]) -> Callable[..., Any]:
    def method(self: Any, /, *said: Any, **named: Any) -> Any:
        return self.add(kind, *said, **named)

    method.__name__, method.__doc__ = kind, docs_of(cls)
    method.__signature__ = signature_of(cls)  # type: ignore[attr-defined]
    return method


for _step in STEPS:
    setattr(Part, kind_of(_step), _making(kind_of(_step), _step))
