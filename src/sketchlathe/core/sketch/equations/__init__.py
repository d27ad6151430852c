"""Equations of a sketch: their rows, and what each kind's residual and derivatives are."""
