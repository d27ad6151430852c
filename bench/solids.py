"""Builds against the same kernel calls made bare; meshes against the kernel's meshing."""

from __future__ import annotations

import math
from collections.abc import Callable
from pathlib import Path
from typing import Any

from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.BRepTools import BRepTools
from OCP.collections import List_TopoDS_Shape
from OCP.gp import gp_Vec

from sketchlathe.core.exchange.modelfile import load_model
from sketchlathe.core.model.building import BuildCache, build
from sketchlathe.core.model.document import Model
from sketchlathe.core.sketch.curves import ArcPiece, Segment
from sketchlathe.core.sketch.regions import Profile
from sketchlathe.core.solid import kernel, meshing
from sketchlathe.core.solid.digest import digest
from sketchlathe.core.solid.frames import ORIGIN_PLANES
from sketchlathe.core.solid.naming import Body
from sketchlathe.core.solid.packing import pack
from sketchlathe.core.solid.shapes import prism, profile_face

from .measuring import Figure, ratio

EXAMPLES = Path(__file__).parents[1] / "examples"


def _bare_boolean(kind: Any, first: Any, second: Any) -> Any:
    arguments, tools = List_TopoDS_Shape(), List_TopoDS_Shape()
    arguments.Append(first)
    tools.Append(second)
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
            if shape is None:
                shape = tool
            else:
                shape = _bare_boolean(BRepAlgoAPI_Cut if result == "cut" else BRepAlgoAPI_Fuse, shape, tool)
        assert kernel.is_valid(shape)
        return shape

    return run


def kernel_heights(body: Body, frame: Any) -> tuple[float, float]:
    """Lowest and highest point of a body over a plane."""
    from sketchlathe.core.model.building import heights_over

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


def figures(quick: bool) -> list[Figure]:
    """build.overhead_ratio, mesh.pack_ratio."""
    kernel.silence()
    model = load_model((EXAMPLES / "mast-clamp-half.json").read_bytes())
    rounds = 7 if quick else 25
    overhead = ratio(lambda: build(model, model.parts[0], BuildCache()), bare(model), rounds)
    body = sieve(10)
    facts = digest(body)

    def mesh() -> None:
        BRepTools.Clean_s(body.shape)
        meshing.tessellate(body.shape, meshing.view_tolerance(100))

    def extract_and_pack() -> None:
        pack(body, meshing.extract(body.shape), facts)

    mesh()
    packing = ratio(extract_and_pack, mesh, rounds)
    return [Figure("build.overhead_ratio", overhead, 1.8), Figure("mesh.pack_ratio", packing, 0.35)]
