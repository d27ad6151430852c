"""The process that geometry workers are forked from: it has the kernel loaded, which takes seconds."""

from __future__ import annotations

import contextlib
import fcntl
import multiprocessing
import os
import select
import shutil
import socket
import subprocess
import sys
import tempfile
import threading
import time
from multiprocessing import forkserver, resource_tracker
from multiprocessing.context import ForkServerContext
from pathlib import Path

PRELOAD = "sketchlathe.workers.preload"
OWNER = "FORKS_FOR"  # in its environment: the process it was started by
FORKED_BY = "FORKED_BY"  # in a worker's environment: the process it was forked from


def forked() -> ForkServerContext:
    """What new workers come from."""
    os.environ[OWNER] = str(os.getpid())
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload([PRELOAD])
    return context


class Kept:
    """That process kept for several others (``meet``), so that none of them loads the kernel by itself. One that ends
    is started again, and answers who asked meanwhile: the socket where they ask is ours.
    """

    def __init__(self) -> None:
        _forget_the_killed()
        self._folder = Path(tempfile.mkdtemp(prefix="lathe-forks-"))  # for ourselves only
        self._held = os.open(self._folder, os.O_RDONLY)  # locked for as long as we live
        fcntl.flock(self._held, fcntl.LOCK_EX)
        self.at = self._folder / "asked"
        self._socket = socket.socket(socket.AF_UNIX)
        self._socket.bind(str(self.at))
        self._socket.listen(64)
        self._ends, self._alive = os.pipe()
        self._process = self._started()

    def _started(self) -> subprocess.Popen[bytes]:
        asked, ends = self._socket.fileno(), self._ends
        command = f"from multiprocessing.forkserver import main; main({asked}, {ends}, {[PRELOAD]!r})"
        environment = {**os.environ, OWNER: str(os.getpid())}
        return subprocess.Popen([sys.executable, "-c", command], pass_fds=(asked, ends), env=environment)

    @property
    def pid(self) -> int:
        """The process."""
        return self._process.pid

    def look(self) -> None:
        """Start it again if it has ended."""
        if self._process.poll() is not None:
            self._process = self._started()

    def close(self) -> None:
        """End it."""
        self._process.kill()
        self._process.wait()
        self._socket.close()
        for end in (self._ends, self._alive, self._held):
            os.close(end)
        shutil.rmtree(self._folder, ignore_errors=True)


def _forget_the_killed() -> None:
    """Take away the folders of those that were killed: nobody holds them. (Their age says nothing: one may run for
    months.)
    """
    for old in Path(tempfile.gettempdir()).glob("lathe-forks-*"):
        with contextlib.suppress(OSError):
            if time.time() - old.stat().st_mtime < 60:
                continue  # it may be about to be held
            held = os.open(old, os.O_RDONLY)
            try:
                fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
                shutil.rmtree(old, ignore_errors=True)
            finally:
                os.close(held)


class _Met(forkserver.ForkServer):
    """That process, somebody else's."""

    def __init__(self, at: str) -> None:
        super().__init__()
        self._forkserver_address = at
        self._forkserver_alive_fd = os.open(os.devnull, os.O_RDONLY)  # whether it goes on is not for us to say

    def ensure_running(self) -> None:
        """It is looked after by whoever keeps it."""
        resource_tracker.ensure_running()


def meet(at: str) -> None:
    """Have new workers of this process come from the one that somebody else keeps. (The module of the standard library
    has its one server's methods as functions of its own.)
    """
    met = _Met(at)
    for name in forkserver.__all__:
        setattr(forkserver, name, getattr(met, name))


def end_with_owner() -> None:
    """In that process: end when the process it was started by has. By itself it looks only after everything is loaded,
    which takes seconds of a processor that what comes in its place needs, and only once every worker has ended too.
    """
    os.environ[FORKED_BY] = str(os.getpid())
    # asked for by its number: who is killed this early is no longer our parent when we first look
    end_with(int(os.environ.get(OWNER) or os.getppid()))


def end_with(*others: int) -> None:
    """End this process as soon as one of the processes ``others``, of this machine, has."""
    ends = select.poll()
    try:
        for other in others:
            ends.register(os.pidfd_open(other), select.POLLIN)
    except ProcessLookupError:
        os._exit(0)

    def watch() -> None:
        ends.poll()
        os._exit(0)

    threading.Thread(target=watch, daemon=True).start()
