"""What batteries of parts are made with: random sizes, and picks by where things lie."""

from __future__ import annotations

import math
import random
from typing import Any

from tests.hand import ORIGIN, XYZ, Hand

from sketchlathe.core.solid.digest import pick_of_face
from sketchlathe.core.solid.edges import edge_shape, middle_of, named_edges, pick_of
from sketchlathe.core.solid.kernel import FACE, each
from sketchlathe.core.solid.measuring import measures

PI = math.pi


class Sizes:
    """Random sizes to the tenth of a millimetre, from a seed."""

    def __init__(self, seed: str) -> None:
        self._rng = random.Random(seed)

    def __call__(self, low: float, high: float) -> float:
        return round(self._rng.uniform(low, high), 1)


def face(m: Hand, way: XYZ) -> dict[str, Any]:
    """A pick of the face whose middle lies farthest along a direction."""
    body = m.build().bodies[0]

    def reach(index: int) -> float:
        low, high = measures(faces[index]).box
        return sum((l + h) * w for l, h, w in zip(low, high, way))

    faces = list(each(body.shape, FACE))
    return pick_of_face(body, max(range(len(faces)), key=reach))


def edge(m: Hand, place: XYZ) -> dict[str, Any]:
    """A pick of the edge whose middle is nearest to a place."""
    edges = named_edges(m.build().bodies[0])
    return pick_of(min(edges, key=lambda e: math.dist(middle_of(edge_shape(e)), place)), edges)


def plate(n: Sizes) -> tuple[Hand, float, float, float]:
    """A block of 30 to 60 by 20 to 30 by 10 to 20."""
    w, d, h = n(30, 60), n(20, 30), n(10, 20)
    m = Hand()
    s = m.sketch("top")
    m.draw(s, "rectangle", ORIGIN, (w, d), sizes=(f"{w}", f"{d}"))
    m.step("extrude", regions=m.regions(s), distance=f"{h}")
    return m, w, d, h


def level(m: Hand, z: float) -> Any:
    """A plane at a height, for sketches."""
    return {"datum": m.step("datum", form="offset", plane={"plane": "top"}, offset=f"{z}")} if z else "top"
