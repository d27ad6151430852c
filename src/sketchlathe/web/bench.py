"""The Bench: its page and what its scripts ask."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, Response, jsonify, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from markupsafe import Markup

from ..core.amounts.materials import MATERIALS
from ..core.bringing import describe_readers
from ..core.errors import BadInput
from ..core.exchange.base import describe_formats
from ..core.frames import ORIGIN_PLANES
from ..core.model.edits.base import describe_acts
from ..core.model.edits.steps import standings
from ..core.model.made_of import materials_of
from ..core.names import ROLES
from ..core.quantity.units import handy
from ..core.registry import kind_of
from ..core.sizes.tables import describe_tables
from ..core.sketch.tools import describe_tools, families
from ..core.sketch.view import describe_constraints
from ..core.steps.base import default_lengths, describe_steps, sentence_of, step_groups
from ..service import comparing, looking, modelling, shelf, showing, sketching
from ..service.modelling import Opened
from . import exercise
from .answers import Elsewhere, Fresh
from .panels import asked_for, filled
from .replies import builder, database, json_body, me, open_model, signed_in_or_shown, ticket_of
from .told import BuiltTold, Changed, State

blueprint = Blueprint("bench", __name__)


blueprint.before_request(signed_in_or_shown)


def _whole(body: dict[str, Any], name: str) -> int | None:
    value = body.get(name)
    if value is not None and (not isinstance(value, int) or isinstance(value, bool) or not 0 <= value < 2**31):
        raise BadInput("The revision that this was made on could not be understood: reload the page.")
    return value


def _refs(body: dict[str, Any]) -> tuple[str, ...]:
    refs = body.get("on")
    if not isinstance(refs, list) or not all(isinstance(r, str) for r in refs):
        raise BadInput("What is selected could not be understood.")
    return tuple(refs[:20])


def _place(raw: Any) -> tuple[float, float]:
    if not isinstance(raw, list) or len(raw) != 2 or not all(isinstance(v, int | float) and abs(v) < 1e7 for v in raw):
        raise BadInput("A place in the sketch is two numbers.")
    return float(raw[0]), float(raw[1])


def _known_frame(step: Any) -> dict[str, list[float]] | None:
    """The plane of a sketch on an origin plane: known without building anything."""
    plane = getattr(step, "plane", None)
    return ORIGIN_PLANES[plane.plane].as_json() if plane is not None and plane.plane else None


def state_of(opened: Opened) -> State:
    """The model as the scripts keep it: steps with what stands in their blanks, without the sketches' curves."""
    model = opened.model
    return {
        "id": opened.id,
        "revision": opened.revision,
        "name": model.name,
        "units": model.units,
        "fractions": model.fractions,
        "handy": {text: handy(mm, model.read_in) for text, mm in default_lengths().items()},
        "may": sorted(opened.rights),
        "canUndo": opened.can_undo,
        "canRedo": opened.can_redo,
        "parameters": [p.name for p in model.parameters],
        "limits": {k.knob: [k.low or "any", k.high or "any"] for k in model.limits},
        "variants": [{"id": v.id, "name": v.name} for v in model.variants],
        "sizes": model.sizes,
        "own": {m.id: materials_of(model)[m.id].as_json() for m in model.materials},
        "parts": [
            {
                "id": part.id,
                "name": part.name,
                "sort": part.sort,
                "gone": part.gone,
                "linked": part.linked.model_dump() if part.linked else None,
                "now": part.now,
                "material": part.material,
                "madeOf": {m.body: m.material for m in part.made_of},
                "bodyNames": {n.body: n.name for n in part.body_names},
                "steps": [
                    {
                        "id": step.id,
                        "kind": kind_of(type(step)),
                        "title": model.title_of(step.id),
                        "skipped": step.skipped,
                        "faces": step.face_words(),
                        "brings": step.brings(),
                        "uses": list(step.uses()),
                        "needs": sorted(stands[step.id].needs),
                        "room": stands[step.id][1:],
                        "frame": _known_frame(step),
                        "fields": step.model_dump(mode="json", include=set(step.blanks())),
                        "words": {p["blank"]: p["text"] for p in sentence_of(step, model) if "blank" in p},
                    }
                    for step in part.steps
                ],
            }
            for part in model.parts
            for stands in [standings(part)]
        ],
    }


