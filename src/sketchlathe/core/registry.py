"""Kinds that declare themselves: curves, constraints, steps, edits, formats.

A kind is one module; importing its package's registry finds every module beside it. Nothing else lists kinds.
"""

from __future__ import annotations

import importlib
import pkgutil
import threading
from collections.abc import Iterator
from typing import Any, Generic, TypeVar

from .errors import BadInput
from .saying import a, opens

T = TypeVar("T")


def kind_of(cls: Any) -> str:
    """The kind word of a class that declares ``kind: Literal["..."] = "..."`` (or a plain class attribute)."""
    fields = getattr(cls, "model_fields", {})
    return str(fields["kind"].default if "kind" in fields else cls.kind)


class Registry(Generic[T]):
    """The kinds of one thing, by their ``kind`` word, in the order of their ``order`` then name."""

    def __init__(self, what: str, package: str) -> None:
        self.what = what
        self._package = package
        self._kinds: dict[str, type[T]] = {}
        self._found = self._finding = False
        self._lock = threading.RLock()

    def add(self, cls: type[T]) -> type[T]:
        """Class decorator: make a kind known."""
        kind = kind_of(cls)
        if kind in self._kinds and self._kinds[kind].__module__ != cls.__module__:
            raise ValueError(f"two {self.what} kinds are called {kind!r}")
        self._kinds[kind] = cls
        return cls

    def forget(self, kind: str) -> None:
        """Take a kind out again (a test that registered one)."""
        self._kinds.pop(kind, None)

    def _discover(self) -> None:
        if self._found:
            return
        with self._lock:  # other threads wait until all kinds are known; this one may come back while it imports
            if self._found or self._finding:
                return
            self._finding = True
            package = importlib.import_module(self._package)
            for info in pkgutil.iter_modules(package.__path__):
                importlib.import_module(f"{self._package}.{info.name}")
            self._found = True

    def __getitem__(self, kind: str) -> type[T]:
        self._discover()
        try:
            return self._kinds[kind]
        except KeyError:
            raise BadInput(f"There is no {self.what} of kind “{str(kind)[:40]}”.") from None

    def __contains__(self, kind: object) -> bool:
        self._discover()
        return kind in self._kinds

    def __iter__(self) -> Iterator[type[T]]:
        self._discover()
        return iter(sorted(self._kinds.values(), key=lambda c: (getattr(c, "order", 100), kind_of(c))))

    def parse(self, raw: Any) -> T:
        """An instance from its JSON form (or the instance itself)."""
        if isinstance(raw, dict):
            kind = raw.get("kind")
            if not isinstance(kind, str):
                raise BadInput(f"{opens(a(self.what))} without a kind.")
            cls: Any = self[kind]
            return cls.model_validate(raw)  # type: ignore[no-any-return]
        return raw  # type: ignore[no-any-return]
