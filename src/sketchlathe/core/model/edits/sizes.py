"""Edits of a model's own values in tables of sizes."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...errors import BadInput
from ...quantity import evaluate
from ...quantity.units import LENGTH
from ...sizes.tables import TABLES
from ..document import Model
from .base import Edit


class SetSizes(Edit):
    """A table's values as they are typed (lengths or formulas by the name of a size); what is left empty, and what is
    not named, is as usual.
    """

    kind: Literal["set_sizes"] = "set_sizes"
    table: str = Field(max_length=20)
    sizes: dict[Annotated[str, Field(max_length=20)], Annotated[str, Field(max_length=400)]] = Field(max_length=100)

    def apply(self, model: Model) -> Model:
        table = TABLES.get(self.table)
        if table is None:
            raise BadInput("There is no such table of sizes.", where="table")
        own: dict[str, float] = {}
        for name, text in self.sizes.items():
            if name not in table.usual:
                raise BadInput(f"There is no size “{name}” in this table.", where=name)
            if not text.strip():
                continue
            size = evaluate(text, model.table.values, wanted=LENGTH, length_unit=model.units).value
            if not table.least <= size <= table.most:
                raise BadInput(
                    f"A {table.of} must be from {table.least:g} to {table.most:g} mm: look at {name}.", where=name
                )
            if abs(size - table.usual[name]) > 1e-9:
                own[name] = size
        others = {key: sizes for key, sizes in model.sizes.items() if key != self.table}
        return model.changed(sizes=others | ({self.table: own} if own else {}))

    def summary(self, before: Model, after: Model) -> str:
        return f"{TABLES[self.table].title} changed"
