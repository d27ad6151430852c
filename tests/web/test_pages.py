"""Accounts, privacy, protection, and the answers that scripts get."""

import io
import json
import re
import secrets

import pytest
import trimesh
from tests.conftest import plate

from sketchlathe.core.exchange.modelfile import dump_model
from sketchlathe.web.limits import limiter


class Visitor:
    """A browser without scripts."""

    def __init__(self, app) -> None:
        self.client = app.test_client()

    def token(self, path: str = "/sign-in") -> str:
        page = self.client.get(path, follow_redirects=True).get_data(as_text=True)
        return re.search(r'name="csrf" content="([^"]+)"', page)[1]

    def post(self, path: str, **form: object):
        return self.client.post(path, data={"csrf_token": self.token(), **form})

    def ask(self, path: str, body: object = None):
        headers = {"X-CSRFToken": self.token(), "Accept": "application/json"}
        if body is None:
            return self.client.get(path, headers=headers)
        return self.client.post(path, json=body, headers=headers)


@pytest.fixture
def visitor(app) -> Visitor:
    return Visitor(app)


@pytest.fixture
def member(app) -> Visitor:
    limiter.reset()  # the tests are one address
    made = Visitor(app)
    email = f"{secrets.token_hex(5)}@weather-post.example"
    assert made.post("/sign-up", name="Pia Holm", email=email, password="a good password").status_code == 302
    made.email = email
    return made


@pytest.fixture
def bench(member) -> str:
    page = member.client.get("/").get_data(as_text=True)
    project = re.search(r"/projects/(\w+)/models", page)[1]
    place = member.post(f"/projects/{project}/models", name="Wind vane", units="mm").headers["Location"]
    return place.rsplit("/", 1)[1]


def edit(member, bench, base, **raw):
    return member.ask(f"/api/models/{bench}/edit", {"base": base, "edit": raw})


def test_sign_up_out_and_in(member) -> None:
    assert "Pia Holm" in member.client.get("/").get_data(as_text=True)
    member.post("/sign-out")
    assert member.client.get("/").status_code == 302
    wrong = member.post("/sign-in", email=member.email, password="not this one")
    assert wrong.status_code == 422
    assert "do not go together" in wrong.get_data(as_text=True)
    assert member.post("/sign-in", email=member.email, password="a good password").status_code == 302


@pytest.mark.parametrize(
    ("form", "says"),
    [
        ({"name": "", "email": "a@b", "password": "0123456789"}, "Your name"),
        ({"name": "A", "email": "nope", "password": "0123456789"}, "e-mail"),
        ({"name": "A", "email": "a@b", "password": "short"}, "10 to 200"),
    ],
)
def test_sign_up_says_what_is_wrong(visitor, form, says) -> None:
    answer = visitor.post("/sign-up", **form)
    assert answer.status_code == 422
    assert says in answer.get_data(as_text=True)


def test_every_page_is_protected(visitor, member, bench) -> None:
    page = member.client.get(f"/models/{bench}")
    policy = page.headers["Content-Security-Policy"]
    assert "'unsafe-inline'" not in policy
    assert "default-src 'none'" in policy
    assert not re.search(r"<script(?![^>]*(src=|nonce=|application/json))", page.get_data(as_text=True))
    assert not re.search(r'\son\w+="|\sstyle="', page.get_data(as_text=True))
    assert member.client.post(f"/api/models/{bench}/edit", json={"edit": {}}).status_code == 400
    cookie = member.client.get_cookie("lathe")
    assert cookie.http_only
    assert visitor.client.get(f"/models/{bench}").status_code == 302


def test_a_stranger_finds_nothing(app, bench) -> None:
    stranger = Visitor(app)
    stranger.post("/sign-up", name="Str", email=f"{secrets.token_hex(5)}@x.example", password="a good password")
    pages = ("", "/panels/steps", "/picture.png", "/parts/p1/take-out/model", "/panels/revisions")
    for path in (f"/api/models/{bench}", *(f"/models/{bench}{page}" for page in pages)):
        assert stranger.client.get(path).status_code == 404, path
    for path in ("edit", "undo", "build", "number", "stop", "restore/1"):
        assert (
            stranger.ask(f"/api/models/{bench}/{path}", {"edit": {"kind": "set_units", "units": "in"}}).status_code
            == 404
        ), path


