"""Whether a document reads: what is wrong with data in a person's words, and that an edit left nothing that would be
refused.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import TYPE_CHECKING, Any

from pydantic import BaseModel, ValidationError

from ..errors import BadInput
from ..saying import a, opens

if TYPE_CHECKING:
    from .document import Model

# what a list in the document is called, and one thing in it
_MANY = {
    "parts": "part", "steps": "step", "parameters": "parameter", "materials": "material", "curves": "curve",
    "constraints": "constraint", "answers": "answer", "measurements": "measurement", "paints": "colour",
    "made_of": "body with a material of its own", "bodies": "body", "body_names": "named body", "edges": "edge",
    "faces": "face", "regions": "region", "points": "point", "taken": "curve taken from the solid", "places": "place",
    "sizes": "size", "ids": "thing", "on": "thing", "through": "point", "copies": "copy", "seeds": "original",
    "offers": "curve", "edits": "edit", "sides": "side", "things": "thing", "variants": "variant", "limits": "limit",
}  # fmt: skip
_NAMES = {
    "name": "The name", "formula": "The formula", "value": "The size", "note": "The note", "words": "The text",
    "colour": "The colour", "density": "The density", "units": "The unit", "at": "The place", "kind": "The kind",
    "now": "The Now line", "step": "The step", "part": "The part", "centre": "The centre", "radius": "The radius",
}  # fmt: skip
_SORTS = {
    "string_type": "a text", "int_type": "a whole number", "int_parsing": "a whole number",
    "int_from_float": "a whole number",
    "float_type": "a number", "float_parsing": "a number", "bool_type": "yes or no", "bool_parsing": "yes or no",
    "tuple_type": "a list", "list_type": "a list", "dict_type": "a table of names and values",
    "finite_number": "a finite number",
}  # fmt: skip


def problem_in(error: ValidationError) -> str:
    """The first thing a validation found, as a sentence without its full stop: where it is and what would be right.

    >>> from .document import Parameter
    >>> try:
    ...     Parameter(name="w", formula="1" * 401)
    ... except ValidationError as error:
    ...     print(problem_in(error))
    The formula may have at most 400 characters
    """
    found = error.errors(include_url=False, include_context=True, include_input=False)[0]
    context: dict[str, Any] = found.get("ctx", {})
    # names of alternatives (classes) are no words of a person's
    words = [p for p in found["loc"] if isinstance(p, str) and re.fullmatch(r"[a-z_]+", p)]
    last = words[-1] if words else ""
    where = _where(found["loc"])
    spoken = last.replace("_", " ")
    what = _NAMES.get(last) or (f"“{spoken}”" if last and last not in _MANY else "What was given")
    if isinstance(found["loc"][-1] if found["loc"] else None, int) and last in _MANY:
        what = opens(a(_MANY[last]))
    sort = found["type"]
    if sort == "missing":
        said = f"{what} is missing"
    elif sort == "extra_forbidden":
        said = f"“{spoken[:40]}” is not known here"
    elif sort in ("string_too_long", "string_too_short"):
        few = sort.endswith("short")
        number = context["min_length"] if few else context["max_length"]
        said = (
            f"{what} needs at least {number} character{'s' * (number != 1)}"
            if few
            else f"{what} may have at most {number} characters"
        )
    elif sort in ("too_long", "too_short"):
        few = sort.endswith("short")
        number, one = context["min_length" if few else "max_length"], _MANY.get(last, "thing")
        said = f"There {'must be at least' if few else 'may be at most'} {number} {_plural(one, number)}"
    elif sort in ("greater_than", "greater_than_equal", "less_than", "less_than_equal"):
        limit = next(context[k] for k in ("gt", "ge", "lt", "le") if k in context)
        than = {
            "greater_than": "more than",
            "greater_than_equal": "at least",
            "less_than": "less than",
            "less_than_equal": "at most",
        }
        said = f"{what} must be {than[sort]} {limit:g}"
    elif sort in ("literal_error", "enum"):
        said = f"{what} must be one of {context['expected'].replace(' or ', ', ').replace(chr(39), '')}"
    elif sort == "value_error":
        return str(context.get("error", found["msg"])).rstrip(".")
    elif sort == "string_pattern_mismatch":
        said = f"{what} is not written as it should be"
    else:
        said = (
            f"{what} must be {_SORTS.get(sort, 'something else')}" if sort in _SORTS else f"{what} cannot be understood"
        )
    return f"{said}{where}"


def _plural(one: str, count: int) -> str:
    if count == 1:
        return one
    head, _, tail = one.partition(" ")
    many = f"{head[:-1]}ies" if head.endswith("y") else f"{head}s"
    return f"{many} {tail}".strip()


def _where(loc: Iterable[str | int]) -> str:
    """In which part, step or curve: ", in step 2"; counted from 1."""
    found, many = [], ""
    for piece in loc:
        if isinstance(piece, int) and many in ("parts", "steps", "curves", "constraints", "parameters"):
            found.append(f"{_MANY[many]} {piece + 1}")
        many = piece if isinstance(piece, str) else ""
    return f" ({', '.join(found)})" if found else ""


def check_reads(before: Model, after: Model) -> None:
    """Raise ``BadInput`` if ``after``, made by an edit of ``before``, would be refused when it is read again.

    Only what is new is looked at: objects that both share have been read already.
    """
    try:
        _check(after, before)
    except ValidationError as error:
        raise BadInput(f"This goes beyond what a model can hold: {problem_in(error)}.") from error


def _check(new: Any, old: Any) -> None:
    if new is old:
        return
    if isinstance(new, BaseModel):
        fields = {name: getattr(new, name) for name in type(new).model_fields}
        # nested models are taken as they are; they have their own turn
        type(new).model_validate(fields)
        for name, value in fields.items():
            _check(value, getattr(old, name, None) if isinstance(old, BaseModel) else None)
    elif isinstance(new, tuple) and any(isinstance(v, BaseModel) for v in new):
        known = {id(v) for v in old} if isinstance(old, tuple) else set()
        by_id = {getattr(v, "id", None): v for v in old} if isinstance(old, tuple) else {}
        for value in new:
            if id(value) not in known:
                _check(value, by_id.get(getattr(value, "id", None)))


__all__ = ["check_reads", "problem_in"]
