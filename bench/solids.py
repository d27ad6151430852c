"""Builds against the same kernel calls made bare; meshes against the kernel's meshing."""

from __future__ import annotations

import json
import math
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from statistics import median
from typing import Any

from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakePrism
from OCP.BRepTools import BRepTools
from OCP.collections import List_TopoDS_Shape
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Vec
from tests.hand import Hand, box

from sketchlathe.core.frames import ORIGIN_PLANES
from sketchlathe.core.making.results import BuildCache
from sketchlathe.core.model.building import build
from sketchlathe.core.model.document import Model
from sketchlathe.core.sketch.curves import ArcPiece, Segment
from sketchlathe.core.sketch.regions import Profile
from sketchlathe.core.solid import kernel, meshing
from sketchlathe.core.solid.digest import digest
from sketchlathe.core.solid.naming import Body
from sketchlathe.core.solid.packing import pack
from sketchlathe.core.solid.shapes import prism, profile_face
from sketchlathe.workers import Blobs, LocalEngine, LocalWorkers
from sketchlathe.workers.requests import BuildPart, WarmUp

from .measuring import Figure, ratio, seconds


def bare_boolean(kind: Any, first: Any, *others: Any) -> Any:
    """A boolean of the kernel, with what it takes to simplify its result."""
    arguments, tools = List_TopoDS_Shape(), List_TopoDS_Shape()
    arguments.Append(first)
    for other in others:
        tools.Append(other)
    operation = kind()
    operation.SetArguments(arguments)
    operation.SetTools(tools)
    operation.SetFuzzyValue(1e-4)
    operation.Build()
    operation.SimplifyResult(True, True, 1e-6)
    return operation.Shape()


def bare(model: Model) -> Callable[[], Any]:
    """The kernel calls of a model's extrudes, prepared as far as they do not need the kernel."""
    built = build(model, model.parts[0], BuildCache())
    done = {r.step: r for r in built.steps}
    recipe: list[tuple[str, Profile, Any, float, float]] = []
    for step in model.parts[0].steps:
        if step.kind != "extrude":
            continue
        state = done[step.uses()[0]].sketch
        assert state is not None
        keys = {tuple(sorted(p.sides)) for p in step.regions}  # type: ignore[attr-defined]
        regions = [r for r in state.arrangement.regions if r.key in keys]
        tool_boxes = [kernel_heights(t, state.frame) for t in done[step.id].tools]
        for profile, (low, high) in zip(state.arrangement.outline(regions), tool_boxes):
            recipe.append((step.result, profile, state.frame, low, high))  # type: ignore[attr-defined]

    def run() -> Any:
        shape = None
        for result, profile, frame, low, high in recipe:
            face, _ = profile_face(profile, type(frame)(frame.place(0, 0, low), frame.x, frame.normal))
            n, rise = frame.normal, high - low
            tool = BRepPrimAPI_MakePrism(face, gp_Vec(n[0] * rise, n[1] * rise, n[2] * rise)).Shape()
            shape = (
                tool
                if shape is None
                else bare_boolean(BRepAlgoAPI_Cut if result == "cut" else BRepAlgoAPI_Fuse, shape, tool)
            )
        assert kernel.is_valid(shape)
        return shape

    return run


def kernel_heights(body: Body, frame: Any) -> tuple[float, float]:
    """Lowest and highest point of a body over a plane."""
    from sketchlathe.core.making.context import heights_over

    return heights_over([body], frame)


def sieve(rows: int) -> Body:
    """A plate with rows x rows holes."""
    side = 10.0 * rows
    corners = [(0.0, 0.0), (side, 0.0), (side, side), (0.0, side)]
    chain = tuple((Segment(corners[i], corners[(i + 1) % 4]), f"l{i}") for i in range(4))
    holes = tuple(
        ((ArcPiece((5 + 10.0 * i, 5 + 10.0 * j), 3.0, 2 * math.pi, 0.0), f"h{i}_{j}"),)
        for i in range(rows)
        for j in range(rows)
    )
    return prism("s1", Profile(chain, holes), ORIGIN_PLANES["top"], 0, 4)


