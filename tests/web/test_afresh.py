"""A part whose picture and numbers differ is told by what comes with its mesh, and can be built afresh."""

from __future__ import annotations

import dataclasses
import json
import struct
from pathlib import Path

import pytest
from tests.hand import Hand, plate

from sketchlathe.core.solid.transforms import copied, scaling
from sketchlathe.workers import Blobs, builds, caches
from sketchlathe.workers.jobs import Desk
from sketchlathe.workers.kept_answers import key_of
from sketchlathe.workers.requests import BuildPart


def told(blobs: Path, body: dict) -> tuple[float, float]:
    """(volume of the mesh, what may be between it and the exact one), mm³."""
    import gzip

    data = gzip.decompress(Blobs(blobs).mesh(body["key"]))
    header = json.loads(data[4 : 4 + struct.unpack("<I", data[:4])[0]])
    return header["volume"], header["slack"]


def asked_of(hand: Hand, folder: Path) -> BuildPart:
    return BuildPart(document=Blobs(folder).keep_document(json.dumps(hand.model.as_json())), part="p1")


@pytest.mark.parametrize("rounded", [False, True])
def test_the_volume_of_the_picture_comes_with_it(tmp_path, rounded: bool) -> None:
    hand = plate()
    if rounded:
        hand.round("top", 80, 20, 15, distance="30")
    for body in builds.build_part(asked_of(hand, tmp_path), Desk(Blobs(tmp_path)))["bodies"]:
        volume, slack = told(tmp_path, body)
        assert abs(volume - body["volume"]) <= slack < 0.03 * body["volume"]


def test_a_damaged_result_is_seen_and_built_afresh(tmp_path) -> None:
    caches.forget()
    asked = asked_of(plate(), tmp_path)
    (good,) = builds.build_part(asked, Desk(Blobs(tmp_path)))["bodies"]
    # the kept solid is damaged, and asked for again by somebody who has no answer
    key, made = next((k, m) for k, m in caches.CACHE._solids.items() if m.bodies[0].id == good["id"])
    wrong = copied(made.bodies[0], scaling((0, 0, 0), 1.01), good["id"])
    caches.CACHE.put_solids(key, dataclasses.replace(made, bodies=(wrong,)))
    caches._MEASURED.clear()
    Blobs(tmp_path).drop(key_of(asked.document, "p1"))
    (bad,) = builds.build_part(asked, Desk(Blobs(tmp_path)))["bodies"]
    volume, slack = told(tmp_path, bad)
    assert key and abs(volume - bad["volume"]) > slack
    (again,) = builds.build_part(asked.model_copy(update={"afresh": True}), Desk(Blobs(tmp_path)))["bodies"]
    volume, slack = told(tmp_path, again)
    assert again["volume"] == pytest.approx(good["volume"], rel=1e-12) and abs(volume - again["volume"]) <= slack
