"""Variants: named sets of values of one model. As a table they are rows of texts, in a file and on the screen alike."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass

from ..errors import BadInput, NotFound
from ..plain_csv import meant, written
from ..quantity import settle
from .document import MOST_VARIANTS, Model, Variant
from .made_of import materials_of

NAME, MATERIAL, WITHOUT = "variant", "material", "without"
"""Headings of a table besides the names of parameters: what it is called, what the part is made of, the titles of steps
that are left out, with semicolons between them.
"""
_OWN = (NAME, MATERIAL, WITHOUT)


@dataclass(frozen=True)
class Table:
    """``heads`` over rows of as many texts each; an empty text leaves the model's own value."""

    heads: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


def variant_of(model: Model, variant_id: str) -> Variant:
    """The variant with this id."""
    for variant in model.variants:
        if variant.id == variant_id:
            return variant
    raise NotFound("That variant is not in this model (any more).", where=variant_id)


def as_variant(model: Model, variant: Variant) -> Model:
    """The model with a variant's values. Sketches are not solved again (``edits.TakeVariant`` through ``apply_edit``
    does).
    """
    parameters = tuple(
        p.model_copy(update={"formula": variant.values[p.name]}) if p.name in variant.values else p
        for p in model.parameters
    )
    after = model.changed(parameters=parameters)
    for part in model.parts:
        steps = tuple(
            s.model_copy(update={"skipped": variant.skipped[s.id]})
            if s.id in variant.skipped and s.skipped != variant.skipped[s.id]
            else s
            for s in part.steps
        )
        material = variant.materials.get(part.id, part.material)
        if material not in materials_of(model):
            material = part.material
        if any(a is not b for a, b in zip(steps, part.steps)) or material != part.material:
            after = after.with_part(part.model_copy(update={"steps": steps, "material": material}))
    _ = after.table
    return after


def is_taken(model: Model, variant: Variant) -> bool:
    """Whether the model stands at a variant just now."""
    after = as_variant(model, variant)
    values = (m.table.values for m in (model, after))
    return next(values) == next(values) and after.parts == model.parts


def heads_of(model: Model) -> tuple[str, ...]:
    """The columns that a model's table has: its parameters, and what else its variants say."""
    found = [NAME, *(p.name for p in model.parameters)]
    found += [MATERIAL] if any(v.materials for v in model.variants) else []
    found += [WITHOUT] if any(v.skipped for v in model.variants) else []
    return tuple(found)


def cell(model: Model, part_id: str, variant: Variant, head: str) -> str:
    """What stands in one place of the table."""
    if head == NAME:
        return variant.name
    if head == MATERIAL:
        key = variant.materials.get(part_id, "")
        return materials_of(model)[key].name if key in materials_of(model) else ""
    if head == WITHOUT:
        return "; ".join(model.title_of(id) for id, out in variant.skipped.items() if out and model.find_step(id))
    return variant.values.get(head, "")


def table_of(model: Model, part_id: str) -> Table:
    """All variants as a table; materials are those of one part."""
    heads = heads_of(model)
    return Table(heads, tuple(tuple(cell(model, part_id, v, h) for h in heads) for v in model.variants))


def as_csv(table: Table) -> str:
    """A table as CSV (RFC 4180)."""
    return written([table.heads, *table.rows])


def read_table(text: str) -> Table:
    """A table pasted or from a file: commas, semicolons or tabs between the columns. Raises ``BadInput``."""
    first = text.lstrip("\ufeff").strip("\r\n")
    delimiter = max("\t,;", key=first.splitlines()[0].count if first else "".count)
    try:
        rows = [
            [meant(c.strip()) for c in r]
            for r in csv.reader(io.StringIO(first), delimiter=delimiter)
            if any(c.strip() for c in r)
        ]
    except csv.Error as error:
        raise BadInput("This is not a table of variants: one of its fields is far too long.") from error
    if len(rows) < 2:
        raise BadInput(
            "A table of variants has a line of headings (variant and names of parameters), then one a variant."
        )
    if len(rows) - 1 > MOST_VARIANTS:
        raise BadInput(f"This table has {len(rows) - 1} variants; a model may have at most {MOST_VARIANTS}.")
    heads = tuple(h.strip() for h in rows[0])
    for number, row in enumerate(rows[1:], 1):
        if len(row) > len(heads):
            raise BadInput(f"Row {number} has {len(row)} columns, but there are {len(heads)} headings.")
    return Table(heads, tuple(tuple(row + [""] * (len(heads) - len(row))) for row in rows[1:]))


