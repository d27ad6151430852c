"""What the forkserver imports once, so that a new worker answers in a tenth of a second."""

from .. import forking, rubbish

forking.end_with_owner()  # before anything that takes long

with rubbish.loading():
    from . import builds, caches, files, looking, prints, trying

__all__ = ["builds", "files", "looking", "prints", "trying"]

caches.prepare()
rubbish.loaded()
