"""What tests share: a database per test process, workers, the application; models are made by ``tests.hand``."""

from __future__ import annotations

import os
import secrets
from collections.abc import Iterator
from typing import Any

import pytest
from hypothesis import settings
from tests.hand import Hand, plate

__all__ = ["Hand", "plate"]

# The same cases in every run: what fails is the change's doing. LATHE_CHANCE=1 tries others.
settings.register_profile("same", derandomize=True)
settings.load_profile("default" if os.environ.get("LATHE_CHANCE") else "same")


@pytest.fixture
def hand() -> Hand:
    return Hand()


@pytest.fixture(scope="session")
def database_url() -> str:
    """A database of this test process, copied from the migrated one."""
    url = os.environ.get("LATHE_TEST_URL")
    if not url:
        pytest.skip("run through ./lathe test, which starts PostgreSQL")
    import psycopg

    name = f"lathe_{os.environ.get('PYTEST_XDIST_WORKER', 'alone')}_{secrets.token_hex(3)}"
    base = url.rsplit("/", 1)[0]
    with psycopg.connect(f"{base}/postgres".replace("+psycopg", ""), autocommit=True) as connection:
        for _ in range(50):  # a template must not be in use while it is copied
            try:
                connection.execute(f"create database {name} template lathe strategy file_copy")
                break
            except psycopg.errors.ObjectInUse:
                import time

                time.sleep(0.1)
    return f"{base}/{name}"


@pytest.fixture(scope="session")
def database(database_url: str) -> Iterator[Any]:
    from sketchlathe.store import Database

    made = Database(database_url)
    yield made
    made.close()


@pytest.fixture
def person(database: Any) -> Any:
    from sketchlathe.service import accounts

    return accounts.sign_up(database, "Ivo Marsh", f"{secrets.token_hex(6)}@weather-post.example", "a long password")


@pytest.fixture
def project(database: Any, person: Any) -> Any:
    from sketchlathe.service import shelf

    return shelf.projects(database, person.id)[0][0]


@pytest.fixture(scope="session")
def workers() -> Iterator[Any]:
    from sketchlathe.workers import LocalWorkers

    pool = LocalWorkers(1, limit=60)
    yield pool
    pool.close()


@pytest.fixture(scope="session")
def app(database: Any, workers: Any, tmp_path_factory: pytest.TempPathFactory) -> Any:
    from tests.forms import hold_to_forms

    from sketchlathe.web import Settings, create_app

    blobs = tmp_path_factory.mktemp("meshes")
    settings = Settings(secret="test", blobs=blobs, secure_cookies=False, sign_in_limit="1000 per minute")
    return hold_to_forms(create_app(settings, database, workers))
