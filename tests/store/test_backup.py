"""Out into a file and back: the same rows, while others write; what is damaged is refused; older versions come
along.
"""

from __future__ import annotations

import secrets
import subprocess
import sys
import threading
import time
import zipfile
from pathlib import Path
from typing import Any

import psycopg
import pytest
import sqlalchemy as sa
from tests.hand import plate

import sketchlathe.store
from sketchlathe.core.errors import BadInput
from sketchlathe.core.making.results import BuildCache
from sketchlathe.core.model.building import build
from sketchlathe.core.solid.measuring import volume
from sketchlathe.service import modelling, shelf
from sketchlathe.store import Database
from sketchlathe.store.backup import check_backup, restore_backup, write_backup
from sketchlathe.store.database import ONE_AT_A_TIME


@pytest.fixture
def empty(database_url: str):
    """A database without anything in it."""
    name, base = f"lathe_empty_{secrets.token_hex(4)}", database_url.rsplit("/", 1)[0]
    admin = f"{base}/postgres".replace("+psycopg", "")
    with psycopg.connect(admin, autocommit=True) as connection:
        connection.execute(f"create database {name}")
    made = Database(f"{base}/{name}")
    yield made
    made.close()
    with psycopg.connect(admin, autocommit=True) as connection:
        connection.execute(f"drop database {name} with (force)")


def _rows(database: Database) -> dict[str, list[Any]]:
    tables = sa.MetaData()
    with database.engine.connect() as connection:
        tables.reflect(connection)
        return {
            t.name: sorted(map(repr, connection.execute(sa.select(t)).mappings().all())) for t in tables.sorted_tables
        }


def test_what_is_restored_is_what_was_there(database, person, project, empty, tmp_path) -> None:
    row = shelf.make_model(database, person.id, project.id, "Kept — “ä”", model=plate().model)
    for width in (61, 62, 63):
        edit = {"kind": "add_parameter", "name": f"w{width}", "formula": f"{width} mm"}
        modelling.change(database, person.id, row.id, None, edit)
    shelf.keep_picture(database, person.id, row.id, b"\x89PNG\x00\xff", 4)
    path = tmp_path / "all.lathe-backup"
    counts = write_backup(database, path)
    assert counts["revisions"] >= 4
    assert restore_backup(empty, path) == counts
    assert _rows(empty) == _rows(database)
    opened = modelling.open_model(empty, person.id, row.id)
    assert (opened.revision, opened.model.name) == (4, "Kept — “ä”")
    assert modelling.undo(empty, person.id, row.id, 4).revision == 5
    with pytest.raises(BadInput, match="empty one"):
        restore_backup(empty, path)


def test_a_backup_made_while_others_write_sees_one_moment(database, person, project, empty, tmp_path) -> None:
    row = shelf.make_model(database, person.id, project.id, "Busy")
    ended = threading.Event()

    def write() -> None:
        number = 0
        while not ended.is_set():
            edit = {"kind": "add_parameter", "name": f"n{number}", "formula": "1"}
            modelling.change(database, person.id, row.id, None, edit)
            number = (number + 1) if number < 450 else ended.set() or 0

    writer = threading.Thread(target=write)
    writer.start()
    try:
        for n in range(3):
            write_backup(database, tmp_path / f"{n}.lathe-backup")
    finally:
        ended.set()
        writer.join(30)
    restore_backup(empty, tmp_path / "2.lathe-backup")
    opened = modelling.open_model(empty, person.id, row.id)
    with empty.transaction() as session:
        newest = session.scalar(sa.text(f"select max(number) from revisions where model_id = '{row.id}'"))
    assert opened.revision == newest == len(opened.model.parameters) + 1


