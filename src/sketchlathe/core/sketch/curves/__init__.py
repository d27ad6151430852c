"""Curve kinds: one module each. A curve owns its points; ``c3.start`` names the start of curve ``c3``."""

from .base import CURVES, AnyCurve, ArcPiece, Curve, Piece, Segment, Snap, Vec

__all__ = ["CURVES", "AnyCurve", "ArcPiece", "Curve", "Piece", "Segment", "Snap", "Vec"]
