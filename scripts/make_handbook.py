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
from sketchlathe.core.sketch.curves.pieces import box_of_piece, piece_path
from sketchlathe.core.sketch.tools import TOOLS
from sketchlathe.core.steps.base import STEPS, Step, plain_sentence
from sketchlathe.handbook.drawings import CLICKS, FIRST, HELD, OPTIONS
from sketchlathe.handbook.pages import MADE, PICTURES
from sketchlathe.handbook.samples import SAMPLES
from sketchlathe.library import Model, Part, Sketch

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


def _seen(s: Sketch, clicks: list[tuple[float, float]], box: tuple[float, float, float, float]) -> bytes:
    """A sketch as SVG within a box (mm), the clicks numbered."""
    x0, y0, x1, y1 = box
    margin = 0.14 * max(x1 - x0, y1 - y0, 20.0)
    x0, y0, x1, y1 = x0 - margin, y0 - margin, x1 + margin, y1 + margin
    wide, high = max(x1 - x0, 1.6 * (y1 - y0)), max(y1 - y0, (x1 - x0) / 1.6)
    left, top = (x0 + x1 - wide) / 2, -(y0 + y1 + high) / 2
    thin = wide / 260
    lines = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="400" height="250" '
        f'viewBox="{left:.3f} {top:.3f} {wide:.3f} {high:.3f}">',
        f'<g fill="none" stroke="#1f2d35" stroke-width="{2 * thin:.4f}" stroke-linecap="round" '
        'transform="scale(1 -1)">',
    ]
    for curve in s.valued.curves:
        style = f' stroke="#7a510a" stroke-dasharray="{8 * thin:.3f} {5 * thin:.3f}"' if curve.construction else ""
        if "text" in curve.tags:
            style += ' fill="#1f2d35" stroke="none" fill-rule="evenodd"'
        path = "".join(piece_path([p]) for p in curve.pieces()) if "text" not in curve.tags else _filled(curve)
        if path:
            lines.append(f'<path d="{path}"{style}/>')
    lines.append("</g>")
    for x, y in _points(s):
        lines.append(f'<circle cx="{x:.3f}" cy="{-y:.3f}" r="{2.6 * thin:.4f}" fill="#1f2d35"/>')
    for number, (x, y) in enumerate(clicks, 1):
        lines.append(f'<circle cx="{x:.3f}" cy="{-y:.3f}" r="{4 * thin:.4f}" fill="#c08a2e"/>')
        lines.append(
            f'<text x="{x + 6 * thin:.3f}" y="{-y - 6 * thin:.3f}" font-family="sans-serif" fill="#7a510a" '
            f'font-size="{13 * thin:.3f}" font-weight="600">{number}</text>'
        )
    lines.append("</svg>\n")
    return "\n".join(lines).encode()


def _filled(curve: Any) -> str:
    """The outlines of a text, each closed."""
    found, chain = [], []
    for piece in curve.pieces():
        if chain and max(abs(a - b) for a, b in zip(chain[-1].last, piece.first)) > 1e-9:
            found.append(piece_path(chain) + "Z")
            chain = []
        chain.append(piece)
    return "".join([*found, piece_path(chain) + "Z"]) if chain else ""


def _points(s: Sketch) -> list[tuple[float, float]]:
    """Points that stand by themselves."""
    return [c._curve.at for c in s.curves if c._curve.points == ("at",)]


def _box(*sketches: Sketch) -> tuple[float, float, float, float]:
    """What some sketches cover, mm."""
    corners = [p for s in sketches for c in s.valued.curves for piece in c.pieces() for p in box_of_piece(piece)]
    corners += [p for s in sketches for p in _points(s)] or ([] if corners else [(0.0, 0.0)])
    xs, ys = zip(*corners)
    return min(xs), min(ys), max(xs), max(ys)


def drawn(tool: str) -> dict[str, bytes]:
    """The picture of what a tool draws, with its clicks."""
    s = Model(tool).sketch("top")
    places = FIRST[tool](s) if tool in FIRST else list(CLICKS[tool])
    at = [s._place(p)["at"] for p in places]
    s.draw(tool, *places, **OPTIONS.get(tool, {}))
    x0, y0, x1, y1 = _box(s)
    xs, ys = [x0, x1, *(x for x, _ in at)], [y0, y1, *(y for _, y in at)]
    return {f"draw-{tool}-after.svg": _seen(s, at, (min(xs), min(ys), max(xs), max(ys)))}


def held(constraint: str) -> dict[str, bytes]:
    """The pictures of what a constraint does, before and after."""
    loose, tight = Model(constraint).sketch("top"), Model(constraint).sketch("top")
    HELD[constraint](loose)
    tight.hold(constraint, *HELD[constraint](tight))
    box = _box(loose, tight)
    return {f"hold-{constraint}-{w}.svg": _seen(s, [], box) for w, s in (("before", loose), ("after", tight))}


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
    for tool in map(kind_of, TOOLS):
        for name, data in drawn(tool).items():
            (PICTURES / name).write_bytes(data)
    for constraint in HELD:
        for name, data in held(constraint).items():
            (PICTURES / name).write_bytes(data)
    MADE.write_text(json.dumps(made, ensure_ascii=False, indent=1) + "\n")


if __name__ == "__main__":
    main()
