"""What a change does: the flex test, variants, comparing, copies on which something is tried."""

from __future__ import annotations

import io
import json
import zipfile
from pathlib import PurePath
from typing import Any

from flask import Blueprint, Response, jsonify, redirect, request, url_for
from flask.typing import ResponseReturnValue
from flask_login import login_required

from ..core.amounts import weighing
from ..core.bringing import describe_readers
from ..core.errors import BadInput, NotFound, Trouble
from ..core.exchange import FORMATS
from ..core.exchange.archive import load_archive
from ..core.exchange.base import file_stem, plain_name
from ..core.exchange.modelfile import load_model
from ..core.model.edits.bringing import model_of_file
from ..core.model.variants import as_csv, is_taken, table_of, variant_of
from ..service import comparing, filing, flexing, laying, looking, modelling, replaying, shelf
from ..service.building import BuiltAt, weighed_of
from ..service.modelling import Opened
from .answers import ComparedTold, FileKept, States, TakenBack, TriedTold, VariantBuilt, VariantsTold
from .exchange import as_download
from .replies import builder, database, json_body, me, open_model, studies, ticket_of

blueprint = Blueprint("varying", __name__)


@blueprint.before_request
@login_required
def signed_in_only() -> None:
    """Every model is somebody's."""


# the flex test


@blueprint.post("/api/models/<model_id>/flex")
def begin_flex(model_id: str) -> ResponseReturnValue:
    """Begin to try every number over its range; with ``numbers`` only these, what is known of the others stays."""
    body, opened = json_body(), open_model(model_id, "change")
    part = str(body.get("part", ""))
    asked = flexing.asked_of(opened, part, body)
    known: dict[str, Any] = {}
    old = studies().find(model_id, part, "flex") if asked["numbers"] else None
    if old is not None and old["revision"] == opened.revision:
        asked, known = flexing.gone_on(old, asked)
    return jsonify(studies().begin(opened, me(), part, "flex", asked, known))


@blueprint.get("/api/models/<model_id>/flex/<part_id>")
def flex(model_id: str, part_id: str) -> ResponseReturnValue:
    """How far the flex test of a part is, and what it found."""
    open_model(model_id)
    return jsonify(studies().find(model_id, part_id, "flex") or {"state": "none"})


@blueprint.post("/api/models/<model_id>/flex/<part_id>/stop")
def stop_flex(model_id: str, part_id: str) -> ResponseReturnValue:
    """Stop it; what it found stays."""
    open_model(model_id, "change")
    studies().stop(model_id, part_id, "flex")
    return jsonify(studies().find(model_id, part_id, "flex") or {"state": "none"})


@blueprint.get("/models/<model_id>/parts/<part_id>/as.png")
def picture_as(model_id: str, part_id: str) -> ResponseReturnValue:
    """A small picture of a part as it would be after some edits."""
    opened = _at(open_model(model_id))
    try:
        edits = json.loads(request.args.get("edits", "[]"))
        edited = builder().as_edited(opened, edits)
    except (ValueError, TypeError, AttributeError):
        raise BadInput("What is to be shown could not be understood.") from None
    with builder().commons.share(me(), "aside"):
        png = looking.picture(builder(), edited, edited.model.part(part_id).id, (200, 120), patient=True)
    return Response(png, mimetype="image/png", headers={"Cache-Control": "private, max-age=86400"})


def _at(opened: Opened) -> Opened:
    """The model at the revision that is asked for, where one is."""
    number = request.args.get("revision", type=int)
    return opened if number in (None, opened.revision) else modelling.look_at(database(), me(), opened.id, number or 0)


# variants


@blueprint.get("/api/models/<model_id>/variants/<part_id>")
def variants(model_id: str, part_id: str) -> ResponseReturnValue:
    """The table of variants: its headings, its rows, and which one the model stands at."""
    opened = open_model(model_id)
    table = table_of(opened.model, opened.model.part(part_id).id)
    told: VariantsTold = {
        "heads": table.heads,
        "rows": [
            {"id": v.id, "name": v.name, "texts": row, "taken": is_taken(opened.model, v)}
            for v, row in zip(opened.model.variants, table.rows)
        ],
        "own": ["now", *(p.formula for p in opened.model.parameters)],
        "revision": opened.revision,
    }  # fmt: skip
    return jsonify(told)


