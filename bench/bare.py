"""The yardstick of the whole stack: a server of the same make that commits one row, and echoes on a socket."""

from __future__ import annotations

import os

import flask
import flask_sock
import sqlalchemy as sa

from sketchlathe.store import Database


def app() -> flask.Flask:
    """For gunicorn; ``BARE_DATABASE`` is where the row is put."""
    database, made = Database(os.environ["BARE_DATABASE"]), flask.Flask("bare")
    with database.transaction() as session:
        session.execute(sa.text("create table if not exists bare (id serial primary key, text text)"))

    @made.get("/")
    def here() -> str:
        return "here"

    @made.post("/row")
    def row() -> dict[str, int]:
        with database.transaction() as session:
            put = sa.text("insert into bare (text) values (:text) returning id")
            number = session.scalar(put, {"text": flask.request.get_data(as_text=True)})
        return {"row": number or 0}

    sock = flask_sock.Sock(made)

    @sock.route("/echo")
    def echo(line: flask_sock.SimpleWebSocket) -> None:  # type: ignore[name-defined]
        while True:
            line.send(line.receive())

    return made
