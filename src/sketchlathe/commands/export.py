"""Take a part out of a model file: STL, 3MF, STEP."""

from __future__ import annotations

import argparse
from pathlib import Path

from ..core.errors import BadInput
from ..core.exchange.base import DEFAULT_ANGLE, DEFAULT_CHORD, FORMATS, Export
from ..core.model.building import BuildCache, build
from .inspect import read_file


def run(argv: list[str]) -> int:
    """``./lathe export MODEL.json --to FILE.stl``"""
    parser = argparse.ArgumentParser(prog="lathe export", description=__doc__)
    parser.add_argument("model", help="a model file")
    parser.add_argument("--to", required=True, help="the file to write; its ending says the format")
    parser.add_argument("--part", help="the part's name, if the model has several")
    parser.add_argument("--chord", type=float, default=DEFAULT_CHORD, help="largest distance of mesh and solid, mm")
    parser.add_argument("--angle", type=float, default=DEFAULT_ANGLE, help="largest turn between triangles, rad")
    options = parser.parse_args(argv)
    ending = Path(options.to).suffix.lower().lstrip(".")
    format_class = next((f for f in FORMATS if f.ending == ending), None)
    if format_class is None:
        known = ", ".join(f.ending for f in FORMATS)
        raise BadInput(f"“.{ending}” is not a format Sketch Lathe writes; known are {known}.")
    if not (1e-5 <= options.chord <= 10 and 0.01 <= options.angle <= 1.5):
        raise BadInput("The chord must be from 0.00001 to 10 mm, and the angle from 0.01 to 1.5 rad.")
    model = read_file(options.model)
    part = next((p for p in model.parts if options.part in (None, p.name)), None)
    if part is None:
        raise BadInput(f"There is no part “{options.part}” in this model.")
    from ..core.solid.kernel import silence

    silence()
    built = build(model, part, BuildCache())
    data = format_class().write(Export(model, part, built.bodies, options.chord, options.angle))
    try:
        Path(options.to).write_bytes(data)
    except OSError as error:
        raise BadInput(f"{options.to} cannot be written: {error.strerror}.") from error
    failed = [r for r in built.steps if r.status == "failed"]
    for result in failed:
        print(f"lathe: {model.title_of(result.step)}: {result.message}")
    return 1 if failed else 0