@blueprint.post("/models/<model_id>/bring-back/<int:number>")
def bring_back(model_id: str, number: int) -> ResponseReturnValue:
    """The way back from a document that cannot be read: an older revision, as a new one."""
    modelling.restore(database(), me(), model_id, number)
    return redirect(url_for("bench.page", model_id=model_id))


@blueprint.get("/models/<model_id>")
def page(model_id: str) -> ResponseReturnValue:
    """The Bench of one model."""
    try:
        opened = open_model(model_id)
    except modelling.Unreadable as problem:
        return render_template(
            "unreadable.html", problem=problem, last=modelling.last_readable(database(), me(), model_id),
            revisions=modelling.revisions(database(), me(), model_id, 60),
        ), 200  # fmt: skip
    kinds = {
        "steps": describe_steps(), "tools": describe_tools(), "constraints": describe_constraints(),
        "acts": describe_acts(), "materials": {k: m.as_json() for k, m in MATERIALS.items()},
        "roles": ROLES, "tables": describe_tables(), "formats": describe_formats(), "readers": describe_readers(),
    }  # fmt: skip
    asked = asked_for(opened, request.args.get("part"))
    return render_template(
        "bench.html", opened=opened, model=opened.model, part=asked.part, kinds=kinds,
        state={**state_of(opened), "at": asked.part.id}, origin=comparing.origin_of(database(), me(), model_id),
        panels={name: Markup(html) for name, html in filled(asked).items()},
        shower="" if "manage" in opened.rights else showing.whose(database(), model_id),
        exercise=exercise.panel(opened), families=families(), step_groups=step_groups(),
        units=["mm", "cm", "m", "in", "in 1/64"],
    )  # fmt: skip


@blueprint.get("/api/models/<model_id>")
def state(model_id: str) -> ResponseReturnValue:
    """The state and the panels, for a script that has fallen behind."""
    return jsonify(fresh(model_id, request.args.get("part")))


def fresh(model_id: str, part: Any) -> Fresh:
    """The model as it is now, with the panels of a part."""
    opened = open_model(model_id)
    return {**state_of(opened), "panels": filled(asked_for(opened, part))}


def _changed(opened: Opened, body: dict[str, Any], notice: str = "") -> ResponseReturnValue:
    return jsonify(changed(opened, body, notice))


def changed(opened: Opened, body: dict[str, Any], notice: str = "") -> Changed:
    """The model as it then is, with the panels of the part that the page shows and the sketch that is open there."""
    asked = asked_for(opened, body.get("part"), body.get("reading"))
    answer: Changed = {"state": state_of(opened), "notice": notice, "panels": filled(asked)}
    sketch_id = body.get("sketch")
    if sketch_id and any(s.id == sketch_id for p in opened.model.parts for s in p.steps):
        answer["sketch"] = sketching.view(opened, sketch_id)
    return answer


@blueprint.post("/api/models/<model_id>/edit")
def edit(model_id: str) -> ResponseReturnValue:
    """One edit, answered after it is on disk. ``sketch`` asks for the open sketch as it then is."""
    body = json_body()
    opened = modelling.change(database(), me(), model_id, _whole(body, "base"), body.get("edit"))
    return _changed(opened, body, opened.notice)


@blueprint.post("/api/models/<model_id>/link")
def link(model_id: str) -> ResponseReturnValue:
    """A part of another model brought into this one, or brought up to date."""
    body = json_body()
    source, part, into = (str(body.get(k) or "")[:60] for k in ("model", "from", "into"))
    return _changed(modelling.link_part(database(), me(), model_id, _whole(body, "base"), source, part, into), body)


@blueprint.post("/api/models/<model_id>/stands")
def stands(model_id: str) -> ResponseReturnValue:
    """Where another part stands as seen from one, where both are put together: fields of Bring part."""
    body = json_body()
    ids = (str(body.get(k) or "")[:20] for k in ("together", "part", "other"))
    return jsonify(looking.how_it_stands(builder(), open_model(model_id), *ids))


