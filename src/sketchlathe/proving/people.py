"""People at a service, without a browser."""

from __future__ import annotations

import http.cookiejar
import json
import re
import secrets
import urllib.parse
import urllib.request
from typing import Any


class Visitor:
    """A person with a model of their own, as a browser is to the service."""

    def __init__(self, port: int) -> None:
        self.at = f"http://127.0.0.1:{port}"
        self.jar = http.cookiejar.CookieJar()
        self._browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))
        email = f"{secrets.token_hex(6)}@proof.example"
        self._post("/sign-up", "/sign-up", name="Proof", email=email, password="a long password")
        self.model = self.new_model()
        self._token = self._token_of("/")

    def new_model(self) -> str:
        """One more model; its id."""
        project = (re.search(r"/projects/(\w+)/models", self.page("/")) or [""] * 2)[1]
        return self._post(f"/projects/{project}/models", "/", name="Under fire", units="mm").rsplit("/", 1)[1]

    def page(self, path: str) -> str:
        return str(self._browser.open(self.at + path, timeout=60).read().decode(errors="replace"))

    def _token_of(self, path: str) -> str:
        return (re.search(r'name="csrf" content="([^"]+)"', self.page(path)) or [""] * 2)[1]

    def _post(self, path: str, page: str, **form: str) -> str:
        data = urllib.parse.urlencode({"csrf_token": self._token_of(page), **form}).encode()
        return str(self._browser.open(self.at + path, data, timeout=20).geturl())

    def ask(self, path: str, body: Any = None) -> Any:
        """A script's question; raises ``OSError`` and the like where there is no answer."""
        headers = {"Content-Type": "application/json", "X-CSRFToken": self._token, "Accept": "application/json"}
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(f"{self.at}/api/models/{self.model}{path}", data, headers)
        return json.loads(self._browser.open(request, timeout=20).read())
