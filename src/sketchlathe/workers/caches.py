"""What every job shares: models and parts built in this worker, what was measured, notes of how far it is."""

from __future__ import annotations

import json
import os
from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from cachetools import LRUCache

from ..core.making.results import BuildCache, PartBuild
from ..core.model.building import build
from ..core.model.document import PARSED, Model, Part, origin_of, read_model
from ..core.model.files_apart import whole
from ..core.model.made_of import bought_as, colour_for, key_for, material_of
from ..core.plain_json import digest_of
from ..core.solid import kernel
from ..core.solid.measuring import Measures, measures
from ..core.solid.naming import Body
from .program import program

if TYPE_CHECKING:
    from .jobs import Desk

CACHE = BuildCache()
_MEASURED: OrderedDict[str, Measures] = OrderedDict()
MODELS_TAKE = 48 << 20  # bytes, at most
_MODELS: LRUCache[str, tuple[Model, int]] = LRUCache(MODELS_TAKE, getsizeof=lambda kept: kept[1])
_SOLID: OrderedDict[str, None] = OrderedDict()  # keys of the solids this worker has built


def prepare() -> None:
    """Before the fork: silence the kernel; importing this module has loaded what jobs need."""
    kernel.silence()


def remember(store: OrderedDict[str, Any], key: str, value: Any, limit: int) -> None:
    """Keep a value, and of all values the ``limit`` newest."""
    store[key] = value
    store.move_to_end(key)
    while len(store) > limit:
        store.popitem(last=False)


def forget() -> None:
    """Nothing that this worker has built is kept any longer."""
    CACHE.clear()
    _MODELS.clear()
    for store in (_MEASURED, _SOLID):
        store.clear()


def model_of(document: str, text_of: Callable[[str], str]) -> Model:
    """The model with a digest; the last ones are kept, ``text_of`` reads other documents and files."""
    kept = _MODELS.get(document)
    if kept is None:
        text, files = text_of(document), []

        def file_of(digest: str) -> str:
            files.append(text_of(digest))
            return files[-1]

        model = read_model(whole(json.loads(text), file_of))
        kept = model, min(PARSED * len(text) + sum(map(len, files)), MODELS_TAKE // 2)
        _MODELS[document] = kept
    return kept[0]


def built_part(desk: Desk, document: str, part_id: str, *, before: str = "") -> tuple[Model, Part, PartBuild]:
    """See ``Desk.built``."""
    model = desk.model(document)
    part = model.part(part_id)
    if before:
        part = part.model_copy(update={"now": part.index(before)})
    built = build(model, part, CACHE, progress=told_by(model, desk), barred=desk.barred)
    remember(_SOLID, built.solid_key, None, 100)
    return model, part, built


def told_by(model: Model, desk: Desk) -> Callable[[str, str, int, int], None]:
    """What says, step by step, how far a build is."""

    def progress(step: str, key: str, number: int, count: int) -> None:
        desk.say(model.title_of(step), number, count, step=step, key=key)

    return progress


def write_note(path: str, content: dict[str, Any]) -> None:
    """Keep a note of where the work is."""
    if path:
        temporary = f"{path}.{os.getpid()}"
        Path(temporary).write_text(json.dumps(content))
        os.replace(temporary, path)


def measured(body: Body, solid_key: str) -> Measures:
    """Volume, area, centre, box, moments of a body of a built part; measured once."""
    key = body_key(body, solid_key)
    if key not in _MEASURED:
        remember(_MEASURED, key, measures(body.shape), 2000)
    return _MEASURED[key]


def body_key(body: Body, solid_key: str) -> str:
    """What a body of a built part is known by: its mesh, its measures. A copy is the same wherever the others are
    moved to.
    """
    if body.came is not None and body.came.motion:
        names = ["+".join(sorted(name)) for name in body.names]
        return digest_of([program(), "copy", body.came.of, body.came.state, body.came.motion, body.id, names])
    return digest_of([program(), "body", solid_key, body.id])


def has_solid(key: str) -> bool:
    """Whether this worker has the solids of a built part."""
    return key in _SOLID


def stuff_of(model: Model, part: Part, body: Body) -> dict[str, Any]:
    """What a body is called, and made of; whether it was brought from another part."""
    key = key_for(model, part, body)
    material = material_of(model, key)
    source = origin_of(model, part, body)[0]
    return {
        "material": key, "density": material.density,
        "title": model.title_of_body(body.id, source if source is not part else None),
        **({"brought": source.id} if source is not part else {}),
        **({"bought": bought} if (bought := bought_as(model, part, body)) else {}),
    }  # fmt: skip


def colour_of(model: Model, part: Part, body: Body) -> str:
    """A body's colour: the one it was given, or its material's."""
    return colour_for(model, part, body)
