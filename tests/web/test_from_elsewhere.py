"""Signing in through a provider, letters, how much one may have."""

from __future__ import annotations

import email
import email.policy
import re
import secrets
import threading
from collections.abc import Iterator
from typing import Any
from urllib.parse import urlsplit

import pytest
import requests
from tests.web.test_guarded import site
from tests.web.test_pages import Visitor
from werkzeug.serving import make_server

from sketchlathe.commands import admin
from sketchlathe.core.errors import BadInput
from sketchlathe.service import accounts
from sketchlathe.service.quotas import TooFull
from sketchlathe.standins.provider import PEOPLE, practice_provider
from sketchlathe.web.settings import Provider


@pytest.fixture(scope="module")
def issuer() -> Iterator[str]:
    made: list[Any] = []
    server = make_server("127.0.0.1", 0, lambda *told: made[0](*told), threaded=True)
    address = f"http://127.0.0.1:{server.server_port}"
    made.append(practice_provider(address, "lathe", "practice"))
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield address
    server.shutdown()


@pytest.fixture
def made_up(monkeypatch) -> str:
    """Somebody whom only the provider knows."""
    who = secrets.token_hex(4)
    monkeypatch.setitem(
        PEOPLE, who, {"name": "Nel Oake", "email": f"{who}@weather-post.example", "email_verified": True}
    )
    return who


def through(app: Any, who: str, visitor: Visitor | None = None) -> tuple[Visitor, Any]:
    """A browser that goes through the provider; where it comes out."""
    visitor = visitor or Visitor(app)
    there = visitor.client.get("/sign-in/elsewhere").headers["Location"]
    assert "who=" not in there and "code_challenge=" in there
    assert PEOPLE[who]["name"] in requests.get(there, timeout=5).text
    back = requests.get(f"{there}&who={who}", allow_redirects=False, timeout=5).headers["Location"]
    at = urlsplit(back)
    return visitor, visitor.client.get(f"{at.path}?{at.query}")


def at_provider(database, workers, tmp_path, issuer: str, **more: Any) -> Any:
    provider = Provider(issuer, "lathe", "practice", "the Weather post")
    return site(database, workers, tmp_path, provider=provider, **more)


def test_the_first_visit_makes_an_account_and_the_next_finds_it(database, workers, tmp_path, issuer, made_up) -> None:
    app = at_provider(database, workers, tmp_path, issuer)
    assert "through the Weather post" in Visitor(app).client.get("/sign-in").get_data(as_text=True)
    visitor, end = through(app, made_up)
    assert end.status_code == 302
    page = visitor.client.get("/").get_data(as_text=True)
    assert "Nel Oake" in page and "First project" in page
    project = re.search(r"/projects/(\w+)/models", page)[1]
    visitor.post(f"/projects/{project}/models", name="Vane of Nel", units="mm")
    again, _ = through(app, made_up)
    assert "Vane of Nel" in again.client.get("/").get_data(as_text=True)
    accounts.lock(database, PEOPLE[made_up]["email"], shut=True)
    _, shut = through(app, made_up)
    assert shut.status_code == 422 and "is shut" in shut.get_data(as_text=True)


def test_an_account_made_here_is_theirs_only_with_an_address_that_was_checked(
    database, workers, tmp_path, issuer, made_up, monkeypatch
) -> None:
    app = at_provider(database, workers, tmp_path, issuer)
    mine = accounts.sign_up(database, "Nel Oake", PEOPLE[made_up]["email"], "a good password")
    monkeypatch.setitem(PEOPLE[made_up], "email_verified", False)
    _, refused = through(app, made_up)
    assert refused.status_code == 422
    assert "sign in with the password" in refused.get_data(as_text=True)
    monkeypatch.setitem(PEOPLE[made_up], "email_verified", True)
    visitor, end = through(app, made_up)
    assert end.status_code == 302
    with visitor.client.session_transaction() as kept:
        assert kept["_user_id"].startswith(mine.id)


def test_what_did_not_come_from_the_provider_signs_nobody_in(database, workers, tmp_path, issuer, made_up) -> None:
    app = at_provider(database, workers, tmp_path, issuer)
    visitor = Visitor(app)
    assert visitor.client.get("/sign-in/elsewhere/done?code=guessed&state=guessed").status_code == 422
    there = visitor.client.get("/sign-in/elsewhere").headers["Location"]
    back = requests.get(f"{there}&who={made_up}", allow_redirects=False, timeout=5).headers["Location"]
    at = urlsplit(back)
    stranger = Visitor(app)  # a link with somebody else's code (login fixation)
    assert stranger.client.get(f"{at.path}?{at.query}").status_code == 422
    assert visitor.client.get(f"{at.path}?{at.query}").status_code == 302
    assert visitor.client.get(f"{at.path}?{at.query}").status_code == 422, "a code is good once"
    gone = site(database, workers, tmp_path, provider=Provider("http://127.0.0.1:1", "lathe", "x", "the Post"))
    told = Visitor(gone).client.get("/sign-in/elsewhere")
    assert told.status_code == 422 and "did not work just now" in told.get_data(as_text=True)
    assert site(database, workers, tmp_path).test_client().get("/sign-in/elsewhere").status_code == 404


