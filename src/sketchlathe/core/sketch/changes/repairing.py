"""What looks unintended in a sketch, each with the change that repairs it."""

from __future__ import annotations

import itertools
import math
from typing import NamedTuple

from ...errors import Trouble
from ..constraints import CONSTRAINTS
from ..document import ValuedSketch
from ..solver.solving import Verdict, solve
from .adding import Fresh, add_if_it_fits
from .chains import close_pairs
from .removing import without_curves

XY = tuple[float, float]
NEAR = 0.02  # of the sketch's size: ends closer than this are offered to be joined
ALMOST = math.radians(3)


class Repair(NamedTuple):
    """One finding. ``what`` is its sort, ``refs`` what it is about, ``at`` where to look, ``text`` says it in words."""

    what: str
    refs: tuple[str, ...]
    at: XY
    text: str
    fix: str


def repairs(sketch: ValuedSketch, open_ends: tuple[XY, ...]) -> list[Repair]:
    """Tiny gaps, duplicates, curves without length, joins that are nearly tangent, lines nearly of one length."""
    return [
        *_empty(sketch),
        *_duplicates(sketch),
        *_gaps(sketch, open_ends),
        *_nearly_tangent(sketch),
        *_nearly_equal(sketch),
    ][:20]


def repaired(sketch: ValuedSketch, fresh: Fresh, what: str, refs: tuple[str, ...]) -> ValuedSketch:
    """The sketch with one finding repaired."""
    if what in ("empty", "duplicate"):
        return without_curves(sketch, {refs[-1]})
    if what == "gap":
        return _joined(sketch, fresh, refs)
    kind = {"nearly tangent": "tangent", "nearly equal": "equal"}[what]
    return add_if_it_fits(sketch, fresh, kind, refs)


def _joined(sketch: ValuedSketch, fresh: Fresh, refs: tuple[str, ...]) -> ValuedSketch:
    made = CONSTRAINTS["coincident"].made(sketch, fresh("k"), refs)
    solution = solve(sketch.with_constraints((*sketch.constraints, made)))
    if solution.verdict is not Verdict.SOLVED:
        raise Trouble("These ends cannot be joined: both are held where they are. Change a size that holds them.")
    return solution.sketch


def _ends(sketch: ValuedSketch) -> list[tuple[str, XY]]:
    return [
        (f"{c.id}.{name}", c.place(name)) for c in sketch.curves if not c.construction for name in c.end_points or ()
    ]


def _gaps(sketch: ValuedSketch, open_ends: tuple[XY, ...]) -> list[Repair]:
    near = NEAR * sketch.size
    touching = 1e-7 * sketch.size
    open_cells = {(round(x / (4 * touching)), round(y / (4 * touching))) for x, y in open_ends}
    loose = [(ref, p) for ref, p in _ends(sketch) if _in_cells(p, open_cells, 4 * touching)]
    found: list[Repair] = []
    used: set[str] = set()
    at = dict(loose)
    for ref, other in sorted(close_pairs(loose, near), key=lambda pair: math.dist(at[pair[0]], at[pair[1]])):
        d = math.dist(at[ref], at[other])
        if d <= touching or used & {ref, other} or ref.partition(".")[0] == other.partition(".")[0]:
            continue
        used |= {ref, other}
        (px, py), (qx, qy) = at[ref], at[other]
        text = f"{sketch.name_of(ref)} and {sketch.name_of(other)} miss each other by {d:.3g} mm"
        found.append(Repair("gap", (ref, other), ((px + qx) / 2, (py + qy) / 2), text, "join them"))
    return found


def _in_cells(p: XY, cells: set[tuple[int, int]], size: float) -> bool:
    x, y = round(p[0] / size), round(p[1] / size)
    return any((x + dx, y + dy) in cells for dx in (-1, 0, 1) for dy in (-1, 0, 1))


def _empty(sketch: ValuedSketch) -> list[Repair]:
    tiny = 1e-7 * sketch.size
    return [
        Repair("empty", (c.id,), c.anchor()[0], f"{sketch.name_of(c.id)} has no length", "delete it")
        for c in sketch.curves
        if c.kind != "point" and "text" not in c.tags and c.length() <= tiny
    ]


def _duplicates(sketch: ValuedSketch) -> list[Repair]:
    seen: dict[tuple[object, ...], str] = {}
    found = []
    step = 1e-6 * sketch.size
    for c in sketch.curves:
        if "text" in c.tags:
            continue
        places = [c.place(n) for n in c.points]
        rounded = [(round(x / step), round(y / step)) for x, y in places]
        if "line" in c.tags:
            rounded.sort()
        key = (c.kind, c.construction, *rounded, *(round(float(c.scalars[s]) / step) for s in c.sizes))
        if key in seen:
            text = f"{sketch.name_of(c.id)} lies exactly on {sketch.name_of(seen[key])}"
            found.append(Repair("duplicate", (seen[key], c.id), c.anchor()[0], text, "delete one"))
        else:
            seen[key] = c.id
    return found


def _nearly_tangent(sketch: ValuedSketch) -> list[Repair]:
    from ..drawing.arc import leaving

    held = {frozenset(c.on) for c in sketch.constraints if "meets" in c.does}
    curves = {c.id: c for c in sketch.curves if c.tags & {"line", "arc"}}
    ends = [(f"{c.id}.{n}", c.place(n)) for c in curves.values() for n in c.end_points or ()]
    found = []
    for one, two in close_pairs(ends, max(1e-6 * sketch.size, 1e-12)):
        (ia, _, na), (ib, _, nb) = one.partition("."), two.partition(".")
        a, b = curves[ia], curves[ib]
        if ia == ib or "arc" not in {a.kind, b.kind} or frozenset((ia, ib)) in held:
            continue
        try:
            (ux, uy), (vx, vy) = leaving(sketch, ia, na), leaving(sketch, ib, nb)
        except Trouble:
            continue
        if ux * vx + uy * vy < 0 and abs(ux * vy - uy * vx) < math.sin(ALMOST):
            text = f"{sketch.name_of(ia)} and {sketch.name_of(ib)} meet nearly smoothly"
            found.append(Repair("nearly tangent", (ia, ib), a.place(na), text, "make them tangent"))
    return found


def _nearly_equal(sketch: ValuedSketch) -> list[Repair]:
    held = {r for c in sketch.constraints if "sizes" in c.does for r in c.on}
    found = []
    for tag, size in (("line", "length"), ("round", "radius")):
        curves = [c for c in sketch.curves if tag in c.tags and c.id not in held and not c.construction]
        sizes = sorted(((c.length() if tag == "line" else sketch.radius(c.id)), c.id) for c in curves)
        for (s, a), (t, b) in itertools.pairwise(sizes):
            if 1e-6 * t < t - s < 0.01 * t:
                text = f"{sketch.name_of(a)} and {sketch.name_of(b)} nearly have one {size} ({s:.4g} and {t:.4g} mm)"
                found.append(Repair("nearly equal", (a, b), sketch.anchor(b)[0], text, "make them equal"))
    return found[:6]
