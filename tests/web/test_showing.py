"""A model shown to others: what each of them may, by every door; links, classes, addresses; comments; who is at it."""

from __future__ import annotations

import re
from datetime import timedelta

import pytest
from tests.web.learning import Somebody
from tests.web.test_pages import Visitor

from sketchlathe.service import accounts
from sketchlathe.store import Person
from sketchlathe.store.tables import Showing, now

BLOCK = {
    "kind": "add_step",
    "part": "p1",
    "step": "block",
    "fields": {"shape": "box"},
}
PARAMETER = {"kind": "add_parameter", "name": "wide", "formula": "20 mm"}


@pytest.fixture
def owner(app, database) -> Somebody:
    return Somebody(app, database, "Ona Reed")


@pytest.fixture
def other(app, database) -> Somebody:
    return Somebody(app, database, "Ivo Marsh")


@pytest.fixture
def model(owner) -> str:
    page = owner.see("/")
    project = re.search(r"/projects/(\w+)/models", page)[1]
    made: str = owner.goes(f"/projects/{project}/models", name="Vane", units="mm").rsplit("/", 1)[1]
    told = owner.ask(f"/api/models/{made}/edit", {"edit": BLOCK})
    assert told.status_code == 200, told.get_json()
    return made


DOORS = {
    "see": [
        ("get", "/models/{}"),
        ("get", "/api/models/{}"),
        ("build", {"part": "p1"}),
        ("section", {"part": "p1", "origin": [0, 0, 2], "normal": [0, 0, 1]}),
        ("revisions/1/look", {"part": "p1"}),
        ("get", "/models/{}/panels/revisions"),
        ("get", "/api/models/{}/comments"),
        ("here", {"window": "w", "revision": 1}),
    ],
    "comment": [("comments", {"text": "Is 5 mm enough?", "about": {"part": "p1"}})],
    "copy": [("get", "/models/{}/parts/p1/take-out/model"), ("get", "/models/{}/parts/p1/take-out/stl")],
    "change": [
        ("edit", {"edit": PARAMETER}),
        ("undo", {}),
        ("build", {"part": "p1", "draft": {"kind": "block"}}),
        ("build", {"part": "p1", "edits": [PARAMETER]}),
        ("restore/1", {}),
        ("flex", {"part": "p1"}),
        ("seek", {"part": "p1", "parameter": "wide", "figure": "mass", "goal": "3 g"}),
    ],
    "manage": [("shown", {"sort": "link", "lets": "look"}), ("get", "/api/models/{}/shown")],
}
"""By the right that each asks for."""
SIGNED = {
    "copy": ["/models/{}/copy", "/models/{}/try", "/models/{}/print"],
    "manage": ["/models/{}/bin", "/models/{}/gone", "/models/{}/move"],
}
RIGHTS = ["see", "comment", "copy", "change", "manage"]
LETS = ["look", "comment", "copy", "edit"]


def knock(who: Visitor, model: str, door: tuple[str, object]) -> int:
    how, what = door
    if how == "get":
        return who.client.get(str(what).format(model), headers={"Sec-Fetch-Dest": "document"}).status_code
    return who.ask(f"/api/models/{model}/{how}", what).status_code


def show(owner: Somebody, model: str, **how):
    return owner.ask(f"/api/models/{model}/shown", {"lets": "look", **how})


def link_of(owner: Somebody, model: str, lets: str = "look", days: int | None = None) -> str:
    told = show(owner, model, sort="link", lets=lets, days=days).get_json()
    return re.findall(r'value="http://[^/]+(/shown/[^"]+)"', told["html"])[-1]


def address(database, who: Somebody) -> str:
    with database.transaction() as session:
        return session.get_one(Person, who.id).email


