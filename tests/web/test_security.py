"""What docs/security.md says, proved over every address there is, so that a new one cannot be forgotten."""

from __future__ import annotations

import io
import json
import logging
import re
import secrets

import pytest
from tests.hand import plate
from tests.web.test_guarded import site
from tests.web.test_pages import Visitor, bench, bring_in, member  # noqa: F401

from sketchlathe.core.errors import BadInput
from sketchlathe.core.exchange.modelfile import dump_model
from sketchlathe.service import accounts
from sketchlathe.web.watching import _Json

PUBLIC = {
    "account.sign_in", "account.sign_up", "account.sign_out", "account.demo_sign_in", "account.forgotten",
    "account.new_password", "account.confirm", "elsewhere.begin", "elsewhere.done", "files.static_file",
    "watching.healthz", "watching.readyz", "watching.metrics", "showing.by_link",
    "handbook.contents", "handbook.page",
}  # fmt: skip


def addresses(app, model: str = "0" * 32) -> list[tuple[str, str, str]]:
    """(endpoint, method, address) of everything that is answered, about one model."""
    found = []
    for rule in app.url_map.iter_rules():
        address = re.sub(r"<any\((\w+)[^>]*>", r"\1", rule.rule).replace("<model_id>", model)
        address = re.sub(r"<int:\w+>", "1", address)
        address = re.sub(r"<part_id>", "p1", address).replace("<format_kind>", "stl")
        address = re.sub(r"<[^>]*key>", "0" * 32, address)
        address = re.sub(r"<[^>]+>", "s1", address)
        found += [(rule.endpoint, method, address) for method in sorted(rule.methods & {"GET", "POST"})]
    assert len(found) > 80
    return found


def test_whoever_is_not_signed_in_gets_nothing(app) -> None:
    stranger = Visitor(app)
    token = stranger.token()
    for endpoint, method, address in addresses(app):
        if endpoint in PUBLIC or endpoint == "socket.live" or "live" in address:
            continue
        headers = {"X-CSRFToken": token, "Accept": "application/json"}
        answer = stranger.client.open(address, method=method, json={} if method == "POST" else None, headers=headers)
        assert answer.status_code in (302, 401), (address, answer.status_code)


def test_nobody_reaches_somebody_elses_model(app, member, bench) -> None:  # noqa: F811
    bring_in(member, dump_model(plate().model))
    other = Visitor(app)
    mail = f"{secrets.token_hex(5)}@weather-post.example"
    assert other.post("/sign-up", name="Ivo Marsh", email=mail, password="a good password").status_code == 302
    token, tried = other.token(), 0
    headers = {"X-CSRFToken": token, "Accept": "application/json"}
    for _, method, address in addresses(app, bench):
        if bench not in address or "live" in address:
            continue
        tried += 1
        body = {"part": "p1", "edit": {"kind": "set_units", "units": "in"}, "ticket": "t", "chord": 1, "angle": 1}
        answer = other.client.open(address, method=method, json=body if method == "POST" else None, headers=headers)
        text = answer.get_data(as_text=True)
        assert answer.status_code >= 400 or json.loads(text) in ({}, {"stopped": True}), (address, text[:200])
        assert answer.status_code < 500 and "Wind vane" not in text, address
    assert tried > 55
    assert member.ask(f"/api/models/{bench}").json["revision"] == 1


def test_nothing_is_changed_without_the_pages_token(app, member, bench) -> None:  # noqa: F811
    for _, method, address in addresses(app, bench):
        if method == "POST":
            answer = member.client.post(address, json={"edit": {"kind": "set_units", "units": "in"}})
            assert answer.status_code == 400, address
    assert member.client.get("/").status_code == 200, "signed out by somebody else's page"


def test_what_a_browser_is_told_to_refuse(database, workers, tmp_path) -> None:
    app = site(database, workers, tmp_path)
    safe = {"default-src": "'none'", "frame-ancestors": "'none'", "base-uri": "'none'", "form-action": "'self'"}
    for address in ("/sign-in", "/sign-up", "/forgotten", "/nowhere", "/healthz"):
        answer = app.test_client().get(address)
        policy = dict(p.strip().split(" ", 1) for p in answer.headers["Content-Security-Policy"].split(";"))
        assert safe.items() <= policy.items()
        assert not re.search(r"unsafe|\*|http:", answer.headers["Content-Security-Policy"])
        assert answer.headers["X-Content-Type-Options"] == "nosniff"
        assert answer.headers["Referrer-Policy"] == "same-origin"
        assert answer.headers["X-Frame-Options"] == "SAMEORIGIN"


