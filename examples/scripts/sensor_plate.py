"""A sensor plate in three widths: ./lathe run examples/scripts/sensor_plate.py FOLDER"""

import sys
from pathlib import Path

from sketchlathe import Model

folder = Path(sys.argv[1] if len(sys.argv) > 1 else ".")

m = Model("Sensor plate")
wide = m.parameter("wide", "60 mm")
m.parameter("thick", "5 mm")

outline = m.sketch("top")
outline.rectangle("origin", (wide, "40 mm"))
plate = m.extrude(outline, "thick")

# a hole for a screw 8 mm off each corner
places = m.sketch(plate.faces("up").only)
for x, off in ((8, "8 mm"), (52, wide - "8 mm")):
    for y, up in ((8, "8 mm"), (32, "32 mm")):
        place = places.point((x, y))[0]
        places.size(off, place.at, places.y_axis)
        places.size(up, place.at, places.x_axis)
m.hole(places.curves, screw="M4", form="countersunk")

m.fillet(plate.edges(along="z").where(lambda e: e.form == "straight"), "6 mm")
m.material = "PETG"

for width in (60, 80, 92):
    wide.set(f"{width} mm")
    m.save(folder / f"sensor-plate-{width}.stl")
    print(f"{width} mm wide: {m.volume / 1000:.3f} cm³, {m.mass:.2f} g")
