"""A sketch as a screen draws it: paths, places to snap to, marks, dimensions, regions, what is free."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from ..errors import Trouble
from ..quantity import is_plain
from ..quantity.units import LENGTH, ReadIn, show
from ..registry import kind_of
from .changes.chains import connected
from .changes.repairing import repairs
from .constraints import CONSTRAINTS, Constraint, Dimensional
from .curves import Curve
from .dimensioning import meanings
from .document import Sketch, ValuedSketch
from .regions import Arrangement, arrange
from .shown import Counted, DimensionShown, Moving, Offer, RegionShown, SketchAtRest, SnapShown
from .solver.conflict import adds_nothing, fights_with
from .solver.freedom import freedom

AXES = ("x_axis", "y_axis")


def live_view(sketch: Sketch, unit: ReadIn) -> Moving:
    """What changes while something is dragged: curves, marks, dimensions."""
    return {
        "curves": [
            {
                "id": c.id,
                "word": sketch.name_of(c.id),
                "path": c.svg(),
                "construction": c.construction,
                "taken": c.taken,
                "ends": [f"{c.id}.{p}" for p in c.end_points or ()],
                "points": [{"ref": f"{c.id}.{p}", "at": c.place(p)} for p in shown_points(c)],
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
                **_counted(k),
                "on": list(k.on),
                "at": m.at,
                "normal": m.normal,
            }
            for k in sketch.constraints
            for m in k.marks(sketch)
        ],
        "dimensions": [_dimension(k, sketch, unit) for k in sketch.constraints if isinstance(k, Dimensional)],
    }


def _counted(k: Constraint) -> Counted:
    """How many members or sides, where that can be changed."""
    if not hasattr(type(k), "counted"):
        return {}
    counted: Any = k
    return {"count": counted.count, "counted": counted.counted, "members": sorted(k.members())}


@lru_cache(maxsize=100)
def _tags_of_kind(cls: type[Curve]) -> tuple[str, ...]:
    return ("point",) if cls.model_fields["kind"].default == "point" else tuple(sorted(cls.tags | {"curve"}))


def shown_points(curve: Curve) -> tuple[str, ...]:
    """The points of a curve that are shown: of one that follows others only its ends where it has many."""
    if curve.taken and "spline" in curve.tags and curve.end_points:
        return curve.end_points
    return tuple(curve.points)


def _tags(curve: Curve) -> tuple[str, ...]:
    return _tags_of_kind(type(curve))


def dimension_view(dimension: Dimensional, sketch: Sketch, unit: ReadIn) -> DimensionShown:
    """One dimension that is not in the sketch yet, for its preview."""
    value = show(dimension.measure(sketch), dimension.measures, unit, 3)
    means = [f"{word} {show(mm, dimension.measures, unit, 3)}" for _, word, mm in meanings(dimension, sketch)]
    return {**_dimension(dimension, sketch, unit), "value": value, "means": means}


def _dimension(k: Dimensional, sketch: Sketch, unit: ReadIn) -> DimensionShown:
    form, points, label = k.figure(sketch)
    return {
        "id": k.id,
        "word": k.word,
        "on": list(k.on),
        "form": form,
        "points": points,
        "label": label,
        "value": k.value,
        "name": k.name,
        "rim": getattr(k, "rim", "") if "rim" in type(k).model_fields else "",
        **_counted(k),
        "driving": k.driving,
        "formula": k.driving and bool(k.value) and not is_plain(k.value),
        "laid": k.label is not None,
        "round": k.kind if "round" in sketch.tags_of(k.on[0]) else "",
        "means": [],
        "text": dimension_text(k, sketch, unit, form),
    }


def dimension_text(k: Dimensional, sketch: Sketch, unit: ReadIn, form: str) -> str:
    """The text on the drawing (ISO 129): its value, no unit for lengths, R and ⌀ before,
    brackets around a reference.
    """
    sign = k.prefix() + {"radial": "R", "diametral": "⌀"}.get(form, "")
    value = sketch.value_of(k.id) if k.driving else None
    if value is None:
        value = k.measure(sketch)
    text = show(value, k.measures, unit, 3)
    if k.measures == LENGTH:
        text = text.rpartition(" ")[0]
    if k.name:
        text = f"{k.name} = {text}"
    return f"{sign}{text}" if k.driving else f"({sign}{text})"


def full_view(sketch: ValuedSketch, unit: ReadIn) -> SketchAtRest:
    """Everything, at rest: the live view with snaps, freedom and regions. ``sketch`` has its values evaluated."""
    state = freedom(sketch)
    arrangement = arrange(sketch.curves, sketch.size)
    snaps: list[SnapShown] = [{"at": (0.0, 0.0), "word": "origin", "ref": "origin"}]
    snaps += [{"at": s.at, "word": s.word, "ref": s.ref or c.id} for c in sketch.curves for s in c.snaps()]
    return {
        **live_view(sketch, unit),
        "free": sorted(state.free),
        "freedom": state.count,
        "snaps": snaps,
        "regions": regions_view(sketch, arrangement),
        "repairs": [
            {"what": r.what, "refs": r.refs, "at": r.at, "text": r.text, "fix": r.fix}
            for r in repairs(sketch, arrangement.open_ends)
        ],
        "crossings": _crossings(sketch, arrangement),
        "known": [c.id for c in sketch.curves],
        "chains": _open_chains(sketch, arrangement),
        "open_ends": list(arrangement.open_ends),
        "size": sketch.size,
        "unmet": sketch.unmet(),
    }


def _open_chains(sketch: Sketch, arrangement: Arrangement) -> list[list[str]]:
    """Curves that bound nothing, those that hang together in one list."""
    loose = {id for id in arrangement.loose if sketch.curve(id).end_points and not sketch.curve(id).construction}
    chains: list[list[str]] = []
    while loose:
        chain = [id for id in connected(sketch, min(loose)) if id in loose]
        chains.append(chain)
        loose -= {*chain}
    return chains


def _letters(sketch: Sketch, key: tuple[str, ...]) -> str:
    """How the ink or the islands of a text are called; empty for other regions."""
    if len(key) != 1 or "text" not in sketch.tags_of(key[0][:-1]):
        return ""
    return f"{'letters' if key[0][-1] == '+' else 'islands'} of {sketch.name_of(key[0][:-1])}"


def _crossings(sketch: Sketch, arrangement: Arrangement) -> list[SnapShown]:
    """Places where two curves cross away from their ends: they can be snapped to."""
    stretches = arrangement.stretches
    if stretches is None or len(stretches.piece) > 600:
        return []
    at: dict[int, set[str]] = {}
    for e, (start, end) in enumerate(zip(stretches.start.tolist(), stretches.end.tolist())):
        for v in (start, end):
            at.setdefault(v, set()).update(stretches.owners(e))
    found: list[SnapShown] = []
    for v, owners in at.items():
        plain = [o for o in owners if sketch.tags_of(o) & {"line", "round", "elliptic"}]
        if len(plain) == 2 and len(owners) == 2:
            p = arrangement.vertices[v]
            near = 1e-6 * sketch.size
            ends = (sketch.point(f"{o}.{n}") for o in plain for n in sketch.curve(o).end_points or ())
            if all(abs(p[0] - x) + abs(p[1] - y) > near for x, y in ends):
                found.append({"at": p, "word": "intersection", "ref": "+".join(sorted(plain))})
    return found


def regions_view(sketch: Sketch, arrangement: Arrangement) -> list[RegionShown]:
    """Regions by name; the letters of a text are one."""
    found: dict[tuple[str, ...], RegionShown] = {}
    for region in arrangement.regions:
        if region.key not in found:
            found[region.key] = {
                "key": list(region.key),
                "path": "",
                "area": 0.0,
                "letters": _letters(sketch, region.key),
            }
        entry = found[region.key]
        entry["path"] += arrangement.path(region)
        entry["area"] += region.area
    return list(found.values())


def describe_constraints() -> list[dict[str, Any]]:
    """Constraint kinds (not dimensions) as plain data for the screen."""
    return [
        {
            "kind": c.model_fields["kind"].default,
            "word": c.word,
            "symbol": c.symbol,
            "chord": c.chord,
            "hint": c.hint,
            "most": max(len(pattern) for pattern in c.takes),
        }
        for c in CONSTRAINTS
        if not issubclass(c, Dimensional) and c.takes
    ]


def offers(sketch: Sketch, refs: tuple[str, ...]) -> list[Offer]:
    """The constraints that a selection can take; one that is settled already carries the reason."""
    found: list[Offer] = []
    for kind in CONSTRAINTS:
        if issubclass(kind, Dimensional) or not kind.takes or not kind.fits(sketch, refs):
            continue
        why = ""
        try:
            made = kind.made(sketch, "new", refs)
            if adds_nothing(made.prepared(sketch), made):
                against = set(fights_with(sketch, made))
                fights = [c for c in sketch.constraints if c.id in against and "joins" not in c.does]
                named = "; ".join(c.sentence(sketch) for c in fights[:3])
                why = f"settled already by {named}" if named else "settled already"
        except Trouble as problem:
            why = problem.message
        found.append({"kind": kind_of(kind), "word": kind.word, "symbol": kind.symbol, "chord": kind.chord, "why": why})
    return found


def facts(sketch: Sketch, refs: tuple[str, ...], unit: ReadIn) -> list[tuple[str, str]]:
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
