"""Curve kinds: one module each. A curve owns its points; ``c3.start`` names the start of curve ``c3``."""

from .base import CURVES, AnyCurve, Curve, Snap, Vec
from .pieces import ArcPiece, Bezier, EllipsePiece, Piece, Segment

__all__ = [
    "CURVES", "AnyCurve", "ArcPiece", "Bezier", "Curve", "EllipsePiece", "Piece", "Segment", "Snap", "Vec",
]  # fmt: skip
