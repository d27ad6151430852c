"""Sketch Lathe: sketch dimensioned profiles, make parametric solids of them, take them out for printing.

``from sketchlathe import Model`` is where a script begins: see ``sketchlathe.library``.
"""

from typing import Any

__version__ = "0.1.0"
_TROUBLE = ("BadInput", "CannotBuild", "NotFound", "Refused", "Trouble")
_LIBRARY = ("Formula", "Model")
__all__ = [*_LIBRARY, *_TROUBLE]


def __getattr__(name: str) -> Any:
    """What scripts use, loaded when one asks: the program itself starts without it."""
    if name in _TROUBLE:
        from .core import errors

        return getattr(errors, name)
    if name in _LIBRARY:
        from . import library

        return getattr(library, name)
    raise AttributeError(f"module “{__name__}” has no “{name}”")
