"""Tables as CSV (RFC 4180): the parameters, and the steps as sentences."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import ClassVar

from ..amounts.weighing import Units
from ..inspect.parts_list import as_rows, parts_list
from ..model.document import origin_of
from ..model.edits.parameters import uses_of
from ..model.made_of import bought_as, key_for, material_of
from ..plain_csv import written
from ..quantity.units import show
from ..steps.base import plain_sentence
from .base import FORMATS, Export, Format, require_solid


def _bytes(rows: Iterable[Sequence[object]]) -> bytes:
    return written(rows).encode()


@FORMATS.add
class ParameterTable(Format):
    """The parameters with formulas and values."""

    kind: ClassVar[str] = "csv-parameters"
    word: ClassVar[str] = "Parameters"
    ending: ClassVar[str] = "csv"
    media: ClassVar[str] = "text/csv"
    hint: ClassVar[str] = "name, formula, value, note; can be brought in again"
    order: ClassVar[int] = 30
    needs_solid: ClassVar[bool] = False

    def write(self, export: Export) -> bytes:
        model = export.model
        rows = []
        for p in model.parameters:
            value = show(model.table[p.name].value, model.table[p.name].dimension, model.units)
            rows.append((p.name, p.formula, value, p.note, "; ".join(uses_of(model, p.name))))
        return _bytes([("name", "formula", "value", "note", "used by"), *rows])


@FORMATS.add
class StepTable(Format):
    """The steps as sentences, with what came of them."""

    kind: ClassVar[str] = "csv-steps"
    word: ClassVar[str] = "Steps"
    ending: ClassVar[str] = "csv"
    media: ClassVar[str] = "text/csv"
    hint: ClassVar[str] = "number, title, sentence, what came of it"
    order: ClassVar[int] = 31
    needs_solid: ClassVar[bool] = False

    def write(self, export: Export) -> bytes:
        came = {r.step: (r.status, r.message) for r in export.built.steps} if export.built else {}
        rows = [
            (i, export.model.title_of(s.id), plain_sentence(s, export.model), *came.get(s.id, ("", "")))
            for i, s in enumerate(export.part.steps, 1)
        ]
        return _bytes([("number", "title", "sentence", "came out", "message"), *rows])


@FORMATS.add
class PartsTable(Format):
    """What it consists of: parts with counts, materials, masses, boxes."""

    kind: ClassVar[str] = "csv-parts"
    word: ClassVar[str] = "Parts list"
    ending: ClassVar[str] = "csv"
    media: ClassVar[str] = "text/csv"
    hint: ClassVar[str] = "parts with counts, materials, masses and boxes"
    order: ClassVar[int] = 32

    def write(self, export: Export) -> bytes:
        from ..solid.measuring import measures

        require_solid(export)
        units = Units(export.model.units, "oz" if export.model.units == "in" else "g")
        facts = []
        for body in export.bodies:
            m = measures(body.shape)
            key = key_for(export.model, export.part, body)
            source, _ = origin_of(export.model, export.part, body)
            facts.append({
                "id": body.id, "volume": m.volume, "density": material_of(export.model, key).density, "box": m.box,
                "material": key, "brought": "" if source is export.part else source.id,
                "bought": bought_as(export.model, export.part, body),
            })  # fmt: skip
        rows = as_rows(parts_list(export.model, export.part, facts), units)
        head = ("part", "count", "material", f"{units.mass} each", f"{units.mass} together", "box")
        return _bytes([head, *rows])