@blueprint.get("/api/models/<model_id>/elsewhere")
def elsewhere(model_id: str) -> ResponseReturnValue:
    """The person's other models, and what of them is linked here."""
    opened = open_model(model_id)
    others = [(row, project) for row, project in shelf.newest(database(), me(), 200) if row.id != model_id]
    told: Elsewhere = {
        "models": [{"id": row.id, "name": row.name, "project": project} for row, project in others],
        "linked": modelling.linked_parts(database(), me(), opened),
    }
    return jsonify(told)


@blueprint.post("/api/models/<model_id>/<any(undo, redo):way>")
def step_through(model_id: str, way: str) -> ResponseReturnValue:
    """Undo or redo."""
    body = json_body()
    go = modelling.undo if way == "undo" else modelling.redo
    opened = go(database(), me(), model_id, _whole(body, "base"))
    return _changed(opened, body, opened.notice)


@blueprint.post("/api/models/<model_id>/restore/<int:number>")
def restore(model_id: str, number: int) -> ResponseReturnValue:
    """An older revision as the newest."""
    return _changed(modelling.restore(database(), me(), model_id, number), json_body())


@blueprint.post("/api/models/<model_id>/build")
def build(model_id: str) -> ResponseReturnValue:
    """The built part; with ``afresh`` from nothing, with ``draft`` a preview of a step, with ``edits`` as it would be
    after them (``near``: and how the mesh of now gets there).
    """
    body = json_body()
    draft, trial = body.get("draft"), body.get("edits")
    opened = open_model(model_id, "see" if draft is None and trial is None else "change")
    part, ticket = str(body.get("part", "")), ticket_of(model_id, body.get("ticket"))
    if isinstance(trial, list) and 1 <= len(trial) <= 50:
        if body.get("near") is True:
            return jsonify(builder().near(opened, part, trial, ticket))
        return jsonify(builder().as_it_is(builder().as_edited(opened, trial), part, ticket))
    if draft is None:
        make = builder().build_afresh if body.get("afresh") is True else builder().build
        built = make(opened, part, ticket)
        after = filled(asked_for(opened, part, body.get("reading")), ("steps", "weigh", "answers", "parts-list"))
        told: BuiltTold = {**built, "panels": after}
        return jsonify(told)
    if not isinstance(draft, dict):
        raise BadInput("A preview needs a draft step.")
    given = body.get("touched")
    touched = [str(t) for t in given][:40] if isinstance(given, list) else []
    return jsonify(builder().preview(opened, part, draft, touched, ticket))


def _triple(raw: Any) -> list[float]:
    if not isinstance(raw, list) or len(raw) != 3 or not all(isinstance(v, int | float) and abs(v) < 1e9 for v in raw):
        raise BadInput("A point or direction in space is three numbers.")
    return [float(v) for v in raw]


@blueprint.post("/api/models/<model_id>/section")
def section(model_id: str) -> ResponseReturnValue:
    """The part cut by a plane."""
    body = json_body()
    opened, ticket = open_model(model_id), ticket_of(model_id, body.get("ticket"))
    plane = _triple(body.get("origin")), _triple(body.get("normal"))
    return jsonify(looking.section(builder(), opened, str(body.get("part", "")), *plane, ticket))


@blueprint.post("/api/models/<model_id>/stop")
def stop(model_id: str) -> ResponseReturnValue:
    """Stop a build or preview."""
    open_model(model_id)
    builder().stop(ticket_of(model_id, json_body().get("ticket")))
    return jsonify({})


@blueprint.get("/api/models/<model_id>/progress/<ticket>")
def progress(model_id: str, ticket: str) -> ResponseReturnValue:
    """Where a build is."""
    open_model(model_id)
    return jsonify(builder().progress(ticket_of(model_id, ticket)))


@blueprint.get("/api/models/<model_id>/sketches/<step_id>")
def sketch(model_id: str, step_id: str) -> ResponseReturnValue:
    """A sketch as it is drawn."""
    return jsonify(sketching.view(open_model(model_id), step_id))


