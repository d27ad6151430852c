"""Who may come in: an address is whose letter it gets, many guesses at once are as many, a shut account is shut."""

from __future__ import annotations

import email
import email.policy
import re
import secrets
import threading
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest
from tests.web.test_from_elsewhere import at_provider, issuer, made_up, through  # noqa: F401
from tests.web.test_guarded import site
from tests.web.test_pages import Visitor

from sketchlathe.commands.serve import sound_secret
from sketchlathe.core.errors import BadInput
from sketchlathe.service import accounts
from sketchlathe.standins.provider import PEOPLE

PASSWORD = "a good password"


def inside(visitor: Visitor) -> bool:
    return visitor.client.get("/").status_code == 200


def new_address() -> str:
    return f"{secrets.token_hex(4)}@weather-post.example"


@pytest.fixture
def lettered(database, workers, tmp_path) -> Any:
    app = site(database, workers, tmp_path, post=str(tmp_path / "post"), site="https://lathe.example")
    app.letters = lambda: [  # newest last
        email.message_from_bytes(p.read_bytes(), policy=email.policy.default)
        for p in sorted((tmp_path / "post").glob("*.eml"), key=lambda p: p.stat().st_mtime_ns)
    ]
    return app


def link_in(letter: Any) -> str:
    return re.search(r"https://lathe\.example(/\S+)", letter.get_content())[1]


def test_who_took_an_address_first_is_out_when_its_owner_comes(
    database, workers, tmp_path, issuer, made_up  # noqa: F811
) -> None:  # fmt: skip
    app, mail = at_provider(database, workers, tmp_path, issuer), PEOPLE[made_up]["email"]
    thief = Visitor(app)
    assert thief.post("/sign-up", name="T", email=mail, password=PASSWORD).status_code == 302
    letter = accounts.reset_link(database, mail)
    assert inside(thief)
    owner, end = through(app, made_up)
    assert end.status_code == 302 and inside(owner)
    assert not inside(thief)
    assert Visitor(app).post("/sign-in", email=mail, password=PASSWORD).status_code == 422
    assert thief.client.get(f"/new-password/{letter}").status_code == 404


def test_a_provider_that_had_only_said_so_is_no_way_in_once_the_owner_was_here(
    database, workers, tmp_path, issuer, made_up, monkeypatch  # noqa: F811
) -> None:  # fmt: skip
    app, mail = at_provider(database, workers, tmp_path, issuer), PEOPLE[made_up]["email"]
    monkeypatch.setitem(PEOPLE[made_up], "email_verified", False)
    thief, _ = through(app, made_up)
    assert inside(thief)
    accounts.use_reset_link(database, accounts.reset_link(database, mail), "quite another one")
    assert not inside(thief)
    again, end = through(app, made_up)
    assert end.status_code == 422 and not inside(again)
    assert Visitor(app).post("/sign-in", email=mail, password="quite another one").status_code == 302


def test_an_address_takes_its_letter_and_the_password(lettered, database) -> None:
    mail = new_address()
    visitor = Visitor(lettered)
    told = visitor.post("/sign-up", name="Nel Oake", email=mail, password=PASSWORD)
    assert "on its way" in told.get_data(as_text=True) and not inside(visitor)
    assert visitor.post("/sign-in", email=mail, password=PASSWORD).status_code == 200 and not inside(visitor)
    first, second = lettered.letters()
    assert visitor.client.get(link_in(first)).status_code == 404, "the newer letter counts"
    assert visitor.post(link_in(second), password="not this one").status_code == 422
    assert visitor.post(link_in(second), password=PASSWORD).status_code == 302
    assert inside(visitor)
    assert Visitor(lettered).post("/sign-in", email=mail, password=PASSWORD).status_code == 302


def test_who_has_an_account_is_told_to_its_owner_alone(lettered, database) -> None:
    mail = new_address()
    accounts.sign_up(database, "Nel Oake", mail, PASSWORD)
    said = [
        Visitor(lettered).post("/sign-up", name="N", email=e, password=PASSWORD).get_data(as_text=True)
        for e in (mail, f"no-{mail}")
    ]
    bare = [re.sub(r'(content|value|nonce)="[^"]+"', "", text) for text in said]
    assert bare[0] == bare[1].replace("no-", "")
    assert {letter["Subject"] for letter in lettered.letters() if letter["To"] == mail} == {
        "Sketch Lathe: you have an account"
    }


