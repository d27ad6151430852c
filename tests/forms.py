"""Every answer of the interface, in whatever test it is given, is held to the form that is declared for it."""

from __future__ import annotations

import functools
import json
import re
from typing import Any

from flask import Flask, Response, request
from pydantic import TypeAdapter, ValidationError

from sketchlathe.web.answers import ANSWERS

HEAD = "/api/models/<model_id>"
BESIDE = {"/print/program"}  # answers with a file
OFF: list[str] = []
"""What was not as declared, in words."""


def exactly(form: Any, text: str) -> None:
    """Raises where a field is missing, of another type, or not declared."""
    adapter = _adapter(str(form)) if str(form) in _FORMS else TypeAdapter(form)
    assert adapter.dump_python(adapter.validate_json(text, strict=True), mode="json") == json.loads(text)


_FORMS = {str(form): form for form in ANSWERS.values()}


@functools.cache
def _adapter(name: str) -> TypeAdapter[Any]:
    return TypeAdapter(_FORMS[name])


def path_of(rule: str) -> list[str]:
    """What a rule of the application is called in ``ANSWERS``: one that stands for several words is several."""
    paths = [rule.removeprefix(HEAD)]
    for words in re.findall(r"<any\(([^)]*)\):\w+>", rule):
        paths = [
            re.sub(r"<any\([^)]*\):\w+>", word.strip(), path, count=1) for path in paths for word in words.split(",")
        ]
    return [re.sub(r"<[^>]+>", "{}", path) for path in paths]


def hold_to_forms(app: Flask) -> Flask:
    """Let an application answer nothing that is not as declared."""

    @app.after_request
    def hold(answer: Response) -> Response:
        rule = request.url_rule.rule if request.url_rule else ""
        if rule.startswith(HEAD) and answer.status_code == 200 and answer.is_json:
            given = request.view_args or {}
            rule = re.sub(r"<any\([^)]*\):(\w+)>", lambda m: str(given[m[1]]), rule)
            (path,) = path_of(rule)
            try:
                exactly(ANSWERS[path], answer.get_data(as_text=True))
            except (ValidationError, AssertionError, KeyError) as problem:
                OFF.append(f"{path}: {problem}")
                raise AssertionError(OFF[-1]) from problem
        return answer

    return app