def twelve_steps() -> Hand:
    """A part of twelve solid steps and about 120 faces: bosses and pockets with many sides on a plate."""
    m = Hand()
    m.prism("top", box(0, 0, 200, 120), distance="10 mm")
    for k in range(11):
        x, y, sides = 25 + 33 * (k % 6), 30 + 60 * (k // 6), 9 + k % 3
        s = m.sketch("top")
        m.draw(s, "polygon", (x, y), (x + 10, y + 2), sides=sides, measured="corners")
        deed = {"start": "10 mm", "distance": "6 mm"} if k % 2 else {"reach": "through", "result": "cut"}
        m.step("extrude", regions=m.regions(s), **deed)
    return m


def _warm(model: Model) -> BuildCache:
    cache = BuildCache()
    build(model, model.parts[0], cache)
    return cache


def _parameter_ms(m: Hand, rounds: int) -> float:
    """Median time of a rebuild after the plate's thickness has changed: every step follows."""
    first = m.model.parts[0].steps[1].id
    taken = []
    cache = _warm(m.model)
    for i in range(rounds):
        m.do("set_fields", step=first, fields={"distance": f"{10 + 0.1 * (i + 1)} mm"})
        taken.append(seconds(lambda: build(m.model, m.model.parts[0], cache)))
    return 1e3 * statistics.median(taken)


def _last_step_ratio(m: Hand, rounds: int) -> float:
    """An edit of the last step against that step's bare kernel calls."""
    part = m.model.parts[0]
    last = part.steps[-1].id
    cache = _warm(m.model)
    before = build(m.model, part, cache).steps[-1].before[0].shape
    ours, theirs = [], []
    for i in range(rounds):
        m.do(
            "set_fields",
            step=last,
            fields={"result": "add", "reach": "distance", "distance": f"{16 + 0.1 * (i + 1)} mm"},
        )
        ours.append(seconds(lambda: build(m.model, m.model.parts[0], cache)))
        result = build(m.model, m.model.parts[0], cache).steps[-1]
        tool = result.tools[0].shape

        def bare_step(tool: Any = tool) -> None:
            shape = bare_boolean(BRepAlgoAPI_Fuse, before, tool)
            assert kernel.is_valid(shape)

        theirs.append(seconds(bare_step))
    return statistics.median(ours) / statistics.median(theirs)


def fifty_steps() -> Hand:
    """A plate with forty-nine more steps: pockets, bosses and holes."""
    m = Hand()
    m.prism("top", box(0, 0, 260, 130), distance="12 mm")
    for k in range(24):
        x, y = 20 + 30 * (k % 8), 20 + 40 * (k // 8)
        s = m.sketch("top")
        m.draw(s, "polygon", (x, y), (x + 8, y + 2), sides=5 + k % 4, measured="corners")
        deed = {"start": "12 mm", "distance": "5 mm"} if k % 2 else {"reach": "through", "result": "cut"}
        m.step("extrude", regions=m.regions(s), **deed)
    return m


def _fresh_worker_s(text: str, blobs: str) -> float:
    """How long a new worker takes for a part."""
    engine = LocalEngine(LocalWorkers(1), Blobs(Path(blobs)))
    engine.submit(WarmUp(), "m")
    request = BuildPart(document=engine.blobs.keep_document(text), part="p1")
    try:
        return seconds(lambda: engine.submit(request, "m"))
    finally:
        engine.close()


def _cold_open_ms(rounds: int) -> float:
    """A part of fifty steps opened in a worker that has never seen it, when another worker has built it before."""
    m = fifty_steps()
    assert len(m.model.parts[0].steps) == 50
    text = json.dumps(m.model.as_json(), separators=(",", ":"))
    taken = []
    with tempfile.TemporaryDirectory() as blobs:
        for _ in range(rounds + 1):
            taken.append(_fresh_worker_s(text, blobs))
    return 1e3 * statistics.median(taken[1:])


def _hundred_holes(rounds: int) -> Figure:
    """A pattern of 100 holes against one bare n-ary boolean."""
    m = Hand()
    m.prism("top", box(0, 0, 220, 220), distance="5 mm")
    hole = m.round("top", 10, 10, 3, reach="through", result="cut")
    m.step("pattern", steps=[hole], form="row", axis={"axis": "x"}, count="10", spacing="20 mm",
           second={"axis": "y"}, second_count="10", second_spacing="20 mm")  # fmt: skip
    part = m.model.parts[0]
    cache = BuildCache()
    build(m.model, part, cache)
    plate = m.build().steps[1].bodies[0].shape

    def ours() -> None:
        fresh = BuildCache()
        for key, result in list(cache._kept.items()):
            if result.step != part.steps[-1].id:
                fresh._kept[key] = result
        build(m.model, part, fresh)

    def bare() -> None:
        axes = [gp_Ax2(gp_Pnt(10 + 20 * i, 10 + 20 * j, -1), gp_Dir(0, 0, 1)) for i in range(10) for j in range(10)]
        drills = [BRepPrimAPI_MakeCylinder(a, 3, 7).Shape() for a in axes]
        assert kernel.is_valid(bare_boolean(BRepAlgoAPI_Cut, plate, *drills))

    def timed(run: Callable[[], None]) -> float:
        started = time.perf_counter()
        run()
        return time.perf_counter() - started

    timed(ours), timed(bare)
    return Figure(
        "pattern.n_ary_ratio",
        median(timed(ours) for _ in range(rounds)) / median(timed(bare) for _ in range(rounds)),
        1.3,
    )


def _measuring(m: Hand, rounds: int) -> float:
    """All figures of a part that was just built, its faces not measured before, against building it."""
    from sketchlathe.core.solid import measuring

    shares = []
    for _ in range(rounds):
        measuring._KNOWN.clear()
        m.cache = BuildCache()
        began = time.perf_counter()
        bodies = m.build().bodies
        built = time.perf_counter() - began
        measuring._KNOWN.clear()
        began = time.perf_counter()
        for body in bodies:
            measuring.measures(body.shape)
        shares.append((time.perf_counter() - began) / built)
    return statistics.median(shares)


def rod() -> Hand:
    """An M12 rod with a thread of sixteen turns."""
    m = Hand()
    m.step("block", shape="cylinder", diameter="12 mm", height="40 mm")
    m.step("thread", face=[m.face_where("", "cylindrical")], size="M12")
    return m


def figures(quick: bool) -> list[Figure]:
    """build.overhead_ratio, build.parameter_ms, build.last_step_ratio, build.cold_open_ms, mesh.pack_ratio,
    measure.ratio, measure.thread_ratio, pattern.n_ary_ratio.
    """
    kernel.silence()
    rounds = 1 if quick else 15
    part = twelve_steps()
    model = part.model
    overhead = ratio(lambda: build(model, model.parts[0], BuildCache()), bare(model), rounds)
    parameter = _parameter_ms(part, rounds)
    last = _last_step_ratio(part, rounds)
    body = sieve(10)
    facts = digest(body)

    def mesh() -> None:
        BRepTools.Clean_s(body.shape)
        meshing.tessellate(body.shape, meshing.view_tolerance(100))

    def extract_and_pack() -> None:
        pack(body, meshing.extract(body.shape), facts)

    mesh()
    packing = ratio(extract_and_pack, mesh, rounds)
    return [
        Figure("build.overhead_ratio", overhead, 1.5),
        Figure("measure.ratio", _measuring(twelve_steps(), 1 if quick else 5), 0.1),
        Figure("measure.thread_ratio", _measuring(rod(), 1 if quick else 5), 0.5),
        Figure("build.parameter_ms", parameter, 450),
        Figure("build.last_step_ratio", last, 1.8),
        Figure("build.cold_open_ms", _cold_open_ms(1 if quick else 7), 800),
        Figure("mesh.pack_ratio", packing, 0.3),
        _hundred_holes(1 if quick else 7),
    ]
