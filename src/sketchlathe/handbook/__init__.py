"""The handbook: what it shows of each step kind, made of the same descriptions as the screen."""
