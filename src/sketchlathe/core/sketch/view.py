"""A sketch as a screen draws it: paths, places to snap to, marks, dimensions, regions, what is free."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from ..quantity import names_in
from ..quantity.units import LENGTH, LengthUnit, show
from .constraints import CONSTRAINTS, Dimensional
from .curves import Curve
from .document import Sketch
from .regions import arrange
from .solver.freedom import freedom

AXES = ("x_axis", "y_axis")


def live_view(sketch: Sketch, unit: LengthUnit) -> dict[str, Any]:
    """What changes while something is dragged: curves, marks, dimensions."""
    return {
        "curves": [
            {
                "id": c.id,
                "word": sketch.name_of(c.id),
                "path": c.svg(),
                "construction": c.construction,
                "points": [{"ref": f"{c.id}.{p}", "at": getattr(c, p)} for p in c.points],
                "tags": _tags(c),
                "sizes": {n: getattr(c, n) for n in c.sizes},
            }
            for c in sketch.curves
        ],
        "marks": [
            {
                "id": k.id,
                "symbol": k.symbol,
                "text": k.sentence(sketch),
                "on": list(k.on),
                "at": m.at,
                "normal": m.normal,
            }
            for k in sketch.constraints
            for m in k.marks(sketch)
        ],
        "dimensions": [_dimension(k, sketch, unit) for k in sketch.constraints if isinstance(k, Dimensional)],
    }


@lru_cache(maxsize=100)
def _tags_of_kind(cls: type[Curve]) -> tuple[str, ...]:
    return ("point",) if cls.model_fields["kind"].default == "point" else tuple(sorted(cls.tags | {"curve"}))


def _tags(curve: Curve) -> tuple[str, ...]:
    return _tags_of_kind(type(curve))


def dimension_view(dimension: Dimensional, sketch: Sketch, unit: LengthUnit) -> dict[str, Any]:
    """One dimension that is not in the sketch yet, for its preview."""
    return _dimension(dimension, sketch, unit) | {"value": show(dimension.measure(sketch), dimension.measures, unit, 3)}


def _dimension(k: Dimensional, sketch: Sketch, unit: LengthUnit) -> dict[str, Any]:
    form, points, label = k.figure(sketch)
    return {
        "id": k.id,
        "word": k.word,
        "on": list(k.on),
        "form": form,
        "points": points,
        "label": label,
        "value": k.value,
        "driving": k.driving,
        "text": dimension_text(k, sketch, unit, form),
    }


def dimension_text(k: Dimensional, sketch: Sketch, unit: LengthUnit, form: str) -> str:
    """The text on the drawing (ISO 129): no unit for lengths, R and ⌀ before, brackets around a reference."""
    sign = {"radial": "R", "diametral": "⌀"}.get(form, "")
    if k.driving and k.value and names_in(k.value):
        return sign + k.value.removesuffix(" mm").removesuffix(" in")
    value = sketch.values.get(k.id, k.measure(sketch)) if k.driving else k.measure(sketch)
    text = show(value, k.measures, unit, 3)
    if k.measures == LENGTH:
        text = text.rpartition(" ")[0]
    return f"{sign}{text}" if k.driving else f"({sign}{text})"


def full_view(sketch: Sketch, unit: LengthUnit) -> dict[str, Any]:
    """Everything, at rest: the live view with snaps, freedom and regions. ``sketch`` has its values evaluated."""
    view = live_view(sketch, unit)
    state = freedom(sketch)
    arrangement = arrange(sketch.curves, sketch.size)
    view["free"] = sorted(state.free)
    view["freedom"] = state.count
    view["snaps"] = [{"at": (0.0, 0.0), "word": "origin", "ref": "origin"}] + [
        {"at": s.at, "word": s.word, "ref": s.ref or c.id} for c in sketch.curves for s in c.snaps()
    ]
    view["regions"] = [{"key": list(r.key), "path": arrangement.path(r), "area": r.area} for r in arrangement.regions]
    view["known"] = [c.id for c in sketch.curves]
    view["open_ends"] = list(arrangement.open_ends)
    view["size"] = sketch.size
    view["unmet"] = sketch.unmet()
    return view


def describe_constraints() -> list[dict[str, Any]]:
    """Constraint kinds (not dimensions) as plain data for the screen."""
    return [
        {
            "kind": c.model_fields["kind"].default,
            "word": c.word,
            "symbol": c.symbol,
            "chord": c.chord,
            "hint": c.hint,
        }
        for c in CONSTRAINTS
        if not issubclass(c, Dimensional)
    ]


def offers(sketch: Sketch, refs: tuple[str, ...]) -> list[dict[str, Any]]:
    """The constraints that a selection can take."""
    return [
        {"kind": c.model_fields["kind"].default, "word": c.word, "symbol": c.symbol, "chord": c.chord}
        for c in CONSTRAINTS
        if not issubclass(c, Dimensional) and c.fits(sketch, refs)
    ]


def facts(sketch: Sketch, refs: tuple[str, ...], unit: LengthUnit) -> list[tuple[str, str]]:
    """What a selection measures, in words and the person's units."""
    out: list[tuple[str, str]] = []
    if len(refs) == 1 and "point" in sketch.tags_of(refs[0]):
        x, y = sketch.point(refs[0] if "." in refs[0] or refs[0] == "origin" else f"{refs[0]}.at")
        out += [("across", show(x, LENGTH, unit, 3)), ("along", show(y, LENGTH, unit, 3))]
    elif len(refs) == 1 and refs[0] not in AXES:
        curve = sketch.curve(refs[0])
        for name in curve.sizes:
            out.append((name, show(float(getattr(curve, name)), LENGTH, unit, 3)))
        out.append(("length", show(curve.length(), LENGTH, unit, 3)))
    elif len(refs) == 2 and all("point" in sketch.tags_of(r) for r in refs):
        (ax, ay), (bx, by) = (sketch.point(r) for r in refs)
        out += [
            ("apart", show(((bx - ax) ** 2 + (by - ay) ** 2) ** 0.5, LENGTH, unit, 3)),
            ("across", show(abs(bx - ax), LENGTH, unit, 3)),
            ("along", show(abs(by - ay), LENGTH, unit, 3)),
        ]
    return out
