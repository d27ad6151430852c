"""What was found open: foreign hosts at the demo, redirects that lead out, sessions that outlive a sign-out,
guessing, queues.
"""

import io
import json
import re
import secrets
import zipfile

import pytest
import trimesh
from tests.hand import Hand, plate
from tests.web.test_pages import Visitor, edit

from sketchlathe.core import bringing
from sketchlathe.core.errors import BadInput
from sketchlathe.core.exchange.archive import MODEL, load_archive
from sketchlathe.core.exchange.modelfile import dump_model
from sketchlathe.core.model.document import read_model
from sketchlathe.core.model.files_apart import MARK, digest_of_file
from sketchlathe.service import comparing, modelling, shelf
from sketchlathe.service.building import Builder
from sketchlathe.web import Settings, create_app
from sketchlathe.web.limits import limiter
from sketchlathe.workers import Blobs, LocalEngine


@pytest.fixture
def member(app) -> Visitor:
    made = Visitor(app)
    made.email = f"{secrets.token_hex(5)}@weather-post.example"
    assert made.post("/sign-up", name="Pia Holm", email=made.email, password="a good password").status_code == 302
    return made


@pytest.fixture
def bench(member) -> str:
    page = member.client.get("/").get_data(as_text=True)
    project = re.search(r"/projects/(\w+)/models", page)[1]
    return member.post(f"/projects/{project}/models", name="Vane", units="mm").headers["Location"].rsplit("/", 1)[1]


def site(database, workers, tmp_path, **more):
    made = create_app(Settings(secret="g", blobs=tmp_path, secure_cookies=False, **more), database, workers)
    limiter.reset()
    return made


def test_the_demo_answers_to_names_of_this_machine_only(database, workers, person, tmp_path) -> None:
    demo = site(database, workers, tmp_path, demo_person=person.id)
    for name in ("127.0.0.1:8420", "localhost:8420", "[::1]:8420"):
        assert demo.test_client().get("/", headers={"Host": name}).status_code == 200
    for name in ("weather.example:8420", "127.0.0.1.weather.example", "192.168.7.7:8420", "0.0.0.0"):
        answer = demo.test_client().get("/", headers={"Host": name})
        assert answer.status_code == 403, name
        assert "on this machine only" in answer.get_data(as_text=True)
    foreign = {"Host": "weather.example", "Origin": "http://weather.example", "X-CSRFToken": "x"}
    assert demo.test_client().post("/api/models/x/edit", json={}, headers=foreign).status_code in (400, 403)


@pytest.mark.parametrize(
    "target",
    [
        "/\t/evil.example",
        "/%09/evil.example",
        "//evil.example",
        "/\\evil.example",
        "https://evil.example",
        "/\n/x",
        "x",
    ],
)
def test_signing_in_leads_nowhere_else(app, member, target) -> None:
    limiter.reset()
    visitor = Visitor(app)
    form = {"csrf_token": visitor.token(), "email": member.email, "password": "a good password"}
    answer = visitor.client.post("/sign-in", query_string={"next": target}, data=form)
    assert answer.status_code == 302
    at = answer.headers["Location"]
    assert at == "/" or re.fullmatch(r"/%09/evil.example", at), at  # a percent sign stays one: that is a path of ours
    assert not re.search(r"[\t\n\\]|^//|^http", at)


def test_after_signing_out_the_old_cookie_opens_nothing(app, member, bench) -> None:
    (cookie,) = [c for c in member.client._cookies.values() if c.key == "lathe"]
    old = cookie.value
    assert member.post("/sign-out").status_code == 302
    thief = app.test_client()
    thief.set_cookie("lathe", old)
    assert thief.get(f"/models/{bench}").status_code == 302
    assert thief.get(f"/api/models/{bench}").status_code in (302, 401)


