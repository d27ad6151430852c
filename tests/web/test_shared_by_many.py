"""What several web processes and machines share: blobs in a bucket, shares of work, notes, tickets, counts of tries."""

from __future__ import annotations

import contextlib
import json
import re
import subprocess
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future
from pathlib import Path

import pytest
import redis
import requests
from moto.server import ThreadedMotoServer
from tests.hand import plate
from tests.web.test_guarded import site
from tests.web.test_pages import Visitor, bring_in

from sketchlathe.commands.work import Consumers
from sketchlathe.core.errors import Trouble
from sketchlathe.core.exchange.modelfile import dump_model
from sketchlathe.service import commons, modelling
from sketchlathe.service.commons import SharedCommons, TooMuch
from sketchlathe.store import ModelRow
from sketchlathe.store.queue_server import QueueServer
from sketchlathe.web.limits import limiter
from sketchlathe.workers import LocalEngine, LocalWorkers, exchange
from sketchlathe.workers import requests as ask
from sketchlathe.workers.blobs import Blobs
from sketchlathe.workers.bucket import AGAIN, Bucket
from sketchlathe.workers.machine import Machine


@pytest.fixture(scope="module")
def store() -> Iterator[str]:
    """An S3-style store, as a stand-in on loopback."""
    server = ThreadedMotoServer("127.0.0.1", 0)
    server.start()
    host, port = server.get_host_and_port()
    address = f"http://{host}:{port}"
    requests.put(f"{address}/meshes", timeout=5).raise_for_status()
    yield f"s3://meshes/lathe?endpoint={address}"
    server.stop()


@pytest.fixture
def bucket(store, tmp_path, monkeypatch) -> Bucket:
    monkeypatch.setenv("AWS_ACCESS_KEY_ID", "practice")
    monkeypatch.setenv("AWS_SECRET_ACCESS_KEY", "practice")
    return Bucket(store, tmp_path / "one")


def test_what_one_machine_keeps_another_finds(bucket, store, tmp_path) -> None:
    other = Bucket(store, tmp_path / "other")
    document = bucket.keep_document('{"a": 1}')
    assert other.document_of(document) == '{"a": 1}'
    bucket.keep_mesh("a" * 32, b"triangles" * 1000)
    assert other.has_mesh("a" * 32) and not other.has_mesh("b" * 32)
    assert other.mesh("a" * 32) == bucket.mesh("a" * 32)
    key = bucket.keep({"told": [1, 2]})
    assert other.kept(key) == {"told": [1, 2]}
    # it is in the folder of the other now, and gone from everywhere when it is dropped
    bucket.drop_mesh("a" * 32)
    assert not bucket.has_mesh("a" * 32)
    assert Bucket(store, tmp_path / "third").mesh("a" * 32) is None
    with pytest.raises(Trouble, match="put away meanwhile"):
        other.document_of("c" * 32)


def test_what_expired_in_the_bucket_is_put_again_when_it_is_used(bucket, store, tmp_path) -> None:
    key = bucket.keep_raw(b"a document")
    bucket._store.delete(f"{key[:2]}/{key}.bin")
    bucket.keep_raw(b"a document")
    assert Bucket(store, tmp_path / "x").raw(key) is None  # put lately: not asked again each time
    bucket._put_at[f"{key}.bin"] = time.monotonic() - AGAIN - 1
    bucket.keep_raw(b"a document")
    assert Bucket(store, tmp_path / "y").raw(key) == b"a document"


def test_a_store_that_is_away_is_a_sentence(tmp_path, monkeypatch) -> None:
    monkeypatch.setenv("AWS_ACCESS_KEY_ID", "practice")
    monkeypatch.setenv("AWS_SECRET_ACCESS_KEY", "practice")
    lost = Bucket("s3://meshes?endpoint=http://127.0.0.1:1", tmp_path)
    with pytest.raises(Trouble, match="does not answer just now"):
        lost.keep_raw(b"a document")
    with pytest.raises(Trouble, match="does not answer just now"):
        lost.raw("d" * 32)


def test_a_part_is_built_through_a_bucket(bucket) -> None:
    engine = LocalEngine(LocalWorkers(1), bucket)
    try:
        document = bucket.keep_document(json.dumps(plate("60", "40", "5").model.as_json()))
        built = engine.submit(ask.BuildPart(document=document, part="p1"), "m")
        assert built["totals"]["volume"] == pytest.approx(12000)
        key = built["bodies"][0]["key"]
        assert Bucket(bucket.place, bucket.folder.with_name("web")).mesh(key) == bucket.mesh(key)
    finally:
        engine.close()


