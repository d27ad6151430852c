"""Print what a model file amounts to, as JSON."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

from ..core.errors import BadInput
from ..core.exchange.modelfile import load_model
from ..core.inspect.report import part_report
from ..core.model.building import BuildCache, build
from ..core.model.document import Model


def read_file(path: str) -> Model:
    """The model in a file."""
    try:
        return load_model(Path(path).read_bytes())
    except OSError as error:
        raise BadInput(f"{path} cannot be read: {error.strerror}.") from error


def run(argv: list[str]) -> int:
    """``./lathe inspect MODEL.json``"""
    parser = argparse.ArgumentParser(prog="lathe inspect", description=__doc__)
    parser.add_argument("model", help="a model file")
    model = read_file(parser.parse_args(argv).model)
    from ..core.solid.kernel import silence

    silence()
    cache = BuildCache()
    parts = [part_report(model, part, build(model, part, cache)) for part in model.parts]
    print(json.dumps({"name": model.name, "units": model.units, "parts": parts}, indent=1, ensure_ascii=False))
    return 0
