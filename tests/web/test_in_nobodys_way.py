"""Whatever one person or a stranger does, the others are served."""

from __future__ import annotations

import json
import re
import secrets
import socket
import threading
import time
import urllib.parse
import urllib.request
from http.cookiejar import CookieJar

import pytest
from simple_websocket import Client, ConnectionClosed
from tests.hand import plate
from tests.web.test_workers import Served

from sketchlathe.core.exchange.modelfile import dump_model
from sketchlathe.service import accounts, modelling, shelf
from sketchlathe.service.building import Builder
from sketchlathe.service.commons import MOST, Commons, TooMuch
from sketchlathe.store import ModelRow
from sketchlathe.web.serving import BODY, HEAD
from sketchlathe.web.socket import EACH, TRUSTED
from sketchlathe.workers import Blobs, LocalEngine
from sketchlathe.workers import requests as ask


class Person:
    """Somebody's browser at a served site."""

    def __init__(self, port: int) -> None:
        self.jar, self.at = CookieJar(), f"http://127.0.0.1:{port}"
        self.browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))
        self.email = f"{secrets.token_hex(6)}@w.example"
        self.post("/sign-up", name="P", email=self.email, password="a long password")

    def page(self, path: str, timeout: float = 20) -> str:
        return self.browser.open(self.at + path, timeout=timeout).read().decode()

    def post(self, path: str, **form: str) -> str:
        token = re.search(r'name="csrf" content="([^"]+)"', self.page("/sign-up" if "sign" in path else "/"))[1]
        data = urllib.parse.urlencode({"csrf_token": token, **form}).encode()
        return self.browser.open(self.at + path, data, timeout=20).geturl()

    def model(self) -> str:
        project = re.search(r"/projects/(\w+)/models", self.page("/"))[1]
        return self.post(f"/projects/{project}/models", name="Vane", units="mm").rsplit("/", 1)[1]


@pytest.fixture(scope="module")
def served(database, database_url, tmp_path_factory):
    made = Served(database_url, tmp_path_factory.mktemp("served"))
    yield made
    made.kill()


def _answers_in(person: Person) -> float:
    started = time.monotonic()
    assert "Shelf" in person.page("/")
    return time.monotonic() - started


HALF_A_HEAD = b"GET / HTTP/1.1\r\nHost: 127.0.0.1\r\nX-"
HALF_A_BODY = (
    b"POST /sign-in HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/x-www-form-urlencoded\r\n"
    b"Content-Length: 5000\r\n\r\nemail="
)


@pytest.mark.parametrize("half_sent", [HALF_A_HEAD, HALF_A_BODY], ids=["heads", "bodies"])
def test_half_sent_requests_hold_nobody_up(served, half_sent: bytes) -> None:
    person = Person(served.port)
    halves = []
    for _ in range(260):
        half = socket.create_connection(("127.0.0.1", served.port))
        half.sendall(half_sent)
        halves.append(half)
    assert max(_answers_in(person) for _ in range(3)) < 5
    # those that drip on are let go in the end
    dripping, began = halves[-1], time.monotonic()
    dripping.settimeout(0.2)
    gone = False
    while not gone and time.monotonic() - began < max(HEAD, BODY) + 10:
        try:
            dripping.sendall(b"x")
            gone = dripping.recv(100) == b""
        except TimeoutError:
            time.sleep(0.3)
        except OSError:
            gone = True
    assert gone
    for half in halves:
        half.close()


def test_one_person_has_so_many_sockets_and_no_more(served) -> None:
    person, other = Person(served.port), Person(served.port)
    model = person.model()
    cookie = "; ".join(f"{c.name}={c.value}" for c in person.jar)
    address = f"ws://127.0.0.1:{served.port}/models/{model}/sketches/s1/live"
    headers = {"Cookie": cookie, "Origin": "http://127.0.0.1"}  # this client sends Host without the port
    kept, refused = [], 0
    for _ in range(EACH + 4):
        client = Client(address, headers=headers)
        try:
            client.send(json.dumps({"n": 1, "do": "nothing"}))
            assert json.loads(client.receive(timeout=5))["n"] == 1
            kept.append(client)
        except (
            ConnectionClosed,
            OSError,
        ) as end:  # closed before it was asked: perhaps this client has not read why yet
            assert getattr(end, "reason", 1013) in (1013, 1005)
            refused += 1
    assert (len(kept), refused) == (EACH, 4)
    assert _answers_in(other) < 3
    for client in kept:
        client.close()


