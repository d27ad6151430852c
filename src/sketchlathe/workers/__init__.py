"""Geometry in other processes: a crash, a hang or a memory hog there costs one step, never the server."""

from .pool import LocalWorkers, Workers, WorkerTrouble

__all__ = ["LocalWorkers", "WorkerTrouble", "Workers"]
