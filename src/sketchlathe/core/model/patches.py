"""Differences of two documents as JSON Patches (RFC 6902)."""

from __future__ import annotations

from typing import Any

Patch = list[dict[str, Any]]


def difference(old: Any, new: Any, path: str = "") -> Patch:
    """A patch that turns ``old`` into ``new``.

    Lists are compared by their common head and tail, which suits histories where things are added,
    taken out or changed in place.

    >>> difference({"a": 1, "b": [1, 2, 3]}, {"b": [1, 9, 2, 3]})
    [{'op': 'remove', 'path': '/a'}, {'op': 'add', 'path': '/b/1', 'value': 9}]
    """
    if old == new and type(old) is type(new):
        return []
    if isinstance(old, dict) and isinstance(new, dict):
        patch: Patch = [{"op": "remove", "path": f"{path}/{_escaped(k)}"} for k in old if k not in new]
        for key, value in new.items():
            at = f"{path}/{_escaped(key)}"
            if key not in old:
                patch.append({"op": "add", "path": at, "value": value})
            else:
                patch.extend(difference(old[key], value, at))
        return patch
    if isinstance(old, list) and isinstance(new, list):
        return _lists(old, new, path)
    return [{"op": "replace", "path": path, "value": new}]


def _lists(old: list[Any], new: list[Any], path: str) -> Patch:
    head = 0
    while head < min(len(old), len(new)) and old[head] == new[head]:
        head += 1
    tail = 0
    while tail < min(len(old), len(new)) - head and old[-1 - tail] == new[-1 - tail]:
        tail += 1
    middle_old, middle_new = old[head : len(old) - tail], new[head : len(new) - tail]
    patch: Patch = []
    shared = min(len(middle_old), len(middle_new))
    for i in range(shared):
        patch.extend(difference(middle_old[i], middle_new[i], f"{path}/{head + i}"))
    patch.extend({"op": "remove", "path": f"{path}/{head + i}"} for i in range(len(middle_old) - 1, shared - 1, -1))
    patch.extend(
        {"op": "add", "path": f"{path}/{head + i}", "value": middle_new[i]} for i in range(shared, len(middle_new))
    )
    return patch


def _escaped(key: str) -> str:
    return key.replace("~", "~0").replace("/", "~1")
