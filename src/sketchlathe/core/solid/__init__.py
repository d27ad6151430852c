"""Solids: the only package that imports the geometry kernel.

Everything here may crash a process, so nothing outside workers (and tests) calls it. ``shapes`` makes and combines,
``naming`` gives every face a name from the kernel's history, ``digest`` names edges and vertices and says what is next
to what, ``meshing`` and ``measuring`` read a body out.
"""
