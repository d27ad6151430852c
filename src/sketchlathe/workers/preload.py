"""What the forkserver imports once, so that a new worker answers in a tenth of a second."""

from . import builds, files, keeping, prints, proofs

__all__ = ["builds", "files", "prints", "proofs"]

keeping.prepare()
