"""A logger box and its lid, by five parameters: ./lathe run examples/scripts/box_with_lid.py FOLDER"""

import sys
from pathlib import Path

from sketchlathe import Model

folder = Path(sys.argv[1] if len(sys.argv) > 1 else ".")

m = Model("Logger box")
wide, deep, high = m.parameter("wide", "70 mm"), m.parameter("deep", "50 mm"), m.parameter("high", "24 mm")
wall, play = m.parameter("wall", "2 mm"), m.parameter("play", "0.2 mm")

tray = m.parts[0]
tray.name = "Tray"
block = tray.block(wide, deep, high)
tray.fillet(block.edges(along="z"), "6 mm")
tray.shell(wall, faces=tray.faces("up").only)

lid = m.part("Lid")
plate = lid.block(wide, deep, "3 mm")
lid.fillet(plate.edges(along="z"), "6 mm")
lip = lid.block(
    wide - 2 * wall - 2 * play, deep - 2 * wall - 2 * play, "4 mm",
    x=wall + play, y=wall + play, z="-4 mm",
)  # fmt: skip
corners = lip.edges(along="z").where(lambda e: e.middle[2] < 0, "below the plate")
lid.fillet(corners, "6 mm" - wall - play)

closed = m.together("Closed")
below, above = closed.bring_part(tray), closed.bring_part(lid, z="60 mm")
closed.place(
    above.faces("down").where(lambda f: f.middle[2] > 58, "the plate's underside").only,
    below.faces("up").highest().only, how="against",
    a2=above.faces("left").largest, how2="flush", b2=below.faces("left").largest,
    a3=above.faces("front").largest, how3="flush", b3=below.faces("front").largest,
)  # fmt: skip

for part in (tray, lid):
    m.save(folder / f"logger-{part.name.lower()}.stl", part.name)
    print(f"{part.name}: {part.volume / 1000:.3f} cm³")
print(f"Closed: {closed.box[2]:.1f} mm high")
