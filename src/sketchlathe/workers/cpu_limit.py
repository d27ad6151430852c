"""How long one step may compute, counted in the worker's own processor time.

On a machine where thirty people build at once, a step that needs two seconds may take a minute by the clock; it must
not be called too slow for that. The kernel of the operating system enforces the limit (``RLIMIT_CPU``, see
``setrlimit(2)``), so that geometry code that never comes back to Python is stopped as well.
"""

from __future__ import annotations

import math
import resource
import signal

PATIENCE = 5
"""By the clock a job may take this many times its allowance: for what waits without computing."""

ENDED = -signal.SIGXCPU
"""The exit code of a worker whose allowance ran out."""

_seconds = 0.0


def grant(seconds: float) -> None:
    """The allowance of the job that begins, seconds for each of its steps."""
    global _seconds
    _seconds = seconds
    renew()


def renew() -> None:
    """Called wherever work gets on: the next step has its whole allowance again."""
    if not _seconds:
        return
    used = resource.getrusage(resource.RUSAGE_SELF)
    hard = resource.getrlimit(resource.RLIMIT_CPU)[1]
    resource.setrlimit(resource.RLIMIT_CPU, (math.ceil(used.ru_utime + used.ru_stime + _seconds), hard))
