"""A part, its answers, and builds of it with something changed: what explanations are made from."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..amounts.answers import Answer, Meant, actual, agree, expected
from ..amounts.weighing import Units, Weighed, together, weighed
from ..errors import Trouble
from ..forms import CauseTold
from ..making.results import BuildCache, PartBuild
from ..model.building import build
from ..model.document import Model, Part
from ..model.edits import apply_edit, parse_edit
from ..model.made_of import key_for, material_of

Progress = Callable[[str, int, int], None]


@dataclass(frozen=True)
class Cause:
    """One explanation. ``cost``: lower is likelier. ``edits`` make the part agree, where that can be done by edits.
    ``slip``: what sort of slip it is, whatever the part: by it the reasons of many people are put together.
    """

    text: str
    cost: float
    slip: str
    edits: tuple[Mapping[str, Any], ...] = ()
    fix: str = ""
    steps: tuple[str, ...] = ()

    def as_json(self) -> CauseTold:
        """Plain data, for the screen."""
        return {
            "text": self.text,
            "slip": self.slip,
            "edits": [dict(e) for e in self.edits],
            "fix": self.fix,
            "steps": list(self.steps),
        }


class Search:
    """The part, its answers, and builds of it with something changed."""

    def __init__(
        self,
        model: Model,
        part_id: str,
        answers: Sequence[Answer],
        cache: BuildCache,
        progress: Progress | None = None,
        places: bool = False,
    ) -> None:
        """``places``: boxes and centres are wanted too, whatever the answers are about."""
        self.model, self.part_id, self._cache, self._progress = model, part_id, cache, progress
        self.units = Units(model.units)
        self.wanted: list[tuple[Answer, Meant]] = [(a, expected(a, self.units)) for a in answers]
        self._places = places or any(a.what in ("box", "centre") for a in answers)
        self.has = self.weigh(model)

    @property
    def part(self) -> Part:
        """The part as it is."""
        return self.model.part(self.part_id)

    def built(self, model: Model) -> PartBuild:
        """A build of the part in some form of the model."""
        return build(model, model.part(self.part_id), self._cache)

    def weigh(self, model: Model) -> Weighed | None:
        """What the part amounts to in some form of the model; None where a step fails."""
        from ..solid.measuring import amounts, measures

        built = self.built(model)
        if built.failed:
            return None
        part, out = model.part(self.part_id), []
        measure = measures if self._places else amounts
        for body in built.bodies:
            m = measure(body.shape)
            density = material_of(model, key_for(model, part, body)).density
            out.append(weighed(m.volume, m.area, m.centre, m.box, m.moments, density))
        return together(out)

    def with_edits(self, edits: Sequence[Mapping[str, Any]]) -> Model | None:
        """The model after some edits; None where they are refused."""
        model = self.model
        try:
            for edit in edits:
                model = apply_edit(model, parse_edit(dict(edit)))
        except Trouble:
            return None
        return model

    def after(self, edits: Sequence[Mapping[str, Any]]) -> Weighed | None:
        """What the part amounts to after some edits."""
        model = self.with_edits(edits)
        return None if model is None else self.weigh(model)

    def fits(self, w: Weighed | None) -> bool:
        """Whether figures agree with all answers."""
        return w is not None and all(agree(m, actual(a.what, w)) for a, m in self.wanted)

    def tell(self, text: str, number: int, count: int) -> None:
        """Say where the search is."""
        if self._progress is not None:
            self._progress(text, number, count)
