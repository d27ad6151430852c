"""Every route under nonsense: never a fault of the server's, always a sentence, and the model stays as it was."""

import json
import re
import secrets

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from tests.conftest import plate
from tests.web.test_pages import Visitor

from sketchlathe.core.exchange.modelfile import dump_model

NONSENSE = [
    None, True, 0, -1, 1e308, float("nan"), float("inf"), "", "x" * 5000, "‮\x00'\"<script>", [], [[]], [None], {},
    {"a": {"b": []}},
    [1, 2], [1, 2, 3], ["nan"] * 3, {"kind": "nothing"}, {"kind": 7}, {"kind": "set_units", "units": "parsec"},
]  # fmt: skip


@pytest.fixture(scope="module")
def member(app):
    made = Visitor(app)
    made.post(
        "/sign-up", name="Pia Holm", email=f"{secrets.token_hex(5)}@weather-post.example", password="a good password"
    )
    made.fixed = made.token("/")
    made.token = lambda path="": made.fixed
    return made


@pytest.fixture(scope="module")
def bench(member) -> str:
    """A model with a sketch (s1) and a solid (s2)."""
    page = member.client.get("/").get_data(as_text=True)
    project = re.search(r"/projects/(\w+)/models", page)[1]
    from io import BytesIO

    data = {"file": (BytesIO(dump_model(plate().model)), "plate.lathe.json"), "csrf_token": member.fixed}
    place = member.client.post(f"/projects/{project}/bring-in", data=data, content_type="multipart/form-data")
    return place.headers["Location"].rsplit("/", 1)[1]


def routes(app, method: str) -> list[str]:
    return sorted(r.rule for r in app.url_map.iter_rules() if method in r.methods and not r.websocket)


def fill(rule: str, bench: str, odd: str | None = None) -> str:
    """A path of a route: with the model's own names, or with something odd in the place of each."""
    own = {"model_id": bench, "part_id": "p1", "step_id": "s1", "format_kind": "stl", "ticket": "t",
           "variant_id": "v1", "token": "none", "slug": "none", "showing_id": "0" * 32, "comment_id": "0" * 32,
           "key": "0" * 32,
           "class_id": "0" * 32, "person_id": "0" * 32, "exercise_id": "0" * 32, "doing_id": "0" * 32,
           "hand_in_id": "0" * 32, "project_id": "nowhere", "job": "nothing", "version": "v", "filename": "x",
           "name": "css/base.css"}  # fmt: skip

    def value(match: re.Match) -> str:
        sort, name = match[1], match[2]
        if sort and sort.startswith("any("):
            return sort[4:-1].split(",")[0].strip()
        if sort and sort.startswith("int"):
            return "1"
        return odd if odd is not None and name != "model_id" else own[name]

    return re.sub(r"<(?:([^:<>]+(?:\([^)]*\))?):)?(\w+)>", value, rule)


def check(answer, what: object) -> None:
    assert answer.status_code < 500 or answer.status_code == 502, (what, answer.status_code, answer.get_data()[:300])
    if answer.status_code >= 400 and answer.is_json:
        message = answer.get_json().get("message", "")
        assert message and (message[0].isupper() or message[0] == "“") and message.rstrip()[-1] in ".?!:)”", (
            what,
            message,
        )
        for word in ("Traceback", "object at 0x", "NoneType", "KeyError", "validation error"):
            assert word not in message, (what, message)


def test_posts_with_nonsense_are_answered_with_a_sentence(app, member, bench) -> None:
    fields = ["base", "edit", "part", "draft", "parameter", "on", "at", "ticket", "text", "origin", "normal", "things",
              "name", "chord", "angle", "process", "lay", "value", "places", "tool", "sketch", "kind",
              "deltas", "start", "end",
              "touched"]  # fmt: skip
    api = [r for r in routes(app, "POST") if r.startswith("/api/")]
    assert len(api) > 20
    headers = {"X-CSRFToken": member.fixed, "Accept": "application/json"}
    before = member.ask(f"/api/models/{bench}").get_json()["revision"]
    for rule in api:
        if "<any(undo" in rule or "/restore/" in rule:
            continue
        for odd in NONSENSE:
            path = fill(rule, bench)
            check(member.client.post(path, json=odd, headers=headers), (rule, odd))
            body = dict.fromkeys(fields, odd)
            check(member.client.post(path, json=body, headers=headers), (rule, "all fields", odd))
        for raw in (b"", b"{", b"\xff\xfe", b"[" * 3000, b'{"edit": ' * 500):
            check(member.client.post(path, data=raw, content_type="application/json", headers=headers), (rule, raw[:9]))
    assert member.ask(f"/api/models/{bench}").get_json()["revision"] == before, "nonsense was taken for an edit"