def test_a_class_signs_in_and_guessing_is_stopped(database, workers, tmp_path) -> None:
    app = site(database, workers, tmp_path)
    tail = secrets.token_hex(4)
    emails = [f"pupil{i}.{tail}@weather-post.example" for i in range(30)]
    for email in emails:  # thirty at once, one address
        assert Visitor(app).post("/sign-up", name="Pupil", email=email, password="a good password").status_code == 302
    for email in emails:
        assert Visitor(app).post("/sign-in", email=email, password="a good password").status_code == 302
    owner = Visitor(app)
    owner.post("/sign-in", email=emails[0], password="a good password")
    owner.post("/sign-out")
    # 60 wrong passwords for one account, from 30 addresses
    codes = []
    for i in range(60):
        guesser = Visitor(app)
        form = {"csrf_token": guesser.token(), "email": emails[0], "password": f"guess {i} of many"}
        place = {"REMOTE_ADDR": f"10.0.0.{i % 30 + 1}"}
        codes.append(guesser.client.post("/sign-in", data=form, environ_base=place).status_code)
    assert codes.count(422) == 10
    assert codes[10:] == [429] * 50
    # whoever was in before is let in all the same, the others of the class too
    assert owner.post("/sign-in", email=emails[0], password="a good password").status_code == 302
    assert Visitor(app).post("/sign-in", email=emails[1], password="a good password").status_code == 302


def test_the_queue_shows_and_obeys_only_whose_it_is() -> None:
    import threading

    from sketchlathe.core.errors import Refused
    from sketchlathe.printer.http import serve
    from sketchlathe.service.printing import PrinterLink

    server = serve(0, 1.0)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        link = PrinterLink(server.server_port)
        program = ";Sketch Lathe: Secret vane\n;LAYERS 1\n;LAYER 1\nG0 X0 Y0 Z0.2 F3000\nG1 X500 Y0 E5 F60\nM84\n;END\n"
        mine = link.upload(program.encode(), "ann")
        link.upload(program.replace("Secret", "Other").encode(), "ben")
        seen = link.seen_by("ben", link.state(fresh=0))
        assert "Secret" not in json.dumps(seen)
        assert [j["mine"] for j in seen["waiting"]] == [True]
        with pytest.raises(Refused, match="not a job of yours"):
            link.act_on(mine["id"], "cancel", "ben")
        assert link.act_on(mine["id"], "cancel", "ann")["state"] == "cancelled"
    finally:
        server.shutdown()


def test_a_name_is_one_line_in_the_program_for_the_printer() -> None:
    import numpy as np

    from sketchlathe.core.mesh.surface import Surface
    from sketchlathe.core.printing import gcode, layers
    from sketchlathe.core.printing.process import process_of

    corners = np.array([[x, y, z] for z in (0, 5) for y in (0, 20) for x in (0, 20)], float)
    quads = [(0, 2, 3, 1), (4, 5, 7, 6), (0, 1, 5, 4), (1, 3, 7, 5), (3, 2, 6, 7), (2, 0, 4, 6)]
    triangles = np.array([t for a, b, c, d in quads for t in ((a, b, c), (a, c, d))])
    how = process_of({})
    text = gcode.gcode(layers.slice_up(Surface(corners, triangles), how), how, "Vane\nG1 Z-50 F9000\r\nM104 S400")
    assert not any(line.startswith(("G1 Z-50", "M104")) for line in text.splitlines())


@pytest.mark.parametrize("method", [zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA, zipfile.ZIP_DEFLATED])
def test_damaged_archives_of_any_method_get_a_sentence(method) -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", method) as archive:
        archive.writestr(MODEL, dump_model(plate().model))
    whole = out.getvalue()
    for at in range(60, min(len(whole) - 80, 900), 23):
        hurt = bytearray(whole)
        hurt[at] ^= 0xFF
        hurt[at + 1] ^= 0x5A
        try:
            load_archive(bytes(hurt))
        except BadInput as told:
            assert told.message[0].isupper()


