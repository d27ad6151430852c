"""A sketch being drawn: each drawing tool and each constraint is a method, by its own description."""

from __future__ import annotations

import inspect
import math
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from ..core.errors import BadInput, NotFound
from ..core.quantity import LENGTH
from ..core.quantity.expressions import evaluate
from ..core.registry import kind_of
from ..core.sketch.constraints import CONSTRAINTS, Dimensional
from ..core.sketch.regions import Arrangement, Region, arrange
from ..core.sketch.tools import TOOLS, Tool
from .formulas import Formula, Size, text_of
from .made import Step

if TYPE_CHECKING:
    from .part import Part

Place = tuple[Any, ...] | str


class Point:
    """A point of a sketch: an end or the centre of a curve, the origin. What is drawn to it hangs together with it."""

    def __init__(self, sketch: Sketch, ref: str) -> None:
        self._sketch, self.ref = sketch, ref

    @property
    def at(self) -> tuple[float, float]:
        """Where it is, mm, across and along the sketch."""
        x, y = self._sketch.valued.point(self.ref)
        return float(x), float(y)

    def __repr__(self) -> str:
        return f"<point at ({self.at[0]:.6g}, {self.at[1]:.6g})>"


class Curve:
    """A curve of a sketch. ``start``, ``end``, ``centre``, ``at``: its points, as far as it has them."""

    def __init__(self, sketch: Sketch, id: str) -> None:
        self._sketch, self.ref = sketch, id

    def __getattr__(self, name: str) -> Point:
        if name.startswith("_"):
            raise AttributeError(name)
        points = self._curve.points
        if name not in points and name in ("start", "end") and len(ends := self._curve.end_points) == 2:
            name = ends[name == "end"]
        if name not in points:
            raise AttributeError(f"this {kind_of(type(self._curve))} has no “{name}”; it has {', '.join(points)}")
        return Point(self._sketch, f"{self.ref}.{name}")

    @property
    def _curve(self) -> Any:
        return self._sketch.valued.curve(self.ref)

    @property
    def length(self) -> float:
        """How long it is, mm."""
        return float(self._curve.length())

    @property
    def pick(self) -> dict[str, Any]:
        """What a step stores of it."""
        return {"sketch": self._sketch.id, "curve": self.ref}

    def __repr__(self) -> str:
        return f"<{kind_of(type(self._curve))}, {self.length:.6g} mm>"


class Area:
    """Closed regions of a sketch."""

    def __init__(self, sketch: Sketch, regions: list[Region]) -> None:
        self.sketch, self._regions = sketch, regions

    @property
    def area(self) -> float:
        """mm²."""
        return sum(r.area for r in self._regions)

    def __add__(self, other: Area) -> Area:
        return Area(self.sketch, [*self._regions, *(r for r in other._regions if r not in self._regions)])

    @property
    def picks(self) -> list[dict[str, Any]]:
        """What a step stores of them."""
        known = [c.id for c in self.sketch.valued.curves]
        keys = dict.fromkeys(r.key for r in self._regions)
        return [{"sketch": self.sketch.id, "sides": list(key), "known": known} for key in keys]

    def __repr__(self) -> str:
        return f"<{len(self._regions)} regions of {self.sketch.title}, {self.area:.6g} mm²>"