def test_an_edit_is_answered_with_the_state(member, bench) -> None:
    answer = edit(member, bench, 1, kind="add_step", part="p1", step="sketch", fields={"plane": {"plane": "top"}})
    assert answer.status_code == 200
    step = answer.json["state"]["parts"][0]["steps"][0]
    assert step["words"]["plane"] == "top plane"
    places = [{"at": [0, 0], "snap": "origin", "ref": "origin"}, {"at": [9, 0]}]
    draw = {"kind": "draw", "sketch": step["id"], "tool": "circle", "places": places, "sizes": ["18"]}
    drawn = member.ask(f"/api/models/{bench}/edit", {"base": 2, "sketch": step["id"], "edit": draw}).json
    assert drawn["sketch"]["freedom"] == 0
    assert drawn["sketch"]["dimensions"][0]["text"] == "⌀18"
    assert len(drawn["sketch"]["regions"]) == 1
    stale = edit(member, bench, 1, kind="set_units", units="in")
    assert stale.status_code == 409
    assert stale.json["stale"]
    assert stale.json["changes"]


@pytest.mark.parametrize(
    ("body", "code"),
    [
        ({"base": 1, "edit": {"kind": "rename_model", "name": "x" * 1_000_000}}, 422),
        ({"base": "one", "edit": {"kind": "set_units", "units": "in"}}, 422),
        ({"base": 1}, 422),
        ([1, 2], 422),
        ({"base": 1, "edit": {"kind": "delete_step", "step": "s77"}}, 404),
    ],
)
def test_bad_requests_get_a_sentence_and_a_code(member, bench, body, code) -> None:
    answer = member.ask(f"/api/models/{bench}/edit", body)
    assert answer.status_code == code
    assert len(answer.json["message"]) > 10
    assert member.ask(f"/api/models/{bench}").json["revision"] == 1


def bring_in(member, data: bytes, name: str = "m.json"):
    page = member.client.get("/").get_data(as_text=True)
    project = re.search(r"/projects/(\w+)/models", page)[1]
    form = {"csrf_token": member.token(), "file": (io.BytesIO(data), name)}
    return member.client.post(f"/projects/{project}/bring-in", data=form, follow_redirects=True)


def test_build_take_out_and_bring_in(member) -> None:
    hand = plate("60", "40", "5")
    page = bring_in(member, dump_model(hand.model))
    bench = re.search(r"/api/|/models/(\w{32})/panels", page.get_data(as_text=True))[1]
    built = member.ask(f"/api/models/{bench}/build", {"part": "p1"}).json
    assert built["totals"]["volume"] == pytest.approx(12000)
    blob = member.client.get(f"/meshes/{built['bodies'][0]['key']}")
    assert "immutable" in blob.headers["Cache-Control"]
    weigh = member.client.get(f"/models/{bench}/panels/weigh").get_data(as_text=True)
    assert "14.88 g" in weigh
    stl = member.client.get(f"/models/{bench}/parts/p1/take-out/stl")
    assert "test-part-r1.stl" in stl.headers["Content-Disposition"]
    assert trimesh.load(io.BytesIO(stl.data), file_type="stl").volume == pytest.approx(12000, rel=1e-6)
    model = member.client.get(f"/models/{bench}/parts/p1/take-out/model").data
    assert json.loads(model)["parts"] == hand.model.as_json()["parts"]
    assert member.client.get(f"/models/{bench}/picture.png").data[:4] == b"\x89PNG"
    assert "cut short or damaged" in bring_in(member, dump_model(hand.model)[:300]).get_data(as_text=True)


def test_a_picture_asked_for_after_signing_out_leaves_the_sign_in_form_alone(member) -> None:
    page = bring_in(member, dump_model(plate("60", "40", "5").model)).get_data(as_text=True)
    made = re.search(r"/models/(\w{32})/panels", page)[1]
    member.post("/sign-out")
    # what the page that is left still asks for, before the sign-in page has come
    late = member.client.get(f"/models/{made}/picture.png", headers={"Sec-Fetch-Dest": "image", "Accept": "image/*"})
    assert late.status_code == 401 and "Set-Cookie" not in late.headers
    answer = member.client.post(f"/api/models/{made}/build", json={}, headers={"X-CSRFToken": member.token()})
    assert answer.status_code == 401 and "signed out" in answer.json["message"]
    asked = member.client.get(f"/models/{made}")
    assert asked.status_code == 302 and asked.headers["Location"] == f"/sign-in?next=/models/{made}"


