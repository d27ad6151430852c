"""Classes: who is in them, their exercises, what everybody does at one."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from flask import (
    Blueprint,
    Response,
    flash,
    get_flashed_messages,
    redirect,
    render_template,
    request,
    url_for,
)
from flask.typing import ResponseReturnValue
from flask_login import login_required

from ..core.amounts.answers import KINDS, What
from ..core.errors import BadInput, Refused, Trouble
from ..core.exchange.base import plain_name
from ..core.exercises.terms import Asked, Change, Terms, Varying, words_of
from ..core.plain_json import dumped
from ..core.quantity import names_in
from ..core.steps.base import full_sentence
from ..service import answering, classes, exercises, looking, modelling, overview, practice, shelf
from ..service.exercises import Wish
from ..service.modelling import Opened
from ..service.rights import IN_CLASS, PRACTICE
from .exchange import as_download
from .limits import code_may_be_tried
from .replies import builder, database, me, studies

blueprint = Blueprint("classes", __name__)
RANGE = ("low", "high", "step")


@blueprint.before_request
@login_required
def signed_in_only() -> None:
    """Every class is somebody's."""


@blueprint.app_template_filter("moment")
def moment(at: datetime) -> str:
    """A time in full, for who has no scripts; ``times.js`` writes it as the person's clock has it."""
    return at.astimezone(UTC).strftime("%d %b %Y, %H:%M UTC")


@blueprint.app_template_filter("sign")
def sign(how: str) -> str:
    """What stands before something that was found, for whoever does not see its colour."""
    return {"good": "✓", "warn": "!", "bad": "✗"}[how]


def _to(endpoint: str, **values: Any) -> ResponseReturnValue:
    return redirect(url_for(f"classes.{endpoint}", **values), 303)


def _told() -> str:
    return " ".join(str(told) for told in get_flashed_messages())


@blueprint.get("/classes")
def index() -> ResponseReturnValue:
    """The classes one is in; how to come into one, how to start one."""
    return render_template(
        "classes.html", classes=classes.mine(database(), me()), projects=shelf.projects(database(), me()),
        binned=len(shelf.bin_contents(database(), me())), problem=_told(), code=request.args.get("code", "")[:60],
    )  # fmt: skip


@blueprint.get("/exercises")
def alone() -> ResponseReturnValue:
    """The exercises that one does alone."""
    listed = exercises.of_class(database(), me(), practice.ready(database()))
    return render_template(
        "practice.html", exercises=listed, states=overview.STATES, projects=shelf.projects(database(), me()),
        binned=len(shelf.bin_contents(database(), me())), problem=_told(),
    )  # fmt: skip


@blueprint.post("/exercises/<exercise_id>/again")
def again(exercise_id: str) -> ResponseReturnValue:
    """One of them with other numbers."""
    return redirect(url_for("bench.page", model_id=exercises.again(database(), me(), exercise_id)), 303)


@blueprint.post("/classes")
def start() -> ResponseReturnValue:
    """A new class."""
    return _to("page", class_id=classes.start(database(), me(), request.form.get("name", "")).id)


@blueprint.post("/classes/join")
def join() -> ResponseReturnValue:
    """Into a class, by its code."""
    try:
        if not code_may_be_tried(me()):
            raise BadInput("Too many codes were tried: wait an hour, or ask your teacher to read it to you.")
        return _to("page", class_id=classes.join(database(), me(), request.form.get("code", "")).id)
    except Trouble as problem:
        flash(problem.message)
        return _to("index")


@blueprint.get("/classes/<class_id>")
def page(class_id: str) -> ResponseReturnValue:
    """A class: for students their exercises, for who teaches everybody at one of them."""
    if class_id == PRACTICE:
        return _to("alone")
    row, role = classes.see(database(), me(), class_id)
    listed = exercises.of_class(database(), me(), class_id)
    shown = {"row": row, "role": role, "exercises": listed, "problem": _told(), "rights": IN_CLASS[role],
             "now": datetime.now(UTC)}  # fmt: skip
    if "teach" not in IN_CLASS[role]:
        return render_template("class_of_mine.html", states=overview.STATES, **shown)
    wanted = request.args.get("exercise")
    chosen = next((e for e in listed if e.id == wanted), listed[0] if listed else None)
    of_it = _of_exercise(chosen.id) if chosen else {}
    fragment = request.headers.get("HX-Target") == "everybody"
    return render_template(
        "_everybody.html" if fragment else "class.html", chosen=chosen, states=overview.STATES,
        students=overview.students_in(database(), me(), class_id), **shown, **of_it,
    )  # fmt: skip


