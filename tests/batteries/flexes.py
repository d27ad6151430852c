"""Parts of which is known how far a number goes, from plane geometry alone."""

from __future__ import annotations

import math
import random
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from tests.hand import ORIGIN, Hand

from sketchlathe.core.inspect.flexing import Probe, Reach, reaches
from sketchlathe.core.making.results import BuildCache
from sketchlathe.core.model.knobs import Knob, knobs


@dataclass(frozen=True)
class Case:
    """A part, the number that is varied (its step and value), where it breaks (None: nowhere within eight times) and in
    which step.
    """

    hand: Hand
    of: str
    value: float
    low: float | None
    high: float | None
    breaks_in: str


def _plate(rng: random.Random) -> tuple[Hand, float, float, float, str, str]:
    w, d, h = (round(rng.uniform(*r), 1) for r in ((40, 60), (24, 34), (6, 14)))
    m = Hand()
    s = m.sketch("top")
    m.draw(s, "rectangle", ORIGIN, (w, d), sizes=(f"{w}", f"{d}"))
    return m, w, d, h, s, m.step("extrude", regions=m.regions(s), distance=f"{h}")


def _drilled(m: Hand, x: float, y: float, dia: float, **fields: str) -> tuple[str, str]:
    s = m.sketch("top")
    centre = (x, y) if (x, y) != (0, 0) else ORIGIN
    m.draw(s, "circle", centre, (x + dia / 2, y), sizes=(f"{dia}",))
    for way, at in (("across", x), ("along", y)) if centre is not ORIGIN else ():
        m.do("add_dimension", sketch=s, on=["origin", m.curves(s)[0].id + ".centre"], at=[x, y], way=way, value=f"{at}")
    return s, m.step("extrude", regions=m.regions(s), result="cut", **fields)


def bolt_hole_widens(rng: random.Random) -> Case:
    m, w, d, h, _, _ = _plate(rng)
    dia = round(rng.uniform(5, 7), 1)
    s, cut = _drilled(m, w / 3, d / 2, dia, distance=f"{2 * h}")
    return Case(m, s, dia, None, min(d, 2 * w / 3), cut)


def bolt_hole_moves_out(rng: random.Random) -> Case:
    m, w, d, h, _, _ = _plate(rng)
    dia, x = round(rng.uniform(5, 7), 1), round(rng.uniform(14, 18), 1)
    s, cut = _drilled(m, x, d / 2, dia, distance=f"{2 * h}")
    return Case(m, s, x, dia / 2, w - dia / 2, cut)


def blind_hole_deepens(rng: random.Random) -> Case:
    m, w, d, h, _, _ = _plate(rng)
    deep = round(h * rng.uniform(0.3, 0.5), 2)
    _, cut = _drilled(m, w / 3, d / 2, 6.0, distance=f"{deep}")
    return Case(m, cut, deep, None, h, cut)


def rounding_grows(rng: random.Random) -> Case:
    m, w, d, h, _, _ = _plate(rng)
    r = round(h * rng.uniform(0.2, 0.4), 2)
    edge = m.edges((w / 2, 0, h))
    f = m.step("fillet", edges=edge, radius=f"{r}")
    return Case(m, f, r, None, min(h, d), f)


def bevel_grows(rng: random.Random) -> Case:
    m, w, d, h, _, _ = _plate(rng)
    r = round(h * rng.uniform(0.2, 0.4), 2)
    f = m.step("chamfer", edges=m.edges((w / 2, 0, h)), size=f"{r}")
    return Case(m, f, r, None, min(h, d), f)


def wall_thickens(rng: random.Random) -> Case:
    m, _, d, h, _, _ = _plate(rng)
    t = round(rng.uniform(1.0, 2.0), 2)
    f = m.step("shell", thickness=f"{t}")
    return Case(m, f, t, None, min(d, h) / 2, f)


def two_holes_meet(rng: random.Random) -> Case:
    m, w, d, h, _, _ = _plate(rng)
    dia, x = round(rng.uniform(5, 7), 1), round(rng.uniform(26, 30), 1)
    _drilled(m, 10, d / 2, dia, distance=f"{2 * h}")
    s, cut = _drilled(m, x, d / 2, dia, distance=f"{2 * h}")
    return Case(m, s, x, 10 + dia, w - dia / 2, cut)


