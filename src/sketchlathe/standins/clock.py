"""A clock on the wall that is off, for all processes of a practice service: a file says by how many seconds.

Only the time of day that they are told is another; waiting goes on as ever, as when somebody sets a machine's clock.
"""

from __future__ import annotations

import contextlib
import os
import threading
import time
from pathlib import Path
from typing import Any

FILE = "LATHE_CLOCK"  # the variable that names the file
LOOK = 0.05  # s between two looks at it
STARTS = Path(__file__).with_name("off")  # a folder for PYTHONPATH: whatever starts with it follows the file


def environment(path: Path) -> dict[str, str]:
    """What processes need in their environment to follow a file, which says first that the clock is right."""
    set_off(path, 0.0)
    further = os.environ.get("PYTHONPATH")
    return {FILE: str(path), "PYTHONPATH": os.pathsep.join([str(STARTS), *([further] if further else [])])}


def set_off(path: Path, seconds: float) -> None:
    """Set the clock of the processes that follow a file: ahead of what it is, or behind."""
    new = path.with_suffix(".new")
    new.write_text(str(seconds))
    new.replace(path)


class _Clock:
    """The clock of this process."""

    def __init__(self, path: Path) -> None:
        self._path, self._off = path, 0.0
        self._moved: Any = None

    def begin(self) -> None:
        threading.Thread(target=self._watch, daemon=True).start()

    def _watch(self) -> None:
        while True:
            with contextlib.suppress(OSError, ValueError):
                self._set(float(self._path.read_text()))
            time.sleep(LOOK)

    def _set(self, off: float) -> None:
        import time_machine  # it comes with what tests need

        if off == self._off:
            return
        if self._moved is not None:
            self._moved.stop()
        self._moved = time_machine.travel(time.time() + off, tick=True)
        self._moved.start()
        self._off = off


def follow() -> None:
    """Let the clock of this process, and of those forked from it, follow the file that the environment names."""
    clock = _Clock(Path(os.environ[FILE]))
    os.register_at_fork(after_in_child=clock.begin)
    clock.begin()
