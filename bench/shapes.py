"""Sweeps, lofts and threads against the bare kernel calls; picks on what the newer kinds make."""

from __future__ import annotations

import math
import random
import statistics
from collections.abc import Iterator

from OCP.BRepBuilderAPI import BRepBuilderAPI_RightCorner
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipeShell, BRepOffsetAPI_ThruSections
from tests.batteries import references
from tests.hand import Hand, box

from sketchlathe.core.frames import Frame
from sketchlathe.core.inspect.figures import FIGURES
from sketchlathe.core.inspect.seeking import come_to
from sketchlathe.core.making.results import BuildCache
from sketchlathe.core.sketch.curves import ArcPiece, Segment
from sketchlathe.core.sketch.regions import Profile
from sketchlathe.core.solid import kernel
from sketchlathe.core.solid.along import Manner, outline, swept
from sketchlathe.core.solid.barrels import barrel_of, with_thread
from sketchlathe.core.solid.digest import digest
from sketchlathe.core.solid.lofting import lofted
from sketchlathe.core.solid.measuring import volume
from sketchlathe.core.solid.paths import Path, path_of
from sketchlathe.core.solid.shapes import edge_of
from sketchlathe.core.solid.threading import iso_thread

from .measuring import Figure, ratio, seconds

VOLUME = next(f for f in FIGURES if f.id == "volume")
_TOP = Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 0.0, 1.0))
_FRONT = Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0))
_HIGH = Frame((0.0, 0.0, 30.0), (1.0, 0.0, 0.0), (0.0, 0.0, 1.0))


def _guide() -> tuple[Profile, Path]:
    """A ring, and a path up, round a quarter, on, and round a corner."""
    rings = [ArcPiece((0.0, 0.0), r, 0.0, 2 * math.pi) for r in (5.0, 3.0)]
    profile = Profile(((rings[0], "c1"),), (((rings[1].reversed(), "c2"),),))
    pieces = [Segment((0, 0), (0, 20)), ArcPiece((15, 20), 15, math.pi, math.pi / 2), Segment((15, 35), (50, 35)),
              Segment((50, 35), (50, 0))]  # fmt: skip
    return profile, path_of([(edge_of(p, _FRONT), f"c{i}") for i, p in enumerate(pieces, 3)])


def _bare_sweep(profile: Profile, path: Path) -> None:
    """What the kernel does by itself: two pipes, one cut out of the other."""
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut

    made = []
    for chain in (profile.outer, *profile.holes):
        maker = BRepOffsetAPI_MakePipeShell(path.wire())
        maker.SetDiscreteMode()
        maker.SetTransitionMode(BRepBuilderAPI_RightCorner)
        maker.Add(outline(chain, _TOP)[0], False, False)
        maker.Build()
        maker.MakeSolid()
        made.append(maker.Shape())
    BRepAlgoAPI_Cut(*made)


def _outlines() -> list[tuple[Profile, Frame]]:
    """Two polygons of twelve corners."""
    out = []
    for frame, radius, turn in ((_TOP, 20.0, 0.0), (_HIGH, 10.0, 0.2)):
        corners = [
            (radius * math.cos(turn + k * math.pi / 6), radius * math.sin(turn + k * math.pi / 6)) for k in range(12)
        ]
        sides = zip(corners, [*corners[1:], corners[0]])
        out.append((Profile(tuple((Segment(a, b), f"c{k}") for k, (a, b) in enumerate(sides)), ()), frame))
    return out


def _bare_loft(sections: list[tuple[Profile, Frame]]) -> None:
    maker = BRepOffsetAPI_ThruSections(True, True, 1e-6)
    for profile, frame in sections:
        maker.AddWire(outline(profile.outer, frame)[0])
    maker.Build()
    # no answer of the kernel's is believed without these
    kernel.is_valid(maker.Shape())
    volume(maker.Shape())


def _threading(diameter: float, pitch: float, inside: bool, length: float) -> float:
    """Seconds for a thread on a finished body."""
    m = Hand()
    if inside:
        m.prism("top", box(-2 * diameter, -2 * diameter, 4 * diameter, 4 * diameter), distance=f"{length}")
        m.round("top", 0, 0, diameter / 2 - 0.541 * pitch, reach="through", result="cut")
    else:
        m.round("top", 0, 0, diameter / 2, distance=f"{length}")
    body = m.build().bodies[0]
    index = next(i for i, f in enumerate(digest(body).faces) if f.form == "cylindrical")
    barrel = barrel_of(body, index)
    assert barrel is not None
    thread = iso_thread(diameter, pitch, 0.2, inside)
    return seconds(lambda: with_thread("s9", barrel, thread, barrel.length, 0.0 if inside else pitch))


def _builds(count: int) -> float:
    """Median builds until the wall of a hollow box makes it as heavy as wanted, to a millionth."""
    rng, taken = random.Random(1), []
    for _ in range(count):
        m = Hand()
        m.do("add_parameter", name="thick", formula=f"{rng.uniform(1, 9):.3f} mm")
        m.step("block", width="60", depth="40", height="20")
        m.step("shell", thickness="thick")
        t = rng.uniform(1, 9)
        goal = 48_000 - (60 - 2 * t) * (40 - 2 * t) * (20 - 2 * t)
        taken.append(come_to(m.model, "p1", "thick", VOLUME, goal, BuildCache()).builds)
    return statistics.median(taken)


def figures(quick: bool) -> Iterator[Figure]:
    """thread.build_s (outside, inside, large), sweep.ratio, loft.ratio, solids.survive_new_pct
    and .wrong, seek.builds.
    """
    kernel.silence()
    yield Figure("thread.build_s.outside", _threading(12, 1.75, False, 20), 1.0)
    yield Figure("thread.build_s.inside", _threading(12, 1.75, True, 20), 3.0)
    yield Figure("thread.build_s.m30", _threading(30, 3.5, False, 40), 2.0)
    profile, path = _guide()
    yield Figure(
        "sweep.ratio",
        ratio(lambda: swept("s1", profile, _TOP, path, Manner()), lambda: _bare_sweep(profile, path)),
        1.4,
    )
    sections = _outlines()
    yield Figure("loft.ratio", ratio(lambda: lofted("s1", sections, True, 0), lambda: _bare_loft(sections)), 1.4)
    tally = references.Tally()
    for family, seed in references.cases(2 if quick else 30, families=references.NEWER):
        references.judge(family, seed, tally)
    for case in (tally.cases or [])[:12]:
        print(f"  pick: {case}")
    share = 100 * tally.right / (tally.right + tally.asked + tally.wrong)
    yield Figure("solids.survive_new_pct", share, 98.999, at_least=True)
    yield Figure("solids.survive_new_wrong", tally.wrong, 0.5)
    yield Figure("seek.builds", _builds(8 if quick else 40), 6.5)
