"""What becomes of new shapes among the bodies of a part."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from ..advice import Advice
from ..errors import CannotBuild

if TYPE_CHECKING:
    from ..solid.naming import Body

NOTHING = 1e-9  # share of a volume below which nothing has changed


def combine(
    bodies: tuple[Body, ...], tools: Sequence[Body], result: str, step: str, only: Collection[str] = ()
) -> tuple[tuple[Body, ...], list[Advice]]:
    """The bodies afterwards, and advice. Raises ``CannotBuild`` when nothing would come of it.

    ``only``: ids of the bodies that take part; the others stay as they are.
    """
    taking_part = tuple(b for b in bodies if not only or b.id in only)
    made, advice = {"add": _add, "cut": _cut, "overlap": _overlap, "separate": _separate}[result](
        taking_part, tools, step
    )
    others = tuple(b for b in bodies if b not in taking_part)
    return (_in_order(bodies, [*others, *made]) if others else made), advice


def _touching(bodies: Sequence[Body], tools: Sequence[Body]) -> tuple[list[Body], list[Body]]:
    """Bodies that a tool meets, and the others. Where only one's box does, that one is meant without asking further."""
    from ..solid.gauging import touch
    from ..solid.measuring import rough_box
    from ..solid.shapes import FUZZY

    boxes = [rough_box(t.shape) for t in tools]
    meeting: dict[str, list[Body]] = {}
    for body in bodies:
        low, high = rough_box(body.shape)
        meeting[body.id] = [
            t
            for t, b in zip(tools, boxes)
            if all(low[i] <= b[1][i] + 1e-6 and b[0][i] <= high[i] + 1e-6 for i in range(3))
        ]
    near = [b for b in bodies if meeting[b.id]]
    if len(near) > 1:
        # a lip beside a box is not one with it because their boxes meet
        near = [b for b in near if any(touch(b.shape, t.shape, FUZZY) for t in meeting[b.id])]
    return near, [b for b in bodies if b not in near]


def worked_on(before: Sequence[Body], after: Sequence[Body]) -> tuple[str, ...]:
    """Ids of the bodies that a step changed or used up."""
    left = {id(b) for b in after}
    return tuple(b.id for b in before if id(b) not in left)


def _in_order(before: Sequence[Body], after: Sequence[Body]) -> tuple[Body, ...]:
    """Bodies in the order they had, new ones last."""
    place = {body.id: i for i, body in enumerate(before)}
    return tuple(sorted(after, key=lambda b: place.get(b.id, len(place))))


def _add(bodies: tuple[Body, ...], tools: Sequence[Body], step: str) -> tuple[tuple[Body, ...], list[Advice]]:
    from ..solid.measuring import volume
    from ..solid.shapes import fuse

    near, far = _touching(bodies, tools)
    if not near and len(tools) == 1:
        return _separate(bodies, tools, step)
    after = fuse(near, tools, step)
    advice: list[Advice] = []
    if near and sum(volume(b.shape) for b in after) <= sum(volume(b.shape) for b in near) * (1 + NOTHING):
        text = "This adds nothing: the new shape lies wholly inside what is there."
        advice.append(Advice(text, "cut it away instead", {"result": "cut"}))
    return _in_order(bodies, [*far, *after]), advice


def _separate(bodies: tuple[Body, ...], tools: Sequence[Body], step: str) -> tuple[tuple[Body, ...], list[Advice]]:
    new = [replace(tool, id=step if i == 0 else f"{step}.{i}") for i, tool in enumerate(tools)]
    return (*bodies, *new), []


def _cut(bodies: tuple[Body, ...], tools: Sequence[Body], step: str) -> tuple[tuple[Body, ...], list[Advice]]:
    from ..solid.measuring import volume
    from ..solid.shapes import cut

    near, _ = _touching(bodies, tools)
    changed: dict[str, list[Body]] = {}
    removed = 0.0
    for body in near:
        left = cut(body, tools, step)
        gone = volume(body.shape) - sum(volume(b.shape) for b in left)
        if gone > NOTHING * volume(body.shape):
            changed[body.id] = left
            removed += gone
    if not changed:
        raise CannotBuild("There is nothing to cut here: this shape does not meet the part.", where="way")
    after = [piece for body in bodies for piece in changed.get(body.id, [body])]
    if not after:
        raise CannotBuild("This would cut everything away and leave nothing.", where="regions")
    advice = [
        Advice(f"This cut makes {len(pieces)} pieces of one body.") for pieces in changed.values() if len(pieces) > 1
    ]
    return tuple(after), advice


def _overlap(bodies: tuple[Body, ...], tools: Sequence[Body], step: str) -> tuple[tuple[Body, ...], list[Advice]]:
    from ..solid.shapes import common

    near, _ = _touching(bodies, tools)
    after = [piece for body in near for piece in common(body, tools, step)]
    if not after:
        raise CannotBuild("The new shape and the part do not overlap: nothing would be left.", where="regions")
    return tuple(after), []
