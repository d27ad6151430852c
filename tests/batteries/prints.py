"""Parts with a known fault for the printer, and clean ones: does the check find the faults, and only them?"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from tests.hand import Hand, box

from sketchlathe.core.mesh.surface import Surface
from sketchlathe.core.printing.printable import Printable, printable
from sketchlathe.core.printing.process import Process
from sketchlathe.core.printing.readiness import check

from .making import face

UP = np.eye(3)


def laid(m: Hand) -> Printable:
    """A part on the bed as modelled."""
    return printable(m.build().bodies).laid(UP)


def tray(wall: float) -> Printable:
    """An open box with walls of a thickness."""
    m = Hand()
    m.prism("top", box(0, 0, 40, 30), distance="15")
    m.step("shell", faces=[face(m, (0, 0, 1))], thickness=f"{wall}")
    return laid(m)


def comb(gap: float) -> Printable:
    """A block with a slit."""
    m = Hand()
    m.prism("top", box(0, 0, 40, 20), distance="12")
    m.prism("top", box(20 - gap / 2, 5, gap, 20), distance="20", start="3", result="cut")
    return laid(m)


def table(lean: float) -> Printable:
    """A post with a head that widens at an angle from upright (degrees)."""
    m = Hand()
    m.round("top", 0, 0, 6, distance="10")
    m.round("top", 0, 0, 6, start="10", distance="6", taper=f"{-lean} deg")
    return laid(m)


def floating(down: float) -> Printable:
    """A gate: two posts and a beam, from which a pin hangs that ends above the bed."""
    m = Hand()
    for x in (0, 40):
        m.prism("top", box(x, 0, 8, 8), distance="30")
    m.prism("top", box(0, 0, 48, 8), start="30", distance="4")
    m.prism("top", box(22, 2, 4, 4), start=f"{down}", distance=f"{31 - down}")
    return laid(m)


def lettered(deep: float) -> Printable:
    """A plate with a raised square of a height."""
    m = Hand()
    m.prism("top", box(0, 0, 30, 20), distance="4")
    m.prism("top", box(10, 5, 8, 8), start="4", distance=f"{deep}")
    return laid(m)


def holed() -> Printable:
    """A box whose mesh lacks a triangle."""
    m = Hand()
    m.prism("top", box(0, 0, 30, 20), distance="14")
    whole = laid(m)
    s = whole.surface
    return Printable(Surface(s.positions, s.triangles[1:]), whole.faces[1:], whole.names, whole.bodies[1:])


FAULTY: list[tuple[str, Callable[[], Printable], str]] = [
    *((f"walls of {w} mm", lambda w=w: tray(w), "walls") for w in (0.3, 0.5, 0.6, 0.75)),  # type: ignore[misc]
    *((f"a gap of {g} mm", lambda g=g: comb(g), "gaps") for g in (0.1, 0.2, 0.3)),  # type: ignore[misc]
    *((f"a lean of {a}°", lambda a=a: table(a), "overhangs") for a in (50, 60, 70)),  # type: ignore[misc]
    *((f"a pin from {d} mm", lambda d=d: floating(d), "islands") for d in (5, 12, 20)),  # type: ignore[misc]
    *((f"a step of {d} mm", lambda d=d: lettered(d), "small") for d in (0.05, 0.1, 0.15)),  # type: ignore[misc]
    ("a hole in the mesh", holed, "watertight"),
]
CLEAN: list[tuple[str, Callable[[], Printable], set[str]]] = [
    *((f"walls of {w} mm", lambda w=w: tray(w), {"walls", "gaps", "islands", "small"}) for w in (0.85, 1.2, 2.0)),  # type: ignore[misc]
    *((f"a gap of {g} mm", lambda g=g: comb(g), {"gaps", "walls", "islands", "small"}) for g in (0.5, 1.0)),  # type: ignore[misc]
    *((f"a lean of {a}°", lambda a=a: table(a), {"overhangs", "walls", "gaps", "islands"}) for a in (10, 30, 44)),  # type: ignore[misc]
    *((f"a step of {d} mm", lambda d=d: lettered(d), {"small", "walls", "overhangs", "islands"}) for d in (0.2, 0.6)),  # type: ignore[misc]
]


def judged() -> tuple[float, list[str], list[str]]:
    """Share (%) of faults that are found, those missed, and false alarms on clean parts."""
    missed, alarms = [], []
    for name, make, kind in FAULTY:
        if not any(f.kind == kind and not f.well for f in check(make(), Process())):
            missed.append(f"{kind}: {name}")
    for name, make, kinds in CLEAN:
        alarms += [f"{f.kind} on {name}: {f.text}" for f in check(make(), Process()) if f.kind in kinds and not f.well]
    return 100 * (1 - len(missed) / len(FAULTY)), missed, alarms
