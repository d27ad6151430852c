"""Everything a person does to a model is one typed edit; ``apply`` is pure. One module per family."""

from .base import EDITS, Edit, apply_edit, parse_edit

__all__ = ["EDITS", "Edit", "apply_edit", "parse_edit"]
