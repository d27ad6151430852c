"""Deleting from a sketch: curves take their constraints with them, originals their copies."""

from __future__ import annotations

from collections.abc import Collection

from ...errors import Refused
from ...quantity import names_in
from ..constraints import Constraint, Dimensional
from ..constraints.copies import CopyFields, Regular
from ..constraints.offset import Offset
from ..document import ValuedSketch


def without_curves(sketch: ValuedSketch, ids: Collection[str]) -> ValuedSketch:
    """The sketch without some curves or constraints, and without what makes no sense without them."""
    gone = set(ids)
    for constraint in sketch.constraints:
        if isinstance(constraint, CopyFields):
            if constraint.id in gone:
                continue  # the copies stay where they are, free
            gone |= constraint.orphans(gone)
    kept: list[Constraint] = []
    for constraint in sketch.constraints:
        if constraint.id in gone:
            continue
        on = {ref.partition(".")[0] for ref in constraint.on}
        if isinstance(constraint, CopyFields) and not on & gone:
            left = constraint.without(gone)
            if left is not None:
                kept.append(left)
            continue
        if on & gone or (isinstance(constraint, Regular | Offset) and gone & constraint.members()):
            continue
        kept.append(constraint)
    check_names(sketch, kept)
    return without_torn(sketch, sketch.with_curves(c for c in sketch.curves if c.id not in gone).with_constraints(kept))


def without_torn(before: ValuedSketch, after: ValuedSketch) -> ValuedSketch:
    """Constraints that held at a joint which is no more are said anew, as the drawing is, or go."""
    torn = {
        c.id
        for c in after.constraints
        if (shared := getattr(c, "shared", None)) and before.joints.joined(*shared) and not after.joints.joined(*shared)
    }
    for id in torn:
        again = after.constraint(id).torn(after.with_constraints(c for c in after.constraints if c.id != id))
        new = [again if c.id == id else c for c in after.constraints]
        after = after.with_constraints(c for c in new if c is not None)
    return after


def check_names(sketch: ValuedSketch, kept: list[Constraint]) -> None:
    """A named dimension that others need cannot go."""
    names = {c.name for c in kept if isinstance(c, Dimensional) and c.name}
    lost = {c.name for c in sketch.constraints if isinstance(c, Dimensional) and c.name} - names
    for c in kept:
        if isinstance(c, Dimensional) and c.driving and lost and (needed := lost & names_in(c.value)):
            raise Refused(f"“{min(needed)}” is used by {c.sentence(sketch)}; change that first.", fights=(c.id,))
