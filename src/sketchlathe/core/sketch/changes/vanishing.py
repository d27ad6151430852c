"""A sketch without curves that came from the solid and are not there any more: their neighbours meet."""

from __future__ import annotations

from collections.abc import Collection

from ..constraints import Constraint
from ..constraints.offset import Joint, Offset
from ..document import Sketch


def without_vanished(sketch: Sketch, gone: Collection[str]) -> tuple[Sketch, list[str]]:
    """The sketch without some curves, and what cannot do without them, in words (then the sketch is as it was).

    A curve's offset goes with it, and the offsets of its neighbours meet in a corner, as the neighbours do themselves.
    What only joined it to others goes without a word.
    """
    leaving = set(gone)
    kept: list[Constraint] = []
    for constraint in sketch.constraints:
        if isinstance(constraint, Offset) and leaving & set(constraint.sources):
            left, targets = _without_sources(constraint, leaving)
            leaving |= targets
            if left is not None:
                kept.append(left)
        else:
            kept.append(constraint)
    blocked = [
        f"the {c.word} of {' and '.join(sketch.name_of(ref.partition('.')[0]) for ref in c.on[:2])}"
        for c in kept
        if not isinstance(c, Offset) and _curves_of(c) & leaving and "joins" not in c.does
    ] + [f"the {c.word} of {sketch.name_of(c.sources[0])}"
         for c in kept if isinstance(c, Offset) and c.members() & leaving]  # fmt: skip
    if blocked:
        return sketch, blocked
    rest = [c for c in kept if isinstance(c, Offset) or not _curves_of(c) & leaving]
    return sketch.with_curves(c for c in sketch.curves if c.id not in leaving).with_constraints(rest), []


def _curves_of(constraint: Constraint) -> set[str]:
    members = getattr(constraint, "members", None)
    return {ref.partition(".")[0] for ref in constraint.on} | (set(members()) if callable(members) else set())


def _without_sources(offset: Offset, gone: Collection[str]) -> tuple[Offset | None, set[str]]:
    """An offset of what is left of its sources, and the curves that go with the others."""
    stays = [source not in gone for source in offset.sources]
    targets = {t for t, s in zip(offset.targets, stays) if not s}
    if not any(stays):
        return None, targets

    def ends(joint: Joint) -> list[tuple[str, str]]:
        """The ends of what stays that meet there: (source's, target's)."""
        both = ((joint.first, joint.first_target), (joint.second, joint.second_target))
        return [pair for pair in both if pair[0] and pair[0].partition(".")[0] not in gone]

    joints: list[Joint] = []
    waiting: dict[str, list[tuple[str, str]]] = {}
    for joint in offset.joints:
        sides = [ref.partition(".")[0] for ref in (joint.first, joint.second) if ref]
        lost = [id for id in sides if id in gone]
        if not lost:
            joints.append(joint)
        elif len(ends(joint)) == 1:
            waiting.setdefault(_run_of(lost[0], offset, gone), []).extend(ends(joint))
    for open_ends in waiting.values():
        if len(open_ends) == 2:
            (first, first_target), (second, second_target) = open_ends
            joints.append(
                Joint(first=first, first_target=first_target, second=second, second_target=second_target, sharp=True)
            )
        else:
            joints += [Joint(first=ref, first_target=target) for ref, target in open_ends]
    left = offset.model_copy(
        update={
            "sources": tuple(s for s, stay in zip(offset.sources, stays) if stay),
            "targets": tuple(t for t, stay in zip(offset.targets, stays) if stay),
            "signs": tuple(g for g, stay in zip(offset.signs, stays) if stay),
            "joints": tuple(joints),
        }
    )
    return left, targets


def _run_of(id: str, offset: Offset, gone: Collection[str]) -> str:
    """The first of the vanished curves that hang together with one, by which such a run is known."""
    run, todo = {id}, [id]
    while todo:
        at = todo.pop()
        for joint in offset.joints:
            sides = {ref.partition(".")[0] for ref in (joint.first, joint.second) if ref}
            if at in sides:
                more = {s for s in sides if s in gone} - run
                run |= more
                todo += more
    return min(run)
