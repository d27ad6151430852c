"""Asking workers for builds, previews and files, and turning a worker's fate into a message on a step."""

from __future__ import annotations

import json
import threading
from collections import OrderedDict
from pathlib import Path
from typing import Any

from ..core.errors import BadInput, Trouble
from ..core.exchange import FORMATS, file_stem
from ..core.exchange.base import DEFAULT_ANGLE, DEFAULT_CHORD
from ..core.model.document import Model
from ..core.model.edits.steps import AddStep, made_step
from ..workers import Workers, WorkerTrouble, jobs
from .modelling import Opened

RETRIES = 4  # steps that may take a worker down in one build before it is given up


class Stopped(Trouble):
    """The person (or a newer request) stopped the work."""


class Builder:
    """Builds through workers. Answers for the last revisions are kept."""

    def __init__(self, workers: Workers, blobs: Path, limit: float = 60.0) -> None:
        self._workers = workers
        self._blobs = blobs
        self._limit = limit
        self._barred: dict[str, str] = {}
        self._kept: OrderedDict[tuple[str, int, str], dict[str, Any]] = OrderedDict()
        self._lock = threading.Lock()
        blobs.mkdir(parents=True, exist_ok=True)

    def build(self, opened: Opened, part_id: str, ticket: str = "") -> dict[str, Any]:
        """The built part: statuses of steps, bodies with the keys of their meshes, totals."""
        key = (opened.id, opened.revision, part_id)
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
        opened.model.part(part_id)
        result = self._run(opened.id, opened.model, "build_part", opened.text, part_id, str(self._blobs), ticket=ticket)
        result["revision"] = opened.revision
        with self._lock:
            self._kept[key] = result
            while len(self._kept) > 300:
                self._kept.popitem(last=False)
        return result

    def kept(self, opened: Opened, part_id: str) -> dict[str, Any] | None:
        """The build of this very revision, if it is at hand."""
        with self._lock:
            return self._kept.get((opened.id, opened.revision, part_id))

    def preview(
        self, opened: Opened, part_id: str, draft: dict[str, Any], touched: list[str], ticket: str
    ) -> dict[str, Any]:
        """The part as it would be with a step added at the Now line or changed; nothing is stored."""
        model, step_id = self._with_draft(opened.model, part_id, draft)
        text = json.dumps(model.as_json(), separators=(",", ":"))
        defaults: dict[str, Any] = {}
        if not draft.get("id"):
            defaults = self._run(
                opened.id, model, "settle_draft", text, part_id, step_id, touched, ticket=ticket, bar=False
            )
            if defaults:
                draft = {**draft, "fields": {**draft["fields"], **defaults}}
                model, step_id = self._with_draft(opened.model, part_id, draft)
                text = json.dumps(model.as_json(), separators=(",", ":"))
        result: dict[str, Any] = self._run(
            opened.id,
            model,
            "build_draft",
            text,
            part_id,
            str(self._blobs),
            ticket=ticket,
            then=(step_id,),
        )
        result["defaults"] = defaults
        return result

    @staticmethod
    def _with_draft(model: Model, part_id: str, draft: dict[str, Any]) -> tuple[Model, str]:
        """The model with the draft step in it, and that step's id."""
        fields, kind, old_id = draft.get("fields"), draft.get("kind"), draft.get("id")
        if not isinstance(fields, dict) or not isinstance(kind, str):
            raise BadInput("A preview needs a kind and fields.")
        part = model.part(part_id)
        if isinstance(old_id, str) and old_id:
            old = part.step(old_id)
            step = made_step(model, old.kind, old.id, fields, base=old)
            at = part.index(old_id) + 1
            return model.with_part(part.with_step(step).model_copy(update={"now": at})), old_id
        after = AddStep(part=part_id, step=kind, fields=fields).apply(model)
        known = {s.id for s in part.steps}
        new = next(s for s in after.part(part_id).steps if s.id not in known)
        at = after.part(part_id).index(new.id) + 1
        return after.with_part(after.part(part_id).model_copy(update={"now": at})), new.id

    def picture(self, opened: Opened, part_id: str) -> bytes:
        """A PNG of the part."""
        result: bytes = self._run(opened.id, opened.model, "draw_part", opened.text, part_id)
        return result

    def export(
        self, opened: Opened, part_id: str, format_kind: str, ticket: str, chord: float = DEFAULT_CHORD,
        angle: float = DEFAULT_ANGLE,
    ) -> tuple[str, str, bytes]:  # fmt: skip
        """File name, media type and content of a part in some format."""
        format_class = FORMATS[format_kind]
        part = opened.model.part(part_id)
        if not (1e-4 <= chord <= 10 and 0.02 <= angle <= 1.5):
            raise BadInput("The chord must be from 0.0001 to 10 mm, the angle from 0.02 to 1.5 rad.")
        data: bytes = self._run(
            opened.id,
            opened.model,
            "export_part",
            opened.text,
            part_id,
            format_kind,
            chord,
            angle,
            ticket=ticket,
        )
        name = f"{file_stem(opened.model, part, opened.revision)}.{format_class.ending}"
        return name, format_class.media, data

    def stop(self, ticket: str) -> None:
        """Stop what runs under a ticket."""
        self._workers.stop_ticket(ticket)

    def progress(self, ticket: str) -> dict[str, Any]:
        """Where the work under a ticket is."""
        return self._workers.progress(ticket)

    def blob(self, key: str) -> Path:
        """Where a mesh is kept."""
        return jobs.blob_path(str(self._blobs), key)

    def _run(
        self,
        model_id: str,
        model: Model,
        job: Any,
        *args: Any,
        ticket: str = "",
        then: tuple[Any, ...] = (),
        bar: bool = True,
    ) -> Any:
        """Run a job; a step that takes the worker down is barred with a message, and the rest is built."""
        for _ in range(RETRIES):
            more = (dict(self._barred),) if bar else ()
            try:
                return self._workers.run(
                    model_id, jobs.call, job, *args, *more, *then, ticket=ticket, limit=self._limit
                )
            except WorkerTrouble as trouble:
                if trouble.reason == "stopped":
                    raise Stopped("Stopped.") from None
                key = trouble.note.get("key")
                if not key or not bar:
                    raise Trouble(_fate(trouble.reason, self._limit, "This")) from None
                title = model.title_of(str(trouble.note.get("step")))
                self._barred[str(key)] = _fate(trouble.reason, self._limit, title)
        raise Trouble("Too many steps of this part cannot be computed; change the last one.")


def _fate(reason: str, limit: float, what: str) -> str:
    if reason == "timeout":
        return f"{what} took longer than {limit:.0f} s and was stopped. Make it simpler or its numbers less extreme."
    return f"{what} could not be computed: the geometry worker gave up on it. Change its numbers or picks a little."
