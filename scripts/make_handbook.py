"""What the handbook shows of each step kind: pictures before it and with it, the model, what it may refuse."""

from __future__ import annotations

import ast
import inspect
import io
import json
import textwrap
from pathlib import Path
from typing import Any

from PIL import Image

from sketchlathe.core.exchange.base import Export
from sketchlathe.core.exchange.png import draw
from sketchlathe.core.registry import kind_of
from sketchlathe.core.steps.base import STEPS, Step, plain_sentence
from sketchlathe.handbook.pages import MADE, PICTURES
from sketchlathe.handbook.samples import SAMPLES
from sketchlathe.library import Model, Part

WIDE, HIGH = 400, 250


def _picture(part: Part) -> tuple[str, bytes]:
    """The ending and content of a part's picture; empty where there is nothing to see."""
    built = part.built
    if part.document.sort == "sheet":
        from sketchlathe.core.exchange.base import FORMATS

        write = next(f for f in FORMATS if f.of == "sheet" and f.ending == "svg")
        return "svg", write().write(Export(part.model.document, part.document, (), built=built))
    if not built.bodies:
        return "", b""
    out = io.BytesIO()
    whole = Image.open(io.BytesIO(draw(Export(part.model.document, part.document, built.bodies), WIDE, HIGH)))
    whole.convert("RGB").quantize(48).save(out, "PNG", optimize=True)
    return "png", out.getvalue()


def refusals(kind: type[Step]) -> list[str]:
    """What a step kind and what it is made with may refuse, in words; numbers and names in them as ``…``."""
    own = Path(inspect.getfile(kind))
    files = [own]
    for node in ast.walk(ast.parse(own.read_text())):
        if isinstance(node, ast.ImportFrom) and node.level == 1 and node.module and node.module not in ("base",):
            near = own.with_name(f"{node.module}.py")
            if near.exists() and "class" not in _step_kinds(near):
                files.append(near)
    found: dict[str, None] = {}
    for file in files:
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "CannotBuild" and node.args:
                text = _text(node.args[0])
                if len(text.replace("…", "").strip(" .")) > 12:
                    found[text] = None
    return list(found)


def _step_kinds(file: Path) -> str:
    """Says ``class`` of a module that is a step kind itself."""
    return "class" if f"sketchlathe.core.steps.{file.stem}" in {k.__module__ for k in STEPS} else ""


def _text(node: ast.expr) -> str:
    if isinstance(node, ast.Constant):
        return str(node.value)
    if isinstance(node, ast.JoinedStr):
        return "".join(str(v.value) if isinstance(v, ast.Constant) else "…" for v in node.values)
    if isinstance(node, ast.BinOp) and isinstance(node.op, ast.Add):
        a, b = _text(node.left), _text(node.right)
        return a + b if a and b else ""
    return ""


def _script(kind: str) -> str:
    """A sample as a script that stands alone."""
    lines = inspect.getsource(SAMPLES[kind]).splitlines()[1:]
    body = textwrap.dedent("\n".join(lines))
    return "\n".join(line for line in body.splitlines() if line.strip() not in ("yield", ""))


def told(kind: str) -> tuple[dict[str, Any], dict[str, bytes]]:
    """What is kept of a step kind, and its pictures by file name."""
    m = Model(STEPS[kind].word)
    making = SAMPLES[kind](m)
    next(making)
    pictures = {}
    for when in ("before", "after"):
        ending, data = _picture(m.parts[-1])
        if data:
            pictures[f"{kind}-{when}.{ending}"] = data
        if when == "before" and next(making, "over") != "over":
            raise AssertionError(kind)
    shown = m.parts[-1]
    step = next(s for s in reversed(shown.steps) if s.kind == kind)
    return {
        "sentence": plain_sentence(m.document.step(step.id), m.document),
        "volume": round(shown.volume, 6),
        "pictures": sorted(pictures, key=lambda name: "-after" in name),
        "script": _script(kind),
        "refusals": refusals(STEPS[kind]),
        "model": m.document.as_json(),
    }, pictures


def main() -> None:
    """Write all of it."""
    PICTURES.mkdir(parents=True, exist_ok=True)
    for old in PICTURES.iterdir():
        old.unlink()
    made = {}
    for kind in map(kind_of, STEPS):
        made[kind], pictures = told(kind)
        for name, data in pictures.items():
            (PICTURES / name).write_bytes(data)
    MADE.write_text(json.dumps(made, ensure_ascii=False, indent=1) + "\n")


if __name__ == "__main__":
    main()
