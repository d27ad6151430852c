"""Print what a file amounts to, as JSON: a model, an archive, or a STEP, STL or 3MF file."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

from ..core.bringing import read_file as bring
from ..core.errors import BadInput
from ..core.exchange.archive import load_archive
from ..core.exchange.modelfile import load_model
from ..core.inspect.report import part_report
from ..core.making.results import BuildCache
from ..core.model.building import build
from ..core.model.document import Model, new_model
from ..core.model.edits import apply_edit, parse_edit


def read_file(path: str) -> Model:
    """The model in a file; of a solid or triangles, a model that holds them."""
    try:
        data = Path(path).read_bytes()
    except OSError as error:
        raise BadInput(f"{path} cannot be read: {error.strerror}.") from error
    ending = Path(path).suffix.lower()
    if ending == ".zip":
        return load_archive(data)
    if ending in (".json", ""):
        return load_model(data)
    found = bring(data, Path(path).name)
    if found.gives != "step":
        raise BadInput(
            f"“{ending}” is brought into a model; only files with solids or triangles are looked at by themselves."
        )
    fields = {"part": "p1", "step": found.step, "file": found.fields["file"], "data": found.fields["data"]}
    return apply_edit(new_model(Path(path).stem[:100] or "file"), parse_edit({"kind": "bring_file", **fields}))


def run(argv: list[str]) -> int:
    """``./lathe inspect FILE``"""
    parser = argparse.ArgumentParser(prog="lathe inspect", description=__doc__)
    parser.add_argument("model", help="a model file, an archive, a STEP, STL or 3MF file")
    from ..core.solid.kernel import silence

    silence()
    model = read_file(parser.parse_args(argv).model)
    cache = BuildCache()
    parts = [part_report(model, part, build(model, part, cache)) for part in model.there]
    print(json.dumps({"name": model.name, "units": model.units, "parts": parts}, indent=1, ensure_ascii=False))
    return 0
