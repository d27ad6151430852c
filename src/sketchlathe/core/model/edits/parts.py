"""Edits of the parts of a model: make, name, copy, order, delete; a body that becomes a part of its own."""

from __future__ import annotations

import re
from typing import Any, ClassVar, Literal

from pydantic import Field, ValidationError

from ...errors import BadInput, Refused
from ...steps.base import STEPS, Step
from ...steps.bring_part import BringPart
from ...steps.leave_out import LeaveOut
from ...steps.sketch import SketchStep
from ..document import MAX_STEPS, Model, Part, Source
from ..measurements import Measurement
from ..sound import problem_in
from .base import Edit
from .steps import made_step, replaced_ids

MOST_PARTS = 100
_TYPED = ("length", "angle", "count", "text", "members", "choice")


_USUAL: tuple[tuple[str, dict[str, str]], ...] = (
    ("paper", {}),
    ("show", {"side": "front"}),
    ("show", {"side": "above"}),
    ("show", {"side": "left"}),
    ("show", {"side": "corner"}),
    ("say_sizes", {}),
)
"""The lines that a new sheet of a part begins with."""


class AddPart(Edit):
    """A new part, without steps, at the end; a sheet ``of`` a part begins with the usual views and its sizes."""

    kind: Literal["add_part"] = "add_part"
    name: str = Field(default="", max_length=80)
    sort: Literal["part", "together", "sheet"] = "part"
    of: str = Field(default="", max_length=20)

    def apply(self, model: Model) -> Model:
        ids, model = _new_id(model)
        word = {"together": "Together", "sheet": "Sheet"}.get(self.sort, "Part")
        name = self.name.strip() or _free_name(model, word)
        steps: list[Step] = []
        if self.sort == "sheet" and self.of:
            shown = model.part(self.of)
            if shown.sort == "sheet":
                raise BadInput("A sheet is of a part: choose one.", where="of")
            fresh, model = model.fresh("s", len(_USUAL))
            for id, (kind, fields) in zip(fresh, _USUAL):
                about = {"part": shown.id} if "part" in STEPS[kind].blanks() else {}
                steps.append(made_step(model, kind, id, {**fields, **about}))
        return model.changed(parts=(*model.parts, Part(id=ids, name=name, sort=self.sort, steps=tuple(steps))))

    def summary(self, before: Model, after: Model) -> str:
        return f"“{after.parts[-1].name}” added"


class RenamePart(Edit):
    """Give a part another name."""

    kind: Literal["rename_part"] = "rename_part"
    part: str = Field(max_length=20)
    name: str = Field(max_length=80)

    def apply(self, model: Model) -> Model:
        name = self.name.strip()
        if not name:
            raise BadInput("A part needs a name.", where="name")
        return model.with_part(model.part(self.part).model_copy(update={"name": name}))

    def summary(self, before: Model, after: Model) -> str:
        return f"Part renamed to “{self.name.strip()}”"


class CopyPart(Edit):
    """A part with the same steps under ids of their own, right behind the other."""

    kind: Literal["copy_part"] = "copy_part"
    part: str = Field(max_length=20)

    def apply(self, model: Model) -> Model:
        old = model.part(self.part)
        model, new = _copied(model, old)
        at = [p.id for p in model.parts].index(self.part) + 1
        new = new.model_copy(update={"name": _free_name(model, old.name)})
        return model.changed(parts=(*model.parts[:at], new, *model.parts[at:]))

    def summary(self, before: Model, after: Model) -> str:
        return f"“{before.part(self.part).name}” copied"


class MovePart(Edit):
    """Put a part somewhere else in the order."""

    kind: Literal["move_part"] = "move_part"
    part: str = Field(max_length=20)
    to: int = Field(ge=0, le=MOST_PARTS)

    def apply(self, model: Model) -> Model:
        moving = model.part(self.part)
        parts = [p for p in model.there if p.id != self.part]
        parts.insert(min(self.to, len(parts)), moving)
        return model.changed(parts=(*parts, *(p for p in model.parts if p.gone and p.id != self.part)))

    def summary(self, before: Model, after: Model) -> str:
        return f"“{after.part(self.part).name}” moved among the parts"