def cross_bore_widens(rng: random.Random) -> Case:
    r, l = round(rng.uniform(8, 14), 1), round(rng.uniform(40, 60), 1)
    m = Hand()
    m.round("right", 0, 0, r, distance=f"{l / 2}", other=f"{l / 2}")
    dia = round(r * rng.uniform(0.4, 0.8), 1)
    s, cut = _drilled(m, 0, 0, dia, distance="100", other="100")
    return Case(m, s, dia, None, min(2 * r, l), cut)


def tube_thins(rng: random.Random) -> Case:
    r, l = round(rng.uniform(10, 14), 1), round(rng.uniform(10, 30), 1)
    m = Hand()
    m.round("top", 0, 0, r, distance=f"{l}")
    bore = round(r * rng.uniform(0.6, 1.0), 1)
    s, cut = _drilled(m, 0, 0, bore, distance=f"{2 * l}")
    return Case(m, s, bore, None, 2 * r, cut)


def height_never_breaks(rng: random.Random) -> Case:
    m, w, d, h, _, made = _plate(rng)
    _drilled(m, w / 3, d / 2, 6.0, distance="500")
    return Case(m, made, h, None, None, "")


def post_never_breaks(rng: random.Random) -> Case:
    m, w, d, h, _, _ = _plate(rng)
    tall = round(rng.uniform(30, 50), 1)
    s = m.sketch("top")
    m.draw(s, "circle", (w / 2, d / 2), (w / 2 + 4, d / 2), sizes=("8",))
    post = m.step("extrude", regions=m.regions(s), distance=f"{tall}")
    return Case(m, post, tall, h, None, post)


KINDS: tuple[Callable[[random.Random], Case], ...] = (
    bolt_hole_widens, bolt_hole_moves_out, blind_hole_deepens, rounding_grows, bevel_grows, wall_thickens,
    two_holes_meet, cross_bore_widens, tube_thins, height_never_breaks, post_never_breaks,
)  # fmt: skip


def cases(each: int) -> Iterator[tuple[str, Case]]:
    """So many parts of every kind."""
    for kind in KINDS:
        for n in range(each):
            yield f"{kind.__name__} {n}", kind(random.Random(f"{kind.__name__} {n}"))


def number_of(case: Case) -> Knob:
    """The number that a case is about."""
    found = knobs(case.hand.model, case.hand.model.parts[0])
    return next(k for k in found if k.step == case.of and math.isclose(k.value, case.value, rel_tol=1e-9))


def walked(case: Case) -> tuple[Reach, Reach]:
    """A case's number tried both ways."""
    probe, knob = Probe(case.hand.model, "p1", BuildCache()), number_of(case)
    both = reaches(knob)
    for reach in both:
        while (value := reach.next()) is not None:
            reach.put(probe.try_edits([knob.turned(value, case.hand.model)]))
    return both


def wrong(case: Case) -> list[str]:
    """What the flex test says otherwise than geometry does."""
    found = []
    for reach, at, way in zip(walked(case), (case.low, case.high), ("down", "up")):
        ladder = (case.value / 8, case.value * 8)[way == "up"]
        known = None if at is None or not min(case.value, ladder) <= at <= max(case.value, ladder) else at
        if known is None and reach.bad is not None:
            found.append(f"{way}: false alarm at {reach.bad:.4g}: {reach.outcome and reach.outcome.why}")
        elif known is not None and reach.bad is None:
            found.append(f"{way}: does not break at {known:.4g}")
        elif known is not None and reach.bad is not None:
            if not math.isclose(reach.bad, known, rel_tol=0.01):
                found.append(
                    f"{way}: breaks at {reach.bad:.4g}, not {known:.4g}: {reach.outcome and reach.outcome.why}"
                )
            elif reach.outcome and reach.outcome.step != case.breaks_in:
                found.append(f"{way}: in {reach.outcome.step}, not {case.breaks_in}: {reach.outcome.why}")
    return found
