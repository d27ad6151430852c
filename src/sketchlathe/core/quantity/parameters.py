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
            self._settle(name)

    def _settle(self, first: str) -> None:
        """Evaluate a parameter after all that it uses: depth first, with a stack of its own for long rows of them."""
        if first in self._values:
            return
        path = {first: self._uses(first)}
        while path:
            name, uses = next(reversed(path.items()))
            missing = next((n for n in uses if n not in self._values), None)
            if missing is None:
                self._values[name] = evaluate(self._formulas[name], self._values, length_unit=self.length_unit)
                del path[name]
            elif missing in path:
                names = list(path)
                loop = " → ".join([*names[names.index(missing) :], missing])
                raise BadInput(f"These parameters depend on each other in a loop: {loop}.", where=missing)
            else:
                path[missing] = self._uses(missing)

    def _uses(self, name: str) -> list[str]:
        return [n for n in names_in(self._formulas[name]) if n in self._formulas]

    def __getitem__(self, name: str) -> Quantity:
        return self._values[name]

    def __contains__(self, name: str) -> bool:
        return name in self._values

    @property
    def values(self) -> Mapping[str, Quantity]:
        """All parameters' values by name."""
        return self._values
