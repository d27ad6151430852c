"""What went wrong, put together over many people."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field


@dataclass
class Slip:
    """A sort of slip: who made it, the newest first, and how the reason read for one of them."""

    sort: str
    people: list[str] = field(default_factory=list)
    example: str = ""

    @property
    def count(self) -> int:
        """How many people made it."""
        return len(self.people)


def typical(reasons: Iterable[tuple[str, str, str]]) -> list[Slip]:
    """Slips by how many people made them. ``reasons``: who, what sort of slip, the reason in words.

    >>> [(s.sort, s.people) for s in typical([("Ada", "another unit", "as if cm"), ("Bo", "a count", "6, not 4"),
    ...                                       ("Cy", "another unit", "as if in"), ("Ada", "another unit", "as if m")])]
    [('another unit', ['Ada', 'Cy']), ('a count', ['Bo'])]
    """
    found: dict[str, Slip] = {}
    for who, sort, text in reasons:
        slip = found.setdefault(sort, Slip(sort, example=text))
        if who not in slip.people:
            slip.people.append(who)
    return sorted(found.values(), key=lambda s: -s.count)
