"""Whether and how a part prints, how its bodies go together, what goes to the printer."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from ..core.errors import BadInput
from ..core.exchange import file_stem
from ..core.inspect.parts_list import parts_list
from ..workers import requests as ask
from ..workers.answers import FitChecked, PrintChecked
from .building import Builder
from .modelling import Opened


class PrintShown(PrintChecked):
    """Whether a part prints, of a revision."""

    revision: int


def check_print(
    builder: Builder, opened: Opened, part_id: str, process: dict[str, Any], lay: str, moved: Any, ticket: str
) -> PrintShown:
    """Whether and how a part prints. ``moved``: where bodies were put on the bed by hand."""
    found = builder.ask(opened, ask.CheckPrint, part_id, process=process, lay=lay, moved=moved, ticket=ticket)
    return {**found, "revision": opened.revision}


def check_fit(builder: Builder, opened: Opened, part_id: str, play: float, ticket: str) -> FitChecked:
    """How the bodies of a part go together. ``play``: mm that printed parts need between them."""
    if not 0 <= play <= 100:
        raise BadInput("The play may be 0 to 100 mm.", where="play")
    return builder.ask(opened, ask.CheckFit, part_id, play=play, ticket=ticket)


def print_times(builder: Builder, opened: Opened, part_id: str, process: dict[str, Any], ticket: str) -> list[float]:
    """How long each line of a part's parts list takes to print, s; in its order."""
    built = builder.build(opened, part_id, ticket)
    entries = parts_list(opened.model, opened.model.part(part_id), built["bodies"])
    groups = tuple(e.bodies for e in entries)
    return builder.ask(opened, ask.TimeBodies, part_id, groups=groups, process=process, ticket=ticket)


def print_seconds(
    builder: Builder,
    opened: Opened,
    part_id: str,
    bodies: Sequence[Mapping[str, Any]],
    process: dict[str, Any],
    ticket: str,
) -> float:
    """How long all bodies of a part take to print, each by itself, s."""
    groups = (tuple(b["id"] for b in bodies),)
    found = builder.ask(opened, ask.TimeBodies, part_id, groups=groups, process=process, ticket=ticket, patient=True)
    return found[0]


def print_program(
    builder: Builder, opened: Opened, part_id: str, process: dict[str, Any], lay: str, moved: Any, ticket: str
) -> tuple[str, bytes]:
    """A part's program for the printer, and its file name."""
    part = opened.model.part(part_id)
    data = builder.ask(
        opened, ask.PrintProgram, part_id, process=process, lay=lay, moved=moved, revision=opened.revision,
        ticket=ticket,
    )  # fmt: skip
    return f"{file_stem(opened.model, part, opened.revision)}.gcode", data
