"""Only what truly meets is combined; which bodies a step works on is known and can be chosen;
sound results are kept.
"""

from __future__ import annotations

import math

import pytest
from scipy.integrate import dblquad
from tests.hand import Hand, box

PI = math.pi


def lid_on_a_box() -> Hand:
    """A block of 40 x 40 x 20, and a lid of 50 x 50 x 4 as a body of its own that lies on it."""
    hand = Hand()
    hand.prism("top", box(-20, -20, 40, 40), distance="20 mm")
    hand.step("block", width="50", depth="50", height="4", x="-25", y="-25", z="20", result="separate")
    return hand


def test_a_lip_beside_a_box_joins_the_lid_only() -> None:
    hand = lid_on_a_box()
    # a lip that hangs from the lid, 0.2 mm off the box
    hand.step("block", width="2", depth="40", height="10", x="20.2", y="-20", z="10")
    assert sorted(hand.volumes()) == [pytest.approx(2500 * 4 + 2 * 40 * 10), pytest.approx(1600 * 20)]
    assert hand.build().steps[-1].worked_on == (hand.steps[2].id,)


def test_one_body_can_be_chosen_in_every_step_that_combines() -> None:
    from sketchlathe.core.steps.base import STEPS

    for kind in STEPS:
        if "result" in kind.blanks():
            assert "bodies" in kind.blanks(), kind.__name__
    hand = lid_on_a_box()
    lid = hand.steps[2].id
    hand.step("block", shape="cylinder", diameter="10", height="60", z="-10", result="cut", bodies=[lid])
    assert sorted(hand.volumes()) == [pytest.approx((2500 - 25 * PI) * 4), pytest.approx(1600 * 20)]


def test_the_overlap_of_three_crossed_rods_and_a_ball_is_kept() -> None:
    """The union of three rods of radius 3 within a ball of radius 8, by integration over rays from the centre."""
    hand = Hand()
    for tilt in ({}, {"tilt": "90 deg"}, {"tilt": "90 deg", "turn": "90 deg"}):
        x, y, z = {0: (0, 0, -20), 1: (0, 20, 0), 2: (-20, 0, 0)}[len(tilt)]
        hand.step("block", shape="cylinder", diameter="6", height="40", x=f"{x}", y=f"{y}", z=f"{z}", **tilt)
    hand.step("block", shape="sphere", diameter="16", result="overlap")
    assert hand.messages() == []

    def reach(theta: float, phi: float) -> float:
        """How far along a ray one is in some rod (each rod is a tube round an axis through the centre)."""
        d = (math.sin(theta) * math.cos(phi), math.sin(theta) * math.sin(phi), math.cos(theta))
        far = max(3 / math.sqrt(max(1 - c * c, 1e-12)) for c in d)
        return min(far, 8.0) ** 3 / 3 * math.sin(theta)

    octant, _ = dblquad(reach, 0, PI / 2, 0, PI / 2, epsabs=1e-4, epsrel=1e-5)
    assert sum(hand.volumes()) == pytest.approx(8 * octant, rel=2e-4)


def test_bodies_have_names_where_one_looks_for_them() -> None:
    import io
    import zipfile

    from sketchlathe.core.errors import BadInput
    from sketchlathe.core.exchange import FORMATS, Export
    from sketchlathe.core.exchange.base import separately

    hand = lid_on_a_box()
    low, lid = (b.id for b in hand.build().bodies)
    hand.do("rename_body", part="p1", body=lid, name="Lid of tin")
    with pytest.raises(BadInput, match="already"):
        hand.do("rename_body", part="p1", body=low, name="Lid of tin")
    # kept through edits, of that very body too
    hand.do("set_fields", step=hand.steps[2].id, fields={"height": "5 mm"})
    hand.step("block", shape="cylinder", diameter="10", height="60", z="-10", result="cut", bodies=[lid])
    assert hand.model.title_of_body(lid) == "Lid of tin"
    built = hand.build()
    export = Export(hand.model, hand.model.parts[0], built.bodies, 0.1, 0.5, None, built)
    names = zipfile.ZipFile(io.BytesIO(separately(FORMATS["stl"](), export))).namelist()
    assert "lid-of-tin.stl" in names
    assert b"Lid of tin" in FORMATS["step"]().write(export)
    text = zipfile.ZipFile(io.BytesIO(FORMATS["3mf"]().write(export)))
    model = next(n for n in text.namelist() if n.endswith(".model"))
    assert b"Lid of tin" in text.read(model)
    hand.do("rename_body", part="p1", body=lid, name="")
    assert hand.model.title_of_body(lid).startswith("body of ")


def test_bodies_that_touch_along_an_edge_are_told_of() -> None:
    import numpy as np

    from sketchlathe.core.mesh.surface import crowded_edges
    from sketchlathe.core.solid.meshing import for_export

    hand = Hand()
    hand.step("block", width="10", depth="10", height="10")
    hand.step("block", width="10", depth="10", height="10", x="10", y="10", result="separate")
    meshes = [for_export(b.shape, 0.1, 0.5) for b in hand.build().bodies]
    together = np.concatenate([m.positions[m.triangles].astype(float).reshape(-1, 3) for m in meshes])
    assert crowded_edges(together) == 1
    assert crowded_edges(together[: len(together) // 2]) == 0


def test_overlaps_and_gaps_between_bodies_are_measured() -> None:
    from sketchlathe.core.solid.fitting import pairs

    hand = Hand()
    hand.step("block", width="10", depth="10", height="10")
    hand.step("block", width="10", depth="10", height="10", x="8", result="separate")
    hand.step("block", width="10", depth="10", height="10", x="18.15", result="separate")
    found = list(pairs(hand.build().bodies, 0.4))
    assert [p.shared for p in found] == [pytest.approx(2 * 100), 0.0]
    assert found[1].gap == pytest.approx(0.15)
