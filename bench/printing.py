"""Print readiness on parts with known faults, its speed, layers a second; files out and in against bare library calls."""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np

from sketchlathe.core.bringing import read_file
from sketchlathe.core.exchange import FORMATS, Export
from sketchlathe.core.exchange.modelfile import load_model
from sketchlathe.core.mesh.surface import Surface
from sketchlathe.core.model.building import build
from sketchlathe.core.model.results import BuildCache
from sketchlathe.core.printing.layers import slice_up
from sketchlathe.core.printing.printable import Printable, printable
from sketchlathe.core.printing.process import Process
from sketchlathe.core.printing.readiness import Job, check
from sketchlathe.core.solid import kernel
from sketchlathe.core.solid.kernel import FACE, mapped
from sketchlathe.core.solid.measuring import volume

from .formulas import face
from .making import Maker, box
from .measuring import Figure, ratio, seconds
from .solids import twelve_steps

UP = np.eye(3)


def laid(m: Maker) -> Printable:
    """A part on the bed as modelled."""
    return printable(m.build().bodies).laid(UP)


def tray(wall: float) -> Printable:
    """An open box with walls of a thickness."""
    m = Maker()
    m.prism("top", box(0, 0, 40, 30), distance="15")
    m.step("shell", faces=[face(m, (0, 0, 1))], thickness=f"{wall}")
    return laid(m)


def comb(gap: float) -> Printable:
    """A block with a slit."""
    m = Maker()
    m.prism("top", box(0, 0, 40, 20), distance="12")
    m.prism("top", box(20 - gap / 2, 5, gap, 20), distance="20", start="3", result="cut")
    return laid(m)


def table(lean: float) -> Printable:
    """A post with a head that widens at an angle from upright (degrees)."""
    m = Maker()
    m.round("top", 0, 0, 6, distance="10")
    m.round("top", 0, 0, 6, start="10", distance="6", taper=f"{-lean} deg")
    return laid(m)


def floating(down: float) -> Printable:
    """A gate: two posts and a beam, from which a pin hangs that ends above the bed."""
    m = Maker()
    for x in (0, 40):
        m.prism("top", box(x, 0, 8, 8), distance="30")
    m.prism("top", box(0, 0, 48, 8), start="30", distance="4")
    m.prism("top", box(22, 2, 4, 4), start=f"{down}", distance=f"{31 - down}")
    return laid(m)


def lettered(deep: float) -> Printable:
    """A plate with a raised square of a height."""
    m = Maker()
    m.prism("top", box(0, 0, 30, 20), distance="4")
    m.prism("top", box(10, 5, 8, 8), start="4", distance=f"{deep}")
    return laid(m)


def holed() -> Printable:
    """A box whose mesh lacks a triangle."""
    m = Maker()
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


def _sliced(surface: Surface) -> float:
    process = Process(layer=0.1)
    slice_up(surface, process)
    taken = seconds(lambda: slice_up(surface, process))
    return len(slice_up(surface, process).areas) / taken


def _volume_off(chord: float, angle: float) -> float:
    """Worst error of a mesh's volume over all examples."""
    worst = 0.0
    parts: list[Any] = []
    for path in sorted((Path(__file__).parents[1] / "examples").glob("*.json")):
        model = load_model(path.read_bytes())
        parts.append((model, build(model, model.parts[0], BuildCache())))
    for model, built in parts:
        data = FORMATS["stl"]().write(Export(model, model.parts[0], built.bodies, chord, angle))
        count = np.frombuffer(data, "<u4", 1, 80)[0]
        kind = np.dtype([("n", "<f4", 3), ("c", "<f4", (3, 3)), ("a", "<u2")])
        corners = np.frombuffer(data, kind, count, 84)["c"].astype(float)
        meshed = np.einsum("ij,ij->", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])) / 6
        exact = sum(volume(b.shape) for b in built.bodies)
        worst = max(worst, abs(meshed - exact) / exact)
    return worst


