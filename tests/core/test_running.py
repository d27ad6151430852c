"""What whoever runs the server is given: settings from a file, units, a compose file; what an audit told."""

from __future__ import annotations

import importlib
import os
import re
import shlex
from pathlib import Path

import pytest
import yaml

from sketchlathe import __main__ as start
from sketchlathe.commands.audit import judged
from sketchlathe.core.errors import BadInput

ROOT = Path(__file__).parents[2]
DEPLOY = ROOT / "deploy"


def _names(text: str) -> set[str]:
    return set(re.findall(r"\bLATHE_[A-Z_]+[A-Z]\b", text))


def test_settings_are_read_from_a_file_and_the_environment_goes_before(tmp_path, monkeypatch) -> None:
    for name in [n for n in os.environ if n.startswith("LATHE_T")]:
        monkeypatch.delenv(name)
    path = tmp_path / "lathe.env"
    path.write_text("# a remark\nLATHE_TRIED=one two\n\nLATHE_TAKEN = 'file'\n")
    monkeypatch.setenv("LATHE_TAKEN", "environment")
    monkeypatch.setenv("LATHE_TRIED", "")
    monkeypatch.delenv("LATHE_TRIED")
    start.read_settings(path)
    assert (os.environ["LATHE_TRIED"], os.environ["LATHE_TAKEN"]) == ("one two", "environment")
    path.write_text("LATHE_X=1\nrm -rf /\n")
    with pytest.raises(BadInput, match="Line 2"):
        start.read_settings(path)
    monkeypatch.setenv("LATHE_CONFIG", str(tmp_path / "none"))
    assert start.main(["schema"]) == 1


def test_every_setting_is_known_to_the_program_and_to_its_handbook() -> None:
    code = "".join(p.read_text() for p in (ROOT / "src" / "sketchlathe").rglob("*.py"))
    handbook = (ROOT / "docs" / "operation.md").read_text()
    shipped = _names("".join(p.read_text() for p in DEPLOY.iterdir()))
    inner = {"LATHE_CONFIG", "LATHE_DB_PASSWORD"}  # the file itself; compose's own
    assert len(shipped) > 10
    assert shipped - _names(code) - inner <= {"LATHE_OIDC_TITLE"} & set()
    proofs = {"LATHE_TEST_URL", "LATHE_CLOCK"}
    ours = _names(code) - {"LATHE_ROOT", "LATHE_SETTINGS", "LATHE_NAME"} - proofs
    told = _names(handbook) | {f"LATHE_OIDC{end}" for end in re.findall(r"`(_[A-Z]+)`", handbook)}
    assert ours <= told, ours - told


def test_units_start_what_there_is() -> None:
    units = sorted(DEPLOY.glob("*.service"))
    assert len(units) == 3
    for unit in units:
        command = re.search(r"/opt/lathe/lathe (\w+)", unit.read_text())[1]
        assert importlib.import_module(f"sketchlathe.commands.{command}").run
        assert "User=lathe" in unit.read_text()


def test_compose_starts_every_role_with_options_that_are_there(capsys) -> None:
    services = yaml.safe_load((DEPLOY / "compose.yml").read_text())["services"]
    assert set(services) == {"database", "queue", "web", "work"}
    for name in ("web", "work"):
        command, *options = services[name]["command"]
        with pytest.raises(SystemExit) as end:
            importlib.import_module(f"sketchlathe.commands.{command}").run([*options, "--help"])
        assert end.value.code == 0
        assert all(o in capsys.readouterr().out for o in shlex.split("--redis"))
        assert services[name]["environment"]["LATHE_REDIS"] == "redis://queue:6379/0"


def test_what_an_audit_told() -> None:
    told = {
        "dependencies": [
            {"name": "good", "version": "1", "vulns": []},
            {"name": "bad", "version": "2", "vulns": [{"id": "PYSEC-1", "fix_versions": ["3"]}]},
            {"name": "unknown", "skip_reason": "not found"},
        ]
    }
    assert judged(told) == (["bad 2: PYSEC-1; mended in: 3"], ["unknown"])
