"""Print readiness on parts with known faults, its speed, layers a second; files out and in
against bare library calls.
"""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
from tests.hand import Hand

from sketchlathe.core.bringing import read_file
from sketchlathe.core.exchange import FORMATS, Export
from sketchlathe.core.exchange.modelfile import load_model
from sketchlathe.core.making.results import BuildCache
from sketchlathe.core.mesh.surface import Surface
from sketchlathe.core.model.building import build
from sketchlathe.core.printing.layers import slice_up
from sketchlathe.core.printing.printable import printable
from sketchlathe.core.printing.process import Process
from sketchlathe.core.printing.readiness import Job, check
from sketchlathe.core.solid import kernel
from sketchlathe.core.solid.kernel import FACE, mapped
from sketchlathe.core.solid.measuring import volume

from .measuring import Figure, ratio, seconds
from .solids import twelve_steps

UP = np.eye(3)


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
        n = Hand()
        n.do("bring_file", part="p1", step="bring", file="part.step", data=found.fields["data"])
        n.build()

    return statistics.median(seconds(bring) for _ in range(rounds)) * 1000 / faces * 100


def figures(quick: bool) -> Iterator[Figure]:
    """print.*, export.*, import.step_ms_per_100_faces."""
    kernel.silence()
    rounds = 1 if quick else 9
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
