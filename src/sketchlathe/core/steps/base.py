"""What every step kind declares."""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Iterator, Mapping
from functools import lru_cache
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Self

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, SerializeAsAny
from pydantic_core import PydanticUndefined

from ..blanks import Blank, Pick, blanks_of
from ..names import body_maker, maker
from ..quantity.expressions import evaluate, names_in
from ..quantity.units import LENGTH, show
from ..registry import Registry, kind_of
from ..remembering import once_each

if TYPE_CHECKING:
    from ..making.context import Context
    from ..model.document import Model

Name = Annotated[str, Field(min_length=1, max_length=80)]


class Step(BaseModel):
    """One step of a part's history. ``name`` is empty unless a person named it."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    kind: str = ""
    word: ClassVar[str]  # what it is called
    chord: ClassVar[str] = ""
    synonyms: ClassVar[str] = ""  # other words by which it is looked for
    icon: ClassVar[str] = ""  # SVG path data on a 23 x 23 grid
    group: ClassVar[str] = "make"  # tools of one group stand together
    order: ClassVar[int] = 100
    hint: ClassVar[str] = ""  # one line: what it needs
    sentence: ClassVar[str]  # "Extrude {regions} by {distance}"
    makes_solid: ClassVar[bool] = True  # False: it leaves the bodies as they are
    drawn: ClassVar[bool] = False  # True: it is opened and drawn in
    in_tray: ClassVar[bool] = True  # False: no tool of its own
    traces: ClassVar[str] = ""  # what its preview joins by a line: the places its build leaves as ``spots``
    brought: ClassVar[bool] = False  # True: it starts with a file
    begins: ClassVar[bool] = False  # True: an empty model can start with it
    assembles: ClassVar[bool] = False  # True: it is offered where parts are put together
    on_sheet: ClassVar[bool] = False  # True: it is a line of a sheet, and stands nowhere else
    usual_there: ClassVar[Mapping[str, str]] = {}  # what stands in its blanks there at first, where that differs

    id: str = Field(min_length=1, max_length=20)
    name: str = Field(default="", max_length=80)
    skipped: bool = False

    @classmethod
    def __pydantic_init_subclass__(cls, **_: Any) -> None:
        if cls.model_fields["kind"].default:
            STEPS.add(cls)

    @classmethod
    def blanks(cls) -> dict[str, Blank]:
        """The blanks by field name."""
        return blanks_of(cls)

    @classmethod
    @lru_cache(maxsize=200)
    def fragments(cls) -> tuple[tuple[str, str, int], ...]:
        """The sentence as ("text", words, group) and ("blank", field, group) in order.

        Brackets in the sentence make a group: its words are there only when one of its blanks is.
        """
        out: list[tuple[str, str, int]] = []
        for number, piece in enumerate(re.split(r"\[([^\]]*)\]", cls.sentence)):
            group = number if number % 2 else 0
            parts = re.split(r"\{(\w+)\}", piece)
            out.extend(("blank" if k % 2 else "text", part, group) for k, part in enumerate(parts) if part)
        return tuple(out)

    def _said(self, field: str) -> bool:
        """Whether a blank is said in the list: shown, and not an empty optional one."""
        value = getattr(self, field)
        empty = (
            not (value.strip() if isinstance(value, str) else value) or value == type(self).model_fields[field].default
        )
        return self.shown(field) and not (self.blanks()[field].optional and empty)

    def shown(self, field: str) -> bool:
        """Whether a blank is shown, given the others."""
        when, after = self.blanks()[field].when, self.blanks()[field].after
        if after and getattr(self, after) == type(self).model_fields[after].default:
            return False
        return when is None or (str(getattr(self, when[0])) in when[1] and self.shown(when[0]))

    def title(self, number: int) -> str:
        """What it is called in the list."""
        return self.name or f"{self.word} {number}"

    def formulas(self) -> dict[str, str]:
        """Fields that are formulas and count now."""
        numbers = ("length", "angle", "count")
        return {
            n: getattr(self, n)
            for n, b in self.blanks().items()
            if b.type in numbers and self.shown(n) and not (b.optional and not getattr(self, n).strip())
        }

    def brings(self) -> str:
        """The id of the part whose bodies it brings in; empty for most."""
        return ""

    def bought(self) -> str:
        """Which material its bodies are of when they come from a shop, and are not printed; empty for most."""
        return ""

    def body_word(self, model: Model, rest: str) -> str:
        """What a body of it is called (``rest``: its id after the step's); empty: by the step's title."""
        return ""

    def face_words(self) -> dict[str, str]:
        """What faces it makes are called, by role and source ("side:4"), where the role alone says too little."""
        return {}

    def picks(self) -> Iterator[Pick]:
        """All that is picked in the blanks that count now."""
        for name in self.blanks():
            if self.shown(name):
                value = getattr(self, name)
                yield from (v for v in (value if isinstance(value, tuple) else (value,)) if isinstance(v, Pick))

    @once_each
    def uses(self) -> tuple[str, ...]:
        """Ids of the steps whose results it picks from: sketches, datums, steps that it repeats."""
        repeated = (
            s for n, b in self.blanks().items() if b.type == "steps" and self.shown(n) for s in getattr(self, n)
        )
        return tuple(dict.fromkeys((*repeated, *(id for pick in self.picks() for id in pick.results()))))

    @once_each
    def makers(self) -> tuple[str, ...]:
        """Ids of the steps that made the faces and edges it picks, and those around them."""
        found = (maker(atom) for pick in self.picks() for atom in pick.atoms_named())
        return tuple(dict.fromkeys(id for id in found if id))

    @once_each
    def needs(self) -> frozenset[str]:
        """All the steps it stands on: what it uses, makers of what it picks and of the bodies it works on."""
        bodies = (b for n, k in self.blanks().items() if k.type == "bodies" and self.shown(n) for b in getattr(self, n))
        return frozenset((*self.uses(), *self.makers(), *map(body_maker, bodies)))

    def lasting(self, value: Callable[[str], float]) -> Self:
        """Itself, with what was typed loosely said so that it still means the same when its numbers change. ``value``
        gives those of its formulas (mm, rad); it raises ``BadInput`` for one that says nothing.
        """
        return self

    def key_parts(self, context: Context) -> Any:
        """What its result depends on besides the state before it: fields with formulas evaluated."""
        fields = self.model_dump(mode="json", exclude={"name", "skipped"})
        for name in self.formulas():
            fields[name] = context.value(self, name)
        return [fields, [context.key_of(step) for step in self.uses()]]

    def stands_on(self, context: Context) -> Any:
        """Where ``key_parts`` takes a look at the solids: all that it follows from besides them, so that its key is
        known without them; None where it takes no look.
        """
        return None

    def wants_words(self) -> bool:
        """Whether a sheet says it in words too: the sizes that it leaves (``context.sizes``) are not all of it."""
        return True

    def better_defaults(self, context: Context, touched: Collection[str]) -> dict[str, Any]:
        """Values for blanks that nobody has touched, better than the plain defaults, given what is there."""
        return {}

    def build(self, context: Context) -> None:
        """Change ``context.bodies`` (or ``context.sketches``). Raises ``CannotBuild`` in the person's words."""
        raise NotImplementedError


STEPS: Registry[Step] = Registry("step", "sketchlathe.core.steps")

AnyStep = Annotated[SerializeAsAny[Step], BeforeValidator(STEPS.parse)]


def describe_steps() -> list[dict[str, Any]]:
    """Every step kind as plain data, for the screen and for help."""
    out = []
    for cls in STEPS:
        defaults = {n: f.default for n, f in cls.model_fields.items() if f.default is not PydanticUndefined}
        out.append(
            {
                "kind": kind_of(cls),
                "word": cls.word,
                "chord": cls.chord,
                "synonyms": cls.synonyms,
                "icon": cls.icon,
                "group": cls.group,
                "hint": cls.hint,
                "makes_solid": cls.makes_solid,
                "drawn": cls.drawn,
                "begins": cls.begins,
                "brought": cls.brought,
                "traces": cls.traces,
                "in_tray": cls.in_tray,
                "assembles": cls.assembles,
                "on_sheet": cls.on_sheet,
                "usual_there": dict(cls.usual_there),
                "sentence": cls.fragments(),
                "blanks": {
                    name: {
                        "type": b.type,
                        "label": b.label,
                        "hint": b.hint,
                        "words": b.words,
                        "when": b.when,
                        "main": b.main,
                        "optional": b.optional,
                        "also": b.also,
                        "nears": b.nears,
                        "most": b.most,
                        "only": b.only,
                        "after": b.after,
                        "must": b.must,
                        "nothing": b.nothing,
                        "instead": b.instead,
                        "table": b.table,
                        "default": _plain(defaults.get(name)),
                    }
                    for name, b in cls.blanks().items()
                },
            }
        )
    return out


@lru_cache(maxsize=1)
def default_lengths() -> dict[str, float]:
    """The lengths that stand in untouched blanks, as they are declared, with their mm."""
    texts = {b["default"] for kind in describe_steps() for b in kind["blanks"].values() if b["type"] == "length"}
    return {t: evaluate(t, {}, wanted=LENGTH).value for t in sorted(filter(None, texts))}


GROUPS = {
    "draw": "Shapes", "edge": "Edges & faces", "repeat": "Repeat", "body": "Bodies", "print": "For printing",
    "sheet": "On the sheet",
}  # fmt: skip
"""What tools of one group are called together, in the order in which they stand. Their chords begin with one letter."""


def step_groups() -> list[dict[str, Any]]:
    """The descriptions in groups that stand together, in order, each with its word and the letter it is opened by."""
    found: dict[str, list[dict[str, Any]]] = {group: [] for group in GROUPS}
    for kind in (k for k in describe_steps() if k["in_tray"]):
        found[kind["group"]].append(kind)
    return [
        {"group": group, "word": GROUPS[group], "letter": kinds[0]["chord"][0], "kinds": kinds}
        for group, kinds in found.items()
        if kinds
    ]


def _plain(value: Any) -> Any:
    if isinstance(value, tuple):
        return [_plain(v) for v in value]
    return value.model_dump(mode="json") if isinstance(value, BaseModel) else value


@once_each
def _sentences(model: Model) -> dict[int, tuple[Step, list[dict[str, str]]]]:
    """What steps say in a model, by which step it is."""
    return {}


def sentence_of(step: Step, model: Model) -> list[dict[str, str]]:
    """A step's sentence with its blanks filled, for the list: [{"text"}, {"blank", "text"}, ...]. It is not to be
    changed.
    """
    said = _sentences(model)
    if id(step) not in said:  # the step is kept with it, so no other one has its number
        said[id(step)] = step, _sentence(step, model)
    return said[id(step)][1]


def _sentence(step: Step, model: Model) -> list[dict[str, str]]:
    from .wording import say_blank

    fragments = step.fragments()
    said = {group for what, part, group in fragments if what == "blank" and step._said(part)}
    out: list[dict[str, str]] = []
    for what, part, group in fragments:
        if group and group not in said:
            continue
        if what == "text":
            out.append({"text": part})
        elif step._said(part) if group else step.shown(part):
            out.append({"blank": part, "text": say_blank(step, part, model)})
    return _tidy(out)


def _tidy(parts: list[dict[str, str]]) -> list[dict[str, str]]:
    """Join texts around hidden blanks without doubled spaces."""
    out: list[dict[str, str]] = []
    for part in parts:
        if "blank" not in part and out and "blank" not in out[-1]:
            out[-1] = {
                "text": out[-1]["text"].rstrip()
                + (" " if not part["text"].startswith(",") else "")
                + part["text"].lstrip()
            }
        else:
            out.append(dict(part))
    return out


def full_sentence(step: Step, model: Model) -> str:
    """The sentence with the step's title before it, where it does not begin with the kind's word."""
    said = plain_sentence(step, model)
    named = step.name or not said.startswith(step.word)
    return f"{model.title_of(step.id)}{':' if step.name else ''} {said}" if named else said


def plain_sentence(step: Step, model: Model) -> str:
    """The sentence as one text."""
    return "".join(p["text"] for p in sentence_of(step, model)).strip()


def said_in_numbers(step: Step, model: Model) -> str:
    """A step's sentence with values in place of names: a drawing says 80 mm, not what it is called."""
    formulas, said = step.formulas(), []
    for piece in sentence_of(step, model):
        formula = formulas.get(piece.get("blank", ""), "")
        if formula.strip() and (names_in(formula) or re.search(r"[(+*]|\d\s*-", formula)):
            value = evaluate(formula, model.table.values, length_unit=model.units)
            said.append(show(value.value, value.dimension, model.read_in))
        else:
            said.append(piece["text"])
    return "".join(said).strip()
