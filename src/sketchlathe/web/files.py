"""Static files and meshes: compressed, addressed by content, kept by the browser for good."""

from __future__ import annotations

import gzip
import hashlib
import json
import mimetypes
import re
from functools import lru_cache
from pathlib import Path

from flask import Blueprint, Flask, Response, abort, current_app, request, session, url_for
from flask.typing import ResponseReturnValue
from flask_login import current_user
from markupsafe import Markup

from .replies import SHOWN, builder
from .scripts import put_together

blueprint = Blueprint("files", __name__)
STATIC = Path(__file__).parent / "static"
FOREVER = "public, max-age=31536000, immutable"
_PLAIN = (".woff2", ".png", ".ico")

mimetypes.add_type("text/javascript", ".js")
mimetypes.add_type("font/woff2", ".woff2")


class StaticFiles:
    """The files that pages are made of, read once. ``kept``: a folder for scripts that were put together."""

    def __init__(self, kept: Path | None = None) -> None:
        digest = hashlib.sha256()
        for path in sorted(STATIC.rglob("*")):
            if path.is_file():
                digest.update(f"{path.relative_to(STATIC)} {path.stat().st_size} {path.stat().st_mtime_ns}".encode())
        version = digest.hexdigest()[:12]
        self.together = put_together(STATIC / "js", kept, version) if kept else None
        # one version for all: a digest of every name, size and time, and of whether scripts are put together
        self.version = version if self.together is None else f"{version}t"
        self.content = lru_cache(maxsize=300)(self._content)

    def _content(self, name: str) -> tuple[bytes, bytes | None, str] | None:
        """A file as it is, packed where that makes it smaller, and its media type."""
        places = [(STATIC, name)]
        if self.together and name.startswith("js/"):
            places.insert(0, (self.together, name[3:]))
        for folder, below in places:
            try:
                path = (folder / below).resolve()
                if not path.is_relative_to(folder.resolve()) or not path.is_file():
                    continue
            except (OSError, ValueError):  # a name that no file can have
                continue
            data = path.read_bytes()
            packed = None if path.suffix in _PLAIN else gzip.compress(data, 9, mtime=0)
            return data, packed, mimetypes.guess_type(path.name)[0] or "application/octet-stream"
        return None


def _files() -> StaticFiles:
    files: StaticFiles = current_app.extensions["static files"]
    return files


@blueprint.get("/s/<version>/<path:name>")
def static_file(version: str, name: str) -> ResponseReturnValue:
    """A static file; its address changes when any of them does, so relative imports stay right."""
    files = _files()
    found = files.content(name)
    if found is None:
        abort(404)
    data, packed, media = found
    headers = {
        "Cache-Control": FOREVER if version == files.version else "no-cache",
        "Vary": "Accept-Encoding",
    }
    if packed is not None and "gzip" in request.headers.get("Accept-Encoding", ""):
        headers["Content-Encoding"] = "gzip"
        data = packed
    return Response(data, mimetype=media, headers=headers)


@blueprint.get("/meshes/<key>")
def mesh(key: str) -> ResponseReturnValue:
    """A body's mesh. Keys are digests of content: nobody finds one who was not told it."""
    if not current_user.is_authenticated and not session.get(SHOWN):
        abort(401)
    if not re.fullmatch(r"[0-9a-f]{32}", key):
        abort(404)
    packed = builder().blobs.mesh(key)
    if packed is None:
        abort(404)
    headers = {"Cache-Control": "private, max-age=31536000, immutable", "Content-Encoding": "gzip"}
    return Response(packed, mimetype="application/octet-stream", headers=headers)


def asset(name: str) -> str:
    """The address of a static file."""
    return url_for("files.static_file", version=_files().version, name=name)


def modules() -> list[str]:
    """What the Bench imports, for preloading: all our modules, where they are not put together."""
    if _files().together:
        return []
    return [
        asset(str(p.relative_to(STATIC))) for p in sorted((STATIC / "js").rglob("*.js")) if p.parent.name != "print"
    ]


@lru_cache(maxsize=1)
def _own_icons() -> dict[str, str]:
    return dict(json.loads((STATIC / "icons.json").read_text()))


@lru_cache
def icon(name: str) -> Markup:
    """One of our icons, inline."""
    path = _own_icons()[name]
    return Markup('<svg class="icon" viewBox="0 0 23 23" aria-hidden="true"><path d="{}"/></svg>').format(path)


def register_helpers(app: Flask, kept: Path | None) -> None:
    """Make these known to templates. ``kept``: see ``StaticFiles``."""
    app.extensions["static files"] = StaticFiles(kept)
    app.jinja_env.globals.update(asset=asset, modules=modules, icon=icon)