def _export_ratios(rounds: int) -> Iterator[Figure]:
    """Our files against the same library calls made bare, on a part of about 120 faces."""
    import lib3mf
    from OCP.BRepMesh import BRepMesh_IncrementalMesh
    from OCP.BRepTools import BRepTools
    from OCP.IFSelect import IFSelect_RetDone
    from OCP.STEPControl import STEPControl_AsIs, STEPControl_Writer
    from OCP.StlAPI import StlAPI_Writer

    m = twelve_steps()
    built = m.build()
    shape = built.bodies[0].shape
    what = Export(m.model, m.model.parts[0], built.bodies)
    with tempfile.TemporaryDirectory() as folder:
        path = str(Path(folder) / "bare")

        def meshed() -> None:
            BRepTools.Clean_s(shape)
            BRepMesh_IncrementalMesh(shape, what.chord, False, what.angle, False)

        def ours(kind: str) -> Callable[[], None]:
            def run() -> None:
                BRepTools.Clean_s(shape)
                FORMATS[kind]().write(what)

            return run

        def stl() -> None:
            meshed()
            assert StlAPI_Writer().Write(shape, path)

        def step() -> None:
            writer = STEPControl_Writer()
            writer.Transfer(shape, STEPControl_AsIs)
            assert writer.Write(path) == IFSelect_RetDone

        wrapper = lib3mf.get_wrapper()

        def threemf() -> None:
            meshed()
            surface = printable(built.bodies).surface
            document = wrapper.CreateModel()
            thing = document.AddMeshObject()
            points = [lib3mf.Position((lib3mf.ctypes.c_float * 3)(*p)) for p in surface.positions]
            corners = [lib3mf.Triangle((lib3mf.ctypes.c_uint32 * 3)(*t)) for t in surface.triangles]
            thing.SetGeometry(points, corners)
            document.AddBuildItem(thing, wrapper.GetIdentityTransform())
            document.QueryWriter("3mf").WriteToFile(path)

        yield Figure("export.stl_ratio", ratio(ours("stl"), stl, rounds), 1.3)
        yield Figure("export.3mf_ratio", ratio(ours("3mf"), threemf, rounds), 1.3)
        yield Figure("export.step_ratio", ratio(ours("step"), step, rounds), 1.3)


def _import_ms(rounds: int) -> float:
    m = twelve_steps()
    built = m.build()
    data = FORMATS["step"]().write(Export(m.model, m.model.parts[0], built.bodies))
    faces = mapped(built.bodies[0].shape, FACE).Size()

    def bring() -> None:
        found = read_file(data, "part.step")
        n = Maker()
        n.do("bring_file", part="p1", step="bring", file="part.step", data=found.fields["data"])
        n.build()

    return statistics.median(seconds(bring) for _ in range(rounds)) * 1000 / faces * 100


def figures(quick: bool) -> Iterator[Figure]:
    """print.*, printcheck.found_pct, export.*, import.step_ms_per_100_faces."""
    kernel.silence()
    rounds = 3 if quick else 9
    share, missed, alarms = judged()
    for text in (*missed, *alarms):
        print(f"  print check: {text}")
    yield Figure("printcheck.found_pct", share if not alarms else min(share, 99.0), 99.999, at_least=True)
    part = printable(twelve_steps().build().bodies, chord=0.0006, angle=0.05).laid(UP)
    taken = []
    for _ in range(rounds):
        job = Job(part, Process())
        started = time.perf_counter()
        check(job.part, job.process)
        taken.append(1e3 * (time.perf_counter() - started))
    yield Figure("print.check_ms", statistics.median(taken), 800)
    yield Figure(
        "print.layers_per_s", statistics.median(_sliced(part.surface) for _ in range(rounds)), 150, at_least=True
    )
    yield Figure("export.volume_rel", _volume_off(0.02, 0.2), 2e-3)
    yield Figure("export.volume_rel_finest", _volume_off(1e-4, 0.02), 1e-5)
    yield from _export_ratios(rounds)
    yield Figure("import.step_ms_per_100_faces", _import_ms(rounds), 900)
