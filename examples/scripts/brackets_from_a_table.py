"""A family of wall brackets from a table: ./lathe run examples/scripts/brackets_from_a_table.py FOLDER"""

import csv
import io
import sys
from pathlib import Path

from sketchlathe import CannotBuild, Model

TABLE = """name,arm,upright,thick,bolt
small,40 mm,30 mm,4 mm,M4
medium,60 mm,45 mm,5 mm,M5
large,90 mm,70 mm,6 mm,M6
impossible,60 mm,4 mm,5 mm,M5
"""

folder = Path(sys.argv[1] if len(sys.argv) > 1 else ".")


def bracket(row: dict[str, str]) -> Model:
    """One bracket: an angle with a rib, a bolt through each leg."""
    m = Model(f"Bracket {row['name']}")
    arm, upright, thick = (m.parameter(n, row[n]) for n in ("arm", "upright", "thick"))
    side = m.sketch("front")
    side.rectangle("origin", (arm, thick))
    side.rectangle("origin", (thick, upright))
    both = side.region(1, 1) + side.region(arm.value / 2, thick.value / 2) + side.region(1, upright.value - 1)
    m.extrude(both, "24 mm", way="both")
    slope = m.sketch("front").line((thick.value, upright.value * 0.7), (arm.value * 0.7, thick.value))[0]
    m.rib("4 mm", slope)
    for face, x in ((m.faces("down").only, arm.value - 8), (m.faces("left").only, None)):
        s = m.sketch(face)
        place = s.point((x, 0.0) if x is not None else (0.0, upright.value - 8))
        m.hole(place, screw=row["bolt"])
    return m


for row in csv.DictReader(io.StringIO(TABLE)):
    try:
        made = bracket(row)
    except CannotBuild as problem:
        print(f"{row['name']}: {problem}")
        continue
    made.save(folder / f"bracket-{row['name']}.step")
    print(f"{row['name']}: {made.volume / 1000:.3f} cm³")
