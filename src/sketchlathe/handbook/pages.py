"""The pages of the handbook, made of the descriptions that the screen is made of: nobody writes one for a new kind."""

from __future__ import annotations

import html
import json
import re
from dataclasses import dataclass, field
from functools import lru_cache
from pathlib import Path
from typing import Any

from ..core.bringing.base import describe_readers
from ..core.exchange.base import describe_formats
from ..core.sketch.tools import describe_tools
from ..core.sketch.view import describe_constraints
from ..core.steps.base import GROUPS, describe_steps

HERE = Path(__file__).parent
MADE = HERE / "made.json"
GUIDES = HERE / "guides"
PICTURES = HERE.parent / "web" / "static" / "handbook"
SORTS = {
    "guide": "How to", "step": "Steps", "draw": "Drawing", "hold": "Constraints", "file": "Files out and in",
}  # fmt: skip
"""Sorts of pages, in order, and what they are called together."""
TAKES = {
    "length": "a length, typed or a formula", "angle": "an angle, typed or a formula", "count": "a number",
    "choice": "one of these", "regions": "regions of a sketch, picked", "plane": "a plane or a flat face, picked",
    "text": "words", "members": "members of a pattern, picked", "faces": "faces, picked", "edges": "edges, picked",
    "bodies": "bodies, picked", "axis": "an axis, a line, an edge or a round face, picked", "points": "points, picked",
    "steps": "steps, picked in the list or in the view", "curve": "a curve, picked", "path": "curves or edges, picked",
    "thing": "a face, an edge, a corner or something of the origin, picked", "part": "a part", "variant": "a variant",
}  # fmt: skip
"""What a type of blank takes, in words."""


@dataclass(frozen=True)
class Row:
    """A line of a page's table: what it is called, what it takes, what it is for."""

    name: str
    takes: str
    words: str
    only: str = ""  # when it is there, or that it may stay empty


@dataclass(frozen=True)
class Page:
    """One page. ``group``: under which heading it stands among its sort; ``search``: other words it is looked for by;
    ``body``: written text (HTML of ours).
    """

    sort: str
    slug: str
    title: str
    lead: str = ""
    group: str = ""
    chord: str = ""
    icon: str = ""
    search: str = ""
    sentence: tuple[tuple[str, str], ...] = ()  # ("text" or "blank", words)
    rows: tuple[Row, ...] = ()
    pictures: tuple[str, ...] = ()
    said: str = ""
    script: str = ""
    refusals: tuple[str, ...] = ()
    body: str = ""
    model: dict[str, Any] = field(default_factory=dict, hash=False)

    @property
    def text(self) -> str:
        """All its words, for searching."""
        rows = " ".join(f"{r.name} {r.words}" for r in self.rows)
        plain = html.unescape(re.sub(r"<[^>]+>", " ", self.body))
        return " ".join([self.said, rows, *self.refusals, plain])


@lru_cache(maxsize=1)
def pages() -> dict[tuple[str, str], Page]:
    """All pages by sort and slug, in order."""
    found = [*_guides(), *_steps(), *_tools(), *_constraints(), *_files()]
    return {(p.sort, p.slug): p for p in found}


def _guides() -> list[Page]:
    """``guides/03-a-lid.html``: the first line is its heading, the second what it is for."""
    found = []
    for path in sorted(GUIDES.glob("*.html")):
        title, lead, *rest = path.read_text(encoding="utf-8").splitlines()
        slug = path.stem.partition("-")[2]
        found.append(Page("guide", slug, title.strip(), lead.strip(), body="\n".join(rest)))
    return found


def _steps() -> list[Page]:
    made = json.loads(MADE.read_text(encoding="utf-8")) if MADE.exists() else {}
    described = describe_steps()
    found = []
    for kind in sorted(described, key=lambda k: list(GROUPS).index(k["group"]) if k["group"] in GROUPS else 99):
        blanks, own = kind["blanks"], made.get(kind["kind"], {})
        sentence = tuple((what, blanks[v]["label"] if what == "blank" else v) for what, v, _ in kind["sentence"])
        rows = tuple(
            Row(
                b["label"], ", ".join(b["words"].values()) or TAKES[b["type"]], b["hint"], _only(b, blanks)
            )
            for b in blanks.values()
        )  # fmt: skip
        found.append(
            Page(
                "step", kind["kind"], kind["word"], kind["hint"], GROUPS.get(kind["group"], "Bringing in"),
                kind["chord"], kind["icon"], kind["synonyms"], sentence, rows, tuple(own.get("pictures", ())),
                own.get("sentence", ""), own.get("script", ""), tuple(own.get("refusals", ())), "",
                own.get("model", {}),
            )
        )  # fmt: skip
    return found


def _only(blank: dict[str, Any], blanks: dict[str, Any]) -> str:
    """When a blank is there, in words; that it may stay empty."""
    said = []
    if blank["when"]:
        name, values = blank["when"]
        words = [blanks[name]["words"].get(v, v) for v in values]
        said.append(f"with “{'”, “'.join(words[:3])}”{'…' if len(words) > 3 else ''}")
    return ", ".join([*said, *(["may stay empty"] if blank["optional"] else [])])


def _tools() -> list[Page]:
    found = []
    for tool in describe_tools():
        title = f"{tool['word']}, {tool['variant']}" if tool["variant"] else tool["word"]
        places = ", then ".join(tool["steps"])
        rows = [Row(s["label"], "an angle" if s["angle"] else "a length", "typed while drawing") for s in tool["sizes"]]
        for o in tool["options"]:
            rows.append(Row(o["label"], ", ".join(w for _, w in o["choices"]) or "typed", ""))
        again = " The last one may be repeated; Enter ends it." if tool["more"] else ""
        lead = f"Click {places}.{again} {tool['hint']}"
        found.append(
            Page(
                "draw",
                tool["kind"],
                title,
                lead.strip(),
                tool["word"],
                tool["chord"],
                tool["icon"],
                rows=tuple(rows),
                pictures=_drawn(f"draw-{tool['kind']}"),
                said=f"Clicks: {places}",
            )
        )
    return found


def _drawn(name: str) -> tuple[str, ...]:
    """Pictures of a name, what was before first."""
    return tuple(path.name for when in ("before", "after") for path in PICTURES.glob(f"{name}-{when}.svg"))


def _constraints() -> list[Page]:
    return [
        Page(
            "hold",
            c["kind"],
            c["word"].capitalize(),
            c["hint"],
            chord=c["chord"],
            search=c["symbol"],
            pictures=_drawn(f"hold-{c['kind']}"),
            said=f"held {c['word']}",
        )
        for c in describe_constraints()
    ]


_OF = {"part": "Of a part", "outline": "Of a drawing", "sheet": "Of a sheet"}
_GIVES = {
    "step": "It becomes a step of the part.", "curves": "Its curves come into a sketch.",
    "underlay": "It lies under a sketch, to be drawn over.", "parameters": "Its rows become parameters.",
}  # fmt: skip


def _files() -> list[Page]:
    out = [
        Page(
            "file", f["kind"], f"{f['word']} (.{f['ending']})", f"Take it out: {f['hint']}.", _OF.get(f["of"], ""),
            "ft", search="export save take out",
        )
        for f in describe_formats()
    ]  # fmt: skip
    taken = {p.slug for p in out}
    for r in describe_readers():
        slug = r["kind"] if r["kind"] not in taken else f"in-{r['kind']}"
        lead = f"Bring it in ({', '.join(r['endings'])}). {_GIVES.get(r['gives'], '')}".strip()
        out.append(Page("file", slug, f"{r['word']} in", lead, "Brought in", search="import open bring"))
    return out
