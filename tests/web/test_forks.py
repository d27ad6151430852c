"""What workers are forked from, and workers: replaced when they are killed, gone when whom they serve is."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import pytest

from sketchlathe.forking import Kept
from sketchlathe.workers import LocalWorkers

ROOT = Path(__file__).parents[2]


def _nothing(note: str) -> int:
    return os.getpid()


def _forkserver() -> int:
    from multiprocessing import forkserver

    return int(forkserver._forkserver._forkserver_pid)  # type: ignore[attr-defined]


@pytest.mark.parametrize("victim", ["the idle worker", "the forkserver", "both"])
def test_whoever_is_killed_while_idle_is_replaced(victim) -> None:
    workers = LocalWorkers(1)
    try:
        first = workers.run("m", _nothing)
        for _ in range(2):
            if victim != "the idle worker":
                os.kill(_forkserver(), signal.SIGKILL)
            if victim != "the forkserver":
                os.kill(first, signal.SIGKILL)
            time.sleep(0.6)
            first = workers.run("m", _nothing)
            assert workers.run("m", _nothing) == first
    finally:
        workers.close()


def test_a_worker_ends_with_what_it_was_forked_from() -> None:
    """Another is at its place, and nobody would end it."""
    workers = LocalWorkers(1)
    try:
        first = workers.run("m", _nothing)
        os.kill(_forkserver(), signal.SIGKILL)
        patience = time.monotonic() + 20
        while _is_there(first) and time.monotonic() < patience:
            time.sleep(0.05)
        assert not _is_there(first)
        assert workers.run("m", _nothing) != first
    finally:
        workers.close()


CONSUMER = """
import sys
from sketchlathe.forking import meet
from sketchlathe.workers.contract import WorkerTrouble
from sketchlathe.workers.pool import LocalWorkers
from tests.web.test_forks import _below
if __name__ == "__main__":
    meet(sys.argv[1])
    workers = LocalWorkers(1)
    for line in sys.stdin:
        try:
            print(workers.run("m", _below), flush=True)
        except WorkerTrouble:  # what it was forked from ended under it
            print(0, flush=True)
    workers.close()
"""


def _below(note: str) -> int:
    return os.getppid()


def test_one_process_has_the_kernel_loaded_for_all_consumers_of_a_machine() -> None:
    """And when it is killed, with one of them, the others are answered by the next."""
    kept = Kept()
    consumers = [
        subprocess.Popen(
            [sys.executable, "-c", CONSUMER, str(kept.at)], cwd=ROOT, stdin=subprocess.PIPE, stdout=subprocess.PIPE
        )
        for _ in range(2)
    ]

    def asked(consumer: subprocess.Popen[bytes]) -> int:
        assert consumer.stdin is not None and consumer.stdout is not None
        consumer.stdin.write(b"\n")
        consumer.stdin.flush()
        return int(consumer.stdout.readline())

    try:
        first = kept.pid
        assert [asked(c) for c in consumers] == [first, first]
        consumers[0].kill()
        os.kill(first, signal.SIGKILL)
        patience = time.monotonic() + 30
        while kept.pid == first and time.monotonic() < patience:
            time.sleep(0.05)
            kept.look()
        assert kept.pid != first
        # its own worker lives on for a moment, and may answer once more
        while (above := asked(consumers[1])) != kept.pid and time.monotonic() < patience:
            time.sleep(0.1)
        assert above == kept.pid
        at = kept.at
    finally:
        for consumer in consumers:
            consumer.kill()
            consumer.communicate()
        kept.close()
    assert not at.exists() and not _is_there(kept.pid)


def test_only_what_nobody_keeps_is_taken_away(tmp_path, monkeypatch) -> None:
    monkeypatch.setattr(tempfile, "tempdir", str(tmp_path))
    left = tmp_path / "lathe-forks-left"
    left.mkdir()
    kept = Kept()
    try:
        for folder in (left, kept.at.parent):
            os.utime(folder, (1e9, 1e9))  # both are old: one was killed, one has run for long
        Kept().close()
        assert kept.at.exists() and not left.exists()
    finally:
        kept.close()


OWNER = """
import time
from multiprocessing import forkserver
from sketchlathe.workers.pool import LocalWorkers
from tests.web.test_forks import _nothing
if __name__ == "__main__":
    worker = LocalWorkers(1).run("m", _nothing)
    print(worker, forkserver._forkserver._forkserver_pid, flush=True)
    time.sleep(600)
"""


def test_what_workers_come_from_ends_with_its_owner_though_a_worker_hangs() -> None:
    owner = subprocess.Popen([sys.executable, "-c", OWNER], cwd=ROOT, stdout=subprocess.PIPE)
    assert owner.stdout is not None
    worker, server = map(int, owner.stdout.readline().split())
    try:
        os.kill(worker, signal.SIGSTOP)
        owner.kill()
        owner.wait()
        patience = time.monotonic() + 30
        while _is_there(server) and time.monotonic() < patience:
            time.sleep(0.1)
        assert not _is_there(server)
    finally:
        os.kill(worker, signal.SIGKILL)
        owner.stdout.close()


# what it has open stays open in another process
HELD = OWNER.replace("    time.sleep", "    held = os.fork()\n    if held: print(held, flush=True)\n    time.sleep")
HELD = HELD.replace("import time", "import os, time")


def test_a_worker_ends_with_whom_it_works_for_though_another_holds_its_pipe() -> None:
    owner = subprocess.Popen([sys.executable, "-c", HELD], cwd=ROOT, stdout=subprocess.PIPE)
    assert owner.stdout is not None
    worker, server = map(int, owner.stdout.readline().split())
    holder = int(owner.stdout.readline())
    try:
        owner.kill()
        owner.wait()
        patience = time.monotonic() + 30
        while (_is_there(worker) or _is_there(server)) and time.monotonic() < patience:
            time.sleep(0.1)
        assert _is_there(holder)
        assert not _is_there(worker)
        assert not _is_there(server)
    finally:
        os.kill(holder, signal.SIGKILL)
        owner.stdout.close()


def test_what_workers_come_from_ends_though_its_owner_was_gone_before_it_looked() -> None:
    gone = subprocess.Popen([sys.executable, "-c", ""])
    gone.wait()
    begun = (
        "import time; from sketchlathe import forking; forking.end_with_owner(); time.sleep(60); raise SystemExit(3)"
    )
    environment = {**os.environ, "FORKS_FOR": str(gone.pid)}
    assert subprocess.run([sys.executable, "-c", begun], cwd=ROOT, env=environment, timeout=30).returncode == 0


def _is_there(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(") ")[2][0] != "Z"
    except OSError:
        return False