def test_a_digest_in_a_file_is_no_way_to_somebody_elses_file(database, workers, person, project, tmp_path) -> None:
    """Compared with a model file that names another person's brought file, nothing of that is seen."""
    solid = trimesh.creation.icosphere(subdivisions=4, radius=9.0)
    text = bringing.read_file(solid.export(file_type="stl"), "theirs.stl").fields["data"]
    digest = digest_of_file(text)
    assert len(text) > 4096
    builder = Builder(LocalEngine(workers, Blobs(tmp_path)))
    builder.blobs.keep_file(digest, text)

    def seen(data: str) -> list[object]:
        hand = Hand()
        step = hand.step("reference")
        document = hand.model.as_json()
        document["parts"][0]["steps"] = [{**s, "data": data} for s in document["parts"][0]["steps"] if s["id"] == step]
        row = shelf.make_model(database, person.id, project.id, "Mine")
        opened = modelling.open_model(database, person.id, row.id)
        key = comparing.keep_file(builder.blobs, read_model(document))
        side = comparing.side_of(database, builder, person.id, opened, "p1", {"file": key})
        return builder.as_it_is(side.opened, side.part.id)["references"]

    assert len(seen(text)) == 1, "what one brings oneself is seen"
    assert seen(MARK + digest) == []


def test_tables_hold_no_formulas_of_a_spreadsheet_and_come_back() -> None:
    from sketchlathe.core.exchange import FORMATS, Export

    hand = plate()
    hand.do("add_parameter", name="low", formula="-4 mm", note='=HYPERLINK("http://x.example")')
    part = hand.model.parts[0]
    data = FORMATS["csv-parameters"]().write(Export(hand.model, part, (), 0.1, 0.5, None, None))
    for line in data.decode().splitlines():
        assert not re.search(r'(^|,)"?[=+@-](?![\d.]+(,|$))', line), line
    (row,) = bringing.read_file(data, "table.csv").data["rows"]
    assert (row["formula"], row["note"]) == ("-4 mm", '=HYPERLINK("http://x.example")')
    with pytest.raises(BadInput, match="too long"):
        bringing.read_file(b"name,formula\na," + b"1" * 200_000, "long.csv")


@pytest.mark.parametrize(
    ("path", "body"),
    [
        ("edit", {"base": 2**31, "edit": {"kind": "set_units", "units": "in"}}),
        ("edit", {"base": 10**400, "edit": {"kind": "set_units", "units": "in"}}),
        ("edit", {"base": 1, "edit": {"kind": "rename_model", "name": "a\0b"}}),
        ("edit", {"base": 1, "edit": {"kind": "rename_model", "name": "\ud800"}}),
        ("build", {"part": "p1", "draft": {"kind": "block", "fields": {}}, "touched": None}),
        ("section", {"part": "p1", "origin": [10**400, 0, 0], "normal": [0, 0, 1]}),
        ("triangles", {"part": "p1", "chord": 10**400, "angle": 0.3}),
        ("measure", {"part": "p1", "things": [{"face": {}}]}),
        ("restore/99999999999999", {}),
    ],
)  # fmt: skip
def test_odd_requests_get_a_sentence(member, bench, path, body) -> None:
    answer = member.ask(f"/api/models/{bench}/{path}", body)
    assert answer.status_code < 500, answer.get_data(as_text=True)
    if answer.status_code >= 400:
        assert answer.get_json()["message"][0].isupper()


@pytest.mark.parametrize("path", ["/?find=a%00b", "/models/x%00", "/sign-in?next=%00"])
def test_odd_addresses_get_a_sentence(member, path) -> None:
    assert member.client.get(path).status_code < 500


def test_odd_panels_and_drawings_get_a_sentence(member, bench) -> None:
    for query in ("digits=①", "digits=99999", "length=furlong", "mass=stone"):
        assert member.client.get(f"/models/{bench}/panels/weigh?{query}").status_code == 200
    for query in ("face={}", "section={}", "face=[]", 'section={"origin":[1e400,0,0],"normal":[0,0,1]}'):
        assert member.client.get(f"/models/{bench}/parts/p1/take-out/svg?{query}").status_code in (400, 404, 409, 422)


def test_a_name_with_a_line_break_is_kept_as_one_line(member, bench) -> None:
    answer = edit(member, bench, 1, kind="rename_model", name="Vane\nof tin")
    assert answer.get_json()["state"]["name"] == "Vane of tin"
