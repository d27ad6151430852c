"""Triangles: what is brought in as triangles, and what is printed. No kernel here."""
