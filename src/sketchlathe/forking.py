"""The process that geometry workers are forked from: it has the kernel loaded, which takes seconds."""

from __future__ import annotations

import multiprocessing
import os
import threading
import time
from multiprocessing import forkserver
from multiprocessing.context import ForkServerContext

PRELOAD = "sketchlathe.workers.preload"


def forked() -> ForkServerContext:
    """What new workers come from."""
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload([PRELOAD])
    return context


def begin_loading() -> None:
    """Start that process now, while this one is still reading in what it needs itself."""
    forked()
    forkserver.ensure_running()


def end_with_owner() -> None:
    """In that process: end when the process it was started by has. By itself it looks only after everything is loaded,
    which takes seconds of a processor that what comes in its place needs, and only once every worker has ended too.
    """
    owner = os.getppid()

    def watch() -> None:
        while os.getppid() == owner:
            time.sleep(0.25)
        os._exit(0)

    threading.Thread(target=watch, daemon=True).start()
