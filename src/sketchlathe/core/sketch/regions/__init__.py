"""Closed regions of a sketch: an analytic arrangement of its curves, and region picks that survive edits."""

from .arrangement import Arrangement, Edge, Loop, Profile, Region, arrange
from .resolve import Found, resolve

__all__ = ["Arrangement", "Edge", "Found", "Loop", "Profile", "Region", "arrange", "resolve"]
