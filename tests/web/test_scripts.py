"""The pages' scripts, put together and one by one."""

from __future__ import annotations

import re
import shutil

import pytest

from sketchlathe.web import Settings, create_app
from sketchlathe.web.files import STATIC
from sketchlathe.web.scripts import entries, put_together

JS = STATIC / "js"


@pytest.mark.skipif(shutil.which("esbuild") is None, reason="esbuild is not here")
def test_what_pages_name_is_put_together_once_and_older_ones_go(tmp_path, monkeypatch) -> None:
    kept = tmp_path / "scripts"
    first = put_together(JS, kept, "0123456789ab")
    assert first is not None
    made = {str(path.relative_to(first)) for path in first.rglob("*.js")}
    assert {str(path.relative_to(JS)) for path in entries(JS)} <= made
    # whatever a file imports is beside it, or has a name of its own
    for name in made:
        for sought in re.findall(r'(?:^|[;}])(?:import|export)(?:[^";()]*from)?"([^"]+)"', (first / name).read_text()):
            assert sought in ("three-kit", "preact") or ((first / name).parent / sought).is_file(), (name, sought)
    second = put_together(JS, kept, "ba9876543210")
    assert second is not None and [path.name for path in kept.iterdir()] == ["ba9876543210"]
    monkeypatch.setenv("PATH", "")
    assert put_together(JS, kept, "ba9876543210") == second


def test_without_what_puts_them_together_pages_load_the_modules(tmp_path, monkeypatch, database, workers) -> None:
    broken = tmp_path / "esbuild"
    broken.write_text("#!/bin/sh\nexit 3\n")
    broken.chmod(0o755)
    monkeypatch.setenv("PATH", str(tmp_path))
    assert put_together(JS, tmp_path / "scripts", "0123456789ab") is None
    settings = Settings(secret="g", blobs=tmp_path, scripts=tmp_path / "scripts")
    with create_app(settings, database, workers).test_request_context():
        from sketchlathe.web.files import asset, modules

        names = modules()
        assert asset("js/bench.js") in names and len(names) > 100
    monkeypatch.undo()
    client = create_app(settings, database, workers).test_client()
    assert all(client.get(name).status_code == 200 for name in names)