def with_cell(model: Model, part_id: str, variant: Variant, head: str, text: str) -> Variant:
    """A variant with one place of the table filled. Raises ``BadInput`` naming what is wrong."""
    text = text.strip()
    if head == NAME:
        name = " ".join(text.split())[:200]
        if not 1 <= len(name) <= 80:
            raise BadInput("A variant needs a name of at most 80 characters.", where=head)
        if any(v.name == name and v.id != variant.id for v in model.variants):
            raise BadInput(f"There is a variant “{name}” already.", where=head)
        return variant.model_copy(update={"name": name})
    if head == MATERIAL:
        rest = {k: m for k, m in variant.materials.items() if k != part_id}
        return variant.model_copy(update={"materials": {**rest, part_id: _material(model, text)} if text else rest})
    if head == WITHOUT:
        return variant.model_copy(update={"skipped": _left_out(model, text)})
    if all(p.name != head for p in model.parameters):
        raise BadInput(f"There is no parameter called “{head[:40]}”.", where=head)
    rest = {n: f for n, f in variant.values.items() if n != head}
    return variant.model_copy(update={"values": {**rest, head: _settled(model, head, text)} if text else rest})


def _settled(model: Model, name: str, text: str) -> str:
    like = model.table[name]
    others = {n: q for n, q in model.table.values.items() if n != name}
    try:
        return settle(text[:401], others, wanted=None if like.bare else like.dimension, length_unit=model.units)
    except BadInput as problem:
        raise BadInput(f"{name}: {problem.message}", where=name) from problem


def _material(model: Model, text: str) -> str:
    for key, material in materials_of(model).items():
        if text.lower() in (key.lower(), material.name.lower()):
            return key
    raise BadInput(f"There is no material “{text[:40]}”.", where=MATERIAL)


def _left_out(model: Model, text: str) -> dict[str, bool]:
    titles = {model.title_of(s.id).lower(): s.id for p in model.there for s in p.steps}
    found = {}
    for title in filter(None, (t.strip() for t in text.split(";"))):
        if title.lower() not in titles:
            raise BadInput(f"There is no step called “{title[:40]}”.", where=WITHOUT)
        found[titles[title.lower()]] = True
    return found


def with_rows(model: Model, part_id: str, table: Table) -> Model:
    """The model with a table's rows as variants: rows of a known name change that variant, others are new. Raises
    ``BadInput`` naming the row.
    """
    heads = _columns(model, table.heads)
    for number, row in enumerate(table.rows, 1):
        texts = dict(zip(heads, row))
        name = texts.pop(NAME, "").strip() or f"Variant {number}"
        old = next((v for v in model.variants if v.name == name), None)
        if old is None:
            (id,), model = model.fresh("v")
            old = Variant(id=id, name="new")
            model = model.changed(variants=(*model.variants, old))
        try:
            new = with_cell(model, part_id, old, NAME, name)
            for head, text in texts.items():
                new = with_cell(model, part_id, new, head, text)
            _ = as_variant(model, new)
        except BadInput as problem:
            raise BadInput(f"Row {number} ({name[:40]}): {problem.message}", where=problem.where) from problem
        model = model.changed(variants=tuple(new if v.id == new.id else v for v in model.variants))
    if len(model.variants) > MOST_VARIANTS:
        raise BadInput(f"A model may have at most {MOST_VARIANTS} variants; this would make {len(model.variants)}.")
    return model


def _columns(model: Model, heads: Sequence[str]) -> tuple[str, ...]:
    known = {h.lower(): h for h in (*_OWN, *(p.name for p in model.parameters))}
    known |= {p.name: p.name for p in model.parameters} | {"name": NAME}
    found = []
    for head in heads:
        if head not in known and head.lower() not in known:
            names = ", ".join(p.name for p in model.parameters) or "none"
            raise BadInput(f"“{head[:40]}” is no parameter of this model. There are: {names}.")
        found.append(known[head] if head in known else known[head.lower()])
    if len(set(found)) != len(found):
        raise BadInput("Two columns of this table have the same heading.")
    return tuple(found)
