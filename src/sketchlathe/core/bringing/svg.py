"""SVG drawings as curves of a sketch: every shape and path, transforms applied, y turned upwards."""

from __future__ import annotations

import io
import itertools
import math
import re
from typing import Any, ClassVar

from ..errors import BadInput
from .base import READERS, Brought, Reader
from .chaining import Raw, arc, circle, clip_of, ellipse, ellipse_arc, line, smooth

MOST_PIECES = 20_000
MOST_DEPTH = 60
# possessive throughout: each sign is looked at once, whatever the text
_TAG = re.compile(r"<(/?)([A-Za-z][\w:.-]*+)[^<>]*+>")
_MM = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "pt": 25.4 / 72, "pc": 25.4 / 6}


@READERS.add
class Svg(Reader):
    """Shapes and paths; text, pictures and what is referred to from outside are left out."""

    kind: ClassVar[str] = "svg"
    word: ClassVar[str] = "SVG"
    endings: ClassVar[tuple[str, ...]] = (".svg",)
    gives: ClassVar[str] = "curves"
    most: ClassVar[int] = 6_000_000

    def read(self, data: bytes, name: str) -> Brought:
        import svgelements as se

        text = _sound(data, name)
        try:
            root = se.SVG.parse(io.StringIO(text), reify=True, ppi=96)
        except Exception as error:  # the parser raises whatever it meets
            raise BadInput(f"“{name}” is damaged, or cut short: it cannot be read as SVG.") from error
        if not isinstance(root, se.SVG):  # the outermost element is another one
            raise BadInput(f"“{name}” has no drawing in it: its outermost element is not an svg.")
        curves: list[Raw] = []
        left = 0
        for thing in root.elements():
            if isinstance(thing, se.Shape):
                for piece in abs(se.Path(thing)):
                    if len(curves) > MOST_PIECES:
                        raise BadInput(
                            f"“{name}” has more than {MOST_PIECES} curves in it, which is the most that can be read."
                        )
                    made = _curve(se, piece)
                    if made is not None:
                        curves.append(made)
            elif isinstance(thing, se.Text | se.Image):
                left += 1
        curves = _whole(curves)
        notes = (f"{left} texts or pictures left out.",) if left else ()
        # with a physical width the parser's unit is the pixel, 96 to the inch
        outermost = next((tag[0] for tag in _TAG.finditer(text) if tag[2] == "svg"), "")
        physical = re.search(r"\swidth\s*+=\s*+[\"']([\d.eE+-]++)\s*+(mm|cm|in|pt|pc|m)[\"']", outermost)
        scale = 25.4 / 96
        if physical and root.width:
            scale = float(physical[1]) * _MM[physical[2]] / float(root.width)
        found = clip_of([_scaled(c, scale) for c in curves], name)
        return Brought("curves", data={**found, "unit": "mm" if physical else ""}, notes=notes)


def _sound(data: bytes, name: str) -> str:
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise BadInput(f"“{name}” is not an SVG file: it is not text.") from error
    if "<svg" not in text[:5000].lower():
        raise BadInput(f"“{name}” is not an SVG file: it does not begin as one.")
    if "<!ENTITY" in text or "<!entity" in text:
        raise BadInput(f"“{name}” defines entities of its own, which are not read for safety. Save it as plain SVG.")
    if "</svg>" not in text[-2000:].lower():
        raise BadInput(f"“{name}” is cut short: its end is missing.")
    depth = deepest = 0
    for tag in _TAG.finditer(text):
        depth += -1 if tag[1] else 0 if tag[0].endswith("/>") else 1
        deepest = max(deepest, depth)
    if deepest > MOST_DEPTH:
        raise BadInput(f"“{name}” is nested too deeply: {deepest} levels, at most {MOST_DEPTH} are read.")
    return text


def _xy(p: Any) -> tuple[float, float]:
    return (float(p.x), -float(p.y))


