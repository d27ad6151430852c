"""Regions: areas by closed formulas, special positions, Euler's formula, picks that survive."""

import math
import random

import pytest

from sketchlathe.core.sketch.document import Sketch
from sketchlathe.core.sketch.regions import arrange, resolve


def shape(*curves: dict[str, object]) -> Sketch:
    return Sketch.model_validate({"curves": curves})


def circle(id: str, x: float, y: float, r: float) -> dict[str, object]:
    return {"kind": "circle", "id": id, "centre": (x, y), "radius": r}


def line(id: str, a: tuple[float, float], b: tuple[float, float]) -> dict[str, object]:
    return {"kind": "line", "id": id, "start": a, "end": b}


def square(side: float = 10.0, x: float = 0.0, y: float = 0.0, prefix: str = "s") -> list[dict[str, object]]:
    p = [(x, y), (x + side, y), (x + side, y + side), (x, y + side)]
    return [line(f"{prefix}{i}", p[i], p[(i + 1) % 4]) for i in range(4)]


def areas(s: Sketch) -> list[float]:
    return sorted(r.area for r in arrange(s.curves, s.size).regions)


def lens(r: float, d: float) -> float:
    """Area common to two circles of radius r at distance d."""
    return 2 * r * r * math.acos(d / (2 * r)) - d / 2 * math.sqrt(4 * r * r - d * d)


BOW = [
    line("a", (0, 0), (10, 10)),
    line("b", (10, 10), (10, 0)),
    line("c", (10, 0), (0, 10)),
    line("d", (0, 10), (0, 0)),
]


@pytest.mark.parametrize("scale", [1e-2, 1.0, 1e3])
@pytest.mark.parametrize(
    ("curves", "wanted"),
    [
        ([circle("a", 0, 0, 10), circle("b", 0, 0, 5)], [25 * math.pi, 75 * math.pi]),
        ([circle("a", 0, 0, 10), circle("b", 12, 0, 10)], [lens(10, 12), *[100 * math.pi - lens(10, 12)] * 2]),
        ([circle("a", 0, 0, 10), circle("b", 5, 0, 5)], [25 * math.pi, 75 * math.pi]),  # touching inside
        ([circle("a", 0, 0, 10), circle("b", 15, 0, 5)], [25 * math.pi, 100 * math.pi]),  # touching outside
        ([circle("a", 0, 0, 10), circle("b", 0, 0, 10)], [100 * math.pi]),  # drawn twice
        ([*square(), line("x", (0, 5), (20, 5))], [50, 50]),  # one end dangles
        ([*square(), *square(4, 3, 3, "t")], [16, 84]),  # nested
        ([*square(), *square(10, 10, 0, "t")], [100, 100]),  # a shared side, drawn twice
        (BOW, [25, 25]),
        ([*square(), circle("c", 5, 5, 5)], [*[(100 - 25 * math.pi) / 4] * 4, 25 * math.pi]),  # inscribed: four touches
    ],
    ids=["ring", "lens", "inside", "outside", "twice", "dangling", "nested", "shared", "crossing", "inscribed"],
)  # fmt: skip
def test_areas(curves: list[dict[str, object]], wanted: list[float], scale: float) -> None:
    found = areas(shape(*curves).scaled(scale))
    assert found == pytest.approx(sorted(a * scale * scale for a in wanted), rel=1e-7)


def test_slot_of_lines_and_tangent_arcs() -> None:
    s = shape(
        line("a", (0, -3), (20, -3)),
        {"kind": "arc", "id": "b", "centre": (20, 0), "start": (20, -3), "end": (20, 3), "radius": 3},
        line("c", (20, 3), (0, 3)),
        {"kind": "arc", "id": "d", "centre": (0, 0), "start": (0, 3), "end": (0, -3), "radius": 3},
    )
    assert areas(s) == pytest.approx([20 * 6 + 9 * math.pi])


