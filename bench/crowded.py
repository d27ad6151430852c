"""What drawing in a full sketch costs: a rectangle with two typed sizes, one size changed."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

from tests.hand import Hand

from sketchlathe.core.sketch.solver.warming import warm

from .measuring import Figure, seconds

PITCH = 20.0


def crowd(curves: int) -> tuple[Hand, str]:
    """A sketch of so many curves: rectangles of two sizes, each by itself."""
    hand = Hand()
    s = hand.sketch("top")
    hand.draw(s, "rectangle", (5, 5), (15, 13), sizes=("10", "8"))
    one = hand.evaluated(s)
    model, rows = hand.model, int((curves / 4) ** 0.5) + 1
    made, said = list(one.curves), list(one.constraints)
    for i in range(1, curves // 4):
        ids, model = model.fresh("c", len(one.curves))
        names = {c.id: new for c, new in zip(one.curves, ids)}
        x, y = PITCH * (i % rows), PITCH * (i // rows)
        for c in one.curves:
            made.append(c.moved(lambda p, x=x, y=y: (p[0] + x, p[1] + y), 1.0).model_copy(update={"id": names[c.id]}))
        for k in one.constraints:
            on = tuple(names[ref.partition(".")[0]] + ref[len(ref.partition(".")[0]) :] for ref in k.on)
            ids, model = model.fresh("k", 1)
            said.append(k.model_copy(update={"id": ids[0], "on": on}))
    hand.model = model.with_sketch(s, one.with_curves(made).with_constraints(said).plain())
    return hand, s


def figures(quick: bool) -> Iterator[Figure]:
    """sketch.draw_ms, sketch.setdim_ms in 400 and 3000 curves."""
    warm()
    for curves, draw, change in ((400, 25, 10),) if quick else ((400, 25, 10), (3000, 60, 40)):
        hand, s = crowd(curves - 40)  # a sketch may have 3000
        places = itertools.count(1)

        def drawn(hand: Hand = hand, s: str = s, places: Iterator[int] = places) -> None:
            x = -30.0 * next(places)
            hand.draw(s, "rectangle", (x, 3), (x + 10, 9), sizes=("10", "6"))

        size = next(k.id for k in hand.evaluated(s).constraints if getattr(k, "driving", False))

        def changed(hand: Hand = hand, s: str = s, size: str = size, values: Iterator[int] = places) -> None:
            hand.do("set_dimension", sketch=s, id=size, value=f"{10 + next(values) / 100}")

        drawn()
        yield Figure(f"sketch.draw_ms.c{curves}", 1000 * min(seconds(drawn) for _ in range(3)), draw)
        yield Figure(f"sketch.setdim_ms.c{curves}", 1000 * min(seconds(changed) for _ in range(3)), change)