@blueprint.post("/api/models/<model_id>/variants/<part_id>/<variant_id>")
def variant_facts(model_id: str, part_id: str, variant_id: str) -> ResponseReturnValue:
    """One variant built: whether it can be, what it weighs, its box, how long it prints."""
    opened, body = open_model(model_id), json_body()
    ticket = ticket_of(model_id, body.get("ticket"))
    try:
        edited = builder().as_edited(
            opened, [{"kind": "take_variant", "variant": variant_of(opened.model, variant_id).id}]
        )
    except NotFound:
        raise
    except Trouble as problem:
        return jsonify({"holds": False, "where": "", "why": problem.message})
    with builder().commons.share(me(), "aside"):
        built = builder().as_it_is(edited, part_id, ticket, patient=True)
    failed = next((s for s in built["steps"] if s["status"] == "failed"), None)
    told: VariantBuilt = {"holds": failed is None and bool(built["bodies"])}
    if failed is not None:
        told |= {"where": edited.model.title_of(failed["id"]), "why": failed["message"]}
    elif not built["bodies"]:
        told |= {"where": "", "why": "There is no solid."}
    if built["bodies"]:
        units = weighing.Units(edited.model.units, "oz" if edited.model.units == "in" else "g")
        rows = weighing.rows(weighed_of(built), units)
        told["facts"] = {r.what: r.text for r in rows if r.what in ("mass", "volume", "box")}
        told["bodies"] = built["bodies"]
        if isinstance(body.get("process"), dict):
            told["seconds"] = laying.print_seconds(builder(), edited, part_id, built["bodies"], body["process"], ticket)
    return jsonify(told)


@blueprint.get("/models/<model_id>/variants/<part_id>/table.csv")
def variants_csv(model_id: str, part_id: str) -> ResponseReturnValue:
    """The table of variants as a file."""
    opened = open_model(model_id, "copy")
    part = opened.model.part(part_id)
    text = as_csv(table_of(opened.model, part.id))
    return as_download(f"{file_stem(opened.model, part, None, ['variants'])}.csv", "text/csv", text.encode())


@blueprint.get("/models/<model_id>/variants/<part_id>/take-out/<format_kind>")
def variants_files(model_id: str, part_id: str, format_kind: str) -> ResponseReturnValue:
    """All variants, or the chosen ones, as files in a zip; what cannot be made is said in a text beside them."""
    opened, ticket = open_model(model_id, "copy"), ticket_of(model_id, request.args.get("ticket"))
    chosen = request.args.get("only", "").split(",") if request.args.get("only") else None
    wanted = [v for v in opened.model.variants if chosen is None or v.id in chosen]
    if not wanted:
        raise BadInput("There is no variant to be taken out.")
    if format_kind not in FORMATS:
        raise NotFound("There is no such format.")
    sheet, missed = io.BytesIO(), []
    names: set[str] = set()
    with builder().commons.share(me(), "long"), zipfile.ZipFile(sheet, "w", zipfile.ZIP_DEFLATED) as archive:
        for variant in wanted:
            try:
                edited = builder().as_edited(opened, [{"kind": "take_variant", "variant": variant.id}])
                built = builder().as_it_is(edited, part_id, ticket, patient=True)
                failed = next((s for s in built["steps"] if s["status"] == "failed"), None)
                if failed is not None:
                    raise Trouble(f"{edited.model.title_of(failed['id'])}: {failed['message']}")
                name, _, data = filing.export(builder(), edited, part_id, format_kind, ticket, patient=True)
            except (BadInput, NotFound) as problem:
                missed.append(f"{variant.name}: {problem.message}")
                continue
            except Trouble as problem:
                if type(problem) is not Trouble:
                    raise
                missed.append(f"{variant.name}: {problem.message}")
                continue
            stem = plain_name(f"{opened.model.name} {variant.name}")
            while stem in names:
                stem += "-2"
            names.add(stem)
            archive.writestr(f"{stem}{PurePath(name).suffix}", data)
        if missed:
            archive.writestr("not-made.txt", "\n".join(missed) + "\n")
    stem = file_stem(opened.model, opened.model.part(part_id), opened.revision, ["variants"])
    return as_download(f"{stem}.zip", "application/zip", sheet.getvalue())


# comparing


@blueprint.get("/api/models/<model_id>/states")
def states(model_id: str) -> ResponseReturnValue:
    """What a part can be compared with: revisions (newest first), variants, the person's other models."""
    opened = open_model(model_id)
    told: States = {
        "revisions": [
            {"number": r.number, "summary": r.summary, "who": who, "at": r.at.isoformat()}
            for r, who in modelling.revisions(database(), me(), model_id, 400)
        ],
        "variants": [{"id": v.id, "name": v.name} for v in opened.model.variants],
        "models": [
            {"id": row.id, "name": row.name, "project": project}
            for row, project in shelf.newest(database(), me(), 100)
            if row.id != model_id
        ],
    }  # fmt: skip
    return jsonify(told)