def test_passwords_and_new_accounts_can_be_shut_off(database, workers, tmp_path, issuer) -> None:
    mail = f"{secrets.token_hex(4)}@weather-post.example"
    closed = Visitor(site(database, workers, tmp_path, sign_up=False))
    told = closed.post("/sign-up", name="Nel", email=mail, password="a good password")
    assert told.status_code == 422 and "made by whoever runs it" in told.get_data(as_text=True)
    only = Visitor(at_provider(database, workers, tmp_path, issuer, passwords=False))
    assert 'name="password"' not in only.client.get("/sign-in").get_data(as_text=True)
    accounts.sign_up(database, "Nel", mail, "a good password")
    assert only.post("/sign-in", email=mail, password="a good password").status_code == 422


def _letters(folder: Any) -> list[Any]:
    return [email.message_from_bytes(p.read_bytes(), policy=email.policy.default) for p in sorted(folder.glob("*.eml"))]


def test_a_forgotten_password_is_a_letter_that_tells_nobody_who_has_an_account(database, workers, tmp_path) -> None:
    folder = tmp_path / "post"
    app = site(database, workers, tmp_path, post=str(folder), site="https://lathe.example")
    mail = f"{secrets.token_hex(4)}@weather-post.example"
    accounts.sign_up(database, "Nel Oake", mail, "a good password")
    visitor = Visitor(app)
    said = [visitor.post("/forgotten", email=e).get_data(as_text=True) for e in (mail, f"no-{mail}")]
    assert "on its way" in said[0]
    csrf = re.compile(r'content="[^"]+"|value="[^"]+"|nonce="[^"]+"')
    assert csrf.sub("", said[0]) == csrf.sub("", said[1])
    (letter,) = _letters(folder)
    assert letter["To"] == mail
    link = re.search(r"https://lathe\.example(/new-password/\S+)", letter.get_content())[1]
    assert visitor.post(link, password="another password").status_code == 302
    assert "was changed" in _letters(folder)[-1]["Subject"] or "was changed" in _letters(folder)[0]["Subject"]
    assert accounts.sign_in(database, mail, "another password").email == mail
    # others guess at the account meanwhile: whoever had the letter gets in all the same, a stranger does not
    for i in range(12):
        guesser, place = Visitor(app), {"REMOTE_ADDR": f"10.0.1.{i}"}
        form = {"csrf_token": guesser.token(), "email": mail, "password": f"guess {i} of many"}
        guesser.client.post("/sign-in", data=form, environ_base=place)
    assert Visitor(app).post("/sign-in", email=mail, password="another password").status_code == 429
    assert visitor.post("/sign-in", email=mail, password="another password").status_code == 302
    with pytest.raises(BadInput):
        accounts.sign_in(database, mail, "a good password")
    silent = Visitor(site(database, workers, tmp_path))
    assert "sends no letters" in silent.client.get("/forgotten").get_data(as_text=True)


def test_nobody_has_more_models_than_one_may(database, workers, tmp_path, capsys) -> None:
    app = site(database, workers, tmp_path)
    mail = f"{secrets.token_hex(4)}@weather-post.example"
    visitor = Visitor(app)
    visitor.post("/sign-up", name="Nel Oake", email=mail, password="a good password")
    url = database.engine.url.render_as_string(hide_password=False)
    assert admin.run(["--database", url, "quota", mail, "--models", "2"]) == 0
    project = re.search(r"/projects/(\w+)/models", visitor.client.get("/").get_data(as_text=True))[1]
    codes = [visitor.post(f"/projects/{project}/models", name=f"Vane {i}", units="mm").status_code for i in range(3)]
    assert codes == [303, 303, 409]
    assert admin.run(["--database", url, "quota", mail, "--models", "0", "--megabytes", "1"]) == 0
    assert visitor.post(f"/projects/{project}/models", name="Vane 4", units="mm").status_code == 303
    assert admin.run(["--database", url, "list"]) == 0
    assert re.search(rf"{mail}\s+3 of 1000 models\s+0.0\d of 1 MB", capsys.readouterr().out)


def test_what_is_too_large_for_a_persons_room_is_refused_whole(database, workers, tmp_path) -> None:
    from sketchlathe.service import quotas, shelf

    person = accounts.sign_up(database, "Nel", f"{secrets.token_hex(4)}@weather-post.example", "a good password")
    accounts.give_room(database, person.email, None, 1)
    with database.transaction() as session, pytest.raises(TooFull, match="of the 1 MB"):
        quotas.check_room(session, person.id, 1_200_000)
    project = shelf.projects(database, person.id)[0][0]
    assert shelf.make_model(database, person.id, project.id, "Small").revision == 1
    with database.transaction() as session:
        quotas.check_room(session, person.id, 200_000)
