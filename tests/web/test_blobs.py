"""Meshes, answers and documents: what is put away when there is too much of it."""

from __future__ import annotations

import os
import time
import tracemalloc
from array import array

from hypothesis import given
from hypothesis import strategies as st

from sketchlathe.workers import Blobs
from sketchlathe.workers.blobs import beyond


def test_what_was_used_longest_ago_goes_first_and_nothing_that_is_in_use(tmp_path) -> None:
    blobs = Blobs(tmp_path, most=2500, spared=600)
    old = time.time() - 3000
    for i in range(5):
        path = blobs.path(f"{i:032x}.gz")
        path.parent.mkdir(exist_ok=True)
        path.write_bytes(bytes(1000))
        os.utime(path, (old + i, old + i))
    assert blobs.mesh(f"{0:032x}") is not None  # the oldest, but asked for just now
    blobs.trim()
    left = {i for i in range(5) if blobs.has_mesh(f"{i:032x}")}
    assert left == {0, 4}
    # what is young stays though there is too much of it
    for i in range(5, 9):
        blobs.path(f"{i:032x}.gz").write_bytes(bytes(1000))
    blobs.trim()
    assert {i for i in range(9) if blobs.has_mesh(f"{i:032x}")} >= {0, 5, 6, 7, 8}


def test_looking_through_many_blobs_takes_little_memory(tmp_path) -> None:
    blobs = Blobs(tmp_path, most=0, spared=600)  # all of them are beyond that, and young
    for i in range(4000):
        path = blobs.path(f"{i * 7919 % 256:02x}{i:030x}.json")
        path.parent.mkdir(exist_ok=True)
        path.touch()
    tracemalloc.start()
    try:
        blobs.trim()
        peak = tracemalloc.get_traced_memory()[1]
    finally:
        tracemalloc.stop()
    assert len(list(tmp_path.rglob("*.json"))) == 4000
    assert peak < 4000 * 120, "of each its age, size and place in the order, not its name and all that is known of it"


@given(
    files=st.lists(st.tuples(st.floats(0, 100), st.integers(0, 50)), max_size=30, unique_by=lambda f: f[0]),
    most=st.integers(0, 900), spared=st.floats(0, 100),
)  # fmt: skip
def test_the_age_from_which_on_blobs_go(files, most, spared) -> None:
    oldest = beyond(array("d", [age for age, _ in files]), array("q", [size for _, size in files]), most, spared)
    gone = [f for f in files if oldest is not None and f[0] >= oldest]
    left = [f for f in files if f not in gone]
    assert all(age >= spared for age, _ in gone)
    # what is left is within bounds or spared; and nothing went that need not have
    assert sum(size for _, size in left) <= most or all(age < spared for age, _ in left)
    if gone:
        assert sum(size for _, size in (*left, min(gone))) > most
