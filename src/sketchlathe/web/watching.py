"""For whoever runs the server: is it there, is it ready, what does it do (Prometheus), what happened (logs as JSON).

Every request has an id (``X-Request-ID``, taken over from a proxy or made here); it stands in the log of the request
and in that of the work that it caused.
"""

from __future__ import annotations

import contextlib
import json
import logging
import os
import re
import secrets
import sys
import time
from datetime import UTC, datetime
from typing import Any

from flask import Blueprint, Flask, Response, current_app, g, jsonify, request
from flask.typing import ResponseReturnValue
from prometheus_client import CollectorRegistry, Counter, Gauge, Histogram, generate_latest, multiprocess

from ..core.errors import Trouble
from ..workers import Engine, WorkerTrouble
from ..workers.contract import request_id
from ..workers.requests import WarmUp

blueprint = Blueprint("watching", __name__)
_TIMES = (0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 30, 60)
_log = logging.getLogger("lathe.web")


class Gauges:
    """What is counted in a web process."""

    def __init__(self) -> None:
        self.registry = CollectorRegistry()
        self.requests = Counter(
            "lathe_requests", "Requests answered", ["endpoint", "method", "status"], registry=self.registry
        )
        self.seconds = Histogram(
            "lathe_request_seconds", "Time to answer", ["endpoint"], buckets=_TIMES, registry=self.registry
        )
        self.under_way = Gauge(
            "lathe_requests_under_way", "Requests being answered", registry=self.registry,
            multiprocess_mode="livesum",
        )  # fmt: skip
        self.sockets = Gauge(
            "lathe_sockets", "Open sketches that drag", registry=self.registry, multiprocess_mode="livesum"
        )
        self.jobs = Histogram(
            "lathe_job_seconds", "Time of a job, waiting included", ["kind", "lane", "end"], buckets=_TIMES,
            registry=self.registry,
        )  # fmt: skip

    def told(self) -> bytes:
        """All of it, of all web processes where there are several (prometheus_client's multiprocess mode)."""
        if "PROMETHEUS_MULTIPROC_DIR" not in os.environ:
            return generate_latest(self.registry)
        everybody = CollectorRegistry()
        multiprocess.MultiProcessCollector(everybody)  # type: ignore[no-untyped-call]
        return generate_latest(everybody)


def watch(app: Flask, engine: Engine) -> None:
    """Count and log what an application does."""
    gauges = Gauges()
    app.extensions["gauges"] = gauges
    engine.heard = lambda kind, lane, end, seconds: gauges.jobs.labels(kind, lane, end).observe(seconds)
    app.register_blueprint(blueprint)

    @app.before_request
    def begun() -> None:
        told = request.headers.get("X-Request-ID", "")
        g.request_id = told if re.fullmatch(r"[\w.:-]{1,64}", told) else secrets.token_hex(8)
        g.began = time.perf_counter()
        request_id.set(g.request_id)
        gauges.under_way.inc()

    @app.after_request
    def answered(response: Response) -> Response:
        if not hasattr(g, "request_id"):
            return response
        response.headers["X-Request-ID"] = g.request_id
        took = time.perf_counter() - g.began
        endpoint = request.endpoint or "none"
        gauges.requests.labels(endpoint, request.method, str(response.status_code)).inc()
        gauges.seconds.labels(endpoint).observe(took)
        if endpoint not in ("static", "files.static_file", "watching.healthz"):
            _log.info(
                "answered",
                extra={"facts": {
                    "request": g.request_id, "method": request.method, "endpoint": endpoint,
                    "status": response.status_code, "ms": round(1e3 * took, 1),
                    "model": (request.view_args or {}).get("model_id"),
                }},
            )  # fmt: skip
        return response

    @app.teardown_request
    def ended(_error: BaseException | None) -> None:
        if hasattr(g, "request_id"):
            gauges.under_way.dec()


@blueprint.get("/healthz")
def healthz() -> ResponseReturnValue:
    """The process is there."""
    return jsonify({"ok": True})


@blueprint.get("/readyz")
def readyz() -> ResponseReturnValue:
    """Everything that is needed is there: the database, a worker, room on the disk."""
    found: dict[str, str] = {}
    database, engine = current_app.extensions["database"], current_app.extensions["builder"].engine
    if not database.answers():
        found["database"] = "does not answer"
    try:
        if not engine.busy("ready"):
            engine.submit(WarmUp(), "ready")
    except (Trouble, WorkerTrouble) as problem:
        found["workers"] = str(problem)
    with contextlib.suppress(OSError):
        room = os.statvfs(engine.blobs.folder)
        if room.f_bavail * room.f_frsize < 200 << 20:
            found["disk"] = "less than 200 MB are free"
    return jsonify({"ready": not found, "problems": found}), 503 if found else 200


@blueprint.get("/metrics")
def metrics() -> ResponseReturnValue:
    """Figures for Prometheus, told to whoever has the token (LATHE_METRICS_TOKEN). Where a request comes from says
    nothing: behind a proxy on this machine all of them do.
    """
    token = os.environ.get("LATHE_METRICS_TOKEN", "")
    shown = request.headers.get("Authorization", "").removeprefix("Bearer ")
    if not (token and secrets.compare_digest(shown.encode(), token.encode())):
        return jsonify({"message": "These figures are not for everybody."}), 403
    gauges: Gauges = current_app.extensions["gauges"]
    return Response(gauges.told(), mimetype="text/plain; version=0.0.4")


class _Json(logging.Formatter):
    """A line of JSON an event. Only what was said on purpose stands in it: no bodies, no cookies, no passwords."""

    def format(self, record: logging.LogRecord) -> str:
        told: dict[str, Any] = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname.lower(), "who": record.name, "what": record.getMessage(),
            **getattr(record, "facts", {}),
        }  # fmt: skip
        if record.exc_info:
            told["trace"] = self.formatException(record.exc_info)
        return json.dumps({k: v for k, v in told.items() if v is not None}, ensure_ascii=False)


def log_as_json() -> None:
    """Write the logs of this program to the standard error, a line of JSON an event."""
    out = logging.StreamHandler(sys.stderr)
    out.setFormatter(_Json())
    root = logging.getLogger("lathe")
    root.handlers, root.propagate = [out], False
    root.setLevel(logging.INFO)
