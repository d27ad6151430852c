"""Sketches: curves, constraints, the solver, what is free and what conflicts, regions, snapping.

Coordinates are 2D in the sketch's own plane, in mm; angles in radians, counterclockwise.
"""