def check_doors(who: Visitor, model: str, may: int, signed: bool = True) -> None:
    """The first ``may`` of RIGHTS are open, the others shut; shut ones tell a person who may see it why."""
    for k, right in enumerate(RIGHTS):
        for door in DOORS[right]:
            got = knock(who, model, door)
            if k < may:
                assert got in (200, 409, 422), (right, door, got)  # 409, 422: let in, and there is nothing to do
            elif signed:
                assert got == (403 if may else 404), (right, door, got)
            else:
                assert got in (302, 401, 403), (right, door, got)


@pytest.mark.parametrize("lets", LETS)
def test_whom_it_is_shown_to_by_name_may_what_was_said_and_no_more(owner, other, database, model, lets) -> None:
    check_doors(other, model, 0)
    assert show(owner, model, sort="person", to=f" {address(database, other).upper()} ", lets=lets).status_code == 200
    check_doors(other, model, LETS.index(lets) + 1)
    for right, paths in SIGNED.items():
        for path in paths:
            got = other.post(path.format(model)) if "print" not in path else other.client.get(path.format(model))
            assert (got.status_code in (200, 303)) is (RIGHTS.index(right) <= LETS.index(lets)), (path, got.status_code)
    assert "Vane" in other.see("/")


@pytest.mark.parametrize("lets", ["look", "copy"])
def test_who_has_a_link_looks_without_an_account(app, owner, model, lets) -> None:
    stranger = Visitor(app)
    check_doors(stranger, model, 0, signed=False)
    assert stranger.client.get(link_of(owner, model, lets)).headers["Location"].endswith(f"/models/{model}")
    if lets == "look":
        check_doors(stranger, model, 1, signed=False)
    assert knock(stranger, model, DOORS["copy"][1]) == (200 if lets == "copy" else 403)
    page = stranger.client.get(f"/models/{model}").get_data(as_text=True)
    assert "shown to you by Ona Reed" in page and "onlooker" in page
    assert "comment-form" not in page  # what is said is said by somebody
    built = stranger.ask(f"/api/models/{model}/build", {"part": "p1"}).get_json()
    mesh = stranger.client.get(f"/meshes/{built['bodies'][0]['key']}")
    assert mesh.status_code == 200
    assert Visitor(app).client.get(f"/meshes/{built['bodies'][0]['key']}").status_code == 401
    # the Shelf, other people's models and everything that is somebody's stay shut
    for path in ("/", "/bin", "/classes", "/account"):
        assert stranger.client.get(path).status_code == 302, path


def test_a_link_gives_more_to_who_had_less_and_is_put_away(owner, other, database, model) -> None:
    show(owner, model, sort="person", to=address(database, other), lets="look")
    other.client.get(link_of(owner, model, "copy"))
    check_doors(other, model, 3)
    other.client.get(link_of(owner, model, "look"))
    check_doors(other, model, 3)
    other.goes(f"/models/{model}/put-away")
    assert knock(other, model, DOORS["see"][1]) == 404


def test_nobody_makes_anything_of_a_link_that_is_not_whole_or_over(app, owner, database, model) -> None:
    link = link_of(owner, model)
    for wrong in (link[:-2], link.replace("/shown/", "/shown/x"), "/shown/x", f"/shown/{model}", link + "%00"):
        answer = Visitor(app).client.get(wrong)
        assert answer.status_code in (404, 422), wrong
    with database.transaction() as session:
        row = session.query(Showing).filter_by(model_id=model).one()
        row.until = now() - timedelta(seconds=1)
    late = Visitor(app).client.get(link)
    assert late.status_code == 404 and "ask whoever sent it" in late.get_data(as_text=True)


def test_what_is_taken_back_ends_while_it_is_looked_at(app, owner, other, model) -> None:
    link = link_of(owner, model)
    stranger = Visitor(app)
    stranger.client.get(link)
    other.client.get(link)
    assert knock(stranger, model, DOORS["see"][1]) == knock(other, model, DOORS["see"][1]) == 200
    html = owner.ask(f"/api/models/{model}/shown").get_json()["html"]
    assert "Ivo Marsh" in html
    showing = re.search(r'data-take-back="(\w+)"', html)[1]
    assert other.ask(f"/api/models/{model}/shown/{showing}/take-back", {}).status_code == 403
    assert owner.ask(f"/api/models/{model}/shown/{showing}/take-back", {}).get_json()["count"] == 0
    assert knock(stranger, model, DOORS["see"][1]) in (401, 404)
    assert knock(other, model, DOORS["see"][1]) == 404
    assert "Vane" not in other.see("/")


