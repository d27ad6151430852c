"""The service as a whole: what an engine costs, how a class waits, what is held after long work, backups."""

from __future__ import annotations

import contextlib
import os
import signal
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from sketchlathe.proving.crowding import load
from sketchlathe.proving.soaking import soak
from sketchlathe.store import Database
from sketchlathe.store.backup import check_backup, write_backup
from sketchlathe.store.cluster import Cluster
from sketchlathe.store.queue_server import QueueServer
from sketchlathe.workers import Engine, LocalEngine, LocalWorkers
from sketchlathe.workers import requests as ask
from sketchlathe.workers.blobs import Blobs
from sketchlathe.workers.distributed import DistributedEngine

from .measuring import Figure, median_ms
from .solids import twelve_steps


def _empty_job_ms(engine: Engine, rounds: int) -> float:
    return median_ms(lambda: engine.submit(ask.WarmUp(), "m"), rounds)


@contextlib.contextmanager
def _machine(url: str, folder: Path) -> Iterator[None]:
    command = [sys.executable, "-m", "sketchlathe", "work", "--redis", url, "--group", "g", "--processes", "1"]
    process = subprocess.Popen(
        command, env={**os.environ, "LATHE_DATA": str(folder)}, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        start_new_session=True,
    )  # fmt: skip
    try:
        yield
    finally:
        os.killpg(process.pid, signal.SIGKILL)
        process.wait()


def _backup(folder: Path, models: int) -> tuple[float, float]:
    """MB of documents and patches a second, and whether what was written could be read through again."""
    from sketchlathe.service import accounts, modelling, shelf

    cluster = Cluster(folder / "postgres", durable=False)
    database = Database(cluster.start())
    try:
        database.migrate()
        person = accounts.sign_up(database, "Ona Reed", "ona@weather-post.example", "a long password")
        project = shelf.projects(database, person.id)[0][0].id
        model, size = twelve_steps().model, 0
        for number in range(models):
            row = shelf.make_model(database, person.id, project, f"Plate {number}", model=model)
            size += len(modelling.open_model(database, person.id, row.id).text)
        began = time.monotonic()
        counts = write_backup(database, folder / "b.lathe-backup")
        taken = time.monotonic() - began
        whole = check_backup(folder / "b.lathe-backup")["tables"]["models"]["rows"] == counts["models"] == models
        return size / 1e6 / taken, float(whole)
    finally:
        database.close()
        cluster.stop()


def figures(quick: bool) -> Iterator[Figure]:
    """engine.overhead_ms, engine.drag_unchanged, serve.edit_p95_ms.n30, backup.mb_per_s, restore.checked, memory."""
    rounds = 40 if quick else 300
    with tempfile.TemporaryDirectory(prefix="lathe-bench-", ignore_cleanup_errors=True) as name:
        folder = Path(name)
        folder.chmod(0o711)
        local = LocalEngine(LocalWorkers(1), Blobs(folder / "a"))
        yield Figure("engine.overhead_ms.local", _empty_job_ms(local, rounds), 3)
        local.close()
        queue = QueueServer()
        with _machine(queue.url, folder):
            engine = DistributedEngine(queue.url, Blobs(folder / "b"))
            yield Figure("engine.overhead_ms.distributed", _empty_job_ms(engine, rounds), 8)
            engine.close()
        queue.kill()
        speed, checked = _backup(folder, 40 if quick else 400)
        yield Figure("backup.mb_per_s", speed, 2, at_least=True)
        yield Figure("restore.checked", checked, 1, at_least=True)
    long = 6 if quick else 40
    alone, spread = (load(4, long, machines=m).waits["drag"] for m in (0, 1))
    yield Figure("engine.drag_unchanged", statistics.median(spread) / statistics.median(alone), 1.1)
    yield Figure("serve.edit_p95_ms.n30", load(4 if quick else 30, long).share("edit", 0.95), 300)
    soaked = soak(12 if quick else 300)  # the hour is `./lathe prove soak`
    for sort in ("web", "worker"):
        early, late = (value / 1e6 for value in soaked.series(f"{sort} bytes"))
        yield Figure(f"memory.{sort}_mb", late, 1.1 * early)