class Sketch(Step):
    """A sketch: drawn in like on the screen, with the sizes that are typed and the constraints that are said.

    A place is ``(x, y)`` in mm, ``"origin"``, or a point of a curve, to which what is drawn is then joined. Sizes come
    after the places, as texts, numbers, parameters; a tool whose last place only says how large it gets needs no
    place for it when its sizes are said.

    >>> from sketchlathe import Model
    >>> s = Model("Plate").sketch("top")
    >>> base, right, top, left = s.rectangle("origin", ("60 mm", "40 mm"))
    >>> s.freedom, round(s.whole.area, 6)
    (0, 2400.0)
    """

    def __init__(self, part: Part, id: str) -> None:
        super().__init__(part, id)

    x_axis, y_axis, origin = "x_axis", "y_axis", "origin"

    @property
    def valued(self) -> Any:
        """Its curves and constraints with the values that formulas have now."""
        model = self.part.model.document
        return model.sketch_step(self.id).sketch.valued(model.table.values, model.units)

    @property
    def curves(self) -> list[Curve]:
        """All its curves, in the order in which they were drawn."""
        return [Curve(self, c.id) for c in self.valued.curves]

    @property
    def freedom(self) -> int:
        """In how many ways what is drawn can still move; 0: fully held."""
        from ..core.sketch.solver.freedom import freedom

        return int(freedom(self.valued).count)

    def _arranged(self) -> Arrangement:
        valued = self.valued
        return arrange(valued.curves, valued.size)

    @property
    def whole(self) -> Area:
        """What its outlines hold: outlines within others are holes. A sketch said to a step stands for this."""
        return Area(self, self._arranged().filled())

    def region(self, x: float, y: float) -> Area:
        """The closed region that a place (mm) lies in. Raises ``NotFound`` where there is none."""
        arranged = self._arranged()
        found = arranged.at(x, y)
        if found is None:
            raise NotFound(f"No closed region of {self.title} holds the place ({x:g}, {y:g}).")
        return Area(self, arranged.by_key(found.key))

    def outline(self, *places: Place) -> list[Curve]:
        """A closed outline of lines through some places."""
        if len(places) < 3:
            raise BadInput("An outline needs three places at least.")
        first: Curve | None = None
        lines: list[Curve] = []
        for k, place in enumerate(places):
            start = lines[-1].end if lines else place
            end = first.start if first is not None and k == len(places) - 1 else places[(k + 1) % len(places)]
            lines += self.draw("line", start, end)
            first = first or lines[0]
        return lines

    def draw(self, tool: str, *said: Any, construction: bool = False, **options: Any) -> list[Curve]:
        """Draw with a tool by its kind; the new curves. Raises ``BadInput`` where places or sizes do not fit it."""
        kind = TOOLS[tool]
        places, sizes = _apart(kind, said)
        sent = [self._place(p) for p in places]
        before = {c.id for c in self.valued.curves}
        if len(sent) < len(kind.steps):
            sent += self._led_to(kind, sent, sizes)
        self.part.model.apply(
            "draw", sketch=self.id, tool=tool, places=sent, sizes=[text_of(s) for s in sizes],
            options=options, construction=construction,
        )  # fmt: skip
        return [Curve(self, c.id) for c in self.valued.curves if c.id not in before]

    def _place(self, place: Place | Point | Curve) -> dict[str, Any]:
        if isinstance(place, Point):
            return {"at": place.at, "snap": "centre" if place.ref.endswith(".centre") else "end", "ref": place.ref}
        if isinstance(place, Curve):
            (x, y), (u, v) = (place._curve.pieces()[0].first, place._curve.pieces()[-1].last)
            return {"at": ((x + u) / 2, (y + v) / 2), "snap": "curve", "ref": place.ref}
        if place == "origin":
            return {"at": (0.0, 0.0), "snap": "origin", "ref": "origin"}
        if isinstance(place, tuple) and len(place) == 2 and all(isinstance(v, (int, float)) for v in place):
            return {"at": place}
        raise BadInput(f"“{place}” is no place; say (x, y) in mm, “origin”, or a point of a curve.")

    def _led_to(self, kind: type[Tool], sent: list[dict[str, Any]], sizes: list[Size]) -> list[dict[str, Any]]:
        """Places that only say how large something gets, from the sizes that say it better."""
        lacking = len(kind.steps) - len(sent)
        if not sent or len(sizes) < lacking:
            raise BadInput(f"{kind.word} needs {len(kind.steps)} places: {', '.join(kind.steps)}.")
        model = self.part.model.document
        lengths = [
            evaluate(text_of(s), model.table.values, wanted=slot.dimension, length_unit=model.units).value
            for s, slot in zip(sizes, kind.sizes)
            if slot.dimension == LENGTH
        ]
        x, y = sent[-1]["at"]
        wide = lengths[0] if lengths else 10.0
        high = lengths[1] if len(lengths) > 1 else 0.0
        first = {"at": (x + wide, y + high)} if lacking == 1 else {"at": (x + wide, y)}
        return [first, *({"at": (x + wide, y + k * (high or wide))} for k in range(1, lacking))]

    def hold(self, constraint: str, *on: Any) -> None:
        """A constraint by its kind. Raises ``Refused`` where it cannot hold beside the others, naming them."""
        self.part.model.apply("add_constraint", sketch=self.id, constraint=constraint, on=[_ref(o) for o in on])

    def size(self, value: Size, *on: Any, way: str = "", at: tuple[float, float] | None = None) -> None:
        """A dimension: a line's length, a circle's diameter, how far two things are apart, the angle of two lines.

        ``way``: ``aligned``, ``across`` or ``along`` the sketch, for what is apart; ``at``: where its text stands, mm.
        """
        refs = [_ref(o) for o in on]
        self.part.model.apply(
            "add_dimension", sketch=self.id, on=refs, at=at or self._beside(refs), value=text_of(value), way=way
        )

    def _beside(self, refs: list[str]) -> tuple[float, float]:
        """Where a dimension's text is put when nobody says where: outside, next to what it measures."""
        valued, places = self.valued, []
        for ref in refs:
            if ref in ("x_axis", "y_axis"):
                continue
            if "point" in valued.tags_of(ref):
                places.append(valued.point(ref))
            else:
                places += [end for p in valued.curve(ref).pieces() for end in (p.first, p.last)]
        off = 0.12 * max(valued.size, 1.0)
        x = math.fsum(p[0] for p in places) / max(1, len(places))
        y = math.fsum(p[1] for p in places) / max(1, len(places))
        return (x - off, y - off)


