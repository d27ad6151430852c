"""The sketch solver: our own, on plain arrays.

``rows`` gathers equations from curves and constraints, ``system`` merges scalars and orders the sparse KKT
matrix once per topology, ``residuals`` / ``ldl`` / ``newton`` are the compiled kernels, ``edits`` and ``drag``
move a sketch, ``freedom`` and ``conflict`` explain it. docs/ARCHITECTURE.md gives the mathematics.
"""
