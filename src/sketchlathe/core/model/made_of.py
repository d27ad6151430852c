"""What bodies of a model are made of: its own materials and everybody's, of a part, of one body, or as brought."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from ..amounts.materials import MATERIALS, Material
from ..names import body_maker, innermost
from .document import Model, Part, origin_of

if TYPE_CHECKING:
    from ..solid.naming import Body
    from ..steps.base import Step


def materials_of(model: Model) -> dict[str, Material]:
    """All materials a model can use: its own first."""
    own = {m.id: Material(m.name, m.density, "typed", "of this model", m.colour, "satin") for m in model.materials}
    return {**own, **MATERIALS}


def material_of(model: Model, key: str) -> Material:
    """A material by its key; one that is gone counts as PLA."""
    own = next((m for m in model.materials if m.id == key), None)
    if own is not None:
        return Material(own.name, own.density, "typed", "of this model", own.colour, "satin")
    return MATERIALS.get(key, MATERIALS["pla"])


def key_for(model: Model, part: Part, body: Body | str) -> str:
    """Which material a body of a part is made of: its own, or that of the part it comes from."""
    own = next((m.material for m in part.made_of if m.body == _id(body)), None)
    source, there = origin_of(model, part, body)
    said = next((m.material for m in source.made_of if m.body == there), "")
    if not own and not said and (step := shop_step(model, part, body)) is not None:
        return step.bought()
    return own or said or source.material


def shop_step(model: Model, part: Part, body: Body | str) -> Step | None:
    """The step that stands for a bought thing, where a body is one, copied or brought as it may be."""
    if isinstance(body, str):
        makers = {body_maker(origin_of(model, part, body)[1])}
    else:
        makers = {innermost(atom) for name in body.names for atom in name}
    steps = [model.find_step(id) for id in makers]
    return steps[0] if len(steps) == 1 and steps[0] is not None and steps[0].bought() else None


def bought_as(model: Model, part: Part, body: Body | str) -> str:
    """What a bought body is called in a shop; empty for what is printed."""
    step = shop_step(model, part, body)
    return step.body_word(model, "") if step is not None else ""


def _id(body: Body | str) -> str:
    return body if isinstance(body, str) else body.id


def printed(model: Model, part: Part, bodies: Sequence[Body]) -> list[Body]:
    """Those of some bodies that come from no shop."""
    return [body for body in bodies if shop_step(model, part, body) is None]


def colour_for(model: Model, part: Part, body: Body | str) -> str:
    """A body's colour, #rrggbb: the one it was given here or where it comes from, or its material's."""
    source, there = origin_of(model, part, body)
    given = (p.colour for where, id in ((part, _id(body)), (source, there)) for p in where.paints if p.body == id)
    return next(given, None) or material_of(model, key_for(model, part, body)).colour


def made_of(model: Model, part: Part, bodies: Sequence[Body | str]) -> str:
    """What a part with these bodies is made of: one material's name, or "several materials" with their names."""
    if not bodies:
        return material_of(model, part.material).name
    return said_of(model, [key_for(model, part, body) for body in bodies])


def said_of(model: Model, keys: Sequence[str]) -> str:
    """Some materials in words: the name of one, or "several materials" with their names."""
    names = list(dict.fromkeys(material_of(model, key).name for key in keys))
    return names[0] if len(names) == 1 else f"several materials ({', '.join(names)})"