def _curve(se: Any, piece: Any) -> Raw | None:
    if isinstance(piece, se.Move):
        return None
    if isinstance(piece, se.Line | se.Close):
        if piece.start is None or piece.end is None:
            return None
        a, b = _xy(piece.start), _xy(piece.end)
        return line(a, b) if math.dist(a, b) > 1e-9 else None
    if isinstance(piece, se.Arc):
        return _arc(piece)
    if isinstance(piece, se.QuadraticBezier | se.CubicBezier):
        inner = [piece.control] if isinstance(piece, se.QuadraticBezier) else [piece.control1, piece.control2]
        points = [_xy(p) for p in (piece.start, *inner, piece.end)]
        size = max(math.dist(points[0], p) for p in points[1:])
        return smooth(lambda t: _bezier(points, t), max(size, 1e-9))
    return None


def _bezier(points: list[tuple[float, float]], t: float) -> tuple[float, float]:
    """De Casteljau's construction."""
    while len(points) > 1:
        points = [((1 - t) * a[0] + t * b[0], (1 - t) * a[1] + t * b[1]) for a, b in itertools.pairwise(points)]
    return points[0]


def _arc(piece: Any) -> Raw | None:
    rx, ry, sweep = float(piece.rx), float(piece.ry), float(piece.sweep)
    if min(rx, ry) < 1e-9 or abs(sweep) < 1e-9:
        a, b = _xy(piece.start), _xy(piece.end)
        return line(a, b) if math.dist(a, b) > 1e-9 else None
    centre = _xy(piece.center)
    whole = abs(sweep) > 2 * math.pi - 1e-6
    # y is turned over: what ran clockwise on the page's axes runs the other way here
    start, end = (_xy(piece.start), _xy(piece.end)) if sweep < 0 else (_xy(piece.end), _xy(piece.start))
    if abs(rx - ry) < 1e-6 * max(rx, ry):
        return circle(centre, rx) if whole else arc(centre, rx, start, end)
    tip = _xy(piece.prx)
    minor = math.dist(centre, _xy(piece.pry))
    if math.dist(centre, tip) < minor:
        tip, minor = _xy(piece.pry), math.dist(centre, tip)
    return ellipse(centre, tip, minor) if whole else ellipse_arc(centre, tip, minor, start, end)


def _whole(curves: list[Raw]) -> list[Raw]:
    """Arcs that follow one another round one centre back to their start become a circle or an ellipse."""
    out: list[Raw] = []
    i = 0
    while i < len(curves):
        first = curves[i]
        j, turn = i, 0.0
        while j < len(curves) and curves[j]["kind"] in ("arc", "ellipse_arc") and _same_round(first, curves[j]):
            turn += _turn(curves[j])
            j += 1
            if turn > 2 * math.pi - 1e-4:
                break
        if j > i + 1 and abs(turn - 2 * math.pi) < 1e-3:
            flat = first["kind"] == "arc"
            out.append(
                circle(first["centre"], first["radius"])
                if flat
                else ellipse(first["centre"], first["tip"], first["minor"])
            )
            i = j
        else:
            out.append(first)
            i += 1
    return out


def _same_round(a: Raw, b: Raw) -> bool:
    if a["kind"] != b["kind"]:
        return False
    size = a["radius"] if a["kind"] == "arc" else math.dist(a["centre"], a["tip"])
    alike = abs(a["radius"] - b["radius"]) if a["kind"] == "arc" else abs(a["minor"] - b["minor"])
    return bool(math.dist(a["centre"], b["centre"]) < 1e-4 * size and alike < 1e-4 * size)


def _turn(c: Raw) -> float:
    """How far an arc turns; of an ellipse by its parameter."""
    (cx, cy) = c["centre"]
    if c["kind"] == "arc":
        angles = [math.atan2(p[1] - cy, p[0] - cx) for p in (c["start"], c["end"])]
    else:
        ux, uy = c["tip"][0] - cx, c["tip"][1] - cy
        long = math.hypot(ux, uy)
        angles = [
            math.atan2(
                (ux * (p[1] - cy) - uy * (p[0] - cx)) / long / c["minor"],
                (ux * (p[0] - cx) + uy * (p[1] - cy)) / long / long,
            )
            for p in (c["start"], c["end"])
        ]
    return (angles[1] - angles[0]) % (2 * math.pi) or 2 * math.pi


def _scaled(c: Raw, k: float) -> Raw:
    def of(v: Any) -> Any:
        if isinstance(v, int | float):
            return v * k
        return tuple(of(w) for w in v) if isinstance(v, tuple | list) else v

    return {key: of(v) if key != "kind" else v for key, v in c.items()}
