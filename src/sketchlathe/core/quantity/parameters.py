"""The named values of a model: evaluated together, loops found and named."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping

from ..errors import BadInput
from .expressions import NAME, RESERVED, Quantity, evaluate, names_in
from .units import LengthUnit


def check_name(name: str) -> str:
    """``name`` if it can be a parameter's name, else ``BadInput``.

    >>> check_name("mast_d")
    'mast_d'
    """
    if len(name) > 40:
        raise BadInput("A parameter's name may have at most 40 characters.", where="name")
    if not re.fullmatch(NAME, name):
        raise BadInput(
            f"“{name}” cannot be a parameter's name: use letters, digits and _, starting with a letter.",
            where="name",
        )
    if name in RESERVED:
        raise BadInput(f"“{name}” means something else in formulas already; choose another name.", where="name")
    return name


class ParameterTable:
    """Evaluated parameters. ``table[name]`` is a ``Quantity``.

    >>> table = ParameterTable([("wall", "4 mm"), ("outer", "2 * wall + 42 mm")])
    >>> table["outer"].value
    50.0
    """

    def __init__(self, entries: Iterable[tuple[str, str]], length_unit: LengthUnit = "mm") -> None:
        self.length_unit: LengthUnit = length_unit
        self._formulas = dict(entries)
        self._values: dict[str, Quantity] = {}
        for name in self._formulas:
            self._value(name, ())

    def _value(self, name: str, path: tuple[str, ...]) -> Quantity:
        if name in self._values:
            return self._values[name]
        if name in path:
            loop = " → ".join([*path[path.index(name) :], name])
            raise BadInput(f"These parameters depend on each other in a loop: {loop}.", where=name)
        formula = self._formulas[name]
        used = {n: self._value(n, (*path, name)) for n in names_in(formula) if n in self._formulas}
        self._values[name] = evaluate(formula, used, length_unit=self.length_unit)
        return self._values[name]

    def __getitem__(self, name: str) -> Quantity:
        return self._values[name]

    def __contains__(self, name: str) -> bool:
        return name in self._values

    @property
    def values(self) -> Mapping[str, Quantity]:
        """All parameters' values by name."""
        return self._values
