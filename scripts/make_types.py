"""web/types/told.d.ts: what the page is told, as types for what checks the scripts (``tsc``)."""

from __future__ import annotations

import textwrap
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter

from sketchlathe.web.answers import ANSWERS
from sketchlathe.web.told import TOLD

FILE = Path(__file__).resolve().parents[1] / "src/sketchlathe/web/types/told.d.ts"
HEAD = """// What the page is told, made of Python by `python scripts/make_types.py`; a test holds it to that.
"""
PLAIN = {"string": "string", "number": "number", "integer": "number", "boolean": "boolean", "null": "null"}


def _type(schema: dict[str, Any]) -> str:
    """The TypeScript type of a JSON Schema (those that pydantic makes of typed dictionaries)."""
    if "$ref" in schema:
        return str(schema["$ref"]).rpartition("/")[2]
    if "anyOf" in schema:
        return " | ".join(dict.fromkeys(_type(s) for s in schema["anyOf"]))
    if "prefixItems" in schema:
        return f"[{', '.join(_type(s) for s in schema['prefixItems'])}]"
    if schema.get("type") == "array":
        inner = _type(schema.get("items") or {})
        return f"({inner})[]" if " | " in inner else f"{inner}[]"
    if schema.get("type") == "object":
        inner = schema.get("additionalProperties")
        return f"Record<string, {_type(inner) if isinstance(inner, dict) else 'any'}>"
    return PLAIN.get(str(schema.get("type")), "any")


def _interface(name: str, schema: dict[str, Any]) -> str:
    needed = set(schema.get("required", ()))
    said = " ".join(str(schema.get("description", "")).split())
    fields = [f"  {n}{'' if n in needed else '?'}: {_type(s)};" for n, s in schema.get("properties", {}).items()]
    words: list[str] = []
    for word in said.split():
        if words and len(words[-1]) + len(word) < 110:
            words[-1] += f" {word}"
        else:
            words.append(word)
    return "\n".join([*(f"// {line}" for line in words), f"export interface {name} {{", *fields, "}"])


def _asking(types: dict[str, str]) -> str:
    """What a question to an address is answered with: the addresses that say most come first, as one that is only begun
    by another one's words fits both.
    """
    lines = ["// A question to the server about the open model: what comes after its address, and what is sent.",
             "export interface Ask {"]  # fmt: skip
    for path in sorted(types, key=lambda p: (-p.count("/"), p.count("{}"), p)):
        said = f"`{path.replace('{}', '${string}') or '?${string}'}`"
        lines.append(f"  (path: {said}, body?: any, method?: string): Promise<{types[path]}>;")
    return "\n".join([*lines, "  (path: string, body?: any, method?: string): Promise<any>;", "}", ""])


def text() -> str:
    """The file."""
    found: dict[str, dict[str, Any]] = {}

    def told_as(form: Any) -> str:
        schema = TypeAdapter(form).json_schema(mode="serialization")
        named = {**schema.pop("$defs", {}), **({form.__name__: schema} if "properties" in schema else {})}
        for name, one in named.items():
            if found.setdefault(name, one) != one:
                raise SystemExit(f"{name} is two things")
        return str(form.__name__) if form.__name__ in named else _type(schema)

    for form in TOLD:
        told_as(form)
    types = {path: told_as(form) for path, form in ANSWERS.items()}
    told = "\n".join([*(f"{_interface(name, found[name])}\n" for name in sorted(found)), _asking(types)])
    return f"{HEAD}\ndeclare namespace Told {{\n{textwrap.indent(told, '  ')}}}\n"


if __name__ == "__main__":
    FILE.write_text(text())
