"""Edits of variants (named sets of values) and of limits of numbers."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ...errors import BadInput
from ...quantity.units import NUMBER
from ..document import MOST_VARIANTS, Limits, Model, Variant
from ..variants import as_variant, read_table, variant_of, with_cell, with_rows
from .base import Edit


class AddVariant(Edit):
    """A new variant: with the values that the model has now, or those of another one."""

    kind: Literal["add_variant"] = "add_variant"
    name: str = Field(default="", max_length=200)
    like: str = Field(default="", max_length=20)

    def apply(self, model: Model) -> Model:
        if len(model.variants) >= MOST_VARIANTS:
            raise BadInput(f"A model may have at most {MOST_VARIANTS} variants.")
        (id,), model = model.fresh("v")
        if self.like:
            old = variant_of(model, self.like)
            made = old.model_copy(update={"id": id, "name": self._free(model, self.name or f"{old.name} again")})
        else:
            values = {p.name: p.formula for p in model.parameters}
            made = Variant(id=id, name=self._free(model, self.name or "Variant"), values=values)
        named = with_cell(model, "", made, "variant", made.name)
        return model.changed(variants=(*model.variants, named))

    @staticmethod
    def _free(model: Model, wanted: str) -> str:
        """The wanted name, with a number where it is taken."""
        names, wanted = {v.name for v in model.variants}, " ".join(wanted.split())
        tried = (f"{wanted} {n}" for n in range(1 if wanted == "Variant" else 2, MOST_VARIANTS + 2))
        return wanted if wanted != "Variant" and wanted not in names else next(n for n in tried if n not in names)

    def summary(self, before: Model, after: Model) -> str:
        return f"Variant “{after.variants[-1].name}” added"


class SetVariant(Edit):
    """Fill one place in the table of variants; empty: the model's own value. ``part``: whose material it is."""

    kind: Literal["set_variant"] = "set_variant"
    variant: str = Field(max_length=20)
    head: str = Field(max_length=60)
    text: str = Field(max_length=4000)
    part: str = Field(default="", max_length=20)

    def apply(self, model: Model) -> Model:
        new = with_cell(model, self.part, variant_of(model, self.variant), self.head, self.text)
        _ = as_variant(model, new)
        return model.changed(variants=tuple(new if v.id == new.id else v for v in model.variants))

    def summary(self, before: Model, after: Model) -> str:
        name = variant_of(before, self.variant).name
        return f"Variant “{name}”: {self.head} {self.text.strip()[:80] or 'as the model has it'}"


class DeleteVariant(Edit):
    """Delete a variant; the model itself stays as it is."""

    kind: Literal["delete_variant"] = "delete_variant"
    variant: str = Field(max_length=20)

    def apply(self, model: Model) -> Model:
        gone = variant_of(model, self.variant)
        return model.changed(variants=tuple(v for v in model.variants if v.id != gone.id))

    def summary(self, before: Model, after: Model) -> str:
        return f"Variant “{variant_of(before, self.variant).name}” deleted"


class BringVariants(Edit):
    """Variants from a table: rows of a known name change that variant, others are new."""

    kind: Literal["bring_variants"] = "bring_variants"
    table: str = Field(max_length=400_000)
    part: str = Field(default="", max_length=20)

    def apply(self, model: Model) -> Model:
        return with_rows(model, self.part, read_table(self.table))

    def summary(self, before: Model, after: Model) -> str:
        count = len(read_table(self.table).rows)
        return f"{count} variant{'s' * (count != 1)} from a table"


class TakeVariant(Edit):
    """Give the model a variant's values."""

    kind: Literal["take_variant"] = "take_variant"
    variant: str = Field(max_length=20)

    def apply(self, model: Model) -> Model:
        return as_variant(model, variant_of(model, self.variant))

    def summary(self, before: Model, after: Model) -> str:
        return f"Variant “{variant_of(before, self.variant).name}” taken"


class SetLimits(Edit):
    """How far a number may go; both ends empty: as far as it likes."""

    kind: Literal["set_limits"] = "set_limits"
    part: str = Field(max_length=20)
    knob: str = Field(max_length=120)
    low: str = Field(default="", max_length=400)
    high: str = Field(default="", max_length=400)

    def apply(self, model: Model) -> Model:
        from ..knobs import knob_of

        rest = tuple(k for k in model.limits if k.knob != self.knob)
        if not self.low.strip() and not self.high.strip():
            return model.changed(limits=rest)
        knob = knob_of(model, model.part(self.part), self.knob)
        ends = [_end(model, text, knob.dimension) for text in (self.low, self.high)]
        if None not in ends and ends[0] > ends[1]:  # type: ignore[operator]
            raise BadInput(f"The limits of {knob.title} leave nothing: the lower is above the upper.", where=self.knob)
        return model.changed(limits=(*rest, Limits(knob=self.knob, low=self.low.strip(), high=self.high.strip())))

    def summary(self, before: Model, after: Model) -> str:
        from ..knobs import knobs

        title = next((k.title for k in knobs(after, after.part(self.part)) if k.id == self.knob), "a number")
        ends = " to ".join(filter(None, (self.low.strip(), self.high.strip())))
        return f"Limits of {title}: {ends or 'none'}"


def _end(model: Model, text: str, dimension: object) -> float | None:
    from ...quantity import evaluate

    if not text.strip():
        return None
    wanted = None if dimension == NUMBER else dimension
    return evaluate(text, model.table.values, wanted=wanted, length_unit=model.units).value  # type: ignore[arg-type]