def test_a_full_disk_costs_speed_and_says_so_where_it_must(tmp_path) -> None:
    blobs = Blobs(tmp_path / "m")
    (tmp_path / "m" / "ab").write_text("a file where a folder should be")
    with pytest.raises(Trouble, match="disk of this server is full"):
        blobs.keep_mesh("ab" + "0" * 30, b"x")
    assert blobs.keep({"x": 1}, "ab" + "1" * 30) == "ab" + "1" * 30  # only slower


@pytest.fixture(scope="module")
def queue() -> Iterator[QueueServer]:
    server = QueueServer()
    yield server
    server.kill()


def test_shares_hold_over_processes_and_are_free_again_when_one_dies(queue, monkeypatch) -> None:
    monkeypatch.setattr(commons, "HELD", 2)
    monkeypatch.setattr(commons, "RENEWED", 0.3)
    one, other = SharedCommons(queue.url), SharedCommons(queue.url)
    held = [one.share("pia", "long") for _ in range(2)] + [other.share("pia", "long")]
    for share in held:
        share.__enter__()
    for side in (one, other):
        with pytest.raises(TooMuch), side.share("pia", "long"):
            pass
    with other.share("ivo", "long"):
        pass
    time.sleep(4)  # longer than a share is held without being renewed
    with pytest.raises(TooMuch), one.share("pia", "long"):
        pass
    with one._lock:  # a process that is gone renews nothing
        one._held.clear()
    time.sleep(4)
    with other.share("pia", "long"), other.share("pia", "long"):
        pass
    for share in held:
        share.__exit__(None, None, None)


@pytest.mark.parametrize("several", [False, True])
def test_who_is_at_a_model_is_seen_by_all_web_processes_until_they_say_no_more(queue, monkeypatch, several) -> None:
    monkeypatch.setattr(commons, "PRESENT", 2)
    one = SharedCommons(queue.url) if several else commons.Commons()
    other = SharedCommons(queue.url) if several else one
    assert one.here("m", "pia a", {"name": "Pia"}) == {"pia a": {"name": "Pia"}}
    both = {"pia a": {"name": "Pia"}, "ivo b": {"name": "Ivo"}}
    assert other.here("m", "ivo b", {"name": "Ivo"}) == both
    assert other.here("another", "una c", {"name": "Una"}) == {"una c": {"name": "Una"}}
    assert one.here("m", "pia a", None) == {"ivo b": {"name": "Ivo"}}
    time.sleep(3.1)  # Ivo's process was killed
    assert one.here("m", "pia a", {"name": "Pia"}) == {"pia a": {"name": "Pia"}}


def test_while_redis_is_away_nobody_is_held_up(queue) -> None:
    shared = SharedCommons(queue.url)
    shared.note("k", [1])
    queue.kill()
    try:
        for _ in range(5):
            with shared.share("una", "long"):
                assert shared.noted("k") is None
                assert shared.here("m", "una a", {"name": "Una"}) == {"una a": {"name": "Una"}}
    finally:
        queue.start()


def _work(queue: QueueServer, folder: Path) -> None:
    machine = Machine(queue.url, "here", "short", LocalWorkers(1))
    machine.beat()
    threading.Thread(target=machine._beats, daemon=True).start()
    app = exchange.celery_app(queue.url)

    def take() -> None:
        with contextlib.suppress(OSError, redis.RedisError), app.connection_for_read() as connection:
            simple = connection.SimpleQueue(exchange.queue_of("here", "ask"))
            while True:
                message = simple.get()
                message.ack()
                threading.Thread(target=machine.work, args=message.payload[0], daemon=True).start()

    threading.Thread(target=take, daemon=True).start()


@pytest.fixture
def counting_alone_again(database, workers, tmp_path):
    """What counts tries is one for a whole process: it goes back to counting by itself."""
    yield
    site(database, workers, tmp_path / "after")


