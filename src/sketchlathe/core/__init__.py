"""The job itself: no web, no database, no processes. Lengths in mm, angles in radians inside."""
