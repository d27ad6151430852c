"""Asking workers for builds, previews and files, and turning a worker's fate into a message on a step."""

from __future__ import annotations

import contextlib
import json
import math
import threading
from collections import OrderedDict
from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from ..core.errors import BadInput, NotFound, Trouble
from ..core.exchange import FORMATS, file_stem
from ..core.exchange.base import DEFAULT_ANGLE, DEFAULT_CHORD
from ..core.inspect.figures import figure_of, goal_of
from ..core.inspect.flexing import Outcome
from ..core.inspect.lightening import Must
from ..core.inspect.parts_list import parts_list
from ..core.model.document import Model, body_title
from ..core.model.edits import apply_edit, parse_edit
from ..core.model.edits.steps import AddStep, made_step
from ..core.model.measurements import Thing
from ..core.sketch.curves import CURVES
from ..core.solid.frames import frame_on
from ..workers import Workers, WorkerTrouble, answers, jobs
from .blobs import Blobs
from .modelling import Opened

FALL = {
    "timeout": 1.0,
    "crashed": 0.5,
    "killed": 0.25,
}  # what a worker's end says against the step it was in; 1: barred
RETRIES = 10  # steps that may take a worker down in one build before it is given up


class Stopped(Trouble):
    """The person (or a newer request) stopped the work."""


