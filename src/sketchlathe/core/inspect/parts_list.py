"""Parts list: what parts put together consist of, how many of each, what each weighs. No kernel in here."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..amounts.weighing import MASS_UNITS, Units
from ..model.document import Model, Part
from ..model.made_of import said_of


@dataclass(frozen=True)
class Entry:
    """One line: a part, or a body that comes from none; masses in g, boxes in mm, of one of them."""

    name: str
    count: int
    material: str
    mass: float
    volume: float
    box: tuple[float, float, float]
    bodies: tuple[str, ...] = ()  # of one of them


def parts_list(model: Model, part: Part, bodies: Sequence[Mapping[str, Any]]) -> list[Entry]:
    """What a part's bodies amount to, by the part they were brought from, in the order they came.

    ``bodies``: facts of a build: id, volume (mm³), density (g/cm³), material (its key), box (mm), and of what part it
    was ``brought``, or what it is ``bought`` as.
    """
    groups: dict[str, dict[str, list[Mapping[str, Any]]]] = {}
    for body in bodies:
        step, _, rest = str(body["id"]).partition(".")
        brings = next((s for s in part.steps if s.id == step and s.brings()), None)
        variant = getattr(brings, "variant", "")
        if body.get("bought") and not body.get("brought"):
            kind = f"bought {body['bought']}"
        else:
            kind = f"part {body['brought']}/{variant}" if body.get("brought") else f"body {body['id']}"
        copy = f"{step}.{rest.partition('.')[0]}" if brings else str(body["id"])
        groups.setdefault(kind, {}).setdefault(copy, []).append(body)
    found = []
    for kind, copies in groups.items():
        one = next(iter(copies.values()))
        sort, _, id = kind.partition(" ")
        id, _, variant = id.partition("/") if sort == "part" else (id, "", "")
        as_it = next((f", {v.name}" for v in model.variants if v.id == variant), "")
        name = model.title_of_body(id) if sort == "body" else id
        if sort == "part":
            name = next((p.name for p in model.parts if p.id == id), id)
        low = [min(b["box"][0][i] for b in one) for i in range(3)]
        high = [max(b["box"][1][i] for b in one) for i in range(3)]
        found.append(
            Entry(
                name + as_it, len(copies), said_of(model, [b["material"] for b in one]),
                sum(b["volume"] * b["density"] / 1000 for b in one), sum(b["volume"] for b in one),
                (high[0] - low[0], high[1] - low[1], high[2] - low[2]), tuple(str(b["id"]) for b in one),
            )
        )  # fmt: skip
    return found


def as_rows(entries: Sequence[Entry], units: Units) -> list[list[str]]:
    """A line an entry, and the sum, as text: name, count, material, mass of one, of all, box."""

    def mass(g: float) -> str:
        return units.number(g / MASS_UNITS[units.mass])

    rows = []
    for e in entries:
        box = " × ".join(units.length_of(v).partition(" ")[0] for v in e.box)
        rows.append([e.name, str(e.count), e.material, mass(e.mass), mass(e.count * e.mass), f"{box} {units.length}"])
    whole = sum(e.count * e.mass for e in entries)
    rows.append(["together", str(sum(e.count for e in entries)), "", "", mass(whole), ""])
    return rows
