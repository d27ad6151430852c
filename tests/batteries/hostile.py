"""Steps given values at and beyond their limits: what is accepted must be right by a closed formula, what cannot be
must be an error.
"""

from __future__ import annotations

import math
import random
from collections.abc import Callable
from typing import Any

from tests.hand import ORIGIN, XYZ, Hand, box

from sketchlathe.core.solid.edges import edge_shape, middle_of, named_edges, pick_of
from sketchlathe.core.solid.measuring import volume

PI = math.pi
Outcome = tuple[
    float | None, float | None
]  # the volume that came of it (None: refused), and the right one (None: impossible)


def _edge(m: Hand, place: XYZ) -> dict[str, Any]:
    body = m.build().bodies[0]
    edges = named_edges(body)
    return pick_of(min(edges, key=lambda e: math.dist(middle_of(edge_shape(e)), place)), edges)


def _last(m: Hand) -> float | None:
    """The volume after the last step, None if it failed."""
    built = m.build()
    return None if built.steps[-1].status != "ok" else sum(volume(b.shape) for b in built.bodies)


def _block(rng: random.Random) -> tuple[Hand, float, float, float]:
    w, d, h = (round(rng.uniform(10, 60), 2) for _ in range(3))
    m = Hand()
    m.prism("top", box(0, 0, w, d), distance=f"{h} mm")
    return m, w, d, h


def _hostile(rng: random.Random, limit: float) -> float:
    """A size about, below or far beyond a limit."""
    return round(limit * rng.choice([rng.uniform(0.01, 0.99), rng.uniform(0.9, 1.1), rng.uniform(1.0, 30.0)]), 4)


def edge_fillet(rng: random.Random) -> Outcome:
    """One edge of a block."""
    m, w, d, h = _block(rng)
    limit = min(d, h)
    r = _hostile(rng, limit)
    m.step("fillet", edges=[_edge(m, (w / 2, 0, h))], radius=f"{r} mm")
    return _last(m), w * d * h - w * r * r * (1 - PI / 4) if r <= limit else None


def edge_chamfer(rng: random.Random) -> Outcome:
    """One edge of a block."""
    m, w, d, h = _block(rng)
    limit = min(d, h)
    c = _hostile(rng, limit)
    m.step("chamfer", edges=[_edge(m, (w / 2, 0, h))], size=f"{c} mm")
    return _last(m), w * d * h - w * c * c / 2 if c <= limit else None


def rim_fillet(rng: random.Random) -> Outcome:
    """The top rim of a cylinder, by Pappus."""
    big, h = rng.uniform(5, 30), rng.uniform(5, 30)
    m = Hand()
    m.round("top", 0, 0, big, distance=f"{h} mm")
    limit = min(big, h)
    r = _hostile(rng, limit)
    m.step("fillet", edges=[_edge(m, (-big, 0, h))], radius=f"{r} mm")
    # a ring of square section less the quarter round in it (its centroid lies 4r/3π from the round's centre)
    square = PI * r * (2 * big * r - r * r)
    quarter = PI * PI * r * r / 2 * (big - r + 4 * r / (3 * PI))
    return _last(m), PI * big * big * h - (square - quarter) if r <= limit else None


def closed_shell(rng: random.Random) -> Outcome:
    """A block hollowed out all round."""
    m, w, d, h = _block(rng)
    limit = min(w, d, h) / 2
    t = _hostile(rng, limit)
    m.step("shell", thickness=f"{t} mm")
    inner = (w - 2 * t) * (d - 2 * t) * (h - 2 * t)
    return _last(m), w * d * h - inner if t < limit * (1 - 1e-9) else None


def open_shell(rng: random.Random) -> Outcome:
    """A block open at the top."""
    m, w, d, h = _block(rng)
    top = next(n for n in m.build().bodies[0].names if any(a.endswith(":end") for a in n))
    limit = min(w / 2, d / 2, h)
    t = _hostile(rng, limit)
    m.step("shell", thickness=f"{t} mm", faces=[{"atoms": sorted(top)}])
    return _last(m), w * d * h - (w - 2 * t) * (d - 2 * t) * (h - t) if t < limit * (1 - 1e-9) else None


def across_axis(rng: random.Random) -> Outcome:
    """A circle turned about an axis beside, touching or through it."""
    r = rng.uniform(2, 10)
    x = r * rng.choice([rng.uniform(0.05, 0.95), rng.uniform(1.05, 4)])
    m = Hand()
    s = m.sketch("front")
    m.draw(s, "circle", (x, 0), (x + r, 0), sizes=(f"{2 * r} mm",))
    m.step("revolve", regions=m.regions(s), axis={"axis": "z"})
    return _last(m), 2 * PI * x * PI * r * r if x > r else None


def steep_taper(rng: random.Random) -> Outcome:
    """A block that narrows upwards."""
    w, d, h = (round(rng.uniform(10, 60), 2) for _ in range(3))
    angle = rng.uniform(2, 78)
    m = Hand()
    s = m.sketch("top")
    m.draw(s, "rectangle", ORIGIN, (w, d), sizes=(f"{w} mm", f"{d} mm"))
    m.step("extrude", regions=m.regions(s), distance=f"{h} mm", taper=f"{angle} deg")
    back = h * math.tan(math.radians(angle))
    a, b = w - 2 * back, d - 2 * back
    right = h / 6 * (w * d + a * b + (w + a) * (d + b)) if min(a, b) > 1e-6 else None
    return _last(m), right


CASES: tuple[Callable[[random.Random], Outcome], ...] = (
    edge_fillet, edge_chamfer, rim_fillet, closed_shell, open_shell, across_axis, steep_taper,
)  # fmt: skip


def battery(each: int) -> tuple[float, list[str], list[str]]:
    """Worst relative error of right results, the wrong ones, and those refused although possible."""
    worst, wrong, timid = 0.0, [], []
    for case in CASES:
        for seed in range(each):
            got, right = case(random.Random(f"{case.__name__}{seed}"))
            label = f"{case.__name__} seed {seed}: {got} instead of {right}"
            if got is None:
                if right is not None:
                    timid.append(label)
                continue
            if right is None or abs(got - right) > 1e-6 * right:
                wrong.append(label)
            else:
                worst = max(worst, abs(got - right) / right)
    return worst, wrong, timid
