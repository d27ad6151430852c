"""Accounts: shut and opened by whoever runs the server, a new password by a link, browsers signed out from afar."""

import re

import pytest
from tests.web.test_pages import Visitor, bench, member  # noqa: F401

from sketchlathe.commands import admin
from sketchlathe.core.errors import BadInput, NotFound
from sketchlathe.service import accounts
from sketchlathe.web.account import browser_name
from sketchlathe.web.limits import limiter


def again(app, email: str, password: str = "a good password") -> Visitor:
    visitor = Visitor(app)
    visitor.signed = visitor.post("/sign-in", email=email, password=password)
    return visitor


def inside(visitor: Visitor) -> bool:
    return visitor.client.get("/").status_code == 200


def test_a_shut_account_is_out_everywhere_until_it_is_opened(app, database, member) -> None:  # noqa: F811
    assert inside(member)
    accounts.lock(database, member.email, shut=True)
    assert not inside(member)
    refused = again(app, member.email).signed
    assert refused.status_code == 422
    assert "shut" in refused.get_data(as_text=True)
    accounts.lock(database, member.email, shut=False)
    assert again(app, member.email).signed.status_code == 302


def test_a_link_gives_a_new_password_once(app, database, member) -> None:  # noqa: F811
    limiter.reset()
    token = accounts.reset_link(database, member.email)
    stranger = Visitor(app)
    page = stranger.client.get(f"/new-password/{token}").get_data(as_text=True)
    assert "For Pia Holm" in page
    assert stranger.post(f"/new-password/{token}", password="short").status_code == 422
    assert stranger.post(f"/new-password/{token}", password="quite another one").status_code == 302
    assert not inside(member), "signed in still, with the old password"
    assert again(app, member.email).signed.status_code == 422
    assert again(app, member.email, "quite another one").signed.status_code == 302
    used = stranger.client.get(f"/new-password/{token}")
    assert used.status_code == 404
    assert "used already" in used.get_data(as_text=True)
    assert stranger.client.get("/new-password/guessed").status_code == 404


@pytest.mark.parametrize(
    ("told", "name"),
    [
        ("Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0", "Firefox on Linux"),
        ("Mozilla/5.0 (Windows NT 10.0) AppleWebKit/537.36 Chrome/150.0 Safari/537.36 Edg/150.0", "Edge on Windows"),
        ("Mozilla/5.0 (iPad; CPU OS 18_0 like Mac OS X) Version/18.0 Safari/605.1", "Safari on iPad"),
        ("", "a browser"),
    ],
)
def test_a_browser_is_called_by_its_name(told: str, name: str) -> None:
    assert browser_name(told) == name


def test_a_newer_link_takes_the_place_of_an_older(database, member) -> None:  # noqa: F811
    older, newer = (accounts.reset_link(database, member.email) for _ in range(2))
    with pytest.raises(NotFound):
        accounts.use_reset_link(database, older, None)
    assert accounts.use_reset_link(database, newer, None).name == "Pia Holm"
    with pytest.raises(NotFound, match="no account"):
        accounts.reset_link(database, "nobody@w.example")


def test_a_browser_is_signed_out_from_another(app, member) -> None:  # noqa: F811
    other = again(app, member.email)
    assert inside(other)
    page = member.client.get("/account").get_data(as_text=True)
    assert page.count("since") == 2
    assert "this one" in page
    session = re.search(r'name="session" value="(\w+)"', page)[1]
    assert member.post("/account/end", session=session).status_code == 302
    assert not inside(other)
    assert inside(member)
    # somebody else's row is nobody's business
    stranger = Visitor(app)
    stranger.post("/sign-up", name="S", email=f"s{session[:8]}@w.example", password="a good password")
    mine = member.client.get("/account").get_data(as_text=True)
    assert mine.count("since") == 1
    stranger.post("/account/end", session="")
    assert inside(member)


def test_a_password_is_changed_by_whoever_knows_it(app, member) -> None:  # noqa: F811
    other = again(app, member.email)
    wrong = member.post("/account", old="not this", password="another password")
    assert wrong.status_code == 422
    assert "not your password" in wrong.get_data(as_text=True)
    assert member.post("/account", old="a good password", password="another password").status_code == 302
    assert inside(member)
    assert not inside(other)
    assert again(app, member.email, "another password").signed.status_code == 302


def test_people_are_run_by_a_command(database, database_url, capsys) -> None:
    at = ["--database", database_url]
    assert admin.run([*at, "--site", "https://lathe.example", "make", "Ola Bruun", "ola@w.example"]) == 0
    link = re.search(r"https://lathe\.example/new-password/(\S+)", capsys.readouterr().out)[1]
    accounts.use_reset_link(database, link, "a password of mine")
    assert accounts.sign_in(database, "ola@w.example", "a password of mine").name == "Ola Bruun"
    assert admin.run([*at, "lock", "ola@w.example"]) == 0
    with pytest.raises(BadInput, match="shut"):
        accounts.sign_in(database, "ola@w.example", "a password of mine")
    assert admin.run([*at, "list"]) == 0
    assert re.search(r"Ola Bruun +ola@w\.example +0 of 1000 models .* locked", capsys.readouterr().out)
    assert admin.run([*at, "unlock", "ola@w.example"]) == 0
    assert admin.run([*at, "reset", "ola@w.example"]) == 0
    assert "/new-password/" in capsys.readouterr().out
    with pytest.raises(BadInput, match="which database"):
        admin.run(["list"])
