"""Take a part out of a model file: solids, meshes, drawings, tables, pictures."""

from __future__ import annotations

import argparse
from pathlib import Path

from ..core.errors import BadInput
from ..core.exchange import outlines
from ..core.exchange.base import DEFAULT_ANGLE, DEFAULT_CHORD, FORMATS, Export, Format, separately
from ..core.frames import frame_on
from ..core.making.results import BuildCache, PartBuild
from ..core.model.building import build
from ..core.model.document import Model, Part
from ..core.registry import kind_of
from ..core.steps.sketch import SketchStep
from .inspect import read_file


def run(argv: list[str]) -> int:
    """``./lathe export MODEL.json --to FILE.stl``"""
    parser = argparse.ArgumentParser(prog="lathe export", description=__doc__)
    parser.add_argument("model", help="a model file")
    parser.add_argument("--to", required=True, help="the file to write; its ending says the format")
    parser.add_argument("--part", help="the part's name, if the model has several")
    parser.add_argument("--chord", type=float, default=DEFAULT_CHORD, help="largest distance of mesh and solid, mm")
    parser.add_argument("--angle", type=float, default=DEFAULT_ANGLE, help="largest turn between triangles, rad")
    parser.add_argument(
        "--as", dest="kind", help="the format, where an ending is not enough: " + ", ".join(map(kind_of, FORMATS))
    )
    parser.add_argument("--sketch", help="for drawings: the title of the sketch, like “Sketch 1”")
    parser.add_argument("--section", help="for drawings: where the part is cut, like z=4.5 (mm)")
    parser.add_argument("--separate", action="store_true", help="one file a body, in a zip")
    options = parser.parse_args(argv)
    format_class = _format(options)
    if not (1e-5 <= options.chord <= 10 and 0.01 <= options.angle <= 1.5):
        raise BadInput("The chord must be from 0.00001 to 10 mm, and the angle from 0.01 to 1.5 rad.")
    model = read_file(options.model)
    named = [p for p in model.there if options.part in (None, p.name)]
    if not named:
        raise BadInput(f"There is no part “{options.part}” in this model.")
    if options.part and named[0].sort == "sheet" and format_class.of != "sheet":
        format_class = next((f for f in FORMATS if f.of == "sheet" and f.ending == format_class.ending), format_class)
    part = next((p for p in named if (p.sort == "sheet") == (format_class.of == "sheet")), None)
    if part is None:
        what = "a sheet" if format_class.of == "sheet" else "a part, and what is named is a sheet"
        raise BadInput(f"{format_class.word} is written of {what}: this model has none of that name.")
    from ..core.solid.kernel import silence

    silence()
    built = build(model, part, BuildCache())
    outline = _outline(options, model, part, built)
    export = Export(model, part, built.bodies, options.chord, options.angle, outline, built)
    data = separately(format_class(), export) if options.separate else format_class().write(export)
    try:
        Path(options.to).write_bytes(data)
    except OSError as error:
        raise BadInput(f"{options.to} cannot be written: {error.strerror}.") from error
    for result in built.failed:
        print(f"lathe: {model.title_of(result.step)}: {result.message}")
    return 1 if built.failed else 0


def _format(options: argparse.Namespace) -> type[Format]:
    if options.kind:
        return FORMATS[options.kind]
    ending = Path(options.to).suffix.lower().lstrip(".")
    if ending == "zip" and options.separate:
        ending = "stl"
    found = next((f for f in FORMATS if f.ending == ending), None)
    if found is None:
        known = ", ".join(dict.fromkeys(f.ending for f in FORMATS))
        raise BadInput(f"“.{ending}” is not a format Sketch Lathe writes; known are {known}.")
    return found


def _outline(options: argparse.Namespace, model: Model, part: Part, built: PartBuild) -> outlines.Outline | None:
    """The drawing that is asked for; of the only sketch where none is named."""
    if options.section:
        axis, _, place = options.section.partition("=")
        try:
            at, i = float(place), "xyz".index(axis.strip().lower())
        except ValueError:
            raise BadInput(f"“{options.section}” is not a section, like z=4.5.") from None
        normal = tuple(1.0 if k == i else 0.0 for k in range(3))
        plane = frame_on(tuple(at * n for n in normal), normal)  # type: ignore[arg-type]
        return outlines.of_section(built.bodies, plane, f"{part.name}, {options.section}")
    titles = {model.title_of(s.id): s.id for s in part.steps if isinstance(s, SketchStep)}
    wanted = options.sketch or (next(iter(titles)) if len(titles) == 1 else None)
    if wanted is None:
        return None
    if wanted not in titles:
        raise BadInput(f"There is no sketch “{wanted}”; there are {', '.join(titles) or 'none'}.")
    return outlines.of_sketch(built, titles[wanted], wanted)
