"""Units, expressions and parameters: what a person may type where a number is wanted."""

from .expressions import Expression, Quantity, evaluate, is_plain, names_in, negated, parse, rename_in, settle
from .parameters import ParameterTable, check_name
from .units import ANGLE, LENGTH, NUMBER, Dimension, LengthUnit, show

__all__ = [
    "ANGLE",
    "LENGTH",
    "NUMBER",
    "Dimension",
    "Expression",
    "LengthUnit",
    "ParameterTable",
    "Quantity",
    "check_name",
    "evaluate",
    "is_plain",
    "names_in",
    "negated",
    "parse",
    "rename_in",
    "settle",
    "show",
]
