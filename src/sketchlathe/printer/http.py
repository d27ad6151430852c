"""The printer's HTTP interface, on loopback.

GET /state · POST /jobs (a program as text) · POST /jobs/ID/pause|resume|cancel · POST /spool · POST
/faults/filament|lost|back
"""

from __future__ import annotations

import json
import time
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any

from .machine import MOST_BYTES, Machine, PrinterProblem


def serve(port: int, speed: float) -> ThreadingHTTPServer:
    """A server for a new machine on 127.0.0.1; ``port`` 0 takes any."""
    machine = Machine(time.monotonic, speed)

    class Handler(BaseHTTPRequestHandler):
        protocol_version = "HTTP/1.1"
        timeout = 30

        def do_GET(self) -> None:
            if machine.gone:
                self.close_connection = True
                return
            if self.path == "/state":
                self._answer(200, machine.state())
            else:
                self._answer(404, {"message": "There is nothing here."})

        def do_POST(self) -> None:
            told = self.headers.get("Content-Length") or "0"
            size = int(told) if told.isascii() and told.isdigit() else MOST_BYTES + 1
            if size > MOST_BYTES:
                self._answer(413, {"message": "The program is too large."})
                return
            parts = self.path.strip("/").split("/")
            if machine.gone and parts != ["faults", "back"]:
                self.close_connection = True
                return
            data = self.rfile.read(size)
            try:
                if len(data) < size:
                    raise PrinterProblem("The program did not arrive whole.")
                if parts == ["jobs"]:
                    self._answer(201, machine.upload(data, self.headers.get("X-Owner", "")[:64]).as_json())
                elif len(parts) == 3 and parts[0] == "jobs":
                    self._answer(200, machine.act(parts[1], parts[2]).as_json())
                elif parts == ["spool"]:
                    machine.load()
                    self._answer(200, machine.state())
                elif len(parts) == 2 and parts[0] == "faults":
                    machine.fault(parts[1])
                    self._answer(200, {})
                else:
                    self._answer(404, {"message": "There is nothing here."})
            except PrinterProblem as problem:
                self._answer(409, {"message": str(problem)})

        def _answer(self, code: int, body: dict[str, Any]) -> None:
            data = json.dumps(body).encode()
            self.send_response(code)
            self.send_header("Content-Type", "application/json")
            self.send_header("Content-Length", str(len(data)))
            self.end_headers()
            self.wfile.write(data)

        def log_message(self, *_: Any) -> None:
            """Quiet."""

    server = ThreadingHTTPServer(("127.0.0.1", port), Handler)
    server.daemon_threads = True
    return server