def _of_exercise(exercise_id: str) -> dict[str, object]:
    """What is shown of one exercise to who teaches."""
    _, _, terms = exercises.see(database(), me(), exercise_id, "teach")
    tries = overview.tries_until_right(database(), me(), exercise_id)
    return {
        "lines": overview.lines(database(), me(), exercise_id),
        "slips": overview.slips(database(), me(), exercise_id),
        "needed": tries, "most": max(tries.values(), default=1), "terms": terms, "asked": words_of(terms.asked),
        "study": studies().about(exercise_id),
    }  # fmt: skip


@blueprint.get("/classes/<class_id>/people")
def people(class_id: str) -> ResponseReturnValue:
    """Who is in a class."""
    row, role = classes.see(database(), me(), class_id)
    return render_template(
        "class_people.html", row=row, role=role, rights=IN_CLASS[role], roles=classes.ROLES, me=me(),
        people=classes.people(database(), me(), class_id), problem=_told(),
    )  # fmt: skip


@blueprint.post("/classes/<class_id>/people/<person_id>/<any(role, remove):what>")
def person(class_id: str, person_id: str, what: str) -> ResponseReturnValue:
    """Another role for somebody, or out of the class with them."""
    try:
        if what == "role":
            classes.set_role(database(), me(), class_id, person_id, request.form.get("role", ""))
        else:
            classes.remove(database(), me(), class_id, person_id)
    except (BadInput, Refused) as problem:
        flash(problem.message)
    return _to("people", class_id=class_id) if person_id != me() else _to("page", class_id=class_id)


@blueprint.post("/classes/<class_id>/<any(joining, rename, copy, end, leave, keep):what>")
def change(class_id: str, what: str) -> ResponseReturnValue:
    """Who may join, its name, a copy for other people, its end."""
    form = request.form
    try:
        if what == "joining":
            classes.let_join(database(), me(), class_id, form.get("joining") == "yes")
        elif what == "rename":
            classes.rename(database(), me(), class_id, form.get("name", ""))
        elif what == "keep":
            classes.keep_until(database(), me(), class_id, _time(form.get("until", ""), "until"))
        elif what == "copy":
            return _to("page", class_id=classes.copy(database(), me(), class_id, form.get("name", "")).id)
        else:
            (classes.end if what == "end" else classes.leave)(database(), me(), class_id)
            return _to("index")
    except (BadInput, Refused) as problem:
        flash(problem.message)
    return _to("people" if what in ("joining", "rename", "keep", "end") else "page", class_id=class_id)


@blueprint.get("/classes/<class_id>/about-me.json")
def about_me(class_id: str) -> ResponseReturnValue:
    """What is kept about oneself in a class."""
    row, _ = classes.see(database(), me(), class_id)
    kept = dumped(overview.about(database(), me(), class_id))
    return as_download(f"{plain_name(row.name)}-about-me.json", "application/json", kept.encode())


# --- making an exercise


@blueprint.route("/classes/<class_id>/exercises/new", methods=["GET", "POST"])
def new(class_id: str) -> ResponseReturnValue:
    """A model is chosen, then what is asked of it."""
    row, _ = classes.see(database(), me(), class_id, "manage")
    wanted, problem = request.values.get("model", ""), None
    if not wanted:
        return render_template("exercise_of.html", row=row, models=shelf.newest(database(), me(), 60))
    opened = modelling.open_model(database(), me(), wanted)
    if request.method == "POST":
        try:
            made = exercises.make(database(), me(), class_id, opened, _wish())
            exercises.look_for_numbers(studies(), opened, me(), made)
            return _to("page", class_id=class_id, exercise=made.id)
        except BadInput as bad:
            problem = bad
    return _form(row, opened, problem)


