"""Write the class of the demo (``examples/class/form-and-fit.json``): exercises with their sets of numbers, and what
made-up people did at them, edit by edit. What is right, why not, and what a hand-in shows is found as the program finds
it.
"""

from __future__ import annotations

import json
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from make_examples import FOLDER, Maker, mast_clamp_in, parameters, shield_plate_in

from sketchlathe.core.amounts.weighing import Units
from sketchlathe.core.exercises.judging import judged
from sketchlathe.core.exercises.numbers import candidates, changed_by, edits_of, figures_of, same_answer
from sketchlathe.core.exercises.terms import Terms, check
from sketchlathe.core.model.document import Model
from sketchlathe.service import answering, exercises, following, looking
from sketchlathe.service.building import Builder, weighed_of
from sketchlathe.service.modelling import Opened, written
from sketchlathe.service.studies import Turn
from sketchlathe.store.tables import ExerciseRow, NumberSet
from sketchlathe.workers import Blobs, LocalEngine, LocalWorkers

WANTED = 14
Make = Callable[[Maker], None]


def ring(m: Maker) -> None:
    """A ring: two circles, pulled up."""
    parameters(m, outer="34", inner="18", high="6")
    s = m.step("sketch", plane={"plane": "top"})
    m.draw(s, "circle", (0, 0, "origin", "origin"), (17, 0), sizes=("outer",))
    m.draw(s, "circle", (0, 0, "origin", "origin"), (9, 0), sizes=("inner",))
    m.step("extrude", regions=m.picks(s, (13, 0)), distance="high", result="add")


def opened_of(model: Model) -> Opened:
    """A model as if it were stored."""
    text = written(model)
    return Opened("demo", "", 1, model, text.text, can_undo=False, can_redo=False, files=text.files, owner="demo")


class Class:
    """A class under construction."""

    def __init__(self, builder: Builder, name: str, teacher: str, people: dict[str, str]) -> None:
        self.builder = builder
        self.told: dict[str, Any] = {"name": name, "teacher": teacher, "people": people, "exercises": []}

    def exercise(self, title: str, words: str, maker: Maker, **terms: Any) -> Exercise:
        """An exercise with its sets of numbers."""
        made = Exercise(self.builder, title, words, maker.model, Terms(part="p1", **terms))
        self.told["exercises"].append(made.told)
        return made


class Exercise:
    """An exercise of the demo, and what people did at it."""

    def __init__(self, builder: Builder, title: str, words: str, model: Model, terms: Terms) -> None:
        check(terms, model)
        self.builder, self.model, self.terms = builder, model, terms
        self.sets: list[dict[str, Any]] = []
        for numbers in candidates(terms, model, seed=7):
            if len(self.sets) == (WANTED if terms.varying else 1):
                break
            figures = self._comes_to(edits_of(numbers))
            if any(same_answer(terms.asked, figures, other["answers"]) for other in self.sets):
                continue
            then = self._comes_to(edits_of(changed_by(terms.then, numbers))) if terms.then else None
            self.sets.append({"numbers": numbers, "answers": figures, "then": then})
        self.told = {
            "title": title, "words": words, "model": model.as_json(), "terms": terms.model_dump(mode="json"),
            "sets": self.sets, "doings": [],
        }  # fmt: skip

    def _comes_to(self, edits: list[dict[str, Any]]) -> Any:
        there = Builder.as_edited(opened_of(self.model), edits)
        return figures_of(self.terms.asked, weighed_of(self.builder.as_it_is(there, "p1")))

    def does(self, who: str, make: Make | None, *tries: tuple[str, dict[str, Any] | None], **more: Any) -> None:
        """Somebody makes the part, then tries: ``first`` or ``then``, after an edit. ``more``: points, remark."""
        number = len(self.told["doings"]) + 1
        numbers = NumberSet(exercise_id="", number=number, **self.sets[number - 1])
        row = ExerciseRow(
            title=self.told["title"], units="mm", document=self.told["model"], terms=self.told["terms"], number=1
        )
        maker = Maker(self.told["title"])
        maker.model = exercises.started(row, numbers.numbers)
        doing: dict[str, Any] = {"who": who, "set": number, "edits": [], "tries": [], **more}
        log: list[dict[str, Any]] = []
        do = maker.do

        def logged(kind: str, **fields: Any) -> None:
            do(kind, **fields)
            log.append({"kind": kind, **fields})

        maker.do = logged  # type: ignore[method-assign]
        if make is not None:
            make(maker)
        for phase, edit in tries:
            if edit is not None:
                maker.do(**edit)
            doing["tries"].append({"after": len(log), "phase": phase, **self._tried(maker.model, numbers, phase)})
        doing["edits"] = log
        if more.get("handed"):
            doing["handed"] = self._handed(maker.model, numbers)
        self.told["doings"].append(doing)

    def _tried(self, model: Model, numbers: NumberSet, phase: str) -> dict[str, Any]:
        opened, expected = opened_of(model), numbers.then if phase == "then" else numbers.answers
        found = judged(self.terms.asked, expected, weighed_of(self.builder.as_it_is(opened, "p1")), Units("mm"))
        right = all(j.right for j in found)
        causes = []
        if not right:
            wanting = answering.expecting(opened, "p1", self.terms, expected)
            causes = looking.explain(self.builder, wanting, "p1", "")
        return {
            "right": right, "shares": answering.plain(found), "slip": causes[0]["slip"] if causes else "",
            "reason": causes[0]["text"] if causes else "",
        }  # fmt: skip

    def _handed(self, model: Model, numbers: NumberSet) -> dict[str, Any]:
        opened = opened_of(model)
        weighed = weighed_of(self.builder.as_it_is(opened, "p1"))
        turn = Turn("demo", opened, "demo", "p1", {}, {}, self.builder, lambda: None)
        says = list(following.then(turn, opened, "p1", self.terms, numbers)) if self.terms.then else []
        broken = list(following.shaken(turn, opened, "p1"))
        says += [("warn", text) for text in broken[:3]] or [("good", following.SURVIVES)]
        return {
            "figures": figures_of(self.terms.asked, weighed), "shows": {"says": says},
            "right": answering.is_right(self.terms, numbers, weighed),
        }  # fmt: skip


