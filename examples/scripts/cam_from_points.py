"""A cam through measured points: ./lathe run examples/scripts/cam_from_points.py FOLDER"""

import math
import sys
from pathlib import Path

from sketchlathe import Model

POINTS = """angle,lift
0,14.0
45,14.6
90,17.2
135,20.1
180,21.0
225,20.1
270,17.2
315,14.6
"""

folder = Path(sys.argv[1] if len(sys.argv) > 1 else ".")
rows = [tuple(map(float, line.split(","))) for line in POINTS.splitlines()[1:]]
places = [(lift * math.cos(math.radians(a)), lift * math.sin(math.radians(a))) for a, lift in rows]

m = Model("Cam")
s = m.sketch("top")
first = s.spline(*places)[0]
s.line(first.end, first.start)
s.circle("origin", "8 mm")
m.extrude(s, "6 mm")
print(f"{s.whole.area:.2f} mm² of cam, {m.mass:.2f} g")
m.save(folder / "cam.stl")
