"""Sketch Lathe: sketch dimensioned profiles, make parametric solids of them, take them out for printing."""

__version__ = "0.1.0"