def form_and_fit(builder: Builder) -> dict[str, Any]:
    """The class that the demo's person teaches."""
    students = "Aylin Kade,Ben Sol,Carla Moor,Deniz Alp,Edda Wren,Finn Oak,Greta Lund,Hugo Tarn"
    people = {**dict.fromkeys(students.split(","), "student"), "Ines Rowe": "helper"}
    of_class = Class(builder, "Form and fit, Tuesday group", "", people)
    m = Maker("Spacer ring")
    ring(m)
    first = of_class.exercise(
        "Spacer ring", "Two circles and one height. The ring goes between the mast and the shield.", m,
        asked=[{"what": "volume"}], off_after=1, why_after=2,
        varying=[
            {"parameter": "outer", "low": "30 mm", "high": "40 mm", "step": "2 mm"},
            {"parameter": "inner", "low": "14 mm", "high": "22 mm", "step": "2 mm"},
        ],
    )  # fmt: skip

    def half(m: Maker) -> None:
        """The diameter drawn as a radius."""
        parameters(m, high="6")
        s = m.step("sketch", plane={"plane": "top"})
        m.draw(s, "circle", (0, 0, "origin", "origin"), (17, 0), sizes=("outer",))
        value = m.model.table["inner"].value / 2
        m.draw(s, "circle", (0, 0, "origin", "origin"), (5, 0), sizes=(f"{value:g} mm",))
        m.step("extrude", regions=m.picks(s, (13, 0)), distance="high", result="add")

    right = ("first", None)
    for who in ("Aylin Kade", "Ben Sol", "Finn Oak", "Greta Lund"):
        first.does(who, ring, right, handed=True)
    first.does("Carla Moor", half, right, ("first", {"kind": "set_material", "part": "p1", "material": "asa"}))
    first.does("Deniz Alp", half, right)
    first.does("Edda Wren", None)
    plate = Maker("Shield plate")
    shield_plate_in(plate)
    second = of_class.exercise(
        "Shield plate", "The plate that keeps the sun off the sensors, with its rim. PETG.", plate,
        asked=[{"what": "volume"}, {"what": "area"}], off_after=1, why_after=2, tries=5,
        varying=[
            {"parameter": "outer_d", "low": "100 mm", "high": "120 mm", "step": "5 mm"},
            {"parameter": "inner_d", "low": "50 mm", "high": "60 mm", "step": "2 mm"},
        ],
        then=[{"parameter": "thick", "value": "3 mm"}],
    )  # fmt: skip
    thicker = {"kind": "set_parameter", "name": "thick", "formula": "3 mm"}
    second.does("Aylin Kade", shield_plate_in, right, ("then", thicker), handed=True, points="10 of 10",
                remark="Everything follows. Good names, too.")  # fmt: skip
    second.does("Ben Sol", typed_thickness, right, handed=True)
    second.does("Finn Oak", without_rim, right)
    return of_class.told


def typed_thickness(m: Maker) -> None:
    """The thickness typed where it is used, not by its name."""
    shield_plate_in(m, "2.4 mm")


def without_rim(m: Maker) -> None:
    """The rim forgotten."""
    shield_plate_in(m, rim=False)


def measuring(builder: Builder) -> dict[str, Any]:
    """A class in which the demo's person is a student."""
    of_class = Class(
        builder, "Drawing for makers, evening course", "Milo Hart", {"": "student", "Nele Voss": "student"}
    )
    clamp = Maker("Mast clamp, half")
    mast_clamp_in(clamp)
    of_class.exercise(
        "Mast clamp, half", "Make the half clamp of the drawing. When it is right its depth changes: it should follow.",
        clamp, asked=[{"what": "volume"}, {"what": "mass"}], off_after=1, why_after=2,
        varying=[
            {"parameter": "mast_d", "low": "36 mm", "high": "48 mm", "step": "2 mm"},
            {"parameter": "wall", "low": "4 mm", "high": "6 mm", "step": "0.5 mm"},
        ],
        then=[{"parameter": "depth", "value": "30 mm"}],
    )  # fmt: skip
    return of_class.told


if __name__ == "__main__":
    workers = LocalWorkers(1, limit=120)
    try:
        with tempfile.TemporaryDirectory() as folder:
            made = LocalEngine(workers, Blobs(Path(folder)), 120)
            told = [form_and_fit(Builder(made)), measuring(Builder(made))]
        (FOLDER / "class").mkdir(exist_ok=True)
        out = FOLDER / "class" / "form-and-fit.json"
        out.write_text(json.dumps(told, ensure_ascii=False, separators=(",", ":")) + "\n")
        print(out, out.stat().st_size)
    finally:
        workers.close()
