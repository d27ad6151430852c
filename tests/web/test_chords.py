"""No two actions share a pair of letters, over all registries, templates and scripts; none lies behind another's."""

from __future__ import annotations

import re
from collections import defaultdict
from importlib import resources

from sketchlathe.core.model.edits.base import describe_acts
from sketchlathe.core.sketch.tools import describe_tools
from sketchlathe.core.sketch.view import describe_constraints
from sketchlathe.core.steps.base import describe_steps

WEB = resources.files("sketchlathe.web")
# the same action on the two trays
ONE_ACTION = {"lf"}


def written() -> list[tuple[str, str]]:
    """(chord, where it stands) of what templates and scripts name themselves."""
    from pathlib import Path

    root, found = Path(str(WEB)), []
    for path in [*root.glob("templates/**/*.html"), *root.glob("static/js/**/*.js")]:
        text = path.read_text()
        for chord in re.findall(r"""data-chord['"]?(?:=|: )["']([a-z]{2})["']""", text):
            found.append((chord, path.name))
    return found


def test_every_chord_is_one_action() -> None:
    owners: dict[str, list[str]] = defaultdict(list)
    for described in (describe_steps(), describe_tools(), describe_constraints(), describe_acts()):
        for d in described:
            if d["chord"]:  # kinds that are only brought in have none
                owners[d["chord"]].append(str(d.get("kind") or d.get("name")))
    literal = written()
    assert len(literal) > 20 and sum(len(o) for o in owners.values()) > 60
    for chord, where in literal:
        owners[chord].append(where)
    assert {c: o for c, o in owners.items() if len(o) > 1 and c not in ONE_ACTION} == {}
    assert [c for c in owners if not re.fullmatch("[a-z]{2}", c)] == []