def test_a_class_sees_what_is_shown_to_it_as_long_as_one_is_in_it(owner, other, database, model) -> None:
    of_class = owner.goes("/classes", name="Form and fit").rsplit("/", 1)[1]
    assert show(other, model, sort="class", to=of_class).status_code == 404
    assert show(owner, model, sort="class", to=of_class, lets="comment").status_code == 200
    assert knock(other, model, DOORS["see"][1]) == 404
    code = re.search(r'class="code num">([^<]+)<', owner.see(f"/classes/{of_class}/people"))[1]
    other.goes("/classes/join", code=code)
    check_doors(other, model, 2)
    other.post(f"/classes/{of_class}/leave")
    assert knock(other, model, DOORS["see"][1]) == 404


def test_an_address_without_an_account_counts_once_it_is_proved(app, owner, database, model) -> None:
    told = show(owner, model, sort="person", to="edda@weather-post.example").get_json()
    assert "edda@weather-post.example" in told["html"]  # and not whether there is such a person
    edda = accounts.sign_up(database, "Edda Quill", "edda@weather-post.example", "a good password")
    came = Visitor(app)
    came.post("/sign-in", email="edda@weather-post.example", password="a good password")
    assert knock(came, model, DOORS["see"][1]) == 404
    with database.transaction() as session:
        session.get_one(Person, edda.id).address_checked = now()
    assert knock(came, model, DOORS["see"][1]) == 200
    assert came.post(f"/models/{model}/put-away").status_code == 303
    assert knock(came, model, DOORS["see"][1]) == 404


def test_what_lies_in_the_bin_is_shown_to_nobody(owner, other, database, model) -> None:
    show(owner, model, sort="person", to=address(database, other), lets="edit")
    assert knock(other, model, DOORS["see"][1]) == 200
    owner.post(f"/models/{model}/bin")
    assert knock(other, model, DOORS["see"][1]) == 404
    owner.post(f"/models/{model}/back")
    assert knock(other, model, DOORS["see"][1]) == 200


def test_what_is_changed_by_one_is_the_others_next_revision_and_takes_the_owners_room(
    owner, other, database, model
) -> None:
    show(owner, model, sort="person", to=address(database, other), lets="edit")
    here = f"/api/models/{model}/here"
    seen = owner.ask(here, {"window": "a", "revision": 2}).get_json()
    assert (seen["fresh"], seen["others"], seen["since"]) == (None, [], [])
    assert other.ask(f"/api/models/{model}/edit", {"base": 2, "edit": PARAMETER}).status_code == 200
    met = other.ask(here, {"window": "b", "revision": 3, "at": "Sketch 1"}).get_json()
    assert [o["name"] for o in met["others"]] == ["Ona Reed"]
    seen = owner.ask(here, {"window": "a", "revision": 2}).get_json()
    assert seen["fresh"]["revision"] == 3 and len(seen["since"]) == 1 and seen["since"][0].startswith("Ivo Marsh: ")
    assert [(o["name"], o["at"]) for o in seen["others"]] == [("Ivo Marsh", "Sketch 1")]
    late = owner.ask(f"/api/models/{model}/edit", {"base": 2, "edit": {**PARAMETER, "name": "deep"}})
    assert late.status_code == 409 and late.get_json()["stale"]
    other.ask(here, {"window": "b", "leaves": True})
    again = owner.ask(here, {"window": "a", "revision": 3}).get_json()
    assert again["others"] == []
    assert owner.ask(here, {"window": "c", "revision": 3}).get_json()["others"][0]["who"] == "you"