def test_a_damaged_backup_is_refused(database, person, project, empty, tmp_path) -> None:
    path = tmp_path / "b.lathe-backup"
    write_backup(database, path)
    assert check_backup(path)["format"]
    broken = tmp_path / "broken"
    with zipfile.ZipFile(path) as old, zipfile.ZipFile(broken, "w") as new:
        for name in old.namelist():
            data = old.read(name)
            new.writestr(name, data.replace(b"Ivo", b"Eva") if name == "people.jsonl" else data)
    for bad, says in ((broken, "damaged"), (tmp_path / "none", "cannot be read")):
        with pytest.raises(BadInput, match=says):
            restore_backup(empty, bad)
    half = tmp_path / "half"
    half.write_bytes(path.read_bytes()[: path.stat().st_size // 2])
    with pytest.raises(BadInput, match="cannot be read"):
        check_backup(half)
    with empty.engine.connect() as connection:
        assert sa.inspect(connection).get_table_names() == []


def test_a_backup_of_an_earlier_release_is_restored_and_brought_up_to_date(empty, database_url, tmp_path) -> None:
    older = empty
    older.migrate("0002")
    with older.engine.begin() as connection:
        connection.execute(
            sa.text(
                "insert into people (id, name, email, password_hash, created)"
                " values ('p', 'Una', 'una@w.example', 'x', now())"
            )
        )
    path = tmp_path / "old.lathe-backup"
    write_backup(older, path)
    assert check_backup(path)["version"] == "0002"
    with older.engine.begin() as connection:
        connection.execute(sa.text("drop schema public cascade"))
        connection.execute(sa.text("create schema public"))
    assert restore_backup(older, path)["people"] == 1
    with older.engine.connect() as connection:
        assert connection.scalar(sa.text("select version_num from alembic_version")) == newest()
        assert "studies" in sa.inspect(connection).get_table_names()
        assert connection.scalar(sa.text("select name from people")) == "Una"


SAMPLES = Path(__file__).parent / "samples"


def newest() -> str:
    """The version that the newest migration makes."""
    folder = Path(sketchlathe.store.__file__).parent / "migrations" / "versions"
    return max(p.name[:4] for p in folder.glob("0*.py"))


def said_of(model: Any) -> str:
    """The formula of the sample's parameter."""
    return next(p.formula for p in model.parameters if p.name == "sample_one")


def test_there_is_a_sample_of_every_earlier_version() -> None:
    assert [p.name[:4] for p in sorted(SAMPLES.glob("*.lathe-backup"))] == [f"{n:04}" for n in range(1, int(newest()))]


@pytest.mark.parametrize("sample", sorted(p.name for p in SAMPLES.glob("*.lathe-backup")))
def test_models_of_every_earlier_version_open_build_and_are_undone(empty, sample: str) -> None:
    """Each sample was written by the program of its time, with the demo's models, two edits and one taken back."""
    version = check_backup(SAMPLES / sample)["version"]
    assert version == sample[:4]
    restore_backup(empty, SAMPLES / sample)
    with empty.engine.connect() as connection:
        assert connection.scalar(sa.text("select version_num from alembic_version")) == newest()
        (person,) = connection.execute(sa.text("select id from people")).scalars()
    models = [row for project, _ in shelf.projects(empty, person) for row in shelf.models(empty, person, project.id)]
    assert len(models) >= 3
    cache = BuildCache()
    for row in models:
        opened = modelling.open_model(empty, person, row.id)
        for part in opened.model.there:
            built = build(opened.model, part, cache)
            assert [r.status for r in built.steps if r.status not in ("ok", "off")] == []
            assert sum(volume(b.shape) for b in built.bodies) > 100
    edited = next(row for row in models if row.revision == 4)
    opened = modelling.open_model(empty, person, edited.id)
    assert said_of(opened.model) == "3 mm"
    assert said_of(modelling.redo(empty, person, edited.id, None).model) == "4 mm"
    shelf.bin_model(empty, person, edited.id)


def test_a_backup_is_for_its_owner_alone(database, person, tmp_path) -> None:
    path = tmp_path / "all.lathe"
    path.touch(mode=0o644)
    write_backup(database, path)
    assert path.stat().st_mode & 0o077 == 0


def test_tables_are_brought_up_by_one_process_while_the_others_wait(empty) -> None:
    script = "import sys; from sketchlathe.store import Database; Database(sys.argv[1]).migrate()"
    url = empty.engine.url.render_as_string(hide_password=False)
    waiting = "select count(*) from pg_locks where locktype = 'advisory' and not granted"
    with psycopg.connect(url.replace("+psycopg", ""), autocommit=True) as first:
        first.execute("select pg_advisory_lock(%s)", [ONE_AT_A_TIME])
        others = [subprocess.Popen([sys.executable, "-c", script, url]) for _ in range(2)]
        until = time.monotonic() + 60
        while first.execute(waiting).fetchone()[0] < 2 and time.monotonic() < until:
            time.sleep(0.05)
        assert [process.poll() for process in others] == [None, None]
        assert empty._version() is None
    assert [process.wait(60) for process in others] == [0, 0]
    assert empty._version() is not None
