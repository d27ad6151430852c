"""What is said in Python, put into the blanks of a step: one way for each type of blank, none for a kind of step."""

from __future__ import annotations

import inspect
from collections.abc import Callable, Mapping
from typing import Any

from pydantic import BaseModel

from ..core.blanks import Blank
from ..core.errors import BadInput
from ..core.steps.base import Step as StepKind
from .formulas import Formula, text_of
from .made import Step
from .picking import AXES, Edge, Face
from .sketches import Area, Curve, Point, Sketch


def _said(label: str, value: Any, wanted: str) -> BadInput:
    return BadInput(f"“{value!r}” does not fit into “{label}”: it takes {wanted}.")


def _all(value: Any) -> list[Any]:
    """One or several, as several."""
    return list(value) if isinstance(value, (list, tuple)) and not hasattr(value, "at") else [value]


def _number(blank: Blank, value: Any) -> str:
    if isinstance(value, (str, Formula)) or (isinstance(value, (int, float)) and not isinstance(value, bool)):
        return text_of(value)
    raise _said(blank.label, value, "a number, a text like “5 mm”, or a parameter")


def _choice(blank: Blank, value: Any) -> str:
    for key, words in blank.words.items():
        if str(value) in (key, words):
            return key
    raise _said(blank.label, value, " or ".join(blank.words))


def _text(blank: Blank, value: Any) -> str:
    return str(value)


def _regions(blank: Blank, value: Any) -> list[Any]:
    out: list[Any] = []
    for one in _all(value):
        if isinstance(one, Sketch):
            out += one.whole.picks
        elif isinstance(one, Area):
            out += one.picks
        elif isinstance(one, (Face, Curve)):
            out.append(one.pick)
        else:
            raise _said(blank.label, one, "a sketch, regions of one, a flat face, or open curves")
    return out


def _edges(blank: Blank, value: Any) -> list[Any]:
    if not all(isinstance(one, (Edge, Face)) for one in _all(value)):
        raise _said(blank.label, value, "edges, or faces for all their edges")
    return [one.pick for one in _all(value)]


def _faces(blank: Blank, value: Any) -> list[Any]:
    if not all(isinstance(one, Face) for one in _all(value)):
        raise _said(blank.label, value, "faces")
    return [one.pick for one in _all(value)]


def _points(blank: Blank, value: Any) -> list[Any]:
    out = []
    for one in _all(value):
        if isinstance(one, Point):
            out.append({"sketch": one._sketch.id, "ref": one.ref})
        elif isinstance(one, Curve) and "at" in one._curve.points:
            out.append({"sketch": one._sketch.id, "ref": f"{one.ref}.at"})
        elif isinstance(one, Curve) and "centre" in one._curve.points:
            out.append({"sketch": one._sketch.id, "ref": f"{one.ref}.centre"})
        elif isinstance(one, Step) and one.kind == "datum":
            out.append({"sketch": one.id, "ref": "point"})
        else:
            raise _said(blank.label, one, "points of a sketch, circles for their centres, or a datum point")
    return out


def _bodies(blank: Blank, value: Any) -> list[str]:
    out: list[str] = []
    for one in _all(value):
        out += one.bodies if isinstance(one, Step) else [str(one)]
    return out


def _steps(blank: Blank, value: Any) -> list[str]:
    if not all(isinstance(one, Step) for one in _all(value)):
        raise _said(blank.label, value, "steps")
    return [one.id for one in _all(value)]


def _plane(blank: Blank, value: Any) -> dict[str, Any]:
    if value in ("top", "front", "right"):
        return {"plane": value}
    if isinstance(value, Face):
        return {"face": value.pick}
    if isinstance(value, Step) and value.kind == "datum":
        return {"datum": value.id}
    raise _said(blank.label, value, "“top”, “front” or “right”, a flat face, or a datum plane")


def _axis(blank: Blank, value: Any) -> dict[str, Any]:
    if isinstance(value, str) and value in AXES:
        return {"axis": value}
    if isinstance(value, Curve):
        return {"sketch": value._sketch.id, "line": value.ref}
    if isinstance(value, Point):
        return {"sketch": value._sketch.id, "point": value.ref}
    if isinstance(value, Edge):
        return {"edge": value.pick}
    if isinstance(value, Face):
        return {"face": value.pick}
    if isinstance(value, Step) and value.kind == "datum":
        return {"datum": value.id}
    raise _said(blank.label, value, "“x”, “y” or “z”, a line or point of a sketch, an edge, a round face, a datum axis")


def _curve(blank: Blank, value: Any) -> Any:
    if isinstance(value, (Curve, Edge)):
        return value.pick
    raise _said(blank.label, value, "a curve of a sketch")