def test_two_web_processes_are_one_service(database, queue, tmp_path, counting_alone_again) -> None:
    """Edits here, builds there: the figures that one has built stand in the panels that the other fills."""
    _work(queue, tmp_path)
    one, other = (site(database, None, tmp_path / "meshes", redis=queue.url) for _ in range(2))
    here = Visitor(one)
    mail = f"{time.time_ns()}@weather-post.example"
    assert here.post("/sign-up", name="Pia Holm", email=mail, password="a good password").status_code == 302
    there = Visitor(other)
    assert there.post("/sign-in", email=mail, password="a good password").status_code == 302
    page = bring_in(here, dump_model(plate("60", "40", "5").model)).get_data(as_text=True)
    model = re.search(r"/models/(\w{32})/panels", page)[1]
    built = there.ask(f"/api/models/{model}/build", {"part": "p1", "reading": {}}).json
    assert built["totals"]["volume"] == pytest.approx(12000)
    told = here.ask(
        f"/api/models/{model}/edit", {"edit": {"kind": "add_parameter", "name": "w", "formula": "1"}, "part": "p1"}
    )
    assert "12" in str(told.json["panels"]["weigh"])
    last = one.extensions["builder"].last
    with database.transaction() as session:
        owner = session.get_one(ModelRow, model).owner_id
    found = last(modelling.open_model(database, owner, model), "p1")
    assert found is not None and found["totals"]["volume"] == pytest.approx(12000)
    # wrong passwords are counted together
    wrong = [Visitor(a) for a in (one, other)]
    codes = [wrong[k % 2].post("/sign-in", email=mail, password="not the password").status_code for k in range(14)]
    assert codes[:10] == [422] * 10 and codes[10:] == [429] * 4
    limiter.reset()


def test_a_group_comes_when_its_workers_can_begin_where_others_are_there() -> None:
    queue = QueueServer()  # where no other test's machines are
    client = exchange.connect(queue.url)
    machine = Machine(queue.url, "hut", "short", LocalWorkers(1, eager=False))
    gone = threading.Event()

    def there() -> set[str]:
        return {group.name for group in exchange.groups(client, "ask")}

    def other() -> None:
        while not gone.wait(0.3):
            exchange.beat(client, "post", ["ask"], "another", 1, lambda: 0)

    try:
        exchange.beat(client, "hut", ["ask"], "one that was killed", 1, lambda: 0)
        threading.Thread(target=other).start()
        _until(lambda: there() == {"hut", "post"})
        loading: Future[int] = Future()
        joining = threading.Thread(target=machine.join, args=([loading],))
        joining.start()
        _until(lambda: there() == {"post"})  # who was killed is not asked, nor who is still loading
        time.sleep(0.5)
        assert there() == {"post"}
        loading.set_result(1)
        joining.join(20)
        assert there() == {"hut", "post"}

        gone.set()
        machine.join([Future()])  # loads for good, but nobody else is there when "post" has been silent
        assert there() == {"hut"}
    finally:
        gone.set()
        machine.close()
        queue.kill()


def _until(holds: Callable[[], bool]) -> None:
    end = time.monotonic() + 20
    while not holds():
        assert time.monotonic() < end
        time.sleep(0.05)


class _Practice(Consumers):
    """Consumers that are something else, and are counted."""

    def __init__(self, *argv: str) -> None:
        self.begun = 0
        super().__init__(list(argv), "redis://127.0.0.1:1/0", "barn")

    def _started(self, sort: str) -> subprocess.Popen[bytes]:
        self.begun += 1
        return subprocess.Popen(self._argv)


@contextlib.contextmanager
def _watched(*argv: str) -> Iterator[_Practice]:
    consumers = _Practice(*argv)
    watching = threading.Thread(target=consumers.watch)
    watching.start()
    try:
        yield consumers
    finally:
        consumers.stop()
        watching.join(10)


def test_a_consumer_that_is_killed_again_and_again_is_there_again_at_once() -> None:
    with _watched("sleep", "60") as consumers:
        began = time.monotonic()
        for _ in range(6):
            process = consumers._at["short"]
            process.kill()
            _until(lambda dead=process: consumers._at["short"] is not dead)
        assert consumers.begun == 8  # doubling waits from the first on would be 19 s
        assert time.monotonic() - began < 12


def test_a_consumer_that_cannot_live_is_tried_again_less_and_less_often() -> None:
    with _watched("false") as consumers:
        time.sleep(3)
        assert 4 <= consumers.begun <= 8  # two sorts; 0.6 s, 1.2, 2.4 between
