"""Looking closer at a part: measuring, cutting, explaining, seeking, comparing, the hand-in sheet, pictures."""

from __future__ import annotations

import math
from typing import Any

from pydantic import ValidationError
from typing_extensions import TypedDict

from ..core.errors import BadInput, NotFound
from ..core.exchange import file_stem
from ..core.forms import CauseTold, Measured
from ..core.frames import frame_on
from ..core.inspect.figures import figure_of, goal_of
from ..core.inspect.lightening import Must
from ..core.model.measurements import Thing
from ..core.sketch.curves import CURVES
from ..workers import requests as ask
from ..workers.answers import Compared, Lightest, SectionCut, Sought, Takeable
from .building import Builder
from .modelling import Opened


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


class SectionShown(SectionCut):
    """A part cut by a plane, and that plane."""

    frame: dict[str, list[float]]


def section(
    builder: Builder, opened: Opened, part_id: str, origin: list[float], normal: list[float], ticket: str
) -> SectionShown:
    """The part cut by a plane through a point, at right angles to a direction."""
    frame = section_frame(origin, normal)
    found = builder.ask(opened, ask.CutSection, part_id, frame=frame, ticket=ticket)
    return {**found, "frame": frame}


def measure(builder: Builder, opened: Opened, part_id: str, things: list[Any], ticket: str) -> Measured:
    """One or two picked things measured."""
    try:
        plain = tuple(Thing.model_validate(t).model_dump(mode="json") for t in things)
    except ValidationError as error:
        raise BadInput("What is to be measured could not be understood.") from error
    return builder.ask(opened, ask.MeasureThings, part_id, things=plain, ticket=ticket)


def explain(builder: Builder, opened: Opened, part_id: str, ticket: str) -> list[CauseTold]:
    """Causes that would account for a part's difference from its answers."""
    return builder.ask(opened, ask.ExplainAnswers, part_id, ticket=ticket)


def seek(builder: Builder, opened: Opened, part_id: str, name: str, figure: str, goal: str, ticket: str) -> Sought:
    """The value of a parameter at which a part comes to something; nothing is stored."""
    # what is wrong with it is said before anything is built
    goal_of(figure_of(figure, opened.model, opened.model.part(part_id)), goal, opened.model)
    return builder.ask(opened, ask.SeekValue, part_id, parameter=name, figure=figure, goal=goal, ticket=ticket)


def lighten(
    builder: Builder, opened: Opened, part_id: str, names: list[str], still: dict[str, Any], ticket: str
) -> Lightest:
    """The values of some parameters at which a part is lightest; nothing is stored."""
    Must.of(opened.model, still)
    return builder.ask(opened, ask.Lighten, part_id, parameters=tuple(names), still=still, ticket=ticket)


def compare(builder: Builder, before: Opened, part_id: str, after: Opened, other_part: str, ticket: str) -> Compared:
    """What is gone and what has come from one part to another."""
    other = builder.document_of(after)
    return builder.ask(before, ask.ComparePart, part_id, other=other, other_part=other_part, ticket=ticket)


def hand_in(builder: Builder, opened: Opened, part_id: str, form: str, person: str) -> tuple[str, str, bytes]:
    """File name, media type and content of a part's hand-in sheet."""
    part = opened.model.part(part_id)
    data = builder.ask(opened, ask.HandInPart, part_id, form=form, person=person, revision=opened.revision)
    name = f"{file_stem(opened.model, part, opened.revision)}-hand-in.{form}"
    return name, "application/pdf" if form == "pdf" else "image/png", data


def picture(
    builder: Builder, opened: Opened, part_id: str, size: tuple[int, int] = (480, 270), *, patient: bool = False
) -> bytes:
    """A PNG of the part. ``patient``: there is time."""
    return builder.ask(opened, ask.DrawPart, part_id, width=size[0], height=size[1], patient=patient)


def how_it_stands(builder: Builder, opened: Opened, together: str, part_id: str, other: str) -> dict[str, str]:
    """Where another part stands as seen from a part, where both are put together."""
    for id in (together, other):
        opened.model.part(id)
    return builder.ask(opened, ask.HowItStands, part_id, together=together, other=other)


class SnapThere(TypedDict):
    """A place on a curve that is not in the sketch yet; ``ref`` says "take" for the curve, which is taken along by
    whoever snaps to it.
    """

    at: tuple[float, float]
    snap: str
    word: str
    ref: str


class TakeableShown(Takeable):
    """A curve that may be taken, as it is drawn."""

    path: str
    snaps: list[SnapThere]


def takeable(builder: Builder, opened: Opened, step_id: str) -> list[TakeableShown]:
    """What an open sketch may take from the solids before it, with each curve as a path."""
    part = next((p for p in opened.model.parts if any(s.id == step_id for s in p.steps)), None)
    if part is None:
        raise NotFound("This sketch is not in the model any more.")
    found = builder.ask(opened, ask.FindTakeable, part.id, step=step_id)
    told: list[TakeableShown] = []
    for entry in found:
        curve = CURVES.parse({**entry["curve"], "id": "offer"})
        snaps: list[SnapThere] = [
            {
                "at": s.at, "snap": s.word, "word": f"{s.word} of the solid",
                "ref": (s.ref or "take").replace("offer", "take"),
            }
            for s in curve.snaps()
        ]  # fmt: skip
        told.append({**entry, "path": curve.svg(), "snaps": snaps})
    return told