def test_letters_go_to_the_address_that_is_kept_and_not_without_end(lettered, database) -> None:
    mail = new_address()
    accounts.sign_up(database, "Nel Oake", mail, PASSWORD)
    visitor = Visitor(lettered)
    for typed in (f" {mail.upper()}", f"\u200b{mail}", f"{mail}\nBcc: x@y.example", mail, mail, mail, mail):
        assert visitor.post("/forgotten", email=typed).status_code == 200
    letters = lettered.letters()
    assert {letter["To"] for letter in letters} == {mail}
    assert len(letters) == 3


def test_many_guesses_at_once_are_as_many(database, workers, tmp_path) -> None:
    from sketchlathe.web.limits import limiter

    app = site(database, workers, tmp_path)
    mail = new_address()
    accounts.sign_up(database, "Nel Oake", mail, PASSWORD)
    tokens = [Visitor(app) for _ in range(24)]
    forms = [
        {"csrf_token": v.token(), "email": f"\u200b{mail}", "password": f"guess {i}"} for i, v in enumerate(tokens)
    ]
    with ThreadPoolExecutor(24) as many:
        codes = list(
            many.map(lambda pair: pair[0].client.post("/sign-in", data=pair[1]).status_code, zip(tokens, forms))
        )
    assert codes.count(422) <= 10 and codes.count(429) >= 14
    assert Visitor(app).post("/sign-in", email=f"\u200b{mail}", password=PASSWORD).status_code == 429
    limiter.reset()
    assert Visitor(app).post("/sign-in", email=f"\u200b{mail}", password=PASSWORD).status_code == 302


def test_right_passwords_are_not_counted(database, workers, tmp_path) -> None:
    app = site(database, workers, tmp_path)
    mail = new_address()
    accounts.sign_up(database, "Nel Oake", mail, PASSWORD)
    for _ in range(12):
        assert Visitor(app).post("/sign-in", email=mail, password=PASSWORD).status_code == 302


def test_few_passwords_are_hashed_at_a_time(monkeypatch, database) -> None:
    at_work, most, lock = 0, 0, threading.Lock()
    plain = accounts._HASHER.verify

    class Slow:
        def verify(self, hashed: str, password: str) -> bool:
            nonlocal at_work, most
            with lock:
                at_work += 1
                most = max(most, at_work)
            try:
                return plain(hashed, password)
            finally:
                with lock:
                    at_work -= 1

        hash = staticmethod(accounts._HASHER.hash)

    monkeypatch.setattr(accounts, "_HASHER", Slow())

    def one(_: int) -> None:
        with pytest.raises(BadInput):
            accounts.sign_in(database, "nobody@weather-post.example", "a guess")

    with ThreadPoolExecutor(16) as many:
        list(many.map(one, range(16)))
    assert 1 <= most <= accounts.HASHES


def test_an_address_is_kept_as_it_looks(database) -> None:
    mail = new_address()
    person = accounts.sign_up(database, "Nel", f"\u200b{mail.upper()} ", PASSWORD)
    assert person.email == mail
    with pytest.raises(accounts.Taken):
        accounts.sign_up(database, "Nel", mail, PASSWORD)


def test_a_script_is_kept_whoever_is_signed_in(app) -> None:
    visitor = Visitor(app)
    address = re.search(r"/s/\w+/[\w./-]+\.css", visitor.client.get("/sign-in").text)[0]
    visitor.client.set_cookie("session", "some other")
    headers = visitor.client.get(address).headers
    assert "immutable" in headers["Cache-Control"]
    assert "Cookie" not in headers["Vary"] and "Set-Cookie" not in headers


def test_pages_are_not_kept(app) -> None:
    assert Visitor(app).client.get("/sign-in").headers["Cache-Control"] == "no-store"


def test_an_address_does_not_say_what_a_page_says(app, database) -> None:
    visitor = Visitor(app)
    from sketchlathe.web.limits import limiter

    limiter.reset()
    assert visitor.post("/sign-up", name="N", email=new_address(), password=PASSWORD).status_code == 302
    assert "call+this" not in visitor.client.get("/?problem=call+this+number").get_data(as_text=True)
    assert "call this" not in visitor.client.get("/?problem=call+this+number").get_data(as_text=True)
    project = re.search(r"/projects/(\w+)/models", visitor.client.get("/").get_data(as_text=True))[1]
    visitor.post(f"/projects/{project}/bring-in")
    assert "Choose a file first" in visitor.client.get("/").get_data(as_text=True)
    assert "Choose a file first" not in visitor.client.get("/").get_data(as_text=True)


@pytest.mark.parametrize("secret", ["CHANGE-ME-to-64-random-hexadecimal-digits", "short", "0" * 64, ""])
def test_a_secret_that_is_none_is_refused(secret: str) -> None:
    assert not sound_secret(secret)
    assert sound_secret(secrets.token_hex(32))
