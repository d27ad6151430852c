"""Placing bodies and copies of parts by what touches what. No kernel in here: what is picked comes as plain grips."""

from .grips import Grip, Pose
from .placing import Placed, place
from .relations import RELATIONS, Relation

__all__ = ["RELATIONS", "Grip", "Placed", "Pose", "Relation", "place"]
