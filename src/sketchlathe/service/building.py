"""Builds and previews through an engine; the one door through which workers are asked anything about a model."""

from __future__ import annotations

import contextlib
import threading
from collections import OrderedDict
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any, NotRequired, cast

from ..core.amounts import weighing
from ..core.errors import BadInput, Trouble
from ..core.inspect.flexing import Outcome
from ..core.model.document import Model
from ..core.model.edits import apply_edit, parse_edit
from ..core.model.edits.steps import AddStep, made_step
from ..workers import Engine, WorkerTrouble, kept_answers
from ..workers import requests as ask
from ..workers.answering import fate
from ..workers.answers import Built
from ..workers.contract import Answer, OfPart
from .commons import Commons
from .modelling import Opened, written

MOST_KEPT = 300  # answers


class BuiltAt(Built):
    """A built part: of which revision, where it is one, and better defaults for the blanks of a draft step."""

    revision: NotRequired[int]
    defaults: NotRequired[dict[str, Any]]


class Builder:
    """Builds through an engine. Answers for the last revisions are kept."""

    def __init__(self, engine: Engine, commons: Commons | None = None) -> None:
        self.engine = engine
        self.blobs = engine.blobs
        self.commons = commons or Commons()
        self._kept: OrderedDict[tuple[str, int, str], BuiltAt] = OrderedDict()
        self._lock = threading.Lock()

    def document_of(self, opened: Opened) -> str:
        """The digest of a model's document, which is kept with its files for those that are to work on it."""
        for digest, text in opened.files.items():
            self.blobs.keep_file(digest, text)
        return self.blobs.keep_document(opened.text)

    def ask(
        self,
        opened: Opened,
        kind: type[OfPart[Answer]],
        part_id: str,
        *,
        ticket: str = "",
        patient: bool = False,
        place: str = "",
        **fields: Any,
    ) -> Answer:
        """The answer to a question about a part of a model. ``patient``: nobody waits for it. ``place``: what is asked
        under one place goes to the same worker (the model's, where nothing is said). Raises ``Trouble``.
        """
        opened.model.part(part_id)
        request = kind(document=self.document_of(opened), part=part_id, **fields)
        try:
            with self.commons.share(opened.who, "patient" if patient else request.lane()):
                return self.engine.submit(request, place or opened.id, ticket=ticket, patient=patient, who=opened.who)
        except WorkerTrouble as trouble:
            raise Trouble(fate(trouble.reason, self.engine.limit, "This")) from None

    def build(self, opened: Opened, part_id: str, ticket: str = "") -> BuiltAt:
        """The built part: statuses of steps, bodies with the keys of their meshes, totals."""
        key = (opened.id, opened.revision, part_id)
        with self._lock:
            known = self._kept.get(key)
            if known is not None:
                self._kept.move_to_end(key)
        # its meshes may have been trimmed since
        if known is not None and all(self.blobs.has_mesh(b["key"]) for b in (*known["bodies"], *known["references"])):
            return known
        opened.model.part(part_id)
        # what any worker answered before needs none now: a model opens at once, however busy the workers are
        at_hand = kept_answers.built(self.blobs, self.document_of(opened), part_id)
        if at_hand is not None:
            result = _more(at_hand, cold=True)
        else:
            result = _more(self.ask(opened, ask.BuildPart, part_id, ticket=ticket))
        if result.pop("cold", False):
            threading.Thread(target=self._warm, args=(opened, part_id), daemon=True).start()
        self.blobs.came()
        return self._keep(opened, part_id, result)

    def _keep(self, opened: Opened, part_id: str, result: BuiltAt) -> BuiltAt:
        result["revision"] = opened.revision
        self.commons.note(f"built:{opened.id}:{part_id}", [opened.revision, self.document_of(opened)])
        with self._lock:
            self._kept[opened.id, opened.revision, part_id] = result
            while len(self._kept) > MOST_KEPT:
                self._kept.popitem(last=False)
        return result

    def build_afresh(self, opened: Opened, part_id: str, ticket: str = "") -> BuiltAt:
        """The part built from nothing, for whoever doubts what is shown."""
        result = _more(self.ask(opened, ask.BuildPart, part_id, afresh=True, ticket=ticket))
        result.pop("cold", None)
        return self._keep(opened, part_id, result)

    def _warm(self, opened: Opened, part_id: str) -> None:
        """After an answer from disk: have the solids at hand before the first change, unless others are waiting."""
        if not self.engine.busy(opened.id):
            with contextlib.suppress(Trouble):
                self.ask(opened, ask.WarmPart, part_id)

    def last(self, opened: Opened, part_id: str) -> BuiltAt | None:
        """The build of this revision, or of the newest before it that is at hand."""
        with self._lock:
            known = [k for k in self._kept if k[0] == opened.id and k[2] == part_id and k[1] <= opened.revision]
            mine = self._kept[max(known, key=lambda k: k[1])] if known else None
        # another process may have built a newer one
        told = self.commons.noted(f"built:{opened.id}:{part_id}")
        revision, document = told or (-1, "")
        if (mine["revision"] if mine else -1) >= revision or revision > opened.revision:
            return mine
        theirs = kept_answers.built(self.blobs, document, part_id)
        return _more(theirs, revision=revision) if theirs is not None else mine

    def preview(self, opened: Opened, part_id: str, draft: dict[str, Any], touched: list[str], ticket: str) -> BuiltAt:
        """The part as it would be with a step added at the Now line or changed; nothing is stored."""
        model, step = self._with_draft(opened.model, part_id, draft)
        there = _as_opened(opened, model)
        defaults: dict[str, Any] = {}
        if not draft.get("id"):
            defaults = self.ask(there, ask.SettleDraft, part_id, step=step, touched=tuple(touched), ticket=ticket)
            if defaults:
                draft = {**draft, "fields": {**draft["fields"], **defaults}}
                model, step = self._with_draft(opened.model, part_id, draft)
                there = _as_opened(opened, model)
        result = _more(self.ask(there, ask.BuildDraft, part_id, draft=step, ticket=ticket))
        result["defaults"] = defaults
        # a worker gave up on the step: it may be kept all the same, and stands there failed
        result["preview"]["gave_up"] = self.engine.board.is_bar(result["preview"]["message"])
        return result

    @staticmethod
    def as_edited(opened: Opened, edits: Sequence[Mapping[str, Any]]) -> Opened:
        """A model as it would be after some edits; nothing is stored."""
        model = opened.model
        for edit in edits:
            model = apply_edit(model, parse_edit(edit))
        return _as_opened(opened, model)

    def as_it_is(self, opened: Opened, part_id: str, ticket: str = "", *, patient: bool = False) -> BuiltAt:
        """The built part of a model that is no stored revision: a trial, a variant, a file."""
        result = _more(self.ask(opened, ask.BuildPart, part_id, ticket=ticket, patient=patient))
        result.pop("cold", None)
        return result

    def near(self, opened: Opened, part_id: str, edits: Sequence[Mapping[str, Any]], ticket: str) -> BuiltAt:
        """The part as it would be after some edits, and how the mesh of it as it is gets there."""
        other = self.document_of(self.as_edited(opened, edits))
        return _more(self.ask(opened, ask.BuildNear, part_id, other=other, ticket=ticket))

    def try_edits(
        self, opened: Opened, part_id: str, edits: list[dict[str, Any]], *, place: str, ticket: str
    ) -> Outcome:
        """Whether a part still is what it is with some edits; nobody waits for it. ``place``: what is tried beside it
        goes to the same worker.
        """
        told = self.ask(opened, ask.TryEdits, part_id, edits=tuple(edits), place=place, ticket=ticket, patient=True)
        return Outcome(**told)

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

    def stop(self, ticket: str) -> None:
        """Stop what runs under a ticket."""
        self.engine.stop(ticket)

    def progress(self, ticket: str) -> dict[str, Any]:
        """Where the work under a ticket is."""
        return self.engine.progress(ticket)


def weighed_of(built: BuiltAt, wanted: str = "") -> weighing.Weighed:
    """A build's bodies together, or one of them."""
    return weighing.together(
        [
            weighing.weighed(b["volume"], b["area"], b["centre"], b["box"], b["moments"], b["density"])
            for b in built["bodies"]
            if wanted in ("", b["id"])
        ]
    )


def failed_step(built: BuiltAt) -> str:
    """The id of the first step that failed; empty where the part is whole."""
    return next((s["id"] for s in built["steps"] if s["status"] == "failed"), "")


def _more(built: Built, **more: Any) -> BuiltAt:
    """An answer with more in it."""
    return cast(BuiltAt, {**built, **more})


def _as_opened(opened: Opened, model: Model) -> Opened:
    """A model that is no stored revision, in place of one that is."""
    new = written(model)
    return replace(opened, model=model, text=new.text, files=new.files)
