"""How the content of a blank is said in words."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from .blanks import Blank, PlaneRef, RegionPick

if TYPE_CHECKING:
    from ..model.document import Model
    from .base import Step

PLANE_WORDS = {"top": "top plane", "front": "front plane", "right": "right plane"}


def _formula(value: Any, blank: Blank, model: Model) -> str:
    return str(value) or "…"


def _choice(value: Any, blank: Blank, model: Model) -> str:
    return blank.words.get(str(value), str(value))


def _plane(value: PlaneRef | None, blank: Blank, model: Model) -> str:
    if value is None:
        return "…"
    if value.plane:
        return PLANE_WORDS[value.plane]
    return say_face(value.face.atoms, model) if value.face else "…"


def say_face(atoms: tuple[str, ...], model: Model) -> str:
    """A face in words, from how it came to be: "end face of Extrude 2"."""
    step_id, _, rest = atoms[0].partition(":")
    role = rest.partition(":")[0]
    words = {"start": "start face", "end": "end face", "side": "side", "cut": "cut face"}
    return f"{words.get(role, 'face')} of {model.title_of(step_id.partition('(')[0])}"


def _regions(value: tuple[RegionPick, ...], blank: Blank, model: Model) -> str:
    if not value:
        return "…"
    sketches = list(dict.fromkeys(pick.sketch for pick in value))
    count = "region" if len(value) == 1 else f"{len(value)} regions"
    return f"{count} of {' and '.join(model.title_of(s) for s in sketches)}"


def _text(value: Any, blank: Blank, model: Model) -> str:
    return f"“{value}”" if value else "…"


_SAY: dict[str, Callable[[Any, Blank, Model], str]] = {
    "length": _formula,
    "angle": _formula,
    "count": _formula,
    "choice": _choice,
    "plane": _plane,
    "regions": _regions,
    "text": _text,
}


def say_blank(step: Step, field: str, model: Model) -> str:
    """The words in one blank of a step."""
    blank = step.blanks()[field]
    return _SAY[blank.type](getattr(step, field), blank, model)
