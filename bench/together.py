"""Parts that fit: placing one body and thirty, whether thirty copies go together, how exact overlaps are."""

from __future__ import annotations

import gzip
import json
import math
import tempfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from tests.hand import Hand

from sketchlathe.core.model.building import build
from sketchlathe.core.solid import fitting, kernel
from sketchlathe.core.together import Grip, Pose, Relation, place
from sketchlathe.core.together.grips import rotation
from sketchlathe.workers import builds, kept_answers
from sketchlathe.workers.blobs import Blobs
from sketchlathe.workers.jobs import Desk
from sketchlathe.workers.requests import BuildPart

from .measuring import Figure, median_ms, ratio, seconds
from .solids import twelve_steps


def _plane(at: tuple[float, float, float], way: tuple[float, float, float]) -> Grip:
    return Grip("plane", at, way)


def _corner() -> list[Relation]:
    """Three faces of a block against three that stand."""
    ways = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
    return [Relation("against", _plane((0, 0, 0), w), _plane((7, 8, 9), (-w[0], -w[1], -w[2])), 0, None) for w in ways]


def _tower(count: int) -> tuple[list[Relation], list[Pose]]:
    """Bodies on each other: seated, coaxial, parallel; a little off."""
    up, axis, side = (0.0, 0.0, 1.0), Grip("line", (0, 0, 0), (0.0, 0.0, 1.0)), _plane((5, 0, 0), (1.0, 0.0, 0.0))
    relations = []
    for i in range(count):
        below = i - 1 if i else None
        relations += [
            Relation("against", _plane((0, 0, 0), (0.0, 0.0, -1.0)), _plane((0, 0, 10), up), i, below),
            Relation("on", axis, axis, i, below),
            Relation("parallel", side, side, i, below),
        ]
    noise = np.random.default_rng(1)
    poses = [
        Pose(rotation(noise.normal(0, 0.05, 3)), np.array([0, 0, 10.0 * i]) + noise.normal(0, 1, 3))
        for i in range(count)
    ]
    return relations, poses


def _thirty() -> Hand:
    """Thirty copies of a part of 120 faces (200 x 120 x 16 mm), three of which reach into another."""
    hand = twelve_steps()
    hand.do("add_part", sort="together")
    top = hand.model.parts[-1].id
    places = [(205 * (i % 5), 125 * (i // 5 % 3), 16.2 * (i // 15)) for i in range(27)]
    for x, y, z in [*places, (0, 0, 60), (0, 0, 70), (0, 115, 65)]:
        fields = {"part": "p1", "x": f"{x} mm", "y": f"{y} mm", "z": f"{z} mm"}
        hand.do("add_step", part=top, step="bring_part", fields=fields)
    return hand


def _open_ratio(hand: Hand, rounds: int) -> float:
    """Opening what is put together, as a class does after the first time, against reading and unpacking its meshes."""
    text, part = json.dumps(hand.model.as_json()), hand.model.parts[-1].id
    with tempfile.TemporaryDirectory() as folder:
        blobs = Blobs(Path(folder))
        asked = BuildPart(document=blobs.keep_document(text), part=part)
        keys = [body["key"] for body in builds.build_part(asked, Desk(blobs))["bodies"]]

        def meshes() -> int:
            return sum(len(gzip.decompress(blobs.mesh(key) or b"")) for key in keys)

        def opened() -> int:
            found = kept_answers.built(blobs, asked.document, part)
            assert found is not None and len(found["bodies"]) == len(keys)
            return meshes()

        return ratio(opened, meshes, rounds)


def figures(quick: bool) -> Iterator[Figure]:
    """place.solve_ms, together.solve_ms.n30, fit.pairs_ms, together.open_ratio, fit.volume_rel."""
    kernel.silence()
    rounds = 10 if quick else 40
    corner, start = _corner(), Pose(rotation(np.array([0.3, -0.2, 0.5])), np.array([40.0, -20.0, 10.0]))
    yield Figure("place.solve_ms", median_ms(lambda: place(corner, [start]), rounds), 2)
    relations, poses = _tower(30)
    yield Figure("together.solve_ms.n30", median_ms(lambda: place(relations, poses), rounds), 16)
    hand = _thirty()
    bodies = build(hand.model, hand.model.parts[-1], hand.cache).bodies
    found: list[fitting.Pair] = []
    taken = seconds(lambda: found.extend(p for p in fitting.pairs(bodies, 0.5) if p.shared))
    assert len(found) == 3, len(found)  # the last three, each with each
    yield Figure("fit.pairs_ms", 1e3 * taken, 1500)
    yield Figure("together.open_ratio", _open_ratio(hand, 5 if quick else 15), 1.5)
    balls = Hand()
    for x in ("0 mm", "15 mm"):
        fields = {"shape": "sphere", "diameter": "20 mm", "x": x, "result": "separate"}
        balls.do("add_step", part="p1", step="block", fields=fields)
    (pair,) = fitting.pairs(balls.build().bodies, 0.5)
    high = 10 - 7.5
    lens = 2 * math.pi * high * high * (30 - high) / 3
    yield Figure("fit.volume_rel", abs(pair.shared / lens - 1), 1e-5)