def _apart(kind: type[Tool], said: tuple[Any, ...]) -> tuple[list[Any], list[Size]]:
    """Places, and the sizes after them; a pair with a text in it is two sizes."""
    places: list[Any] = []
    sizes: list[Size] = []
    for one in said:
        if isinstance(one, (Formula, int, float)) or (isinstance(one, str) and one != "origin"):
            sizes.append(one)
        elif isinstance(one, tuple) and any(isinstance(v, (str, Formula)) for v in one):
            sizes.extend(one)
        elif sizes:
            raise BadInput(f"{kind.word}: places come first, then sizes.")
        else:
            places.append(one)
    if len(sizes) > len(kind.sizes):
        known = " and ".join(s.label for s in kind.sizes) or "no sizes"
        raise BadInput(f"{kind.word} takes {known}; {len(sizes)} sizes were given.")
    return places, sizes


def _ref(thing: Any) -> str:
    if isinstance(thing, (Point, Curve)):
        return thing.ref
    if isinstance(thing, str):
        return thing
    raise BadInput(f"“{thing!r}” is nothing of a sketch; say a curve, a point, “origin”, “x_axis” or “y_axis”.")


def _drawing(kind: str, tool: type[Tool]) -> Callable[..., list[Curve]]:
    def method(self: Sketch, *said: Any, construction: bool = False, **options: Any) -> list[Curve]:
        return self.draw(kind, *said, construction=construction, **options)

    sizes = ", ".join(s.label for s in tool.sizes)
    told = [f"{tool.word}{f', {tool.variant}' if tool.variant else ''}. Places: {', '.join(tool.steps)}."]
    told += [f"Sizes: {sizes}."] if sizes else []
    told += [f"``{o.name}``: {o.label} ({o.default!r} unless said)." for o in tool.options]
    method.__name__, method.__doc__ = kind, " ".join(told)
    parameters = [
        inspect.Parameter("self", inspect.Parameter.POSITIONAL_OR_KEYWORD),
        inspect.Parameter("said", inspect.Parameter.VAR_POSITIONAL),
        inspect.Parameter("construction", inspect.Parameter.KEYWORD_ONLY, default=False),
        *(inspect.Parameter(o.name, inspect.Parameter.KEYWORD_ONLY, default=o.default) for o in tool.options),
    ]
    method.__signature__ = inspect.Signature(parameters)  # type: ignore[attr-defined]
    return method


def _holding(kind: str, hint: str) -> Callable[..., None]:
    def method(self: Sketch, *on: Any) -> None:
        self.hold(kind, *on)

    method.__name__, method.__doc__ = kind, f"Hold what is given {kind.replace('_', ' ')}. {hint}"
    return method


for _tool in TOOLS:
    setattr(Sketch, kind_of(_tool), _drawing(kind_of(_tool), _tool))
for _constraint in CONSTRAINTS:
    if not issubclass(_constraint, Dimensional) and _constraint.takes and not hasattr(Sketch, kind_of(_constraint)):
        setattr(Sketch, kind_of(_constraint), _holding(kind_of(_constraint), _constraint.hint))
