"""A database as one file, and back: consistent, checked, while the server runs.

A zip with one file of JSON lines a table, read in one transaction that sees one moment (REPEATABLE READ), and a
manifest with the version of the tables, the number of rows and a digest of each file. Restoring makes the tables as
they were at that version, fills them, and then brings them to the newest: so a backup of every earlier release can be
restored.
"""

from __future__ import annotations

import base64
import hashlib
import io
import json
import os
import zipfile
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import sqlalchemy as sa

from ..core.errors import BadInput
from .database import Database

FORMAT = "sketch-lathe-backup"
_MANIFEST = "manifest.json"
_AT_ONCE = 200  # rows


def write_backup(database: Database, path: Path) -> dict[str, int]:
    """Write all that is kept into a file (a new one takes the place of an old one only when it is whole); the number of
    rows by table.
    """
    temporary = path.with_name(f"{path.name}.new")
    counts: dict[str, int] = {}
    # for whoever runs this alone: it has everybody's addresses and work
    temporary.unlink(missing_ok=True)
    temporary.touch(mode=0o600)
    manifest: dict[str, Any] = {"format": FORMAT, "made": datetime.now(UTC).isoformat(), "tables": {}}
    with (
        database.engine.connect().execution_options(isolation_level="REPEATABLE READ") as connection,
        connection.begin(),
        zipfile.ZipFile(temporary, "w", zipfile.ZIP_DEFLATED, compresslevel=4) as archive,
    ):
        manifest["version"] = connection.scalar(sa.text("select version_num from alembic_version"))
        for table in _tables(connection):
            digest, count = hashlib.blake2b(digest_size=16), 0
            with archive.open(f"{table.name}.jsonl", "w", force_zip64=True) as out:
                rows = connection.execution_options(yield_per=_AT_ONCE).execute(sa.select(table))
                for row in rows.mappings():
                    line = json.dumps({k: _plain(v) for k, v in row.items()}, separators=(",", ":")).encode() + b"\n"
                    digest.update(line)
                    out.write(line)
                    count += 1
            manifest["tables"][table.name] = {"rows": count, "digest": digest.hexdigest()}
            counts[table.name] = count
        archive.writestr(_MANIFEST, json.dumps(manifest, indent=1))
    check_backup(temporary)
    _on_disk(temporary)
    temporary.replace(path)
    _on_disk(path.parent)
    return counts


def _on_disk(path: Path) -> None:
    """Wait until a file, or what a folder says of its files, would outlive a power cut."""
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def check_backup(path: Path) -> dict[str, Any]:
    """Read a backup through, every digest and number of rows; its manifest. Raises ``BadInput`` where it is not
    whole.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            manifest: dict[str, Any] = json.loads(archive.read(_MANIFEST))
            if manifest.get("format") != FORMAT:
                raise BadInput(f"{path} is no backup of this program.")
            for name, told in manifest["tables"].items():
                digest, count = hashlib.blake2b(digest_size=16), 0
                with archive.open(f"{name}.jsonl") as lines:
                    for line in lines:
                        digest.update(line)
                        count += 1
                if (count, digest.hexdigest()) != (told["rows"], told["digest"]):
                    raise BadInput(f"{path} is damaged: what it has of “{name}” is not what was written.")
    except (OSError, zipfile.BadZipFile, KeyError, ValueError, EOFError) as error:
        raise BadInput(f"{path} cannot be read as a backup: {error}.") from error
    return manifest


def restore_backup(database: Database, path: Path) -> dict[str, int]:
    """Fill an empty database from a backup, all of it or nothing; the number of rows by table. Raises ``BadInput``."""
    manifest = check_backup(path)
    with database.engine.connect() as connection:
        if sa.inspect(connection).get_table_names():
            raise BadInput("There is something in this database already: restore into an empty one.")
    database.migrate(manifest["version"])
    with zipfile.ZipFile(path) as archive, database.engine.begin() as connection:
        tables = {t.name: t for t in _tables(connection)}
        for table in tables.values():
            with archive.open(f"{table.name}.jsonl") as lines:
                for rows in _batches(io.TextIOWrapper(lines, "utf-8"), table):
                    connection.execute(sa.insert(table), rows)
        counts = {
            t.name: int(connection.scalar(sa.select(sa.func.count()).select_from(t)) or 0) for t in tables.values()
        }
        wanted = {name: told["rows"] for name, told in manifest["tables"].items()}
        if counts != wanted:
            raise BadInput("Not all rows of the backup arrived in the database; nothing was restored.")
    database.migrate()
    return counts


def _tables(connection: sa.Connection) -> list[sa.Table]:
    """The tables as the database has them, those that others refer to first; not the version of the tables itself."""
    found = sa.MetaData()
    found.reflect(connection)
    return [t for t in found.sorted_tables if t.name != "alembic_version"]


def _plain(value: Any) -> Any:
    if isinstance(value, datetime):
        return value.isoformat()
    if isinstance(value, bytes | memoryview):
        return {"base64": base64.b64encode(value).decode("ascii")}
    return value


def _batches(lines: Iterator[str], table: sa.Table) -> Iterator[list[dict[str, Any]]]:
    kinds = {c.name: c.type for c in table.columns}
    rows: list[dict[str, Any]] = []
    for line in lines:
        rows.append({name: _back(value, kinds[name]) for name, value in json.loads(line).items()})
        if len(rows) == _AT_ONCE:
            yield rows
            rows = []
    if rows:
        yield rows


def _back(value: Any, kind: Any) -> Any:
    if value is not None and isinstance(kind, sa.DateTime):
        return datetime.fromisoformat(value)
    if isinstance(kind, sa.LargeBinary) and isinstance(value, dict):
        return base64.b64decode(value["base64"])
    if value is None and isinstance(kind, sa.JSON):
        return sa.null()
    return value