class DeletePart(Edit):
    """Delete a part; what brings it is deleted with it, or left and keeps its last shape."""

    kind: Literal["delete_part"] = "delete_part"
    part: str = Field(max_length=20)
    with_users: bool = False
    leave_users: bool = False

    def apply(self, model: Model) -> Model:
        gone = model.part(self.part)
        if len(model.there) == 1:
            raise Refused("A model has at least one part.", where=self.part)
        users = bringers(model, self.part)
        if users and not (self.with_users or self.leave_users):
            where = ", ".join(dict.fromkeys(model.part_of(u).name for u in users))
            raise Refused(f"“{gone.name}” is brought into {where}.", where=self.part, fights=tuple(users))
        if users and self.leave_users:
            return model.with_part(gone.model_copy(update={"gone": True}))
        model = model.changed(parts=tuple(p for p in model.parts if p.id != self.part))
        if self.with_users:
            for part in model.parts:
                left = tuple(s for s in part.steps if s.id not in users)
                if len(left) < len(part.steps):
                    limit = len(part.steps) if part.now is None else part.now
                    now = None if part.now is None else limit - sum(s.id in users for s in part.steps[:limit])
                    model = model.with_part(part.model_copy(update={"steps": left, "now": now}))
        return model

    def summary(self, before: Model, after: Model) -> str:
        return f"“{before.part(self.part).name}” deleted"


class BringBackPart(Edit):
    """A deleted part that others still follow, among the parts again."""

    kind: Literal["bring_back_part"] = "bring_back_part"
    part: str = Field(max_length=20)

    def apply(self, model: Model) -> Model:
        return model.with_part(model.part(self.part).model_copy(update={"gone": False}))

    def summary(self, before: Model, after: Model) -> str:
        return f"“{after.part(self.part).name}” brought back"


class LinkPart(Edit):
    """A part of another model, as it is there at a revision; ``data`` is that part, standing by itself.

    ``part``: one that is linked already is brought to that revision; what was picked of it stays picked.
    """

    relinks: ClassVar[bool] = True
    kind: Literal["link_part"] = "link_part"
    source: Source
    data: dict[str, Any]
    part: str = Field(default="", max_length=20)

    def apply(self, model: Model) -> Model:
        try:
            given = Part.model_validate(self.data)
        except ValidationError as error:
            raise BadInput(f"This part cannot be brought: {problem_in(error)}.") from error
        old = model.part(self.part) if self.part else None
        if old is not None and old.linked is None:
            raise BadInput(f"“{old.name}” is not linked to another model.")
        if old is None:
            id, model = _new_id(model)
        else:
            id = old.id
        known = old.linked_ids if old is not None and old.linked and old.linked.part == self.source.part else {}
        model, new, names = _under(model, given, id, known)
        new = new.model_copy(update={"linked": self.source, "linked_ids": {**known, **names}})
        if old is None:
            taken = {p.name for p in model.parts}
            # a part that nobody named is called by its model
            wanted = self.source.name[:80] if re.fullmatch(r"Part \d+", new.name) else new.name
            name = wanted if wanted not in taken else _free_name(model, wanted)
            return model.changed(parts=(*model.parts, new.model_copy(update={"name": name})))
        return model.with_part(new.model_copy(update={"name": old.name, "material": old.material, "gone": old.gone}))

    def summary(self, before: Model, after: Model) -> str:
        if self.part:
            return f"“{after.part(self.part).name}” brought to revision {self.source.revision} of “{self.source.name}”"
        return f"“{after.parts[-1].name}” brought from “{self.source.name}”, revision {self.source.revision}"


class UnlinkPart(Edit):
    """A linked part becomes one of this model's own, to be changed here."""

    kind: Literal["unlink_part"] = "unlink_part"
    part: str = Field(max_length=20)

    def apply(self, model: Model) -> Model:
        return model.with_part(model.part(self.part).model_copy(update={"linked": None, "linked_ids": {}}))

    def summary(self, before: Model, after: Model) -> str:
        return f"“{after.part(self.part).name}” is this model's own now"