def test_the_cookie_is_for_us_only_and_for_encrypted_ways(database, workers, tmp_path) -> None:
    from sketchlathe.web import Settings, create_app

    app = create_app(Settings(secret="g", blobs=tmp_path), database, workers)
    answer = app.test_client().get("/sign-in", base_url="https://lathe.example")
    cookie = answer.headers["Set-Cookie"]
    assert all(word in cookie for word in ("Secure", "HttpOnly", "SameSite=Lax", "Path=/"))
    assert "max-age=31556926" in answer.headers["Strict-Transport-Security"]


def test_files_go_out_as_files(member) -> None:  # noqa: F811
    page = bring_in(member, dump_model(plate("60", "40", "5").model)).get_data(as_text=True)
    model = re.search(r"/models/(\w{32})/panels", page)[1]
    for kind in ("stl", "json", "csv", "3mf"):
        answer = member.client.get(f"/models/{model}/parts/p1/take-out/{kind}")
        if answer.status_code == 200:
            assert answer.headers["Content-Disposition"].startswith("attachment")
            assert "html" not in answer.mimetype and "svg" not in answer.mimetype


def test_a_name_with_a_script_in_it_is_a_name(member) -> None:  # noqa: F811
    page = member.client.get("/").get_data(as_text=True)
    project = re.search(r"/projects/(\w+)/models", page)[1]
    name = "<script>alert(1)</script>"
    member.post(f"/projects/{project}/models", name=name, units="mm")
    shown = member.client.get("/").get_data(as_text=True)
    assert name not in shown and "&lt;script&gt;alert(1)" in shown


@pytest.mark.parametrize(
    "password",
    ["1234567890", "password123!", "Passwort2026", "aaaaaaaaaaaa", "qwertyuiop1", "sketch lathe", "98765 43210"],
)
def test_passwords_that_are_tried_first_are_refused(database, password: str) -> None:
    with pytest.raises(BadInput, match="tried first"):
        accounts.sign_up(database, "Nel", f"{secrets.token_hex(5)}@weather-post.example", password)


def test_passwords_are_kept_as_argon2id(database, person) -> None:
    assert accounts.find_person(database, person.id).password_hash.startswith("$argon2id$")


def test_no_secret_stands_in_the_log(app) -> None:
    out = io.StringIO()
    handler = logging.StreamHandler(out)
    handler.setFormatter(_Json())
    log = logging.getLogger("lathe")
    log.addHandler(handler)
    before = log.level
    log.setLevel(logging.INFO)
    try:
        visitor = Visitor(app)
        mail = f"{secrets.token_hex(5)}@weather-post.example"
        visitor.post("/sign-up", name="Nel Oake", email=mail, password="a very good password")
        visitor.client.get("/new-password/a-secret-token?x=secret-in-the-query")
    finally:
        log.removeHandler(handler)
        log.setLevel(before)
    told = out.getvalue()
    assert '"endpoint": "account.sign_up"' in told
    with visitor.client.session_transaction() as kept:
        token = kept["_user_id"].partition(":")[2]
    assert not any(secret in told for secret in ("a very good", mail, "a-secret-token", "secret-in-the-query", token))


def test_a_clock_that_is_put_back_signs_nobody_out_and_one_put_forward_by_months_does(app, monkeypatch) -> None:
    import itsdangerous.timed

    now = itsdangerous.timed.time.time
    ahead = {"by": 3 * 3600.0}

    class Clock:
        @staticmethod
        def time() -> float:
            return now() + ahead["by"]

    monkeypatch.setattr(itsdangerous.timed, "time", Clock)
    person = Visitor(app)
    mail = f"{secrets.token_hex(5)}@weather-post.example"
    assert person.post("/sign-up", name="Ivo Marsh", email=mail, password="a good password").status_code == 302
    ahead["by"] = 0.0
    assert person.client.get("/").status_code == 200
    ahead["by"] = 40 * 86400.0
    assert person.client.get("/").status_code == 302