def test_any_file_that_can_be_read_becomes_a_model(member) -> None:
    page = bring_in(member, dump_model(plate("60", "40", "5").model)).get_data(as_text=True)
    made = re.search(r"/models/(\w{32})/panels", page)[1]
    exact = member.client.get(f"/models/{made}/parts/p1/take-out/step").data
    ball = trimesh.creation.icosphere(subdivisions=2, radius=10)
    drawing = b"0\nSECTION\n2\nENTITIES\n0\nCIRCLE\n8\n0\n10\n5\n20\n5\n40\n3\n0\nENDSEC\n0\nEOF\n"
    for data, name, step in [
        (ball.export(file_type="stl"), "float.stl", "reference"),
        (exact, "mast plate.STEP", "bring"),
        (drawing, "hole.dxf", "sketch"),
        (b"name,value\nwall,3 mm\n", "sizes.csv", ""),
    ]:
        page = bring_in(member, data, name).get_data(as_text=True)
        bench = re.search(r"/models/(\w{32})/panels", page)[1]
        state = member.ask(f"/api/models/{bench}").json
        assert state["name"] == name.rpartition(".")[0]
        assert [s["kind"] for s in state["parts"][0]["steps"]] == ([step] if step else [])
        assert state["parameters"] == ([] if step else ["wall"])
        if step == "bring":
            built = member.ask(f"/api/models/{bench}/build", {"part": "p1"}).json
            assert built["totals"]["volume"] == pytest.approx(12000)
    assert "“lid.3mf”" in bring_in(member, b"PK no such thing", "lid.3mf").get_data(as_text=True)


def test_preview_stores_nothing_and_chooses_the_side_with_material(member) -> None:
    hand = plate("60", "40", "10")
    s = hand.sketch(hand.face((0, 0, 1)))
    hand.draw(s, "circle", (30, 20), (35, 20), sizes=("10",))
    page = bring_in(member, dump_model(hand.model)).get_data(as_text=True)
    bench = re.search(r"/models/(\w{32})/panels", page)[1]
    fields = {"regions": hand.regions(s), "distance": "4", "result": "cut", "way": "forwards", "reach": "distance"}
    ask = {"part": "p1", "draft": {"kind": "extrude", "fields": fields}, "touched": ["result", "distance"]}
    got = member.ask(f"/api/models/{bench}/build", ask).json
    assert got["defaults"] == {"way": "backwards"}
    assert got["preview"]["change"] == pytest.approx(-25 * 3.141592653589793 * 4)
    assert member.ask(f"/api/models/{bench}").json["revision"] == 1


def test_models_lie_on_the_shelf_in_the_order_that_one_chose(member) -> None:
    page = member.client.get("/").get_data(as_text=True)
    project = re.search(r"/projects/(\w+)/models", page)[1]
    places = [
        member.post(f"/projects/{project}/models", name=n, units="mm").headers["Location"]
        for n in ("Vane", "anemometer", "Mast")
    ]
    edit(member, places[0].rsplit("/", 1)[1], 1, kind="set_units", units="in")

    def lying(**query: str) -> list[str]:
        text = member.client.get("/", query_string=query).get_data(as_text=True)
        return re.findall(r'class="t"><b>([^<]+)</b><small>(?:mm|in) ·', text)

    assert lying() == ["Vane", "Mast", "anemometer"]
    assert lying(order="name") == ["anemometer", "Mast", "Vane"]
    assert lying() == ["anemometer", "Mast", "Vane"], "remembered"
    assert lying(order="made") == ["Mast", "anemometer", "Vane"]
    assert lying(order="nonsense") == ["Mast", "anemometer", "Vane"]


def test_numbers_and_dimensions_while_drawing(member, bench) -> None:
    assert member.ask(f"/api/models/{bench}/number", {"text": "1 in + 0.6"}).json["value"] == pytest.approx(26)
    unfinished = member.ask(f"/api/models/{bench}/number", {"text": "1 +"})
    assert unfinished.status_code == 200, "a formula that is still being typed is no mistake"
    assert unfinished.json["text"] == ""
    assert "expected" in unfinished.json["problem"]
    plain = member.ask(f"/api/models/{bench}/number", {"text": "3 / 5", "sort": "count"})
    assert plain.json["text"] == "0.6", "a plain number has no unit"


def test_a_drag_works_without_a_socket_too(member, bench) -> None:
    edit(member, bench, 1, kind="add_step", part="p1", step="sketch", fields={"plane": {"plane": "top"}})
    sketch = member.ask(f"/api/models/{bench}").json["parts"][0]["steps"][0]["id"]
    edit(member, bench, 2, kind="draw", sketch=sketch, tool="line", places=[{"at": [0, 0]}, {"at": [20, 5]}])
    line = member.ask(f"/api/models/{bench}/sketches/{sketch}").json["curves"][0]["id"]
    ask = {"ref": f"{line}.end", "grab": [20, 5], "at": [30, 8]}
    dragged = member.ask(f"/api/models/{bench}/sketches/{sketch}/drag", ask).json["coordinates"]
    assert dragged[line]["end"] == pytest.approx([30, 8], abs=1e-6)
    kept = edit(member, bench, 3, kind="move_geometry", sketch=sketch, curves=dragged)
    assert kept.json["state"]["revision"] == 4
    lost = member.ask(f"/api/models/{bench}/sketches/{sketch}/drag", {**ask, "at": ["x", 0]})
    assert lost.status_code == 422


