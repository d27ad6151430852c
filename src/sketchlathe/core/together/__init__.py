"""Placing bodies and copies of parts by what touches what. No kernel in here: what is picked comes as plain features."""

from .features import Feature, Pose
from .placing import Placed, place
from .relations import RELATIONS, Relation

__all__ = ["RELATIONS", "Feature", "Placed", "Pose", "Relation", "place"]
