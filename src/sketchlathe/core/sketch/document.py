"""A sketch as it is stored, and simple questions about it."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from functools import cache, cached_property
from typing import Any, Self, TypeVar, cast

from pydantic import BaseModel, ConfigDict, Field

from ..errors import BadInput, NotFound
from ..quantity import Quantity, evaluate, names_in
from ..quantity.units import LengthUnit
from ..saying import a, opens
from .constraints import AnyConstraint, Constraint, Dimensional
from .constraints.joints import Joints
from .curves import AnyCurve, Curve
from .curves.text_along import with_texts_along
from .equations.rows import AXIS_ENDS, ORIGIN

MAX_CURVES = 3000
AnySketch = TypeVar("AnySketch", bound="Sketch")
AXIS_NAMES = {"x_axis": "the horizontal axis", "y_axis": "the vertical axis"}


@cache
def _is_round(kind: type[Curve]) -> bool:
    """Whether curves of a kind have a radius. (To ask each of them takes long where they have not.)"""
    return "radius" in kind.model_fields or hasattr(kind, "radius")


class Sketch(BaseModel):
    """Curves and constraints in a plane. Frozen: edits return new sketches that share what is unchanged."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    curves: tuple[AnyCurve, ...] = Field(default=(), max_length=MAX_CURVES)
    constraints: tuple[AnyConstraint, ...] = Field(default=(), max_length=4 * MAX_CURVES)

    def value_of(self, id: str) -> float | None:
        """What a driving dimension was evaluated to, mm/rad; None where it was not (see ``ValuedSketch``)."""
        return None

    def valued(self, names: Mapping[str, Quantity], unit: LengthUnit = "mm") -> ValuedSketch:
        """This sketch with its driving formulas evaluated. Raises ``BadInput`` naming the dimension."""
        driving = {c.id: c for c in self.constraints if isinstance(c, Dimensional) and c.driving}
        named = {c.name: c for c in driving.values() if c.name}
        found: dict[str, float] = {}
        known = dict(names)
        for name in named:  # a dimension's own name goes before a parameter's
            known.pop(name, None)
        for c in driving.values():
            # each once, those that it needs before it; without recursion, for chains may be as long as the sketch
            waiting, path = [c], dict[str, Dimensional]()
            while waiting:
                top = waiting[-1]
                if top.id in found:
                    waiting.pop()
                    path.pop(top.id, None)
                    continue
                needs = [named[n] for n in names_in(top.value) if n in named] if named else []
                missing = [d for d in needs if d.id not in found]
                if not missing:
                    got = evaluate(top.value, known, wanted=top.measures, length_unit=unit)
                    top.check_value(got.value)
                    found[top.id] = got.value
                    if top.name:
                        known[top.name] = got
                    continue
                path[top.id] = top
                if loop := next((d for d in missing if d.id in path), None):
                    ids = list(path)
                    names_round = [path[i].name for i in ids[ids.index(loop.id) :]]
                    raise BadInput(
                        f"These dimensions need each other in a loop: {' → '.join([*names_round, loop.name])}.",
                        where=loop.id,
                    )
                waiting.append(missing[0])
        return self.with_values(found)

    def with_values(self, values: Mapping[str, float]) -> ValuedSketch:
        """The same sketch with dimension values (mm/rad) as given."""
        return self._known_to(ValuedSketch.model_construct(**{**self._fields(), "values": dict(values)}))

    def with_value(self, id: str, value: float) -> ValuedSketch:
        """The same sketch with the value (mm/rad) of one more dimension."""
        return self.with_values({id: value})

    def _fields(self) -> dict[str, Any]:
        return {"curves": self.curves, "constraints": self.constraints}

    def _known_to(self, other: AnySketch) -> AnySketch:
        """Another one with the same curves and constraints, which then knows all that was found out about these."""
        _ = self._found  # so that both have the same one
        own = ValuedSketch.model_fields
        other.__dict__.update({name: known for name, known in self.__dict__.items() if name not in own})
        return other

    def plain(self) -> Sketch:
        """The sketch as it is stored: without values of dimensions."""
        return self

    def found(self, what: str, find: Callable[[Sketch], Any]) -> Any:
        """What ``find`` finds out about these very curves and constraints: asked once, whatever the values of the
        dimensions are said to be. ``what`` names it.
        """
        known = self._found.get(what)
        # a copy with other curves or constraints may have come with what was found about these
        if known is None or known[0] is not self.curves or known[1] is not self.constraints:
            known = self._found[what] = (self.curves, self.constraints, find(self))
        return known[2]

    # not a private field: two sketches are alike whatever was found out about one of them
    @cached_property
    def _found(self) -> dict[str, tuple[Any, Any, Any]]:
        return {}

    @cached_property
    def _by_id(self) -> dict[str, Curve]:
        return {curve.id: curve for curve in self.curves}

    @cached_property
    def _names(self) -> dict[str, str]:
        counts: Counter[str] = Counter()
        names = {}
        for curve in self.curves:
            counts[curve.kind] += 1
            names[curve.id] = f"{curve.word} {counts[curve.kind]}"
        return names

    @cached_property
    def joints(self) -> Joints:
        """Which points are one, and which lie on which curve, by the constraints."""
        return Joints(self)

    def __contains__(self, ref: str) -> bool:
        try:
            return bool(self.tags_of(ref))
        except NotFound:
            return False

    def curve(self, id: str) -> Curve:
        """The curve with this id."""
        try:
            return self._by_id[id]
        except KeyError:
            raise NotFound(f"Curve {id} is not in this sketch (any more).", where=id) from None

    def constraint(self, id: str) -> Constraint:
        """The constraint with this id."""
        for constraint in self.constraints:
            if constraint.id == id:
                return constraint
        raise NotFound("That constraint is not in this sketch (any more).", where=id)

    def tags_of(self, ref: str) -> frozenset[str]:
        """What a reference can be taken as: {"point"}, {"line", "curve"}, ..."""
        if ref == ORIGIN:
            return frozenset({"point"})
        if ref in AXIS_ENDS:
            return frozenset({"line", "axis"})
        curve_id, _, point = ref.partition(".")
        curve = self.curve(curve_id)
        if point:
            if point not in curve.points:
                raise NotFound(f"{opens(a(curve.word))} has no point “{point}”.", where=ref)
            return frozenset({"point"})
        return frozenset({"point"}) if curve.kind == "point" else curve.tags | {"curve"}

    def point(self, ref: str) -> tuple[float, float]:
        """Where a point is, mm."""
        if ref == ORIGIN:
            return (0.0, 0.0)
        curve_id, _, name = ref.partition(".")
        curve = self.curve(curve_id)
        if name not in curve.points:
            raise NotFound(f"{opens(a(curve.word))} has no point “{name}”.", where=ref)
        return curve.place(name)

    def ends(self, ref: str) -> tuple[tuple[float, float], tuple[float, float]]:
        """Where the ends of a line (or axis) are, mm."""
        if ref in AXIS_ENDS:
            return AXIS_ENDS[ref]
        return self.point(f"{ref}.start"), self.point(f"{ref}.end")

    def radius(self, ref: str) -> float:
        """Radius of a circle or arc, mm."""
        curve = self.curve(ref)
        if "round" not in curve.tags:
            raise NotFound(f"{opens(a(curve.word))} has no radius.", where=ref)
        return float(getattr(curve, "radius"))  # noqa: B009 (declared by the round kinds)

    def anchor(self, ref: str) -> tuple[tuple[float, float], tuple[float, float]]:
        """Where marks for a reference stand: a point and a unit normal."""
        if "point" in self.tags_of(ref):
            return self.point(ref if "." in ref or ref == ORIGIN else f"{ref}.at"), (0.7071, 0.7071)
        if ref in AXIS_ENDS:
            return (0.0, 0.0), (-0.7071, 0.7071)
        return self.curve(ref).anchor()

    def name_of(self, ref: str) -> str:
        """A reference in words: "line 2", "start of line 2"."""
        if ref == ORIGIN:
            return "the origin"
        if ref in AXIS_NAMES:
            return AXIS_NAMES[ref]
        curve_id, _, point = ref.partition(".")
        name = self._names.get(curve_id) or self.curve(curve_id).word
        return f"{point} of {name}" if point and point != "at" else name

    @cached_property
    def size(self) -> float:
        """About how large the sketch is, mm (never below 1e-6)."""
        low_x = low_y = math.inf
        high_x = high_y = -math.inf
        for curve in self.curves:
            reach = float(getattr(curve, "radius")) if _is_round(type(curve)) else 0.0  # noqa: B009
            for name in curve.points:
                x, y = curve.place(name)
                low_x, high_x = min(low_x, x - reach), max(high_x, x + reach)
                low_y, high_y = min(low_y, y - reach), max(high_y, y + reach)
        if low_x > high_x:
            return 1.0
        # the origin counts: everything is placed against it
        return max(max(high_x, 0.0) - min(low_x, 0.0), max(high_y, 0.0) - min(low_y, 0.0), 1e-6)

    def with_curves(self, curves: Iterable[Curve]) -> Self:
        """The same sketch with other curves."""
        return self._changed(curves=with_texts_along(tuple(curves)))

    def with_constraints(self, constraints: Iterable[Constraint]) -> Self:
        """The same sketch with other constraints."""
        return self._changed(constraints=tuple(constraints))

    def _changed(self, **update: Any) -> Self:
        return cast(Self, type(self).model_construct(**{**self._fields(), **update}))

    def scaled(self, factor: float) -> Self:
        """The sketch scaled about its origin, text places of dimensions too."""

        def f(p: tuple[float, float]) -> tuple[float, float]:
            return (p[0] * factor, p[1] * factor)

        constraints = [
            c.model_copy(update={"label": f(c.label)}) if isinstance(c, Dimensional) and c.label else c
            for c in self.constraints
        ]
        return self.with_curves(c.moved(f, factor) for c in self.curves).with_constraints(constraints)

    def users_of(self, curve_id: str) -> list[Constraint]:
        """Constraints that speak of a curve or one of its points."""
        return [c for c in self.constraints if curve_id in c.members()]


