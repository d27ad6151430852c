"""web/types/told.d.ts: what the page is told, as types for what checks the scripts (``tsc``)."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from pydantic import TypeAdapter

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


def text() -> str:
    """The file."""
    found: dict[str, dict[str, Any]] = {}
    for told in TOLD:
        schema = TypeAdapter(told).json_schema(mode="serialization")
        found |= schema.get("$defs", {})
        found.setdefault(told.__name__, schema)
    return "\n".join([HEAD, *(f"{_interface(name, found[name])}\n" for name in sorted(found))])


if __name__ == "__main__":
    FILE.write_text(text())
