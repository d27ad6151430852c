"""The grammar of names, in one room: which step an atom comes from, in which role, out of what.

A face is named by a set of atoms (docs/ARCHITECTURE.md says how they are made):

    atom := step ":" role [":" source]      the face a step made, in a role:       s7:side:c3
          | step ":" role "(" atom ")"      one made of another face:              s9:inner(s7:side:c3)
          | step "#" member "(" atom ")"    the copy of a face in a pattern:       s12#2.3(s7:end)
"""

from __future__ import annotations

import re
from functools import lru_cache

_MAKER = re.compile(r"[a-z]+\d+")
_FIRST = re.compile(r"(?:[a-z]+\d+#[\d.]+\()*([a-z]+\d+):([a-z]+:\w+)")

ROLES = {
    "start": "start", "end": "end", "side": "side", "cut": "cut", "blend": "rounding", "bevel": "bevel", "rim": "rim",
    "corner": "corner", "inner": "inside wall", "face": "face", "wall": "wall", "floor": "floor", "tip": "tip",
    "seat": "seat", "step": "step", "mouth": "mouth",
}  # fmt: skip
"""What faces in a role are called."""
DRESSED = ("blend", "bevel")
"""What is made of edges."""


@lru_cache(maxsize=100_000)
def maker(atom: str) -> str:
    """The id of the step that made a face; empty for what is no atom.

    >>> maker("s7:side:c3"), maker("s12#2.3(s7:end)"), maker("a lid")
    ('s7', 's12', '')
    """
    found = _MAKER.match(atom)
    return found.group() if found and atom[found.end() : found.end() + 1] in (":", "(", "#") else ""


@lru_cache(maxsize=100_000)
def role(atom: str) -> str:
    """The role in which a step made a face; of a copy, that of the face it is a copy of.

    >>> role("s7:side:c3"), role("s9:inner(s7:side:c3)"), role("s12#2(s7:end)")
    ('side', 'inner', 'end')
    """
    return re.split(r"[:()]", atom.partition(":")[2])[0]


def source(atom: str) -> str:
    """What a face came of within its role: a curve, the faces beside an edge; empty where nothing is said.

    >>> source("s7:side:c3"), source("s9:blend:[s1:end+s1:side:c2]"), source("s7:end")
    ('c3', '[s1:end+s1:side:c2]', '')
    """
    return atom.partition(":")[2].partition(":")[2]


def head(atom: str) -> str:
    """What stands before the first role: the step, with the member of a pattern and what that is a copy of.

    >>> head("s7:side:c3"), head("s12#2(s7:end)")
    ('s7', 's12#2(s7')
    """
    return atom.partition(":")[0]


def member(atom: str) -> str:
    """Which copy an atom is of; empty where it is of none.

    >>> member("s12#2.3(s7:end)"), member("s7:side:c3")
    ('2.3', '')
    """
    return head(atom).partition("(")[0].partition("#")[2]


def innermost(atom: str) -> str:
    """The step at the bottom of a chain of copies, which first made such a face.

    >>> innermost("s12#2(s7:end)"), innermost("s7:side:c3"), innermost("s7#1:wall")
    ('s7', 's7', 's7')
    """
    return head(atom).rpartition("(")[2].partition("#")[0]


def origin(atom: str) -> str:
    """Step and role, whatever the source: faces that came about alike share it.

    >>> origin("s7:side:c3"), origin("s7:side:c9")
    ('s7:side', 's7:side')
    """
    step, _, rest = atom.partition(":")
    return f"{step}:{rest.partition(':')[0]}"


def body_maker(body: str) -> str:
    """The step that made a body, from the body's id.

    >>> body_maker("s3"), body_maker("s3.1")
    ('s3', 's3')
    """
    return body.partition(".")[0]


def made(atom: str) -> dict[str, str]:
    """How a face came about, for the screen: ``by`` which step, in which ``role`` (empty for a copy); where it is known
    by more than its role, which step made it ``first``, and ``as`` what.

    >>> made("s9:inner(s7:side:c3)")
    {'by': 's9', 'role': 'inner'}
    >>> made("s12#2(s7:side:4)")
    {'by': 's12', 'role': '', 'first': 's7', 'as': 'side:4'}
    """
    by, first = maker(atom), _FIRST.match(atom)
    told = {"by": by, "role": role(atom) if head(atom) == by else ""}
    return {**told, "first": first[1], "as": first[2]} if first else told
