"""Parts made by chance: steps in any order, then what must hold for every part, whatever was made.

Nothing here knows what a part should look like; it holds each part against itself: built again from nothing, written
and read, meshed, brought back from STEP, its steps skipped and taken in again.
"""

from __future__ import annotations

import io
import json
import random
from collections import Counter
from typing import Any

import pytest
import trimesh
from OCP.BRep import BRep_Tool
from OCP.BRepCheck import BRepCheck_Analyzer
from tests.conftest import Hand

from sketchlathe.core.exchange import FORMATS, Export
from sketchlathe.core.frames import dot
from sketchlathe.core.making.results import BuildCache
from sketchlathe.core.model.document import read_model
from sketchlathe.core.solid.kernel import EDGE, FACE, each
from sketchlathe.core.solid.measuring import measures

SEEDS = range(7)


class Chance:
    """Makes one random step after the other."""

    def __init__(self, seed: int) -> None:
        self.rng = random.Random(seed)
        self.hand = Hand()
        rng = self.rng
        s = self.hand.sketch()
        if rng.random() < 0.5:
            self.hand.draw(
                s,
                "rectangle",
                (0, 0, "origin", "origin"),
                (50, 30),
                sizes=(f"{rng.randint(30, 70)}", f"{rng.randint(20, 50)}"),
            )
        else:
            self.hand.draw(s, "circle", (0, 0, "origin", "origin"), (20, 0), sizes=(f"{rng.randint(30, 60)}",))
        self.hand.step("extrude", regions=self.hand.regions(s), distance=f"{rng.randint(6, 30)}")

    def face(self) -> dict[str, Any] | None:
        flat = [f for f in self.hand.packed()["faces"] if f.get("frame")]
        return self.rng.choice(flat) if flat else None

    def circle_on_a_face(self, **fields: Any) -> None:
        face = self.face()
        if face is None:
            return
        s = self.hand.sketch(face["pick"])
        frame = face["frame"]
        away = tuple(a - b for a, b in zip(face["centre"], frame["origin"]))
        normal, x = tuple(frame["normal"]), tuple(frame["x"])
        y = (
            normal[1] * x[2] - normal[2] * x[1],
            normal[2] * x[0] - normal[0] * x[2],
            normal[0] * x[1] - normal[1] * x[0],
        )
        u, v = dot(away, x), dot(away, y)
        r = self.rng.choice([2, 3, 4.5])
        self.hand.draw(s, "circle", (u + 0.37, v - 0.21), (u + r, v), sizes=(f"{2 * r}",))
        self.hand.step("extrude", regions=self.hand.regions(s), **fields)

    def drill(self) -> None:
        self.circle_on_a_face(reach="through", result="cut", way="backwards")

    def pocket(self) -> None:
        self.circle_on_a_face(distance=str(self.rng.randint(2, 8)), result="cut", way="backwards")

    def boss(self) -> None:
        self.circle_on_a_face(distance=str(self.rng.randint(2, 12)))

    def _an_edge(self) -> list[dict[str, Any]]:
        box = measures(self.hand.build().bodies[0].shape).box
        return self.hand.edges(tuple(self.rng.uniform(lo, hi) for lo, hi in zip(*box)))

    def fillet(self) -> None:
        self.hand.step("fillet", edges=self._an_edge(), radius=self.rng.choice(["0.5", "1.5", "3"]))

    def chamfer(self) -> None:
        self.hand.step("chamfer", edges=self._an_edge(), size=self.rng.choice(["0.5", "1", "2"]))

    def shell(self) -> None:
        face = self.face()
        if face is not None:
            self.hand.step("shell", thickness=self.rng.choice(["1", "2"]), faces=[face["pick"]])

    def mirror(self) -> None:
        self.hand.step("mirror", plane={"plane": self.rng.choice(["front", "right", "top"])})

    def row(self) -> None:
        solid = [s.id for s in self.hand.steps if s.makes_solid and s.id != self.hand.steps[1].id]
        if solid:
            self.hand.step("pattern", form="row", steps=[solid[-1]], axis={"axis": "x"}, count="2", spacing="7")

    def go(self, count: int) -> Hand:
        acts = [
            self.drill,
            self.pocket,
            self.boss,
            self.boss,
            self.fillet,
            self.fillet,
            self.chamfer,
            self.shell,
            self.mirror,
            self.row,
        ]
        for _ in range(count):
            if self.hand.build().bodies:
                self.rng.choice(acts)()
        return self.hand