def _curves(blank: Blank, value: Any) -> list[Any]:
    return [_curve(blank, one) for one in _all(value)]


def _thing(blank: Blank, value: Any) -> dict[str, Any]:
    if isinstance(value, Face):
        return {"face": value.pick}
    if isinstance(value, Edge):
        return {"edge": value.pick}
    if value in ("top", "front", "right"):
        return {"plane": value}
    if isinstance(value, str) and value in AXES:
        return {"axis": value}
    if value == "origin":
        return {"origin": True}
    if isinstance(value, Step) and value.kind == "datum":
        return {"datum": value.id}
    raise _said(blank.label, value, "a face, an edge, an origin plane or axis, “origin”, or a datum")


def _part(blank: Blank, value: Any) -> str:
    return str(getattr(value, "id", value))


FILL: dict[str, Callable[[Blank, Any], Any]] = {
    "length": _number, "angle": _number, "count": _number, "choice": _choice, "text": _text, "regions": _regions,
    "edges": _edges, "faces": _faces, "points": _points, "bodies": _bodies, "steps": _steps, "plane": _plane,
    "axis": _axis, "curve": _curve, "path": _curves, "thing": _thing, "part": _part, "variant": _text,
    "members": lambda blank, value: [str(v) for v in _all(value)],
}  # fmt: skip
"""What fills each type of blank."""


def in_order(kind: type[StepKind], given: Mapping[str, Any]) -> list[str]:
    """The blanks that are said without their names: those that must be filled, in the order of the sentence, as far as
    they are there with the choices given.
    """
    fields, blanks = kind.model_fields, kind.blanks()
    named = [part for what, part, _ in kind.fragments() if what == "blank"]

    def there(name: str) -> bool:
        when, after = blanks[name].when, blanks[name].after
        if after and after not in given:
            return False
        return when is None or (str(given.get(when[0], fields[when[0]].default)) in when[1] and there(when[0]))

    return [n for n in named if blanks[n].type != "choice" and not blanks[n].optional and there(n)]


def fields_of(
    kind: type[StepKind], said: tuple[Any, ...], named: Mapping[str, Any], known: Mapping[str, Any] | None = None
) -> dict[str, Any]:
    """Fields of a step from what is said in order and by name. ``known``: what stands in its other blanks. Raises
    ``BadInput`` with what fits where something does not.
    """
    blanks = kind.blanks()
    for name in named:
        if name not in blanks:
            raise BadInput(f"{kind.word} has no blank “{name}”; it has {', '.join(blanks)}.")
    chosen = {n: FILL["choice"](blanks[n], v) for n, v in named.items() if blanks[n].type == "choice"}
    order = [n for n in in_order(kind, {**(known or {}), **named, **chosen}) if n not in named]
    if len(said) > len(order):
        raise BadInput(f"{kind.word} takes {', '.join(order) or 'nothing'} in order; {len(said)} were given.")
    filled = {**dict(zip(order, said)), **named}
    return {n: _filled(blanks[n], v) for n, v in filled.items()}


def _filled(blank: Blank, value: Any) -> Any:
    """A blank's value; what stands in a model already, as data, stays as it is."""
    first = value[0] if isinstance(value, (list, tuple)) and value else value
    if isinstance(first, (dict, BaseModel)):
        return value
    return FILL[blank.type](blank, value)


def signature_of(kind: type[StepKind]) -> inspect.Signature:
    """A step kind as a call: what is said in order first, then all by name."""
    fields, blanks = kind.model_fields, kind.blanks()
    first = in_order(kind, {})
    rest = [n for what, n, _ in kind.fragments() if what == "blank" and n not in first]
    both, named = inspect.Parameter.POSITIONAL_OR_KEYWORD, inspect.Parameter.KEYWORD_ONLY
    usual = {n: fields[n].default for n in blanks}
    return inspect.Signature([
        inspect.Parameter("self", inspect.Parameter.POSITIONAL_ONLY),
        *(inspect.Parameter(n, both, default=_plain(usual[n])) for n in first),
        *(inspect.Parameter(n, named, default=_plain(usual[n])) for n in rest),
    ])  # fmt: skip


def _plain(value: Any) -> Any:
    return value if isinstance(value, (str, int, float, tuple)) else None


def docs_of(kind: type[StepKind]) -> str:
    """A step kind in words: its sentence, and what each blank takes."""
    lines = [f"{kind.word}. {kind.hint}".strip(), "", f"“{kind.sentence}”", ""]
    for name, blank in kind.blanks().items():
        choices = f" One of: {', '.join(blank.words)}." if blank.words else ""
        lines.append(f"``{name}``: {blank.hint or blank.label}{choices}")
    return "\n".join(lines)
