"""The Shelf: projects and models."""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import PurePath

from flask import (
    Blueprint,
    Response,
    abort,
    flash,
    get_flashed_messages,
    redirect,
    render_template,
    request,
    session,
    url_for,
)
from flask.typing import ResponseReturnValue
from flask_login import login_required

from ..core.bringing import describe_readers
from ..core.errors import Trouble
from ..core.exchange.archive import load_archive
from ..core.exchange.modelfile import load_model
from ..core.model.document import Model, Part
from ..core.model.edits.bringing import model_of_file
from ..core.quantity.units import LengthUnit
from ..service import commenting, filing, looking, modelling
from ..service import shelf as service
from ..service.rights import model_for
from ..service.showing import WORDS
from .replies import builder, database, me, ticket_of

blueprint = Blueprint("shelf", __name__)


@blueprint.before_request
@login_required
def signed_in_only() -> None:
    """Every page here is somebody's."""


@blueprint.app_template_filter("ago")
def ago(moment: datetime) -> str:
    """A time as people say it."""
    seconds = (datetime.now(UTC) - moment).total_seconds()
    for limit, size, word in (
        (60, 1, ""),
        (3600, 60, "minute"),
        (86400, 3600, "hour"),
        (7 * 86400, 86400, "day"),
    ):
        if seconds < limit:
            count = int(seconds / size)
            return "just now" if not word else f"{count} {word}{'s' if count != 1 else ''} ago"
    return moment.strftime("%d %b %Y")


@blueprint.get("/")
def shelf() -> ResponseReturnValue:
    """A project's models; without a project named, the first one."""
    projects = service.projects(database(), me())
    wanted, text = request.args.get("project"), request.args.get("find", "")
    if request.args.get("order") in service.ORDERS:
        session["order"] = request.args["order"]  # remembered by this browser
    order = str(session.get("order")) if session.get("order") in service.ORDERS else "changed"
    chosen = next((p for p, _ in projects if p.id == wanted), projects[0][0] if projects else None)
    models = (
        service.find(database(), me(), text)
        if text.strip()
        else service.models(database(), me(), chosen.id, order)
        if chosen
        else []
    )
    shown = service.shown(database(), me())
    said = commenting.open_by_model(database(), [m.id for m in [*models, *(m for m, _, _ in shown)]])
    page = "_cards.html" if request.headers.get("HX-Target") == "cards" else "shelf.html"
    return render_template(
        page, projects=projects, chosen=chosen, models=models, find=text,
        order=order, orders=[(key, words) for key, (words, _) in service.ORDERS.items()],
        binned=len(service.bin_contents(database(), me())), shown=shown, said=said, lets=WORDS,
        problem=" ".join(str(told) for told in get_flashed_messages()),
        endings=[ending for reader in describe_readers() for ending in reader["endings"]],
    )  # fmt: skip


@blueprint.get("/bin")
def bin_page() -> ResponseReturnValue:
    """What was put in the bin."""
    contents = service.bin_contents(database(), me())
    return render_template(
        "bin.html", projects=service.projects(database(), me()), models=contents, binned=len(contents)
    )


@blueprint.post("/projects")
def make_project() -> ResponseReturnValue:
    """A new project."""
    project = service.make_project(database(), me(), request.form.get("name", ""))
    return redirect(url_for("shelf.shelf", project=project.id), 303)


@blueprint.post("/projects/<project_id>/rename")
def rename_project(project_id: str) -> ResponseReturnValue:
    """Another name."""
    service.rename_project(database(), me(), project_id, request.form.get("name", ""))
    return redirect(url_for("shelf.shelf", project=project_id), 303)


@blueprint.post("/projects/<project_id>/bin")
def bin_project(project_id: str) -> ResponseReturnValue:
    """Into the bin with all its models."""
    service.bin_project(database(), me(), project_id)
    return redirect(url_for("shelf.shelf"), 303)