class Builder:
    """Builds through workers. Answers for the last revisions are kept."""

    def __init__(self, workers: Workers, blobs: Path, limit: float = 60.0) -> None:
        self._workers = workers
        self.blobs = Blobs(blobs)
        self._limit = limit
        self._barred: dict[str, str] = {}
        self._falls: dict[str, float] = {}  # by a step's key: how often a worker fell in it
        self._kept: OrderedDict[tuple[str, int, str], dict[str, Any]] = OrderedDict()
        self._lock = threading.Lock()

    def build(self, opened: Opened, part_id: str, ticket: str = "") -> dict[str, Any]:
        """The built part: statuses of steps, bodies with the keys of their meshes, totals."""
        key = (opened.id, opened.revision, part_id)
        with self._lock:
            known = self._kept.get(key)
            if known is not None:
                self._kept.move_to_end(key)
        # its meshes may have been trimmed since
        if known is not None and all(self.blobs.used(b["key"]) for b in (*known["bodies"], *known["references"])):
            return known
        opened.model.part(part_id)
        blobs = str(self.blobs.folder)
        # what any worker answered before needs none now: a model opens at once, however busy the workers are
        at_hand = answers.read(answers.path_of(blobs, opened.text, part_id), blobs)
        result = (
            {**at_hand, "cold": True}
            if at_hand is not None
            else self._run(opened.id, opened.model, "build_part", opened.text, part_id, blobs, ticket=ticket)
        )
        result["revision"] = opened.revision
        if result.pop("cold", False):
            threading.Thread(target=self._warm, args=(opened, part_id), daemon=True).start()
        with self._lock:
            self._kept[key] = result
            while len(self._kept) > 300:
                self._kept.popitem(last=False)
        self.blobs.came()
        return result

    def build_afresh(self, opened: Opened, part_id: str, ticket: str = "") -> dict[str, Any]:
        """The part built from nothing, for whoever doubts what is shown."""
        result: dict[str, Any] = self._run(
            opened.id, opened.model, "build_afresh", opened.text, part_id, str(self.blobs.folder), ticket=ticket
        )
        result.pop("cold", None)
        result["revision"] = opened.revision
        with self._lock:
            self._kept[opened.id, opened.revision, part_id] = result
        return result

    def _warm(self, opened: Opened, part_id: str) -> None:
        """After an answer from disk: have the solids at hand before the first change, unless others are waiting."""
        if not self._workers.busy(opened.id):
            with contextlib.suppress(Trouble):
                self._run(opened.id, opened.model, "warm_part", opened.text, part_id)

    def last(self, opened: Opened, part_id: str) -> dict[str, Any] | None:
        """The build of this revision, or of the newest before it that is at hand."""
        with self._lock:
            known = [k for k in self._kept if k[0] == opened.id and k[2] == part_id and k[1] <= opened.revision]
            return self._kept[max(known, key=lambda k: k[1])] if known else None

    def preview(
        self, opened: Opened, part_id: str, draft: dict[str, Any], touched: list[str], ticket: str
    ) -> dict[str, Any]:
        """The part as it would be with a step added at the Now line or changed; nothing is stored."""
        model, step_id = self._with_draft(opened.model, part_id, draft)
        text = json.dumps(model.as_json(), separators=(",", ":"))
        defaults: dict[str, Any] = {}
        if not draft.get("id"):
            defaults = self._run(opened.id, model, "settle_draft", text, part_id, step_id, touched, ticket=ticket)
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
            str(self.blobs.folder),
            ticket=ticket,
            then=(step_id,),
        )
        result["defaults"] = defaults
        # a worker gave up on the step: it may be kept all the same, and stands there failed
        result["preview"]["gave_up"] = result["preview"]["message"] in self._barred.values()
        return result

    @staticmethod
    def as_edited(opened: Opened, edits: Sequence[Mapping[str, Any]]) -> Opened:
        """A model as it would be after some edits; nothing is stored."""
        model = opened.model
        for edit in edits:
            model = apply_edit(model, parse_edit(edit))
        text = json.dumps(model.as_json(), separators=(",", ":"))
        return replace(opened, model=model, text=text)

    def as_it_is(self, opened: Opened, part_id: str, ticket: str = "", *, patient: bool = False) -> dict[str, Any]:
        """The built part of a model that is no stored revision: a trial, a variant, a file."""
        opened.model.part(part_id)
        result: dict[str, Any] = self._run(
            opened.id, opened.model, "build_part", opened.text, part_id, str(self.blobs.folder),
            ticket=ticket, patient=patient,
        )  # fmt: skip
        result.pop("cold", None)
        return result

    def near(self, opened: Opened, part_id: str, edits: Sequence[Mapping[str, Any]], ticket: str) -> dict[str, Any]:
        """The part as it would be after some edits, and how the mesh of it as it is gets there."""
        edited = self.as_edited(opened, edits)
        found: dict[str, Any] = self._run(
            opened.id, edited.model, "build_near", opened.text, part_id, str(self.blobs.folder), edited.text,
            ticket=ticket,
        )  # fmt: skip
        return found

    @property
    def lanes(self) -> int:
        """How many patient jobs run at once."""
        return self._workers.lanes

    def rest(self) -> None:
        """Nothing patient is to come."""
        self._workers.rest()

    def try_edits(
        self, opened: Opened, part_id: str, edits: list[dict[str, Any]], *, place: str, ticket: str
    ) -> Outcome:
        """Whether a part still is what it is with some edits; nobody waits for it. ``place``: what is tried beside it
        goes to the same worker.
        """
        told = self._run(
            place, opened.model, "try_edits", opened.text, part_id, str(self.blobs.folder), edits,
            ticket=ticket, patient=True,
        )  # fmt: skip
        return Outcome(**told)

    def compare(self, before: Opened, part_id: str, after: Opened, other_part: str, ticket: str) -> dict[str, Any]:
        """What is gone and what has come from one part to another."""
        found: dict[str, Any] = self._run(
            after.id, after.model, "compare_parts", before.text, part_id, after.text, other_part,
            str(self.blobs.folder), ticket=ticket,
        )  # fmt: skip
        return found

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

    def section(
        self, opened: Opened, part_id: str, origin: list[float], normal: list[float], ticket: str
    ) -> dict[str, Any]:
        """The part cut by a plane through a point, at right angles to a direction."""
        frame = section_frame(origin, normal)
        opened.model.part(part_id)
        found: dict[str, Any] = self._run(
            opened.id, opened.model, "cut_section", opened.text, part_id, frame, ticket=ticket
        )
        return {**found, "frame": frame}

    def explain(self, opened: Opened, part_id: str, ticket: str) -> list[dict[str, Any]]:
        """Causes that would account for a part's difference from its answers."""
        opened.model.part(part_id)
        found: list[dict[str, Any]] = self._run(
            opened.id, opened.model, "explain_answers", opened.text, part_id, ticket=ticket
        )
        return found

    def seek(self, opened: Opened, part_id: str, name: str, figure: str, goal: str, ticket: str) -> dict[str, Any]:
        """The value of a parameter at which a part comes to something; nothing is stored."""
        part = opened.model.part(part_id)
        # what is wrong with it is said before anything is built
        goal_of(figure_of(figure, opened.model, part), goal, opened.model)
        found: dict[str, Any] = self._run(
            opened.id, opened.model, "seek_value", opened.text, part_id, name, figure, goal, ticket=ticket
        )
        return found

    def lighten(
        self, opened: Opened, part_id: str, names: list[str], still: dict[str, Any], ticket: str
    ) -> dict[str, Any]:
        """The values of some parameters at which a part is lightest; nothing is stored."""
        opened.model.part(part_id)
        Must.of(opened.model, still)
        found: dict[str, Any] = self._run(
            opened.id, opened.model, "lighten", opened.text, part_id, names, still, ticket=ticket
        )
        return found

    def hand_in(self, opened: Opened, part_id: str, kind: str, person: str) -> tuple[str, str, bytes]:
        """File name, media type and content of a part's hand-in sheet."""
        part = opened.model.part(part_id)
        data: bytes = self._run(
            opened.id, opened.model, "hand_in_part", opened.text, part_id, kind, person, opened.revision
        )
        name = f"{file_stem(opened.model, part, opened.revision)}-hand-in.{kind}"
        return name, "application/pdf" if kind == "pdf" else "image/png", data

    def read_file(self, model_id: str, name: str, data: bytes, ticket: str) -> dict[str, Any]:
        """What a file has in it; read in a worker with limits on time and memory."""
        try:
            found: dict[str, Any] = self._workers.run(
                model_id, jobs.call, "read_file", name, data, ticket=ticket, limit=self._limit
            )
        except WorkerTrouble as trouble:
            if trouble.reason == "stopped":
                raise Stopped("Stopped. Nothing was brought in.") from None
            why = "took too long" if trouble.reason == "timeout" else "took the reader down"
            raise BadInput(f"“{name[:60]}” {why}: it is too large or damaged. Nothing was brought in.") from None
        except MemoryError:
            raise BadInput(f"“{name[:60]}” needs too much memory. Nothing was brought in.") from None
        return found

    def check_print(
        self, opened: Opened, part_id: str, process: dict[str, Any], lay: str, moved: Any, ticket: str
    ) -> dict[str, Any]:
        """Whether and how a part prints. ``moved``: where bodies were put on the bed by hand."""
        opened.model.part(part_id)
        found: dict[str, Any] = self._run(
            opened.id,
            opened.model,
            "check_print",
            opened.text,
            part_id,
            str(self.blobs.folder),
            process,
            lay,
            moved,
            ticket=ticket,
        )
        return {**found, "revision": opened.revision}

    def check_fit(self, opened: Opened, part_id: str, play: float, ticket: str) -> dict[str, Any]:
        """How the bodies of a part go together. ``play``: mm that printed parts need between them."""
        opened.model.part(part_id)
        if not 0 <= play <= 100:
            raise BadInput("The play may be 0 to 100 mm.", where="play")
        found: dict[str, Any] = self._run(
            opened.id, opened.model, "check_fit", opened.text, part_id, str(self.blobs.folder), play, ticket=ticket
        )
        return found

    def print_times(self, opened: Opened, part_id: str, process: dict[str, Any], ticket: str) -> list[float]:
        """How long each line of a part's parts list takes to print, s; in its order."""
        built = self.build(opened, part_id, ticket)
        entries = parts_list(opened.model, opened.model.part(part_id), built["bodies"])
        found: list[float] = self._run(
            opened.id, opened.model, "time_bodies", opened.text, part_id, [list(e.bodies) for e in entries], process,
            ticket=ticket,
        )  # fmt: skip
        return found

    def print_seconds(
        self, opened: Opened, part_id: str, bodies: Sequence[Mapping[str, Any]], process: dict[str, Any], ticket: str
    ) -> float:
        """How long all bodies of a part take to print, each by itself, s."""
        found: list[float] = self._run(
            opened.id, opened.model, "time_bodies", opened.text, part_id, [[b["id"] for b in bodies]], process,
            ticket=ticket, patient=True,
        )  # fmt: skip
        return found[0]

    def print_program(
        self, opened: Opened, part_id: str, process: dict[str, Any], lay: str, moved: Any, ticket: str
    ) -> tuple[str, bytes]:
        """A part's program for the printer, and its file name."""
        part = opened.model.part(part_id)
        data: bytes = self._run(
            opened.id, opened.model, "print_program", opened.text, part_id, process, lay, moved, opened.revision,
            ticket=ticket,
        )  # fmt: skip
        return f"{file_stem(opened.model, part, opened.revision)}.gcode", data

    def measure(self, opened: Opened, part_id: str, things: list[Any], ticket: str) -> dict[str, Any]:
        """One or two picked things measured."""
        opened.model.part(part_id)
        try:
            plain = [Thing.model_validate(t).model_dump(mode="json") for t in things]
        except ValidationError as error:
            raise BadInput("What is to be measured could not be understood.") from error
        found: dict[str, Any] = self._run(
            opened.id, opened.model, "measure_things", opened.text, part_id, plain, ticket=ticket
        )
        return found

    def how_it_stands(self, opened: Opened, together: str, part_id: str, other: str) -> dict[str, str]:
        """Where another part stands as seen from a part, where both are put together."""
        for id in (together, part_id, other):
            opened.model.part(id)
        found: dict[str, str] = self._run(
            opened.id, opened.model, "how_it_stands", opened.text, together, part_id, other
        )
        return found

    def takeable(self, opened: Opened, step_id: str) -> list[dict[str, Any]]:
        """What an open sketch may take from the solids before it, with each curve as a path."""
        part = next((p for p in opened.model.parts if any(s.id == step_id for s in p.steps)), None)
        if part is None:
            raise NotFound("This sketch is not in the model any more.")
        found: list[dict[str, Any]] = self._run(opened.id, opened.model, "find_takeable", opened.text, part.id, step_id)
        for entry in found:
            curve = CURVES.parse({**entry["curve"], "id": "offer"})
            entry["path"] = curve.svg()
            # "take" stands for the curve, which is taken along by whoever snaps to it
            entry["snaps"] = [
                {
                    "at": s.at,
                    "snap": s.word,
                    "word": f"{s.word} of the solid",
                    "ref": (s.ref or "take").replace("offer", "take"),
                }
                for s in curve.snaps()
            ]
        return found

    def picture(
        self, opened: Opened, part_id: str, size: tuple[int, int] = (480, 270), *, patient: bool = False
    ) -> bytes:
        """A PNG of the part. ``patient``: there is time."""
        result: bytes = self._run(opened.id, opened.model, "draw_part", opened.text, part_id, *size, patient=patient)
        return result

    def export(
        self,
        opened: Opened,
        part_id: str,
        format_kind: str,
        ticket: str,
        how: dict[str, Any] | None = None,
        *,
        patient: bool = False,
    ) -> tuple[str, str, bytes]:
        """File name, media type and content of a part in some format. ``how``: see ``workers.files.export_part``."""
        format_class = FORMATS[format_kind]
        part = opened.model.part(part_id)
        how = {"chord": DEFAULT_CHORD, "angle": DEFAULT_ANGLE, **(how or {})}
        _check_fineness(how["chord"], how["angle"])
        more = []
        if how.get("sketch"):
            more.append(opened.model.title_of(part.step(how["sketch"]).id))
        more += [word for word in ("face", "section") if how.get(word)]
        if how.get("body"):
            more.append(body_title(opened.model, how["body"]))
        if format_class.of == "outline" and not more:
            raise BadInput(f"{format_class.word} is a flat drawing: choose a sketch, a face or a section.")
        data: bytes = self._run(
            opened.id,
            opened.model,
            "export_part",
            opened.text,
            part_id,
            format_kind,
            how,
            ticket=ticket,
            patient=patient,
        )
        ending, media = format_class.ending, format_class.media
        if how.get("separate"):
            ending, media = "zip", "application/zip"
        return f"{file_stem(opened.model, part, opened.revision, more)}.{ending}", media, data

    def triangles(self, opened: Opened, part_id: str, chord: float, angle: float, ticket: str) -> dict[str, Any]:
        """How many triangles a part has at some fineness, and how far its mesh is from it."""
        _check_fineness(chord, angle)
        opened.model.part(part_id)
        found: dict[str, Any] = self._run(
            opened.id, opened.model, "count_triangles", opened.text, part_id, chord, angle, ticket=ticket
        )
        return found

    def stop(self, ticket: str) -> None:
        """Stop what runs under a ticket."""
        self._workers.stop_ticket(ticket)

    def progress(self, ticket: str) -> dict[str, Any]:
        """Where the work under a ticket is."""
        return self._workers.progress(ticket)

    def _run(
        self,
        model_id: str,
        model: Model,
        job: Any,
        *args: Any,
        ticket: str = "",
        then: tuple[Any, ...] = (),
        patient: bool = False,
    ) -> Any:
        """Run a job; a step that takes the worker down is barred with a message, and the rest is built."""
        for _ in range(RETRIES):
            barred = dict(self._barred)
            try:
                return self._workers.run(
                    model_id, jobs.call, job, *args, barred, *then, ticket=ticket, limit=self._limit, patient=patient
                )
            except WorkerTrouble as trouble:
                if trouble.reason == "stopped":
                    raise Stopped("Stopped.") from None
                key = str(trouble.note.get("key") or "")
                if not key:
                    if trouble.reason == "killed":
                        continue  # nothing to do with what was asked
                    raise Trouble(_fate(trouble.reason, self._limit, "This")) from None
                # a step is condemned when it itself took the worker down twice; somebody's kill counts little
                fell = self._falls[key] = self._falls.get(key, 0.0) + FALL.get(trouble.reason, 0.5)
                if fell >= 1.0:
                    title = str(trouble.note.get("title", ""))
                    self._barred[key] = _fate(trouble.reason, self._limit, title)
                    self._falls.pop(key, None)
        raise Trouble("Too many steps of this part cannot be computed; change the last one.")


def section_frame(origin: Any, normal: Any) -> dict[str, list[float]]:
    """The plane through a point at right angles to a direction, as plain data."""
    both = [origin, normal]
    # compared before anything else: a whole number may be too long for a float
    if not all(
        isinstance(v, list) and len(v) == 3 and all(isinstance(x, int | float) and abs(x) < 1e6 for x in v)
        for v in both
    ):
        raise BadInput("A plane is a point and a direction, three numbers each.")
    if math.hypot(*normal) < 1e-9:
        raise BadInput("A plane is a point and a direction.")
    return frame_on((origin[0], origin[1], origin[2]), (normal[0], normal[1], normal[2])).as_json()


def _check_fineness(chord: float, angle: float) -> None:
    if not (1e-4 <= chord <= 10 and 0.02 <= angle <= 1.5):
        raise BadInput("The chord must be from 0.0001 to 10 mm, the angle from 0.02 to 1.5 rad.")


def _fate(reason: str, limit: float, what: str) -> str:
    if reason == "timeout":
        return f"{what} took longer than {limit:.0f} s and was stopped. Make it simpler or its numbers less extreme."
    return f"{what} could not be computed: the geometry worker gave up on it. Change its numbers or picks a little."
