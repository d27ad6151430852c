"""What whoever runs the server sees: whether it is there, what it does, what happened."""

import json
import logging

import pytest
from tests.web.test_pages import Visitor, bench, member  # noqa: F401

from sketchlathe.store import DatabaseGone
from sketchlathe.web.watching import _Json


def test_it_says_that_it_is_there_and_ready(visitor_of) -> None:
    assert visitor_of.get("/healthz").json == {"ok": True}
    ready = visitor_of.get("/readyz")
    assert (ready.status_code, ready.json) == (200, {"ready": True, "problems": {}})


@pytest.fixture
def visitor_of(app):
    return app.test_client()


def test_a_database_that_is_away_is_said(visitor_of, app, monkeypatch) -> None:
    def gone():
        raise DatabaseGone("select 1", {}, Exception("gone"))

    monkeypatch.setattr(app.extensions["database"], "transaction", gone)
    ready = visitor_of.get("/readyz")
    assert ready.status_code == 503
    assert ready.json["problems"] == {"database": "does not answer"}
    assert visitor_of.get("/healthz").status_code == 200


def test_figures_are_for_whoever_has_the_token(member, bench, monkeypatch) -> None:  # noqa: F811
    member.ask(f"/api/models/{bench}/build", {"part": "p1"})
    assert member.client.get("/metrics").status_code == 403
    monkeypatch.setenv("LATHE_METRICS_TOKEN", "a secret")
    bearer = {"Authorization": "Bearer a secret"}
    told = member.client.get("/metrics", headers=bearer).get_data(as_text=True)
    assert 'lathe_requests_total{endpoint="bench.build",method="POST",status="200"}' in told
    assert 'lathe_job_seconds_count{end="ok",kind="build_part",lane="ask"}' in told
    assert "lathe_sockets 0.0" in told
    assert member.client.get("/metrics", headers={"Authorization": "Bearer nö"}).status_code == 403


def test_a_request_has_an_id_that_the_log_tells(visitor_of, caplog) -> None:
    with caplog.at_level(logging.INFO, logger="lathe.web"):
        answer = visitor_of.get("/readyz", headers={"X-Request-ID": "from-the-proxy"})
    assert answer.headers["X-Request-ID"] == "from-the-proxy"
    told = json.loads(_Json().format(caplog.records[-1]))
    assert (told["request"], told["endpoint"], told["status"]) == ("from-the-proxy", "watching.readyz", 200)
    odd = visitor_of.get("/healthz", headers={"X-Request-ID": "x y"}).headers["X-Request-ID"]
    assert odd != "x y"
    assert len(odd) == 16
