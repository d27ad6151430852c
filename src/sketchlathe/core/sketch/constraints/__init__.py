"""Constraint and dimension kinds: one module each. Each declares what it takes, its mark and its equations."""

from .base import CONSTRAINTS, AnyConstraint, Constraint, Figure, Mark
from .dimension import Dimensional

__all__ = ["CONSTRAINTS", "AnyConstraint", "Constraint", "Dimensional", "Figure", "Mark"]