@blueprint.get("/models/<model_id>/sketches/<step_id>/picture/<key>")
def underlay(model_id: str, step_id: str, key: str) -> ResponseReturnValue:
    """The picture under a sketch; ``key`` tells one from the next, so it may be kept."""
    media, data = sketching.underlay_picture(open_model(model_id), step_id)
    headers = {"Cache-Control": "private, max-age=31536000, immutable", "X-Content-Type-Options": "nosniff"}
    return Response(data, mimetype=media, headers=headers)


@blueprint.post("/api/models/<model_id>/sketches/<step_id>/selection")
def selection(model_id: str, step_id: str) -> ResponseReturnValue:
    """What a selection measures and can take."""
    return jsonify(sketching.selection(open_model(model_id), step_id, _refs(json_body())))


@blueprint.post("/api/models/<model_id>/sketches/<step_id>/dimension")
def dimension(model_id: str, step_id: str) -> ResponseReturnValue:
    """The dimension that picks and a pointer mean."""
    body = json_body()
    at, rim = _place(body.get("at")), str(body.get("rim", ""))
    return jsonify(sketching.dimension(open_model(model_id), step_id, _refs(body), at, rim))


@blueprint.post("/api/models/<model_id>/sketches/<step_id>/preview")
def preview_drawing(model_id: str, step_id: str) -> ResponseReturnValue:
    """What a drawing tool would draw."""
    return jsonify(sketching.preview(open_model(model_id), step_id, json_body().get("draw")))


@blueprint.post("/api/models/<model_id>/sketches/<step_id>/stretch")
def stretch(model_id: str, step_id: str) -> ResponseReturnValue:
    """What trimming at a place would take away."""
    body = json_body()
    return jsonify(sketching.stretch(open_model(model_id), step_id, str(body.get("ref")), _place(body.get("at"))))


@blueprint.get("/api/models/<model_id>/sketches/<step_id>/motions")
def motions(model_id: str, step_id: str) -> ResponseReturnValue:
    """How what is free can move."""
    return jsonify(sketching.motions(open_model(model_id), step_id))


@blueprint.get("/api/models/<model_id>/sketches/<step_id>/suggestions")
def suggestions(model_id: str, step_id: str) -> ResponseReturnValue:
    """What would hold what is free."""
    return jsonify(sketching.suggestions(open_model(model_id), step_id))


@blueprint.post("/api/models/<model_id>/sketches/<step_id>/chain")
def chain(model_id: str, step_id: str) -> ResponseReturnValue:
    """The curves that hang together with one."""
    refs = _refs(json_body())
    if not refs:
        raise BadInput("Select a curve of the chain first.")
    return jsonify(list(sketching.chain(open_model(model_id), step_id, refs[0])))


@blueprint.get("/api/models/<model_id>/sketches/<step_id>/takeable")
def takeable(model_id: str, step_id: str) -> ResponseReturnValue:
    """What an open sketch may take from the solids before it."""
    return jsonify(looking.takeable(builder(), open_model(model_id), step_id))


@blueprint.post("/api/models/<model_id>/sketches/<step_id>/clip")
def clip(model_id: str, step_id: str) -> ResponseReturnValue:
    """Curves to be pasted elsewhere."""
    refs = json_body().get("on")
    if not isinstance(refs, list) or not all(isinstance(r, str) for r in refs):
        raise BadInput("What is selected could not be understood.")
    return jsonify(sketching.clip(open_model(model_id), step_id, tuple(refs[:3000])))


@blueprint.post("/api/models/<model_id>/sketches/<step_id>/drag")
def drag(model_id: str, step_id: str) -> ResponseReturnValue:
    """A drag in one go, where no socket can be had: from where it was grabbed to where the pointer is."""
    body = json_body()
    grab, at = _place(body.get("grab")), _place(body.get("at"))
    return jsonify(sketching.drag_at_once(open_model(model_id), step_id, str(body.get("ref")), grab, at))


@blueprint.post("/api/models/<model_id>/number")
def number(model_id: str) -> ResponseReturnValue:
    """What a formula amounts to."""
    body = json_body()
    return jsonify(
        sketching.number(
            open_model(model_id), str(body.get("text", "")), str(body.get("sort", "length")), body.get("sketch")
        )
    )