def _form(row: object, opened: Opened, problem: BadInput | None) -> ResponseReturnValue:
    model = opened.model
    plain = [p for p in model.parameters if not names_in(p.formula)]
    return render_template(
        "exercise_form.html", row=row, model=model, opened=opened, problem=problem, kinds=KINDS, form=request.form,
        parameters=plain, parts=[p for p in model.there if p.steps and p.sort == "part"], exercise=None,
    ), 422 if problem else 200  # fmt: skip


def _wish() -> Wish:
    form, upload = request.form, request.files.get("task")
    names = form.getlist("differs")
    return Wish(
        form.get("title", ""), form.get("words", ""),
        Terms(
            part=form.get("part", "")[:20],
            asked=tuple(Asked(what=what, within=_percent(form.get(f"within-{what}", ""), what)) for what in _asked()),
            varying=tuple(
                Varying(parameter=n[:60], **{k: _some(form.get(f"{k}-{n}", ""), f"{k}-{n}") for k in RANGE})
                for n in names[:8]
            ),
            then=tuple(
                Change(parameter=n[:60], value=_some(form.get(f"then-{n}", ""), f"then-{n}"))
                for n in form.getlist("changes")[:4]
            ),
            tries=_count("tries"), off_after=_count("off_after"), why_after=_count("why_after"),
        ),
        _time(form.get("opens", ""), "opens"), _time(form.get("ends", ""), "ends"),
        exercises.picture_of_task(upload.stream.read()) if upload is not None and upload.filename else None,
    )  # fmt: skip


def _asked() -> list[What]:
    asked: list[What] = [what for what in KINDS if what in request.form.getlist("asked")]
    if not asked:
        raise BadInput("Tick at least one figure that is asked.", where="asked")
    return asked


def _some(text: str, where: str) -> str:
    text = text.strip()
    if not 1 <= len(text) <= 60:
        raise BadInput("A number is wanted here, such as 40 mm.", where=where)
    return text


def _percent(text: str, what: str) -> float:
    try:
        value = float(text.replace(",", ".").replace("%", "").strip() or "0.1")
    except ValueError:
        value = 0.0
    if not 0 < value <= 20:
        raise BadInput("How far off it may be is a percentage above 0, 20 at most.", where=f"within-{what}")
    return value


def _count(name: str) -> int:
    text = request.form.get(name, "").strip() or "0"
    if not text.isdecimal() or int(text) > 99:
        raise BadInput("A whole number from 0 to 99 is wanted here.", where=name)
    return int(text)


def _time(text: str, where: str) -> datetime | None:
    """A moment with its zone (``times.js`` adds it); without one it is meant in UTC."""
    if not text.strip():
        return None
    try:
        at = datetime.fromisoformat(text.strip())
    except ValueError:
        raise BadInput("That is not a moment, such as 2027-03-01 18:00.", where=where) from None
    if not 2000 < at.year < 2200:
        raise BadInput("That year is out of sight.", where=where)
    return at if at.tzinfo else at.replace(tzinfo=UTC)


@blueprint.route("/exercises/<exercise_id>/change", methods=["GET", "POST"])
def change_exercise(exercise_id: str) -> ResponseReturnValue:
    """Other words, times, help, another drawing."""
    exercise, row, terms = exercises.see(database(), me(), exercise_id, "manage")
    problem = None
    if request.method == "POST":
        try:
            form, upload = request.form, request.files.get("task")
            helped = {k: _count(k) for k in ("tries", "off_after", "why_after")}
            task = upload.stream.read() if upload is not None and upload.filename else b""
            wish = Wish(
                form.get("title", ""), form.get("words", ""), terms.model_copy(update=helped),
                _time(form.get("opens", ""), "opens"), _time(form.get("ends", ""), "ends"),
                exercises.picture_of_task(task) if task else None,
            )  # fmt: skip
            exercises.change(database(), me(), exercise_id, wish)
            return _to("page", class_id=row.id, exercise=exercise_id)
        except BadInput as bad:
            problem = bad
    return render_template(
        "exercise_form.html", row=row, exercise=exercise, terms=terms, problem=problem, form=request.form
    ), 422 if problem else 200  # fmt: skip


