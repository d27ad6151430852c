"""A model: parameters, parts, and all that is done with them from Python."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..core.errors import BadInput, CannotBuild, NotFound
from ..core.exchange.base import FORMATS, Export
from ..core.exchange.modelfile import dump_model, load_model
from ..core.making.results import BuildCache
from ..core.model.building import build
from ..core.model.document import Model as Document
from ..core.model.document import new_model
from ..core.model.edits import apply_edit, parse_edit
from .formulas import Parameter, Size, text_of
from .part import Part
from .picking import things_of

if TYPE_CHECKING:
    from ..core.making.results import PartBuild
    from ..core.quantity.units import LengthUnit
    from .picking import Edge, Face


class Model:
    """A model. What its first part can do it can do itself: ``m.extrude(...)`` is ``m.parts[0].extrude(...)``.

    >>> m = Model("Plate")
    >>> wide = m.parameter("wide", "60 mm")
    >>> s = m.sketch("top")
    >>> outline = s.rectangle("origin", (wide, "40 mm"))
    >>> plate = m.extrude(s, "5 mm")
    >>> rounded = m.fillet(plate.edges(along="z"), "8 mm")
    >>> m.material = "PETG"
    >>> round(m.volume, 3)
    11725.31
    >>> wide.set("92 mm"); round(m.box[0], 6)
    92.0
    """

    def __init__(self, name: str = "New model", units: LengthUnit = "mm") -> None:
        self.document: Document = new_model(name, units)
        self.cache = BuildCache()
        self._built: dict[str, tuple[Document, PartBuild]] = {}
        self._things: dict[str, tuple[PartBuild, tuple[list[Edge], list[Face]]]] = {}

    @classmethod
    def open(cls, path: str | Path) -> Model:
        """A model that was saved as a model file. Raises ``BadInput`` where it is none."""
        model = cls()
        try:
            model.document = load_model(Path(path).read_bytes())
        except OSError as error:
            raise BadInput(f"{path} cannot be read: {error.strerror}.") from error
        return model

    def apply(self, edit: str, **fields: Any) -> None:
        """Do what a person does on the screen, by the edit's kind. Raises what that raises, and ``CannotBuild`` where a
        step that stood does not any more, or a new one cannot be made; nothing is changed then. What had failed before
        may go on failing: a model that is not whole is put right one step after the other.
        """
        before, failed = self.document, self._failed()
        self.document = apply_edit(before, parse_edit({"kind": edit, **fields}))
        if self.document.parts is before.parts and self.document.parameters is before.parameters:
            return
        for step, why in self._failed().items():
            if step not in failed:
                title = self.document.title_of(step)
                self.document = before
                raise CannotBuild(f"{title}: {why}", where=step)

    def _failed(self) -> dict[str, str]:
        """The steps of all parts that fail, and why."""
        return {r.step: r.message for part in self.document.there for r in self.build(part.id).failed}

    @property
    def name(self) -> str:
        """What it is called."""
        return self.document.name

    @property
    def parts(self) -> list[Part]:
        """Its parts in order."""
        return [Part(self, p.id) for p in self.document.there]

    def part(self, name: str) -> Part:
        """The part of a name, made where there is none yet."""
        found = next((p for p in self.parts if p.name == name), None)
        if found is None:
            self.apply("add_part", name=name, sort="part")
            found = self.parts[-1]
        return found

    def together(self, name: str = "Together") -> Part:
        """A new subject in which parts are brought together and placed."""
        self.apply("add_part", name=name, sort="together")
        return self.parts[-1]

    def sheet(self, name: str = "Sheet") -> Part:
        """A new sheet: its lines are steps, ``show``, ``say_sizes``, ``note``."""
        self.apply("add_part", name=name, sort="sheet")
        return self.parts[-1]

    def parameter(self, name: str, formula: Size) -> Parameter:
        """A new parameter. Raises ``BadInput`` for a name that is taken or no name, and for what is no formula."""
        self.apply("add_parameter", name=name, formula=text_of(formula))
        return Parameter(self, name)

    @property
    def parameters(self) -> dict[str, Parameter]:
        """Its parameters by name."""
        return {p.name: Parameter(self, p.name) for p in self.document.parameters}

    def build(self, part: str) -> PartBuild:
        """What comes of a part's steps, by its id; built once for a state of the model."""
        known = self._built.get(part)
        if known is None or known[0] is not self.document:
            from ..core.solid.kernel import silence

            silence()
            known = self._built[part] = (self.document, build(self.document, self.document.part(part), self.cache))
        return known[1]

    def things(self, part: str, built: PartBuild) -> tuple[list[Edge], list[Face]]:
        """All edges and faces of a part as built."""
        known = self._things.get(part)
        if known is None or known[0] is not built:
            found = [things_of(b) for b in built.bodies]
            edges, faces = [e for es, _ in found for e in es], [f for _, fs in found for f in fs]
            known = self._things[part] = (built, (edges, faces))
        return known[1]

    def save(self, path: str | Path, part: str = "", *, chord: float = 0.02, angle: float = 0.2) -> None:
        """Write a file; its ending says the format: ``.json`` keeps the whole model, others take a part out (the first
        one, or that of a name), meshes as fine as ``chord`` (mm) and ``angle`` (rad) say. Raises ``BadInput``.
        """
        to = Path(path)
        ending = to.suffix.lower().lstrip(".")
        if ending == "json":
            data = dump_model(self.document)
        else:
            data = self._taken_out(ending, part, chord, angle)
        try:
            to.write_bytes(data)
        except OSError as error:
            raise BadInput(f"{path} cannot be written: {error.strerror}.") from error

    def _taken_out(self, ending: str, name: str, chord: float, angle: float) -> bytes:
        part = next((p for p in self.parts if name in ("", p.name)), None)
        if part is None:
            raise NotFound(f"There is no part “{name}” here; there are {', '.join(p.name for p in self.parts)}.")
        of = "sheet" if part.document.sort == "sheet" else "part"
        format_class = next((f for f in FORMATS if f.ending == ending and f.of == of), None)
        if format_class is None:
            known = ", ".join(dict.fromkeys(["json", *(f.ending for f in FORMATS if f.of == of)]))
            raise BadInput(f"“.{ending}” is no format of a {of}; known are {known}.")
        built = part.built
        return format_class().write(Export(self.document, part.document, built.bodies, chord, angle, None, built))

    def __getattr__(self, name: str) -> Any:
        if name.startswith("__") or name not in dir(Part):
            raise AttributeError(f"A model has no “{name}”; a step kind, or what a part tells, is said by its name.")
        return getattr(self.parts[0], name)

    def __setattr__(self, name: str, value: Any) -> None:
        if name == "material":
            self.parts[0].material = value
        else:
            super().__setattr__(name, value)

    def __dir__(self) -> list[str]:
        return sorted({*super().__dir__(), *dir(Part)})

    def __repr__(self) -> str:
        numbers = [f"  {p!r}" for p in self.parameters.values()]
        return "\n".join([self.name, *numbers, *(repr(p) for p in self.parts)])
