"""Geometry in other processes: a crash, a hang or a memory hog there costs one step, never the server."""

from .blobs import Blobs
from .contract import Engine, WorkerTrouble
from .local import LocalEngine
from .pool import LocalWorkers

__all__ = ["Blobs", "Engine", "LocalEngine", "LocalWorkers", "WorkerTrouble"]
