"""Numbers as a model knows them: typed texts, parameters, and what is reckoned from these."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ..core.quantity import show

if TYPE_CHECKING:
    from .model import Model


class Formula:
    """A number by how it is reckoned: ``wide / 2 + "3 mm"`` follows when ``wide`` changes.

    >>> str(Formula("wide") / 2 + "3 mm")
    '(wide / 2) + 3 mm'
    """

    def __init__(self, text: str) -> None:
        self.text = text

    def __str__(self) -> str:
        return self.text

    def __repr__(self) -> str:
        return f"{type(self).__name__}({self.text!r})"

    def _with(self, sign: str, other: Size, *, turned: bool = False) -> Formula:
        a, b = (other, self) if turned else (self, other)
        return Formula(f"{_bracketed(a)} {sign} {_bracketed(b)}")

    def __add__(self, other: Size) -> Formula:
        return self._with("+", other)

    def __radd__(self, other: Size) -> Formula:
        return self._with("+", other, turned=True)

    def __sub__(self, other: Size) -> Formula:
        return self._with("-", other)

    def __rsub__(self, other: Size) -> Formula:
        return self._with("-", other, turned=True)

    def __mul__(self, other: Size) -> Formula:
        return self._with("*", other)

    def __rmul__(self, other: Size) -> Formula:
        return self._with("*", other, turned=True)

    def __truediv__(self, other: Size) -> Formula:
        return self._with("/", other)

    def __rtruediv__(self, other: Size) -> Formula:
        return self._with("/", other, turned=True)

    def __neg__(self) -> Formula:
        return Formula(f"-{_bracketed(self)}")


Size = str | int | float | Formula
"""What a size is said by: ``"5 mm"``, ``"1/4 in"``, ``"wide / 2"``; a bare number is in the model's units (degrees for
an angle); a parameter, and what is reckoned from one."""


def text_of(size: Size) -> str:
    """A size as a person types it."""
    return str(size) if isinstance(size, (str, Formula)) else repr(size)


def _bracketed(size: Size) -> str:
    text = text_of(size)
    loose = any(c in text for c in "+-*/^") or (isinstance(size, Formula) and " " in text)
    return f"({text})" if loose else text


class Parameter(Formula):
    """A named number of a model, which sizes can use. ``wide.set("70 mm")`` changes all that follows from it."""

    def __init__(self, model: Model, name: str) -> None:
        super().__init__(name)
        self._model = model

    @property
    def name(self) -> str:
        """What it is called."""
        return self.text

    @property
    def value(self) -> float:
        """What it comes to, mm or rad, or a plain number."""
        return self._model.document.table[self.text].value

    def set(self, formula: Size) -> None:
        """Give it another value. Raises ``BadInput`` where that is none, and ``CannotBuild`` where a part cannot be
        made with it; it then stays as it was.
        """
        self._model.apply("set_parameter", name=self.text, formula=text_of(formula))

    def __repr__(self) -> str:
        quantity = self._model.document.table[self.text]
        return f"{self.text} = {show(quantity.value, quantity.dimension, self._model.document.read_in)}"
