"""A ratchet wheel whose teeth are reckoned: ./lathe run examples/scripts/ratchet_wheel.py FOLDER"""

import math
import sys
from pathlib import Path

from sketchlathe import Model

folder = Path(sys.argv[1] if len(sys.argv) > 1 else ".")
TEETH, OUTER, INNER = 16, 20.0, 16.5


def place(radius: float, angle: float) -> tuple[float, float]:
    """A place by its distance from the middle (mm) and its angle (rad)."""
    return radius * math.cos(angle), radius * math.sin(angle)


m = Model("Ratchet wheel")
s = m.sketch("top")
step = 2 * math.pi / TEETH
corners = [p for k in range(TEETH) for p in (place(INNER, k * step), place(OUTER, k * step))]
s.outline(*corners)
s.circle("origin", "6 mm")
m.extrude(s, "5 mm")

# n triangles from the middle for each tooth: between its foot and its tip, and from the tip on to the next foot
teeth = TEETH * INNER * OUTER * math.sin(step) / 2 * 5
print(f"{m.volume:.3f} mm³, reckoned {teeth - math.pi * 9 * 5:.3f} mm³")
m.save(folder / "ratchet-wheel.stl")
