"""Curves of a drawing joined where their ends meet, as what can be pasted into a sketch."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
import shapely

from ..errors import BadInput
from ..sketch.curves import CURVES, Bezier
from ..sketch.curves.pieces import box_of_piece
from ..sketch.curves.spline import shaped
from ..sketch.document import MAX_CURVES

XY = tuple[float, float]
Raw = dict[str, Any]
MOST_REACH = 1e6
_NEAR = 1e-5  # of the way along a curve: from there its direction at an end is taken


def line(a: XY, b: XY) -> Raw:
    """A straight curve."""
    return {"kind": "line", "start": a, "end": b}


def arc(centre: XY, radius: float, start: XY, end: XY) -> Raw:
    """A circular curve, counterclockwise from its start to its end."""
    return {"kind": "arc", "centre": centre, "start": start, "end": end, "radius": radius}


def circle(centre: XY, radius: float) -> Raw:
    """A whole circle."""
    return {"kind": "circle", "centre": centre, "radius": radius}


def ellipse(centre: XY, tip: XY, minor: float) -> Raw:
    """A whole ellipse by the end of its longer half axis and its shorter half axis."""
    return {"kind": "ellipse", "centre": centre, "tip": tip, "minor": minor}


def ellipse_arc(centre: XY, tip: XY, minor: float, start: XY, end: XY) -> Raw:
    """Part of an ellipse, counterclockwise."""
    return {"kind": "ellipse_arc", "centre": centre, "tip": tip, "minor": minor, "start": start, "end": end}


def smooth(at: Callable[[float], XY], size: float, within: float = 1e-4, *, directed: bool = False) -> Raw | None:
    """A smooth curve given by its parameter from 0 to 1, as a spline through points on it; straight ones as lines.

    Points are added, up to 49, until the spline runs ``within`` this share of the drawing's size of the curve.
    ``directed``: its ends run the way the curve does, which is far nearer to it, and holds them so.
    """
    ends = at(0.0), at(1.0)
    fine = [at(i / 48) for i in range(49)]
    long = sum(math.dist(a, b) for a, b in itertools.pairwise(fine))
    if long < 1e-9 * max(size, 1.0):
        return None
    if math.dist(*ends) > long * (1 - 1e-9):
        return line(*ends)
    for count in (4, 6, 9, 13, 21, 33, 49):
        through = [at(i / (count - 1)) for i in range(count)]
        ways = (_way(at, 0.0, _NEAR), _way(at, 1.0 - _NEAR, 1.0)) if directed else (None, None)
        raw: Raw = {"kind": "spline", "through": through, **shaped(through, *ways)}
        pieces = [p for p in CURVES.parse({**raw, "id": "x1"}).pieces() if isinstance(p, Bezier)]
        drawn = shapely.LineString([p.at(k / 64) for p in pieces for k in range(65)])
        off = float(shapely.distance(shapely.points(np.array(fine)), drawn).max())
        if off < within * size:
            break
    return raw


def _way(at: Callable[[float], XY], low: float, high: float) -> XY | None:
    """The direction in which a curve runs; none where it stands still."""
    (ax, ay), (bx, by) = at(low), at(high)
    return (bx - ax, by - ay) if math.hypot(bx - ax, by - ay) > 1e-12 else None


def clip_of(curves: Sequence[Raw], name: str) -> dict[str, Any]:
    """Curves with ids, ends that (nearly) meet brought together and joined: {"clip", "box", "chains"}."""
    if not curves:
        raise BadInput(f"“{name}” has no lines or curves in it that can be drawn.")
    if len(curves) > MAX_CURVES:
        raise BadInput(f"“{name}” has {len(curves)} curves; a sketch may have at most {MAX_CURVES}.")
    numbers = [v for c in curves for v in _numbers(c)]
    if not all(math.isfinite(v) for v in numbers):
        raise BadInput(f"“{name}” is damaged: some coordinates are not numbers.")
    if any(abs(v) > MOST_REACH for v in numbers):
        raise BadInput(f"“{name}” reaches farther than a kilometre from its origin.")
    named = [{**c, "id": f"c{i + 1}"} for i, c in enumerate(curves)]
    ends = [(i, key) for i, c in enumerate(named) for key in _ends(c)]
    places = np.array([_at(named[i], key) for i, key in ends]).reshape(-1, 2)
    size = float(np.ptp(places, axis=0).max()) if len(places) else 1.0
    groups = _near(places, max(1e-5 * size, 1e-6))
    constraints: list[Raw] = []
    for group in groups:
        at = tuple(float(v) for v in places[group].mean(axis=0))
        for k in group:
            _put(named[ends[k][0]], ends[k][1], at)  # type: ignore[arg-type]
        for a, b in itertools.pairwise(group):
            if ends[a][0] != ends[b][0]:
                on = [f"{named[ends[k][0]]['id']}.{_point(named[ends[k][0]], ends[k][1])}" for k in (a, b)]
                constraints.append({"kind": "coincident", "id": f"k{len(constraints) + 1}", "on": on})
    boxes = np.array([p for c in named for p in _reach(c)])
    low, high = boxes.min(axis=0), boxes.max(axis=0)
    return {
        "clip": {"curves": named, "constraints": constraints},
        "box": [[float(v) for v in low], [float(v) for v in high]],
        "curves": len(named),
        "joins": len(constraints),
    }


def _numbers(c: Raw) -> list[float]:
    out: list[float] = []
    for v in c.values():
        if isinstance(v, int | float):
            out.append(float(v))
        elif isinstance(v, tuple | list):
            for w in v:
                out += [float(w)] if isinstance(w, int | float) else [float(x) for x in w]
    return out


def _ends(c: Raw) -> tuple[str, ...]:
    return {
        "line": ("start", "end"),
        "arc": ("start", "end"),
        "ellipse_arc": ("start", "end"),
        "spline": ("first", "last"),
    }.get(c["kind"], ())


def _at(c: Raw, key: str) -> XY:
    if key in ("first", "last"):
        x, y = c["through"][0 if key == "first" else -1]
    else:
        x, y = c[key]
    return float(x), float(y)


def _put(c: Raw, key: str, at: XY) -> None:
    if key in ("first", "last"):
        c["through"] = [at, *c["through"][1:]] if key == "first" else [*c["through"][:-1], at]
    else:
        c[key] = at


def _point(c: Raw, key: str) -> str:
    return {"first": "p0", "last": f"p{len(c.get('through', ())) - 1}"}.get(key, key)


def _near(places: np.ndarray, tolerance: float) -> list[list[int]]:
    """Groups of at least two places that lie together."""
    from scipy.spatial import cKDTree

    if len(places) < 2:
        return []
    parent = list(range(len(places)))

    def root(i: int) -> int:
        while parent[i] != i:
            parent[i] = parent[parent[i]]
            i = parent[i]
        return i

    for a, b in cKDTree(places).query_pairs(tolerance):
        parent[root(a)] = root(b)
    groups: dict[int, list[int]] = {}
    for i in range(len(places)):
        groups.setdefault(root(i), []).append(i)
    return [g for g in groups.values() if len(g) > 1]


def _reach(c: Raw) -> list[XY]:
    """Corners of the box round a curve, exactly as it will be drawn."""
    return [corner for piece in CURVES.parse(c).pieces() for corner in box_of_piece(piece)]