def test_three_circles_make_seven_regions_and_their_union_has_no_holes() -> None:
    s = shape(circle("a", 0, 0, 10), circle("b", 12, 0, 10), circle("c", 6, 10, 10))
    found = arrange(s.curves, s.size)
    assert len(found.regions) == 7
    outline = found.outline(found.regions)
    assert len(outline) == 1
    assert outline[0].holes == ()


def test_construction_lines_bound_nothing() -> None:
    lines = square()
    lines[0]["construction"] = True
    s = shape(*lines)
    assert areas(s) == []
    assert len(arrange(s.curves, s.size).open_ends) == 2


@pytest.mark.parametrize("seed", range(25))
def test_euler_holds_for_random_soups(seed: int) -> None:
    """V - E + F = 1 + C, and the regions' union has the area of the outer boundary."""
    rng = random.Random(seed)

    def place() -> tuple[float, float]:
        return rng.uniform(0, 100), rng.uniform(0, 100)

    curves = [circle(f"c{i}", *place(), rng.uniform(5, 25)) for i in range(8)]
    curves += [line(f"l{i}", place(), place()) for i in range(12)]
    found = arrange(shape(*curves).curves, 100.0)
    used = {v for e in found.edges for v in (e.start, e.end)}
    parent = {v: v for v in used}

    def root(v: int) -> int:
        while parent[v] != v:
            v = parent[v]
        return v

    for e in found.edges:
        parent[root(e.start)] = root(e.end)
    components = len({root(v) for v in used})
    assert len(used) - len(found.edges) + len(found.regions) + 1 == 1 + components
    union = found.outline(found.regions)
    total = 0.0
    for profile in union:
        for chain in (profile.outer, *profile.holes):
            total += sum(_green(piece) for piece, _ in chain)
    assert total == pytest.approx(sum(r.area for r in found.regions), rel=1e-9)


def _green(piece: object) -> float:
    """Half of ∮ x dy - y dx along a piece, by dense sampling."""
    from sketchlathe.core.sketch.curves import Segment

    if isinstance(piece, Segment):
        return (piece.a[0] * piece.b[1] - piece.b[0] * piece.a[1]) / 2
    (cx, cy), r, a0, a1 = piece  # type: ignore[misc]
    return (r * r * (a1 - a0) + r * cx * (math.sin(a1) - math.sin(a0)) - r * cy * (math.cos(a1) - math.cos(a0))) / 2


def pick(s: Sketch, area: float) -> tuple[tuple[str, ...], list[str]]:
    found = arrange(s.curves, s.size)
    region = min(found.regions, key=lambda r: abs(r.area - area))
    return region.key, [c.id for c in s.curves]


def test_a_pick_survives_moving_adding_and_removing() -> None:
    base = [circle("a", 0, 0, 20), circle("b", 0, 0, 5)]
    sides, known = pick(shape(*base), math.pi * 375)
    moved = shape(circle("a", 3, 1, 25), circle("b", 2, 2, 4))
    assert [r.key for r in resolve(arrange(moved.curves, 50), sides, known).regions] == [sides]
    # a new closed curve inside takes nothing away: it is told apart, so that it can be left out
    hole = shape(*base, circle("n", 12, 0, 2))
    found = resolve(arrange(hole.curves, 40), sides, known)
    assert sum(r.area for r in found.regions) == pytest.approx(math.pi * (400 - 25))
    assert [r.area for r in found.inside] == pytest.approx([math.pi * 4])
    # a new line across cuts it in two: both are meant
    cut = shape(*base, line("n", (-30, 10), (30, 10)))
    found = resolve(arrange(cut.curves, 60), sides, known)
    assert sum(r.area for r in found.regions) == pytest.approx(math.pi * 375)
    assert len(found.regions) == 2
    # the inner circle is taken away: what is left of the pick's sides is the disc
    alone = shape(base[0])
    assert [r.area for r in resolve(arrange(alone.curves, 40), sides, known).regions] == pytest.approx([math.pi * 400])


def test_a_pick_whose_curves_are_gone_says_so() -> None:
    found = resolve(arrange(shape(circle("z", 0, 0, 3)).curves, 6), ("a+",), ["a"])
    assert found.regions == ()
    assert "none of the curves" in found.why
