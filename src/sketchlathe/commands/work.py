"""Be a machine of geometry workers for web processes on this machine or others (through Redis)."""

from __future__ import annotations

import argparse
import os
import re
import signal
import socket
import subprocess
import sys
import threading
import time
from pathlib import Path

from .. import rubbish
from ..beats import SERVES, gone
from ..core.errors import BadInput
from ..forking import Kept, meet
from . import say

AGAIN = 0.3, 20.0  # s before a consumer that ended is started again: at first, and at most
SETTLED = 15.0  # s after which one is no longer said to end when it has hardly begun


class Consumers:
    """The consumers of this machine, each a process of its own; one that ends is started again."""

    def __init__(self, argv: list[str], redis: str, group: str) -> None:
        self._argv, self._queue, self._over = argv, (redis, group), threading.Event()
        self._server = Kept()
        self._waits, self._since = dict.fromkeys(SERVES, AGAIN[0]), dict.fromkeys(SERVES, time.monotonic())
        self._at: dict[str, subprocess.Popen[bytes]] = {sort: self._started(sort) for sort in SERVES}

    def _started(self, sort: str) -> subprocess.Popen[bytes]:
        told = ["--only", sort, "--parent", str(os.getpid()), "--forks", str(self._server.at)]
        return subprocess.Popen([sys.executable, "-m", "sketchlathe", "work", *self._argv, *told])

    def watch(self) -> None:
        """Until stopped."""
        due: dict[str, float] = {}
        while not self._over.wait(0.1):
            self._server.look()
            for sort, process in self._at.items():
                if process.poll() is None:
                    continue
                if sort not in due:
                    due[sort] = time.monotonic() + self._wait(sort, process.returncode)
                    threading.Thread(target=gone, args=(*self._queue, sort), daemon=True).start()
                    say(f"the consumer of {sort} work has ended ({process.returncode}); starting it again")
                if time.monotonic() >= due[sort]:
                    self._at[sort], self._since[sort] = self._started(sort), time.monotonic()
                    del due[sort]
        for process in self._at.values():
            process.terminate()
        for process in self._at.values():
            try:
                process.wait(30)
            except subprocess.TimeoutExpired:
                process.kill()
        self._server.close()

    def _wait(self, sort: str, code: int) -> float:
        """s until one that ended so is started again: longer each time where it ends by itself as soon as it begins
        (one that somebody killed could have gone on).
        """
        by_itself = code not in (-signal.SIGKILL, -signal.SIGTERM)
        soon = time.monotonic() - self._since[sort] < SETTLED
        self._waits[sort] = min(2 * self._waits[sort], AGAIN[1]) if by_itself and soon else AGAIN[0]
        return self._waits[sort]

    def stop(self, *_: object) -> None:
        """End them: what is under way is ended first."""
        self._over.set()


def _leave_with(parent: int, redis: str, group: str, sort: str) -> None:
    """A consumer whose supervisor is gone goes too: another one is started by whoever looks after that."""
    while os.getppid() == parent:
        time.sleep(0.2)
    gone(redis, group, sort)
    os.kill(os.getpid(), signal.SIGKILL)


def run(argv: list[str]) -> int:
    """``./lathe work --redis URL [--group NAME] [--processes N]``"""
    parser = argparse.ArgumentParser(prog="lathe work", description=__doc__)
    parser.add_argument("--redis", default=os.environ.get("LATHE_REDIS"), help="redis://host:port/0 (or LATHE_REDIS)")
    parser.add_argument(
        "--group", default=os.environ.get("LATHE_GROUP", socket.gethostname()),
        help="what this machine is called among the others (default its host name; or LATHE_GROUP)",
    )  # fmt: skip
    parser.add_argument(
        "--processes", type=int, default=int(os.environ.get("LATHE_PROCESSES", "2")),
        help="that compute at once, for each sort of work (default 2; or LATHE_PROCESSES)",
    )  # fmt: skip
    parser.add_argument("--build-limit", type=float, default=60.0, help="seconds that one step may take (default 60)")
    parser.add_argument("--only", choices=[*SERVES], help=argparse.SUPPRESS)
    parser.add_argument("--forks", help=argparse.SUPPRESS)
    parser.add_argument("--parent", type=int, default=os.getppid(), help=argparse.SUPPRESS)
    options = parser.parse_args(argv)
    os.umask(0o077)  # what is put on disk is nobody else's on this machine
    if not options.redis:
        raise BadInput("Say where the queue is: --redis redis://host:port/0")
    if not re.fullmatch(r"[\w-][\w.-]{0,60}", options.group) or not 1 <= options.processes <= 256:
        raise BadInput("A group is called by letters, digits, dots and dashes; processes are 1 to 256.")
    if options.only:
        if options.forks:
            meet(options.forks)
        if options.only == "long":
            os.nice(10)  # nobody waits a moment for long work, and a machine that starts has enough to do
        with rubbish.loading():
            from ..workers.machine import work

        threading.Thread(
            target=_leave_with, args=(options.parent, options.redis, options.group, options.only), daemon=True
        ).start()
        work(options.redis, options.group, options.only, options.processes, options.build_limit)
        return 0
    Path(os.environ.get("LATHE_DATA", ".data")).mkdir(parents=True, exist_ok=True)
    consumers = Consumers(argv, options.redis, options.group)
    for sign in (signal.SIGTERM, signal.SIGINT):
        signal.signal(sign, consumers.stop)
    say(f"group {options.group}: working with {options.processes} processes (Ctrl-C stops it)")
    consumers.watch()
    return 0
