"""Check & print: readiness, layers, estimates, the printer and its live state."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

from flask import Blueprint, Response, current_app, g, jsonify, render_template
from flask.typing import ResponseReturnValue
from flask_login import login_required

from ..core.errors import BadInput, NotFound, Refused
from ..core.exchange.base import describe_formats
from ..core.printing.process import Process, described
from ..service import laying
from ..service.commons import TooMuch
from ..service.printing import PrinterLink
from .exchange import as_download
from .replies import builder, json_body, me, open_model, part_asked, ticket_of

blueprint = Blueprint("printing", __name__)


@blueprint.before_request
@login_required
def signed_in_only() -> None:
    """Every model is somebody's, and so is the printer's queue."""


def _printer() -> PrinterLink:
    found: PrinterLink | None = current_app.extensions.get("printer")
    if found is None:
        raise Refused("No printer is set up here: start one with ./lathe printer and give its port to the server.")
    return found


@blueprint.get("/models/<model_id>/print")
def page(model_id: str) -> ResponseReturnValue:
    """Check & print of one part."""
    opened = open_model(model_id, "copy")
    return render_template(
        "print.html", opened=opened, model=opened.model, part=part_asked(opened), process=Process().model_dump(),
        described=described(),
        formats=[f for f in describe_formats() if f["kind"] in ("3mf", "stl", "step")],
        printer="printer" in current_app.extensions,
    )  # fmt: skip


def _asked() -> tuple[str, dict[str, Any], str, Any, Any]:
    body = json_body()
    process = body.get("process") or {}
    if not isinstance(process, dict):
        raise BadInput("How it is to be printed could not be understood.")
    return (
        str(body.get("part", "")),
        process,
        str(body.get("lay", ""))[:80],
        body.get("moved") or {},
        body.get("ticket"),
    )


@blueprint.post("/api/models/<model_id>/print/check")
def check(model_id: str) -> ResponseReturnValue:
    """Findings, ways to lay it, estimate."""
    part, process, lay, moved, ticket = _asked()
    return jsonify(
        laying.check_print(
            builder(), open_model(model_id, "copy"), part, process, lay, moved, ticket_of(model_id, ticket)
        )
    )


@blueprint.post("/api/models/<model_id>/print/times")
def times(model_id: str) -> ResponseReturnValue:
    """How long each line of the parts list takes."""
    part, process, _, _, ticket = _asked()
    return jsonify(
        laying.print_times(builder(), open_model(model_id, "copy"), part, process, ticket_of(model_id, ticket))
    )


@blueprint.post("/api/models/<model_id>/print/queue")
def queue(model_id: str) -> ResponseReturnValue:
    """Send the part to the printer."""
    part, process, lay, moved, ticket = _asked()
    printer = _printer()
    _, program = laying.print_program(
        builder(), open_model(model_id, "copy"), part, process, lay, moved, ticket_of(model_id, ticket)
    )
    return jsonify(printer.upload(program, me()))


@blueprint.post("/api/models/<model_id>/print/program")
def program(model_id: str) -> ResponseReturnValue:
    """The program as a file, for another printer."""
    part, process, lay, moved, ticket = _asked()
    name, data = laying.print_program(
        builder(), open_model(model_id, "copy"), part, process, lay, moved, ticket_of(model_id, ticket)
    )
    return as_download(name, "text/x-gcode", data)


@blueprint.post("/printer/<any(pause, resume, cancel):deed>/<job>")
def act(deed: str, job: str) -> ResponseReturnValue:
    """Pause, resume, cancel a job."""
    return jsonify(_printer().act_on(job[:40], deed, me()))


@blueprint.post("/printer/spool")
def spool() -> ResponseReturnValue:
    """A new spool of filament."""
    _printer().act("/spool")
    return jsonify({})


@blueprint.post("/printer/faults/<any(filament, lost, back):kind>")
def fault(kind: str) -> ResponseReturnValue:
    """Play a fault, to see what happens: where one is alone with the printer."""
    if not g.demo:
        raise NotFound("Faults are played in the demo only: here the printer is everybody's.")
    return jsonify(_printer().act(f"/faults/{kind}"))


STREAMS = 4  # of one person at a time: each holds a thread of its process


@blueprint.get("/printer/events")
def events() -> ResponseReturnValue:
    """The printer's state, live (server-sent events). Ends after a while; the browser asks again by itself."""
    printer, person, commons = _printer(), me(), builder().commons
    held = commons.take(person, "stream", STREAMS)
    if not held:
        raise TooMuch("Several pages of yours look at the printer already: close one of them.")

    def stream() -> Iterator[str]:
        yield "retry: 800\n\n"
        for state in printer.changes(person):
            yield f"data: {json.dumps(state)}\n\n" if state is not None else ": still here\n\n"

    answer = Response(
        stream(), mimetype="text/event-stream", headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"}
    )
    answer.call_on_close(lambda: commons.leave(person, "stream", held))
    return answer