class ValuedSketch(Sketch):
    """A sketch whose driving formulas have been evaluated: what is solved, changed and drawn. It is never stored
    (see ``plain``). ``values``: of its driving dimensions by id, mm/rad.
    """

    values: dict[str, float] = Field(exclude=True)

    def value_of(self, id: str) -> float | None:
        """See ``Sketch``."""
        return self.values.get(id)

    def with_value(self, id: str, value: float) -> ValuedSketch:
        """See ``Sketch``."""
        return self.with_values({**self.values, id: value})

    def _fields(self) -> dict[str, Any]:
        return {**super()._fields(), "values": self.values}

    def plain(self) -> Sketch:
        """See ``Sketch``."""
        return self._known_to(Sketch.model_construct(curves=self.curves, constraints=self.constraints))

    def unmet(self) -> str:
        """The driving dimensions whose evaluated value the drawing does not have, in words; empty if all hold."""
        return "; ".join(c.sentence(self) for c in self.off())

    def off(self) -> list[Dimensional]:
        """Those dimensions themselves."""
        near = 1e-7 * self.size
        found = []
        for c in self.constraints:
            if isinstance(c, Dimensional) and c.driving and c.id in self.values:
                tolerance = near if c.scales else 1e-6
                if abs(c.measure(self) - self.values[c.id]) > tolerance:
                    found.append(c)
        return found

    def named_values(self) -> dict[str, Quantity]:
        """The sketch's named driving dimensions, as far as they have been evaluated."""
        return {
            c.name: Quantity(self.values[c.id], c.measures)
            for c in self.constraints
            if isinstance(c, Dimensional) and c.driving and c.name and c.id in self.values
        }