def test_places_that_are_not_there_are_not_found(app, member, bench) -> None:
    odd = ["nothing", "%00", "..%2f..%2fetc%2fpasswd", "a" * 500, "s1'; drop table models; --", "☂"]
    headers = {"Accept": "application/json"}
    for rule in routes(app, "GET"):
        if rule == "/printer/events":  # an endless answer
            continue
        check(member.client.get(fill(rule, bench), headers=headers), rule)
        if "<" in rule:
            for name in odd:
                check(member.client.get(fill(rule, bench, name), headers=headers), (rule, name))
            check(member.client.get(fill(rule, "nothing"), headers=headers), (rule, "no model"))


def test_nobody_reaches_a_model_of_somebody_else(app, member, bench) -> None:
    other = Visitor(app)
    other.post(
        "/sign-up", name="Una Ray", email=f"{secrets.token_hex(5)}@weather-post.example", password="a good password"
    )
    token = other.token("/")
    reached = []
    for method in ("GET", "POST"):
        for rule in routes(app, method):
            if "<model_id>" not in rule:
                continue
            path = fill(rule, bench)
            call = other.client.get if method == "GET" else other.client.post
            more = {} if method == "GET" else {"json": {"part": "p1", "edit": {"kind": "set_units", "units": "in"}}}
            answer = call(path, headers={"X-CSRFToken": token, "Accept": "application/json"}, **more)
            if answer.status_code < 300 or answer.status_code >= 500:
                reached.append((rule, answer.status_code))
            if answer.status_code == 302:
                assert "/models/" not in answer.headers["Location"], rule
    assert reached == []


def test_nothing_is_changed_without_the_token(app, member, bench) -> None:
    for rule in routes(app, "POST"):
        answer = member.client.post(fill(rule, bench), json={"part": "p1"})
        assert answer.status_code in (400, 403, 404), (rule, answer.status_code)


def test_who_is_not_signed_in_is_asked_to(app, bench) -> None:
    stranger = app.test_client()
    for rule in routes(app, "GET"):
        if "<model_id>" in rule or rule in ("/", "/bin"):
            answer = stranger.get(fill(rule, bench))
            assert answer.status_code in (302, 401), (rule, answer.status_code)


JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=20),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=8), inner, max_size=4),
    max_leaves=8,
)


def edit_kinds() -> list[str]:
    from sketchlathe.core.model.edits import EDITS
    from sketchlathe.core.registry import kind_of

    return [kind_of(cls) for cls in EDITS]


@settings(max_examples=100, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(data=st.data())
def test_edits_with_random_fields_are_taken_or_refused_whole(data) -> None:
    """An edit of a known kind with nonsense in its fields: a new sound model, or a trouble with a sentence."""
    from sketchlathe.core.errors import Trouble
    from sketchlathe.core.model.document import read_model
    from sketchlathe.core.model.edits import EDITS, apply_edit, parse_edit
    from sketchlathe.core.registry import kind_of

    hand = plate()
    kind = data.draw(st.sampled_from(edit_kinds()))
    cls = next(c for c in EDITS if kind_of(c) == kind)
    known = st.sampled_from(
        ["s1", "s2", "p1", "origin", "c1", "c1.a", "k1", "6 mm", "", "top", ["c1"], ["s1"], 1, 0, True]
    )
    fields = {name: data.draw(known | JSON) for name in cls.model_fields if name != "kind" and data.draw(st.booleans())}
    before = json.dumps(hand.model.as_json())
    try:
        after = apply_edit(hand.model, parse_edit({"kind": kind, **fields}))
    except Trouble as problem:
        assert problem.message.strip()
    else:
        assert read_model(after.as_json()).as_json() == after.as_json()
    assert json.dumps(hand.model.as_json()) == before
