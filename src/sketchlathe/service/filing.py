"""Files: what one has in it, a part as one."""

from __future__ import annotations

from typing import Any

from ..core.errors import BadInput, Stopped
from ..core.exchange import FORMATS, file_stem
from ..core.exchange.base import DEFAULT_ANGLE, DEFAULT_CHORD
from ..workers import WorkerTrouble
from ..workers import requests as ask
from ..workers.answers import FileRead, Triangles
from .building import Builder
from .modelling import Opened


def read_file(builder: Builder, person_id: str, name: str, data: bytes, ticket: str) -> FileRead:
    """What a file has in it; read in a worker with limits on time and memory, as one of the things that a person has
    under way.
    """
    request = ask.ReadFile(name=name, data=builder.blobs.keep_raw(data))
    try:
        with builder.commons.share(person_id, request.lane()):
            return builder.engine.submit(request, person_id, ticket=ticket, who=person_id)
    except Stopped:
        raise Stopped("Stopped. Nothing was brought in.") from None
    except WorkerTrouble as trouble:
        why = "took too long" if trouble.reason == "timeout" else "took the reader down"
        raise BadInput(f"“{name[:60]}” {why}: it is too large or damaged. Nothing was brought in.") from None
    except MemoryError:
        raise BadInput(f"“{name[:60]}” needs too much memory. Nothing was brought in.") from None


def export(
    builder: Builder,
    opened: Opened,
    part_id: str,
    format_kind: str,
    ticket: str,
    how: dict[str, Any] | None = None,
    *,
    patient: bool = False,
) -> tuple[str, str, bytes]:
    """File name, media type and content of a part in some format. ``how``: see ``requests.ExportPart``."""
    format_class = FORMATS[format_kind]
    part = opened.model.part(part_id)
    how = {"chord": DEFAULT_CHORD, "angle": DEFAULT_ANGLE, **(how or {})}
    _check_fineness(how["chord"], how["angle"])
    more = []
    if how.get("sketch"):
        more.append(opened.model.title_of(part.step(how["sketch"]).id))
    more += [word for word in ("face", "section") if how.get(word)]
    if how.get("body"):
        more.append(opened.model.title_of_body(how["body"]))
    if format_class.of == "outline" and not more:
        raise BadInput(f"{format_class.word} is a flat drawing: choose a sketch, a face or a section.")
    data = builder.ask(opened, ask.ExportPart, part_id, format=format_kind, how=how, ticket=ticket, patient=patient)
    ending, media = format_class.ending, format_class.media
    if how.get("separate"):
        ending, media = "zip", "application/zip"
    return f"{file_stem(opened.model, part, opened.revision, more)}.{ending}", media, data


def triangles(builder: Builder, opened: Opened, part_id: str, chord: float, angle: float, ticket: str) -> Triangles:
    """How many triangles a part has at some fineness, and how far its mesh is from it."""
    _check_fineness(chord, angle)
    return builder.ask(opened, ask.CountTriangles, part_id, chord=chord, angle=angle, ticket=ticket)


def _check_fineness(chord: float, angle: float) -> None:
    if not (1e-4 <= chord <= 10 and 0.02 <= angle <= 1.5):
        raise BadInput("The chord must be from 0.0001 to 10 mm, the angle from 0.02 to 1.5 rad.")