@blueprint.post("/api/models/<model_id>/compare")
def compare(model_id: str) -> ResponseReturnValue:
    """What differs between two states: ``from`` (an older or other one) and ``to`` (now, where
    nothing else is said).
    """
    opened, body = open_model(model_id), json_body()
    part, ticket = str(body.get("part", "")), ticket_of(model_id, body.get("ticket"))
    opened.model.part(part)
    before, after = (
        comparing.side_of(database(), builder(), me(), opened, part, body.get(word)) for word in ("from", "to")
    )
    found = comparing.compare(builder(), before, after, ticket)
    units = weighing.Units(opened.model.units, "oz" if opened.model.units == "in" else "g")
    tables = [_figures(side, units) for side in found["sides"]]
    told: ComparedTold = {
        "gone": found["gone"], "come": found["come"], "exact": found["exact"], "sides": found["sides"],
        "differences": found["differences"], "unchanged": found["unchanged"],
        "figures": [
            [what, *(t.get(what, "none") for t in tables)] for what in dict.fromkeys(w for t in tables for w in t)
        ],
        "volumes": [units.length_of(v, 3) for v in found["volumes"]],
        "revision": opened.revision, "now": not body.get("to"),
    }  # fmt: skip
    return jsonify(told)


def _figures(built: BuiltAt, units: weighing.Units) -> dict[str, str]:
    rows = weighing.rows(weighed_of(built), units) if built["bodies"] else []
    return {r.what: r.text for r in rows if not r.detail}


@blueprint.post("/api/models/<model_id>/compare/file")
def compare_file(model_id: str) -> ResponseReturnValue:
    """A file to compare with: what is in it is kept for a while, and found by the key that is answered."""
    open_model(model_id)
    upload = request.files.get("file")
    if upload is None or not upload.filename:
        raise BadInput("Choose a file first.")
    data, ending = upload.stream.read(), PurePath(upload.filename).suffix.lower()
    if any(ending in reader["endings"] for reader in describe_readers()):
        found = filing.read_file(builder(), me(), upload.filename, data, ticket_of(model_id, "compare"))
        model = model_of_file(found, upload.filename)
    else:
        model = load_archive(data) if data.startswith(b"PK") else load_model(data)
    told: FileKept = {"file": comparing.keep_file(builder().blobs, model), "name": upload.filename[:80]}
    return jsonify(told)


# revisions played as a film


@blueprint.post("/api/models/<model_id>/replay")
def begin_replay(model_id: str) -> ResponseReturnValue:
    """Begin to make a film of the revisions."""
    body, opened = json_body(), open_model(model_id, "change")
    asked = replaying.asked_of(opened, body)
    return jsonify(studies().begin(opened, me(), str(body.get("part", "")), "replay", asked))


@blueprint.get("/api/models/<model_id>/replay/<part_id>")
def replay(model_id: str, part_id: str) -> ResponseReturnValue:
    """How far the film is; where it can be had once it is made."""
    open_model(model_id)
    told = studies().find(model_id, part_id, "replay") or {"state": "none"}
    if told.get("file"):
        told["url"] = url_for("varying.film", model_id=model_id, part_id=part_id)
    return jsonify({k: v for k, v in told.items() if k not in ("shots", "file")})


@blueprint.post("/api/models/<model_id>/replay/<part_id>/stop")
def stop_replay(model_id: str, part_id: str) -> ResponseReturnValue:
    """Stop making it."""
    open_model(model_id, "change")
    studies().stop(model_id, part_id, "replay")
    return jsonify({})


@blueprint.get("/models/<model_id>/parts/<part_id>/replay")
def film(model_id: str, part_id: str) -> ResponseReturnValue:
    """The film as a file."""
    opened = open_model(model_id, "copy")
    told = studies().find(model_id, part_id, "replay") or {}
    data = builder().blobs.raw(str(told.get("file") or ""))
    if data is None:
        raise NotFound("That film is not at hand any more: make it again.")
    kind = told["asked"]["kind"]
    return as_download(
        f"{file_stem(opened.model, opened.model.part(part_id), None, ['replay'])}.{kind}", f"image/{kind}", data
    )


# copies on which something is tried


@blueprint.post("/models/<model_id>/try")
def try_copy(model_id: str) -> ResponseReturnValue:
    """A copy that knows its origin; opens it."""
    return redirect(url_for("bench.page", model_id=comparing.try_copy(database(), me(), model_id).id), 303)


@blueprint.get("/api/models/<model_id>/tried")
def tried(model_id: str) -> ResponseReturnValue:
    """What was changed on a copy, with what was changed in the original too since."""
    origin = comparing.origin_of(database(), me(), model_id)
    if origin is None:
        return jsonify({"origin": None, "changes": []})
    found = comparing.tried(database(), me(), model_id)
    told: TriedTold = {
        "origin": {**origin, "url": url_for("bench.page", model_id=origin["model"])},
        "changes": [{**t.change.as_json(), "conflict": t.conflict} for t in found],
    }  # fmt: skip
    return jsonify(told)


@blueprint.post("/api/models/<model_id>/tried/take-back")
def take_back(model_id: str) -> ResponseReturnValue:
    """Some of the changes made on a copy, made in its original."""
    keys = json_body().get("keys")
    if not isinstance(keys, list) or not all(isinstance(k, str) for k in keys):
        raise BadInput("What is to be taken back could not be understood.")
    opened = comparing.take_back(database(), me(), model_id, keys)
    told: TakenBack = {"revision": opened.revision, "name": opened.model.name}
    return jsonify(told)