def test_undo_says_whose_change_it_took_back(owner, other, database, model) -> None:
    show(owner, model, sort="person", to=address(database, other), lets="edit")
    other.ask(f"/api/models/{model}/edit", {"edit": PARAMETER})
    told = owner.ask(f"/api/models/{model}/undo", {}).get_json()
    assert told["state"]["parameters"] == [] and "Ivo Marsh" in told["notice"]
    assert owner.ask(f"/api/models/{model}/undo", {}).get_json()["notice"] == ""  # one's own


def test_a_copy_of_what_is_shown_lies_on_ones_own_shelf_and_is_ones_own(owner, other, database, model) -> None:
    show(owner, model, sort="person", to=address(database, other), lets="copy")
    page = other.see(other.goes(f"/models/{model}/copy"))
    mine = next(i for i in re.findall(r"/models/(\w{32})/copy", page) if i != model)
    assert other.ask(f"/api/models/{mine}/edit", {"edit": PARAMETER}).status_code == 200
    assert owner.ask(f"/api/models/{mine}").status_code == 404
    assert owner.ask(f"/api/models/{model}").get_json()["revision"] == 2


def test_comments_stand_at_a_step_are_answered_settled_and_deleted_by_whom_they_are(
    owner, other, database, model
) -> None:
    show(owner, model, sort="person", to=address(database, other), lets="comment")
    at = f"/api/models/{model}/comments"
    step = owner.ask(f"/api/models/{model}").get_json()["parts"][0]["steps"][0]["id"]
    said = other.ask(at, {"text": "Is 5 mm\x07 <b>enough</b>?", "about": {"part": "p1", "step": step}}).get_json()
    assert said["open"] == {step: 1}
    assert "Is 5 mm &lt;b&gt;enough&lt;/b&gt;?" in said["html"] and "Ivo Marsh" in said["html"]
    first = re.search(r'id="said-(\w+)"', said["html"])[1]
    for who in (owner, other):
        assert "1 open comment" in who.see("/")
    # the owner answers and settles it; an answer opens it again
    assert owner.ask(f"{at}/{first}/settle", {}).get_json()["open"] == {}
    answered = other.ask(at, {"text": "Not yet.", "answers": first}).get_json()
    assert answered["open"] == {step: 1} and answered["html"].count("<article") == 2
    assert "delete the answer of Ivo Marsh" in answered["html"]
    mine = owner.ask(at, {"text": "It is.", "answers": first}).get_json()
    last = re.findall(r'id="said-(\w+)"', mine["html"])[-1]
    assert other.ask(f"{at}/{last}/delete", {}).status_code == 403  # the owner's words
    assert owner.ask(f"{at}/{first}/delete", {}).get_json()["open"] == {}
    assert owner.ask(f"{at}/{last}/settle", {}).status_code == 404
    for bad in ({"text": " \n "}, {"text": "x" * 4001}, {"text": "x", "about": {"part": "nothing"}}, {"text": "x"}):
        assert other.ask(at, bad).status_code == 422, bad


def test_nobody_is_shown_a_model_twice_nor_for_what_there_is_not(owner, other, database, model) -> None:
    to = address(database, other)
    for lets in ("look", "edit"):
        assert show(owner, model, sort="person", to=to, lets=lets).get_json()["count"] == 1
    check_doors(other, model, 4)
    bad = [
        {"sort": "person", "to": "nobody"}, {"sort": "person", "to": address(database, owner)},
        {"sort": "person", "to": to, "lets": "manage"}, {"sort": "link", "lets": "edit"}, {"sort": "everybody"},
        {"sort": "link", "days": 0}, {"sort": "link", "days": "7"}, {"sort": "link", "days": True},
    ]  # fmt: skip
    for how in bad:
        assert show(owner, model, **how).status_code == 422, how
    assert show(owner, model, sort="class", to="no-class").status_code == 404