def test_a_shut_account_loses_its_open_sockets(served, database) -> None:
    person = Person(served.port)
    cookie = "; ".join(f"{c.name}={c.value}" for c in person.jar)
    address = f"ws://127.0.0.1:{served.port}/models/{person.model()}/sketches/s1/live"
    client = Client(address, headers={"Cookie": cookie, "Origin": "http://127.0.0.1"})
    client.send(json.dumps({"n": 1, "do": "nothing"}))
    assert json.loads(client.receive(timeout=5))["n"] == 1
    accounts.lock(database, person.email, shut=True)
    time.sleep(TRUSTED + 0.2)
    client.send(json.dumps({"n": 2, "do": "nothing"}))
    with pytest.raises(ConnectionClosed):
        client.receive(timeout=5)


def test_long_work_is_in_nobodys_way(database, person, project, workers, tmp_path) -> None:
    """Finest exports of one person under way: somebody else's build, by the same worker, is answered all the same."""
    builder = Builder(LocalEngine(workers, Blobs(tmp_path)))
    hand = plate("60", "40", "5")
    hand.step("fillet", edges=hand.edges((0, 0, 2.5), (60, 0, 2.5)), radius="4")
    rows = [shelf.make_model(database, person.id, project.id, name, model=hand.model) for name in ("A", "B")]
    one, other = (modelling.open_model(database, person.id, row.id) for row in rows)
    how = {"chord": 0.0001, "angle": 0.02}
    running = [
        threading.Thread(target=lambda: builder.ask(one, ask.ExportPart, "p1", format="stl", how=how), daemon=True)
        for _ in range(2)
    ]
    for thread in running:
        thread.start()
    time.sleep(0.3)
    started = time.monotonic()
    assert builder.build(other, "p1")["bodies"]
    assert time.monotonic() - started < 20
    for thread in running:
        thread.join(120)


def test_a_person_has_so_much_under_way_and_no_more() -> None:
    shares = Commons()
    held = [shares.share("me", "long") for _ in range(MOST["long"])]
    for one in held:
        one.__enter__()
    with pytest.raises(TooMuch, match="under way already"), shares.share("me", "long"):
        pass
    with shares.share("you", "long"), shares.share("me", "ask"), shares.share("me", "patient"):
        pass
    held[0].__exit__(None, None, None)
    with shares.share("me", "long"):
        pass


def test_what_is_too_much_is_said(app, member_with_model) -> None:
    visitor, model = member_with_model
    shares = app.extensions["builder"].commons
    with app.extensions["database"].transaction() as session:
        person = session.get(ModelRow, model).owner_id
    held = [shares.share(person, "long") for _ in range(MOST["long"])]
    for one in held:
        one.__enter__()
    answer = visitor.ask(f"/api/models/{model}/explain", {"part": "p1"})
    assert answer.status_code == 429
    assert "under way already" in answer.json["message"]
    for one in held:
        one.__exit__(None, None, None)


@pytest.fixture
def member_with_model(app):
    import io

    from tests.web.test_pages import Visitor

    from sketchlathe.web.limits import limiter

    limiter.reset()
    visitor = Visitor(app)
    visitor.post("/sign-up", name="M", email=f"{secrets.token_hex(6)}@w.example", password="a long password")
    project = re.search(r"/projects/(\w+)/models", visitor.client.get("/").get_data(as_text=True))[1]
    file = (io.BytesIO(dump_model(plate().model)), "plate.json")
    return visitor, visitor.post(f"/projects/{project}/bring-in", file=file).headers["Location"].rsplit("/", 1)[1]
