"""What the forkserver imports once, so that a new worker answers in a tenth of a second."""

from .. import forking

forking.end_with_owner()  # before anything that takes long

from .. import rubbish  # noqa: E402
from . import builds, caches, files, looking, prints, trying  # noqa: E402

__all__ = ["builds", "files", "looking", "prints", "trying"]

caches.prepare()
rubbish.loaded()