@blueprint.post("/projects/<project_id>/models")
def make_model(project_id: str) -> ResponseReturnValue:
    """A new, empty model; opens it."""
    units: LengthUnit = "in" if request.form.get("units") == "in" else "mm"
    row = service.make_model(database(), me(), project_id, request.form.get("name", ""), units)
    return redirect(url_for("bench.page", model_id=row.id), 303)


@blueprint.post("/projects/<project_id>/bring-in")
def bring_in(project_id: str) -> ResponseReturnValue:
    """A model from a model file, an archive, or any file that can be brought into one."""
    service.check_project(database(), me(), project_id)
    upload = request.files.get("file")
    try:
        if upload is None or not upload.filename:
            raise Trouble("Choose a file first.")
        data, ending = upload.stream.read(), PurePath(upload.filename).suffix.lower()
        if any(ending in reader["endings"] for reader in describe_readers()):
            found = filing.read_file(builder(), me(), upload.filename, data, ticket_of(project_id, None))
            model = model_of_file(found, upload.filename)
        else:
            model = load_archive(data) if data.startswith(b"PK") else load_model(data)
    except Trouble as problem:
        flash(problem.message[:300])  # kept in the signed cookie: what an address says is not repeated
        return redirect(url_for("shelf.shelf", project=project_id), 303)
    row = service.make_model(database(), me(), project_id, model.name, model.units, model)
    return redirect(url_for("bench.page", model_id=row.id), 303)


def _back(model_id: str) -> ResponseReturnValue:
    opened = modelling.open_model(database(), me(), model_id)
    return redirect(url_for("shelf.shelf", project=opened.project_id), 303)


@blueprint.post("/models/<model_id>/rename")
def rename_model(model_id: str) -> ResponseReturnValue:
    """Another name."""
    service.rename_model(database(), me(), model_id, request.form.get("name", ""))
    return _back(model_id)


@blueprint.post("/models/<model_id>/move")
def move_model(model_id: str) -> ResponseReturnValue:
    """Into another project."""
    service.move_model(database(), me(), model_id, request.form.get("project", ""))
    return _back(model_id)


@blueprint.post("/models/<model_id>/copy")
def copy_model(model_id: str) -> ResponseReturnValue:
    """A copy beside it."""
    return _back(service.copy_model(database(), me(), model_id).id)


@blueprint.post("/models/<model_id>/bin")
def bin_model(model_id: str) -> ResponseReturnValue:
    """Into the bin."""
    service.bin_model(database(), me(), model_id)
    return _back(model_id)


@blueprint.post("/models/<model_id>/back")
def bring_back(model_id: str) -> ResponseReturnValue:
    """Out of the bin."""
    service.bring_back(database(), me(), model_id)
    return _back(model_id)


@blueprint.post("/models/<model_id>/gone")
def delete_for_good(model_id: str) -> ResponseReturnValue:
    """Out of the bin, for ever."""
    service.delete_for_good(database(), me(), model_id)
    return redirect(url_for("shelf.bin_page"))


def _pictured(model: Model) -> Part:
    """The part that stands for a model: what is put together, else the first that has steps."""
    made = [p for p in model.there if p.steps and p.sort != "sheet"]
    return next((p for p in made if p.sort == "together"), (made or model.there)[0])


@blueprint.get("/models/<model_id>/picture.png")
def picture(model_id: str) -> ResponseReturnValue:
    """The picture on the card: kept, or drawn now."""
    opened = modelling.open_model(database(), me(), model_id)
    with database().transaction() as session:
        row = model_for(session, me(), "see", model_id)
        png = row.picture if row.picture_revision == row.revision else None
    if png is None:
        try:
            png = looking.picture(builder(), opened, _pictured(opened.model).id)
        except Trouble:
            abort(404)
        service.keep_picture(database(), me(), model_id, png, opened.revision)
    return Response(png, mimetype="image/png", headers={"Cache-Control": "private, max-age=31536000, immutable"})
