"""What comes of building: a result for each step, kept under its key."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Any

from cachetools import LRUCache

from ..advice import Advice
from ..frames import Frame, Triple
from ..sketch.document import Sketch
from ..sketch.regions import Arrangement, Region

if TYPE_CHECKING:
    from ..mesh.surface import Surface
    from ..sheet.puts import Put, Size
    from ..solid.naming import Body
    from .mechanism import Link


@dataclass(frozen=True)
class SketchState:
    """A built sketch: its plane, its curves with evaluated sizes, its regions."""

    frame: Frame
    sketch: Sketch
    arrangement: Arrangement

    def middle_of(self, regions: Sequence[Region]) -> tuple[float, float]:
        """A place amid some regions, in sketch coordinates: the middle of the largest one's vertices."""
        largest = max(regions, key=lambda r: r.area)
        ends = [self.arrangement.edges[h // 2].start for h in largest.outer.half_edges]
        if len(ends) == 1:
            piece = self.arrangement.edges[largest.outer.half_edges[0] // 2].piece
            centre: tuple[float, float] = piece.centre  # type: ignore[union-attr]
            return centre
        xs, ys = zip(*(self.arrangement.vertices[v] for v in ends))
        return (min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2


@dataclass(frozen=True)
class Datum:
    """A plane (``frame``), an axis (``origin`` and ``direction``) or a point (``origin`` alone) to build on."""

    frame: Frame | None = None
    origin: Triple = (0.0, 0.0, 0.0)
    direction: Triple | None = None


@dataclass(frozen=True)
class Hand:
    """How a body can be moved by hand, and what that writes: blanks of steps.

    ``turn``: a point and direction of its axis; ``slide``: a direction; ``on``: the normal of the plane it slides on,
    None with ``shift`` alone: any way. ``shift``: the three blanks of a step that shift it. ``others`` move with it.
    """

    body: str
    step: str
    others: tuple[str, ...] = ()
    turn: tuple[Triple, Triple] | None = None
    turned: float = 0.0  # rad, as it stands
    slide: Triple | None = None
    slid: float = 0.0  # mm, as it stands
    on: Triple | None = None
    shift: tuple[str, tuple[str, str, str]] | None = None  # the step and its blanks
    shifted: Triple = (0.0, 0.0, 0.0)


@dataclass(frozen=True)
class Made:
    """What a step left of solids: all bodies there are after it, and the shapes that it put to them."""

    bodies: tuple[Body, ...] = ()
    tools: tuple[Body, ...] = ()

    @property
    def takes(self) -> int:
        """About what it takes in memory, bytes."""
        return FACE * sum(len(body.names) for body in (*self.bodies, *self.tools))


class Solids:
    """What a step left of solids, where it is wanted: at hand, or made again by ``again``."""

    def __init__(self, made: Made | None = None, again: Callable[[], Made] | None = None) -> None:
        self._made, self._again = made, again

    @property
    def at_hand(self) -> bool:
        """Whether it takes no work."""
        return self._made is not None or self._again is None

    @property
    def made(self) -> Made:
        """It, made again where it is not at hand."""
        if self._made is None:
            self._made = self._again() if self._again is not None else Made()
        return self._made


NO_SOLIDS = Solids(Made())


@dataclass(frozen=True)
class StepResult:
    """What came of one step. ``status``: ok, failed, skipped, after (beyond the Now line).

    What everybody asks of it is light and always there; its solids are there when somebody asks for them (``left``,
    those of the step before it: ``given``).
    """

    step: str
    key: str
    status: str
    left: Solids
    solid_key: str
    given: Solids = NO_SOLIDS
    states: Mapping[str, str] = field(default_factory=dict)  # of bodies by id: the same where nothing was done with one
    dressed: Mapping[str, int] = field(default_factory=dict)  # how many faces carry a rounding's or bevel's atom
    was_dressed: Mapping[str, int] = field(default_factory=dict)  # before it
    with_tools: bool = False
    sketch: SketchState | None = None
    message: str = ""
    where: str = ""
    advice: tuple[Advice, ...] = ()
    blame: tuple[object, ...] = ()
    handle: Mapping[str, Any] | None = None
    tool_result: str = ""  # what became of the tools: add, cut, overlap, separate
    datum: Datum | None = None
    reference: Surface | None = None  # triangles to look at and measure
    moved: Mapping[str, Any] = field(default_factory=dict)
    spots: tuple[tuple[str, Triple], ...] = ()  # members of a pattern by name, and where they stand
    took: tuple[str, ...] = ()  # sizes that nobody typed, taken from a table, in words
    along: int = 0  # edges that were rounded or cut off: more than were picked where they run on smoothly
    worked_on: tuple[str, ...] = ()  # ids of the bodies that a new shape was combined with
    pulls: tuple[tuple[str, str, Triple], ...] = ()  # a placed body, the one it stands on, and the way it comes off
    hands: tuple[Hand, ...] = ()
    afterwards: tuple[str, ...] = ()  # what is left to be done by hand once it is printed
    links: tuple[Link, ...] = ()  # relations that it put in force
    went: Mapping[str, Sequence[float]] = field(default_factory=dict)  # how it moved bodies: ``Pose.vector``
    free: Mapping[str, str] = field(default_factory=dict)  # what bodies that it placed or moved may still do, in words
    put: Put | None = None  # what a line of a sheet puts on it
    sizes: tuple[Size, ...] = ()  # what a sheet says of it as sizes in views

    @property
    def bodies(self) -> tuple[Body, ...]:
        """All bodies that there are after it."""
        return self.left.made.bodies

    @property
    def tools(self) -> tuple[Body, ...]:
        """The shapes that it put to what was there."""
        return self.left.made.tools if self.with_tools else ()

    @property
    def before(self) -> tuple[Body, ...]:
        """The bodies that it found."""
        return self.given.made.bodies

    @property
    def takes(self) -> int:
        """About what it takes in memory without its solids, bytes."""
        drawn = len(self.sketch.sketch.curves) + len(self.sketch.sketch.constraints) if self.sketch else 0
        seen = self.reference.positions.nbytes + self.reference.triangles.nbytes if self.reference is not None else 0
        lines = len(getattr(self.put, "lines", ()))
        return 4096 + CURVE * drawn + 200 * len(self.states) + seen + LINE * lines


@dataclass(frozen=True)
class PartBuild:
    """A built part: a result for each of its steps, and the solids at the end."""

    part: str
    steps: tuple[StepResult, ...]
    bodies: tuple[Body, ...]
    solid_key: str

    @property
    def free(self) -> dict[str, str]:
        """What placed bodies may still do, in words, by the step that placed them: all that holds them counts, also
        what later steps say.
        """
        latest: dict[str, str] = {}
        for result in self.steps:
            latest.update(result.free)
        return {r.step: latest[r.pulls[0][0]] for r in self.steps if r.status == "ok" and r.pulls and r.free}

    @property
    def failed(self) -> tuple[StepResult, ...]:
        """The steps that could not be built: where there are any, the part is not whole, and what there is of it is
        what the others make.
        """
        return tuple(r for r in self.steps if r.status == "failed")

    @property
    def afterwards(self) -> list[tuple[str, str]]:
        """What is left to be done by hand once it is printed: (step, words)."""
        return [(result.step, words) for result in self.steps for words in result.afterwards]

    @property
    def hands(self) -> dict[str, Hand]:
        """How bodies can be moved by hand, by their ids: as the last step that touched them says."""
        found: dict[str, Hand] = {}
        states: dict[str, str] = {}
        for result in self.steps:
            for body, state in result.states.items():
                if states.get(body, state) != state:
                    found.pop(body, None)
                states[body] = state
            found.update({h.body: h for h in result.hands})
        return {b.id: found[b.id] for b in self.bodies if b.id in found}

    @property
    def references(self) -> list[tuple[str, str, Surface]]:
        """Surfaces to look at: the step's id, its key, the surface."""
        return [(r.step, r.key, r.reference) for r in self.steps if r.status == "ok" and r.reference is not None]


KEPT, SOLIDS = 48 << 20, 112 << 20  # bytes
KEYS = 20_000
CURVE, FACE = 2400, 8000
LINE = 400
"""Bytes that a curve or constraint of a kept sketch takes, a face of a body with its mesh (measured), a view's line."""


class BuildCache:
    """Results by key, bounded by what they take, least recently used first out.

    Solids are kept apart from all else. What is known of a step without them is asked by every build, from the first
    step on, and is light; solids are asked by whoever changes something behind them. So a build walks along what is
    known to where something changed, and begins with the last solid that is still there, however long the part is. (In
    one store, that walk kept first steps' solids at the cost of those that are needed; from about 100 steps on, none
    was there when it was asked for.)
    """

    def __init__(self, most: int = KEPT, solids: int = SOLIDS) -> None:
        # what is larger than a quarter counts as that: else it would be built again every time
        self._kept: LRUCache[str, StepResult] = LRUCache(most, getsizeof=lambda kept: min(kept.takes, most // 4))
        self._solids: LRUCache[str, Made] = LRUCache(solids, getsizeof=lambda kept: min(kept.takes, solids // 4))
        self._keys: LRUCache[str, str] = LRUCache(KEYS)

    def get(self, key: str) -> StepResult | None:
        """The result under a key without its solids, if it is still kept."""
        return self._kept.get(key)

    def solids(self, key: str) -> Made | None:
        """The solids of the result under a key, if they are still kept."""
        return self._solids.get(key)

    def clear(self) -> None:
        """Keep nothing."""
        for store in (self._kept, self._solids, self._keys):
            store.clear()

    def put(self, result: StepResult) -> None:
        """Keep a result, its solids apart."""
        self._kept[result.key] = replace(result, left=NO_SOLIDS, given=NO_SOLIDS)

    def put_solids(self, key: str, made: Made) -> None:
        """Keep the solids of the result under a key."""
        self._solids[key] = made

    def key_at(self, standing: str, find: Callable[[], str]) -> str:
        """A step's key by what it stands on, where finding it takes a look at the solids."""
        key = self._keys.get(standing)
        if key is None:
            key = self._keys[standing] = find()
        return key
