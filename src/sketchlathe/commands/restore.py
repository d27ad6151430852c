"""Fill an empty database from a backup."""

from __future__ import annotations

import argparse
from pathlib import Path

from . import say
from .backup import add_database, database_of


def run(argv: list[str]) -> int:
    """``./lathe restore FILE [--database URL] [--check]``"""
    from ..store.backup import check_backup, restore_backup

    parser = argparse.ArgumentParser(prog="lathe restore", description=__doc__)
    parser.add_argument("file", help="a file that ./lathe backup wrote")
    parser.add_argument("--check", action="store_true", help="only read it through")
    add_database(parser)
    options = parser.parse_args(argv)
    path = Path(options.file)
    if options.check:
        manifest = check_backup(path)
        rows = sum(t["rows"] for t in manifest["tables"].values())
        say(f"{path} is whole: {rows} rows of {manifest['made'][:16]}")
        return 0
    counts = restore_backup(database_of(options.database), path)
    say(f"{sum(counts.values())} rows restored; {counts.get('models', 0)} models of {counts.get('people', 0)} people")
    return 0