@blueprint.post("/exercises/<exercise_id>/<any(give, back, away):what>")
def give(exercise_id: str, what: str) -> ResponseReturnValue:
    """Out to the class, back from it, or away for good."""
    _, row, _ = exercises.see(database(), me(), exercise_id, "manage")
    try:
        if what == "away":
            exercises.take_away(database(), me(), exercise_id)
            return _to("page", class_id=row.id)
        exercises.give_out(database(), me(), exercise_id, what == "give")
    except (BadInput, Refused) as problem:
        flash(problem.message)
    return _to("page", class_id=row.id, exercise=exercise_id)


@blueprint.post("/exercises/<exercise_id>/begin")
def begin(exercise_id: str) -> ResponseReturnValue:
    """To the Bench, with one's own numbers."""
    try:
        return redirect(url_for("bench.page", model_id=exercises.begin(database(), me(), exercise_id)), 303)
    except Refused as problem:
        _, row, _ = exercises.see(database(), me(), exercise_id)
        flash(problem.message)
        return _to("page", class_id=row.id, exercise=exercise_id)


@blueprint.get("/exercises/<exercise_id>/drawing")
def task(exercise_id: str) -> ResponseReturnValue:
    """What the part is made after."""
    media, data = exercises.task_of(database(), builder(), me(), exercise_id)
    return Response(data, mimetype=media, headers={"X-Content-Type-Options": "nosniff"})


# --- what everybody did


@blueprint.get("/exercises/<exercise_id>/taken-out.<any(csv, zip):what>")
def taken_out(exercise_id: str, what: str) -> ResponseReturnValue:
    """Everybody as a table; what was handed in as model files."""
    exercise, _, _ = exercises.see(database(), me(), exercise_id, "teach")
    stem = plain_name(exercise.title)
    if what == "csv":
        text = overview.as_csv(database(), me(), exercise_id)
        return as_download(f"{stem}.csv", "text/csv", text.encode("utf-8-sig"))
    return as_download(f"{stem}.zip", "application/zip", overview.as_zip(database(), me(), exercise_id))


@blueprint.get("/doings/<doing_id>")
def work(doing_id: str) -> ResponseReturnValue:
    """What somebody did at an exercise."""
    found = overview.work_of(database(), me(), doing_id)
    _, row, terms = exercises.see(database(), me(), found.exercise.id, "teach")
    shown, sentences = None, []
    if found.hand_ins:
        shown = next((h for h in found.hand_ins if h.id == request.args.get("hand_in")), found.hand_ins[0])
        opened, part_id = answering.handed_in(database(), me(), doing_id, shown.id)
        part = opened.model.part(part_id)
        sentences = [(full_sentence(s, opened.model), s.skipped) for s in part.steps]
    return render_template(
        "exercise_work.html", work=found, row=row, terms=terms, shown=shown, sentences=sentences, kinds=KINDS,
        problem=_told(),
    )  # fmt: skip


@blueprint.post("/doings/<doing_id>/mark")
def mark(doing_id: str) -> ResponseReturnValue:
    """Points, a remark."""
    answering.mark(database(), me(), doing_id, request.form.get("points", ""), request.form.get("remark", ""))
    return _to("work", doing_id=doing_id)


@blueprint.post("/doings/<doing_id>/hand-ins/<hand_in_id>/copy")
def copy(doing_id: str, hand_in_id: str) -> ResponseReturnValue:
    """What was handed in, onto one's own Shelf and the Bench."""
    made = answering.copy_to_shelf(database(), me(), doing_id, hand_in_id)
    return redirect(url_for("bench.page", model_id=made), 303)


@blueprint.get("/doings/<doing_id>/hand-ins/<hand_in_id>.png")
def picture(doing_id: str, hand_in_id: str) -> ResponseReturnValue:
    """A picture of what was handed in."""
    opened, part_id = answering.handed_in(database(), me(), doing_id, hand_in_id)
    png = looking.picture(builder(), opened, part_id, (720, 405))
    return Response(png, mimetype="image/png", headers={"Cache-Control": "private, max-age=31536000, immutable"})