def weights(hand: Hand) -> list[float]:
    """Volumes and areas of the bodies, one after the other."""
    return [v for b in hand.build().bodies for m in (measures(b.shape),) for v in (m.volume, m.area)]


@pytest.fixture(scope="module", params=SEEDS)
def part(request) -> Hand:
    return Chance(request.param).go(5)


def test_every_step_is_made_or_says_why_not(part) -> None:
    results = part.build().steps
    for result in results:
        assert result.status in ("ok", "failed")
        if result.status == "failed":
            assert len(result.message) > 20
            assert result.message[0].isupper()
            assert "{" not in result.message
    assert results[0].status == results[1].status == "ok"


def test_the_solids_are_sound(part) -> None:
    for body in part.build().bodies:
        assert BRepCheck_Analyzer(body.shape).IsValid()
        loose = [BRep_Tool.Tolerance_s(e) for e in each(body.shape, EDGE)]
        assert max(loose) < 0.01, "an edge that bridges a gap"
        m = measures(body.shape)
        assert m.volume > 0
        # no solid has less surface than the ball of its volume
        assert m.area >= (36 * 3.141592653589793 * m.volume**2) ** (1 / 3) * (1 - 1e-9)
        assert len(body.names) == sum(1 for _ in each(body.shape, FACE))
        assert all(body.names), "a face without a name"


def test_built_again_from_nothing_it_is_the_same(part) -> None:
    before = weights(part)
    fresh = Hand(part.model)
    fresh.cache = BuildCache()
    assert weights(fresh) == pytest.approx(before, rel=1e-9)
    read = Hand(read_model(json.loads(json.dumps(part.model.as_json()))))
    assert weights(read) == pytest.approx(before, rel=1e-9)


def test_skipping_a_step_and_taking_it_in_again_changes_nothing(part) -> None:
    before, document = weights(part), part.model.as_json()
    try:
        for step in part.steps[2:]:
            part.do("skip_step", step=step.id, skipped=True)
            part.build()
            part.do("skip_step", step=step.id, skipped=False)
            assert weights(part) == pytest.approx(before, rel=1e-9)
    finally:
        assert part.model.as_json()["parts"] == document["parts"]


def test_its_mesh_is_closed_and_weighs_the_same(part) -> None:
    built = part.build()
    if not built.bodies:
        return
    data = FORMATS["stl"]().write(Export(part.model, part.model.parts[0], built.bodies, 0.02, 0.2, None, built))
    mesh = trimesh.load(io.BytesIO(data), file_type="stl")
    exact_volume, exact_area = sum(weights(part)[::2]), sum(weights(part)[1::2])
    # every directed edge has its counterpart (a part may touch itself along an edge, which is then there twice)
    directed = Counter(map(tuple, mesh.edges))
    assert all(directed[b, a] == n for (a, b), n in directed.items())
    assert mesh.volume == pytest.approx(exact_volume, rel=5e-3)
    assert mesh.area == pytest.approx(exact_area, rel=5e-3)


def test_step_brings_the_same_solid_back(part) -> None:
    from sketchlathe.core import bringing

    built = part.build()
    if not built.bodies:
        return
    data = FORMATS["step"]().write(Export(part.model, part.model.parts[0], built.bodies, 0.1, 0.5, None, built))
    found = bringing.read_file(data, "part.step")
    hand = Hand()
    hand.do("bring_file", part="p1", step=found.step, file=found.fields["file"], data=found.fields["data"])
    for which in (0, 1):  # volume, area
        assert sum(weights(hand)[which::2]) == pytest.approx(sum(weights(part)[which::2]), rel=5e-6)
