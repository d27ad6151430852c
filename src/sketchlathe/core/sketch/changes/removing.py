"""Deleting from a sketch: curves take their constraints with them, originals their copies."""

from __future__ import annotations

from collections.abc import Collection

from ...errors import Refused
from ...quantity import names_in
from ..constraints import Constraint, Dimensional
from ..constraints.copies import CopyFields, Regular
from ..constraints.offset import Offset
from ..document import Sketch


def without_curves(sketch: Sketch, ids: Collection[str]) -> Sketch:
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
    return sketch.with_curves(c for c in sketch.curves if c.id not in gone).with_constraints(kept)


def check_names(sketch: Sketch, kept: list[Constraint]) -> None:
    """A named dimension that others need cannot go."""
    names = {c.name for c in kept if isinstance(c, Dimensional) and c.name}
    lost = {c.name for c in sketch.constraints if isinstance(c, Dimensional) and c.name} - names
    for c in kept:
        if isinstance(c, Dimensional) and c.driving and lost and (needed := lost & names_in(c.value)):
            raise Refused(f"“{min(needed)}” is used by {c.sentence(sketch)}; change that first.", fights=(c.id,))
