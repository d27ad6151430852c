"""Where the browser is that tests, pictures and the soak are made with: Debian's headless Chromium, or the whole."""

from __future__ import annotations

from pathlib import Path

PLACES = ("/usr/bin/chromium-headless-shell", "/usr/bin/chromium")
"""The first has no windows of its own to draw, which takes a third of the time."""


def chromium() -> str:
    """The browser's path; that of the first where there is none, so that what is missing is named."""
    return next((place for place in PLACES if Path(place).exists()), PLACES[0])
