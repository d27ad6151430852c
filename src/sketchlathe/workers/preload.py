"""What the forkserver imports once, so that a new worker answers in a tenth of a second."""

import fpdf  # noqa: F401

from . import builds, caches, files, looking, prints, trying

__all__ = ["builds", "files", "looking", "prints", "trying"]

caches.prepare()