def test_choices_come_in_the_order_they_are_declared_in(member, bench) -> None:
    page = member.client.get(f"/models/{bench}").get_data(as_text=True)
    kinds = json.loads(re.search(r'id="kinds">(.*?)</script>', page, re.DOTALL)[1])
    hole = next(k for k in kinds["steps"] if k["kind"] == "hole")
    sizes = next(list(b["words"]) for b in hole["blanks"].values() if "M10" in b["words"])
    screws = [float(s[1:]) for s in sizes if s[0] == "M"]
    assert screws == sorted(screws) and len(screws) > 5
    groups = [m["group"] for m in kinds["materials"].values()]
    assert [g for i, g in enumerate(groups) if i == 0 or groups[i - 1] != g] == list(dict.fromkeys(groups))


def test_only_what_lies_in_the_bin_is_deleted_for_good_and_by_its_owner(app, member, bench) -> None:
    assert member.post(f"/models/{bench}/gone").status_code in (409, 422)
    assert member.client.get(f"/models/{bench}").status_code == 200
    member.post(f"/models/{bench}/bin")
    other = Visitor(app)
    other.post("/sign-up", name="Ben", email=f"{secrets.token_hex(5)}@weather-post.example", password="a good password")
    assert other.post(f"/models/{bench}/gone").status_code == 404
    assert bench in member.client.get("/bin").get_data(as_text=True)
    assert member.post(f"/models/{bench}/gone").status_code == 302
    assert bench not in member.client.get("/bin").get_data(as_text=True)
    assert member.client.get(f"/models/{bench}").status_code == 404


def test_a_mesh_that_was_trimmed_is_made_again(member, app) -> None:
    page = bring_in(member, dump_model(plate("60", "40", "5").model)).get_data(as_text=True)
    made = re.search(r"/models/(\w{32})/panels", page)[1]
    key = member.ask(f"/api/models/{made}/build", {"part": "p1"}).json["bodies"][0]["key"]
    assert member.client.get(f"/meshes/{key}").status_code == 200
    app.extensions["builder"].blobs.drop_mesh(key)
    assert member.client.get(f"/meshes/{key}").status_code == 404
    assert member.ask(f"/api/models/{made}/build", {"part": "p1"}).json["bodies"][0]["key"] == key
    assert member.client.get(f"/meshes/{key}").status_code == 200


def test_an_edits_answer_brings_the_panels_with_the_figures_that_are_known(member) -> None:
    """Nothing is empty between an edit and its build: the older figures stand until the new ones come."""
    hand = plate("60", "40", "5")
    page = bring_in(member, dump_model(hand.model)).get_data(as_text=True)
    made = re.search(r"/models/(\w{32})/panels", page)[1]
    built = member.ask(f"/api/models/{made}/build", {"part": "p1", "reading": {"length": "cm"}}).json
    assert (
        set(built["panels"]) == {"steps", "weigh", "answers", "parts-list"}
        and "6 × 4 × 0.5 cm" in built["panels"]["weigh"]
    )
    change = {"kind": "set_fields", "step": hand.steps[1].id, "fields": {"distance": "10 mm"}}
    answer = member.ask(f"/api/models/{made}/edit", {"base": 1, "part": "p1", "edit": change}).json
    assert set(answer["panels"]) == {"parts", "steps", "parameters", "variants", "weigh", "answers", "parts-list"}
    assert "10 mm" in answer["panels"]["steps"] and "60 × 40 × 5 mm" in answer["panels"]["weigh"]
    after = member.ask(f"/api/models/{made}/build", {"part": "p1"}).json["panels"]["weigh"]
    assert "60 × 40 × 10 mm" in after


@pytest.mark.parametrize(
    "reading", [{"digits": "1"}, {"digits": "99", "length": ["mm"]}, {"mass": {}, "body": [1]}, "none", {"length": 4}]
)
def test_no_reading_that_a_browser_kept_turns_an_edit_into_a_refusal(member, reading) -> None:
    page = bring_in(member, dump_model(plate("60", "40", "5").model)).get_data(as_text=True)
    made = re.search(r"/models/(\w{32})/panels", page)[1]
    assert member.ask(f"/api/models/{made}/build", {"part": "p1", "reading": reading}).status_code == 200
    change = {"kind": "set_units", "units": "cm"}
    answer = member.ask(f"/api/models/{made}/edit", {"base": 1, "part": "p1", "reading": reading, "edit": change})
    assert answer.status_code == 200 and "Weigh" in answer.json["panels"]["weigh"]