class PartOfBody(Edit):
    """A body becomes a part of its own, with the steps that made it; where it was it is brought from there."""

    kind: Literal["part_of_body"] = "part_of_body"
    part: str = Field(max_length=20)
    body: str = Field(min_length=1, max_length=60)
    others: tuple[str, ...] = Field(default=(), max_length=500)  # the part's other bodies
    name: str = Field(default="", max_length=80)

    def apply(self, model: Model) -> Model:
        source = model.part(self.part)
        if not self.others:
            raise Refused("This is the only body of its part: it is a part of its own already.", where=self.body)
        limit = len(source.steps) if source.now is None else source.now
        if limit != len(source.steps):
            raise Refused("Put the Now line at the end first: what comes after it would be in neither part.")
        if limit + 2 > MAX_STEPS:
            raise Refused(f"A part may have at most {MAX_STEPS} steps.")
        said = self.name.strip() or model.title_of_body(self.body)
        model, new = _copied(model, source)
        names = dict(zip((s.id for s in source.steps), (s.id for s in new.steps)))
        ids, model = model.fresh("s", 3)
        rest = LeaveOut(id=ids[0], bodies=tuple(replaced_ids(b, names) for b in self.others))
        material = next((m.material for m in source.made_of if m.body == self.body), source.material)
        new = new.model_copy(
            update={"name": said, "steps": (*new.steps, rest), "material": material, "answers": (), "measurements": ()}
        )
        here = (*source.steps, LeaveOut(id=ids[1], bodies=(self.body,)), BringPart(id=ids[2], part=new.id))
        model = model.with_part(source.with_steps(here))
        at = [p.id for p in model.parts].index(self.part) + 1
        return model.changed(parts=(*model.parts[:at], new, *model.parts[at:]))

    def summary(self, before: Model, after: Model) -> str:
        old = {p.id for p in before.parts}
        return f"“{next(p.name for p in after.parts if p.id not in old)}” made a part of its own"


def bringers(model: Model, part_id: str) -> list[str]:
    """Ids of the steps that bring a part into another."""
    return [s.id for p in model.parts for s in p.steps if s.brings() == part_id]


def _new_id(model: Model) -> tuple[str, Model]:
    if len(model.parts) >= MOST_PARTS:
        raise Refused(f"A model may have at most {MOST_PARTS} parts.")
    ids, model = model.fresh("p")
    return ids[0], model


def _free_name(model: Model, word: str) -> str:
    """A name that no part has yet: the word with the next number."""
    taken = {p.name for p in model.parts}
    if word not in ("Part",) and word not in taken:
        return word
    stem = word.rstrip("0123456789").rstrip() or word
    number = 2 if word not in ("Part",) else 1
    while f"{stem} {number}" in taken:
        number += 1
    return f"{stem} {number}"


def _copied(model: Model, part: Part) -> tuple[Model, Part]:
    """The same part under new ids throughout (ids are unique in a model)."""
    new_id, model = _new_id(model)
    model, new, _ = _under(model, part, new_id, {})
    return model, new


def _under(model: Model, part: Part, new_id: str, known: dict[str, str]) -> tuple[Model, Part, dict[str, str]]:
    """The same part under another id, its ids as they are ``known`` or new; and which became which."""
    old = [s.id for s in part.steps] + [m.id for m in part.measurements]
    for step in part.steps:
        if isinstance(step, SketchStep):
            old += [*(c.id for c in step.sketch.curves), *(k.id for k in step.sketch.constraints)]
    names = {id: known[id] for id in old if id in known}
    for id in old:
        if id not in names:
            (names[id],), model = model.fresh(id[0])
    steps = tuple(_with_names(step, names) for step in part.steps)
    plain = part.model_dump(mode="json", include={"paints", "made_of", "body_names"})
    kept: dict[str, list[Any]] = {"paints": [], "made_of": [], "body_names": []}
    for field, entries in plain.items():
        for entry in entries:
            kept[field].append(
                {k: v if k in ("name", "colour", "material") else replaced_ids(v, names) for k, v in entry.items()}
            )
    measured = [Measurement.model_validate(replaced_ids(m.model_dump(mode="json"), names)) for m in part.measurements]
    new = Part.model_validate(
        {"id": new_id, "name": part.name, "sort": part.sort, "material": part.material, "now": part.now, **kept}
    )
    new = new.model_copy(update={"steps": steps, "answers": part.answers, "measurements": tuple(measured)})
    return model, new, names


def _with_names(step: Step, names: dict[str, str]) -> Step:
    blanks = step.blanks()
    raw: dict[str, Any] = {}
    for field, value in step.model_dump(mode="json").items():
        typed = field in ("kind", "name", "data", "file") or (field in blanks and blanks[field].type in _TYPED)
        raw[field] = value if typed else replaced_ids(value, names)
    return STEPS.parse(raw)
