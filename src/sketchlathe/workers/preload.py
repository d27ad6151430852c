"""What the forkserver imports once, so that a new worker answers in a tenth of a second."""

from . import work

work.prepare()
