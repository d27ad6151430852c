"""What can be done to a sketch: pure functions from a sketch to the sketch afterwards. Edits of the model call them."""

from .adding import Fresh, add_constraint, add_if_it_fits, solved_or_refused

__all__ = ["Fresh", "add_constraint", "add_if_it_fits", "solved_or_refused"]
