"""Print readiness on parts with known faults, layers and estimates against closed formulas, the printer against a
clock.
"""

import math

import numpy as np
import pytest
import trimesh
from tests.batteries.prints import floating, judged, laid, table, tray
from tests.conftest import Hand, plate

from sketchlathe.core.errors import BadInput
from sketchlathe.core.mesh.slicing import Slicer, plane_section, polygons
from sketchlathe.core.mesh.surface import Surface
from sketchlathe.core.printing.estimating import estimate
from sketchlathe.core.printing.gcode import gcode
from sketchlathe.core.printing.layers import outlines, slice_up
from sketchlathe.core.printing.laying import layings, turning
from sketchlathe.core.printing.printable import printable
from sketchlathe.core.printing.process import Process, process_of
from sketchlathe.core.printing.readiness import check
from sketchlathe.core.printing.remedies import remedy
from sketchlathe.core.printing.tracks import tracks
from sketchlathe.printer.machine import SPOOL, Machine, PrinterProblem, read_program

PI = math.pi


def findings(part, **process: float) -> dict[str, object]:
    return {f.kind: f for f in check(part, Process(**process))}


# --- layers


def test_loops_of_a_ring_have_its_area_and_direction() -> None:
    ring = trimesh.creation.annulus(5, 9, 20, sections=400)
    loops = Slicer(Surface(np.asarray(ring.vertices, float), np.asarray(ring.faces))).at(3.3)
    assert sorted(loop.area for loop in loops) == pytest.approx([-25 * PI, 81 * PI], rel=1e-3)
    assert polygons(loops).area == pytest.approx(56 * PI, rel=1e-3)


@pytest.mark.parametrize("height", [-10.0, 0.0, 2.5, 5.0, 10.0])
def test_levels_through_corners_close(height: float) -> None:
    """A box whose corners and edges lie exactly at the levels."""
    box = trimesh.creation.box((10, 10, 10)).subdivide()
    loops = Slicer(Surface(np.asarray(box.vertices, float), np.asarray(box.faces))).at(height)
    area = polygons(loops).area
    assert area == pytest.approx(100) if -5 < height <= 5 else area == 0


def test_slices_agree_with_trimesh_on_a_slanted_plane() -> None:
    shape = trimesh.creation.icosphere(3, 12.0)
    normal = np.array([1.0, 2.0, 2.0]) / 3
    x = np.cross(normal, [0, 0, 1.0])
    x /= np.linalg.norm(x)
    surface = Surface(np.asarray(shape.vertices, float), np.asarray(shape.faces))
    loops = plane_section(surface, normal * 4, x, normal)
    theirs = shape.section(normal, normal * 4)
    assert sum(loop.length for loop in loops) == pytest.approx(theirs.length, rel=1e-9)


def test_layers_of_a_plate_and_what_they_take() -> None:
    part = printable(plate("60", "40", "20").build().bodies).laid(np.eye(3))
    process = Process(layer=0.25, walls=2, shells=0, fill=1.0, layer_pause=2)
    layers = slice_up(part.surface, process)
    assert len(layers.areas) == 80
    assert [a.area for a in layers.areas] == pytest.approx([2400] * 80)
    takes = estimate(layers, process, 1.24)
    # filled wholly, it weighs what it is, but for the ends of lines
    assert takes.grams == pytest.approx(48 * 1.24, rel=3e-3)
    assert takes.metres == pytest.approx(48000 / (PI * 1.75**2 / 4) / 1000, rel=3e-3)
    # two walls whose middles lie half a line and one and a half inside; all else is travelled or drawn across
    walls = 2 * (100 - 4 * 0.44) + 2 * (100 - 12 * 0.44)
    across = (2400 - walls * 0.44) / 0.44
    least = 80 * (walls / 45 + across / 80 + 2)
    assert least < takes.seconds < 1.1 * least
    assert len(outlines(layers)[3][0]) == 5


@pytest.mark.parametrize("process", [Process(), Process(fill=1, layer=0.3), Process(fill=0, shells=0, walls=1)])
def test_the_program_takes_what_the_estimate_says(process: Process) -> None:
    part = tray(1.6)
    layers = slice_up(part.surface, process)
    takes = estimate(layers, process, 1.24)
    name, seconds, metres = read_program(gcode(layers, process, "Tray, revision 3"))
    assert name == "Tray, revision 3"
    assert len(seconds) == len(layers.areas)
    assert sum(metres) == pytest.approx(takes.metres, rel=1e-3)
    assert seconds == pytest.approx(takes.seconds_each, rel=1e-3)


def test_a_step_within_a_part_gets_a_closed_top() -> None:
    """A plinth with a post: layers under the plinth's top are drawn close where nothing of the post stands."""
    hand = plate("40", "40", "6")
    hand.step("block", width="10", depth="10", height="10", x="15", y="15", z="6")
    process = Process(layer=0.2, shells=4, fill=0.1, walls=1)
    layers = slice_up(printable(hand.build().bodies).laid(np.eye(3)).surface, process)
    drawn = [t.drawn()[0] * process.line for t in tracks(layers, process)]
    inner, rim = (40 - 0.88) ** 2, 4 * (40 - 0.44) * 0.44
    sparse, post = rim + 0.1 * inner, 10 * 10
    # in the middle of the plinth, just under its top beside the post, in the post
    assert drawn[14] == pytest.approx(sparse, rel=0.02)
    assert drawn[28] == pytest.approx(rim + inner - 0.9 * post, rel=0.02)
    assert drawn[40] == pytest.approx(4 * 9.56 * 0.44 + 0.1 * 9.12**2, rel=0.1)


# --- readiness


def test_known_faults_are_found_and_clean_parts_are_left_alone() -> None:
    share, missed, alarms = judged()
    assert (share, missed, alarms) == (100, [], [])


def test_a_thin_wall_is_measured_traced_and_put_right() -> None:
    hand = plate("40", "30", "15")
    shell = hand.step("shell", thickness="0.6 mm", faces=[hand.face((0, 0, 1))])
    part = printable(hand.build().bodies).laid(np.eye(3))
    found = findings(part)["walls"]
    assert found.text.startswith("Wall of 0.6 mm")
    assert shell in found.steps
    offered = remedy(hand.model, hand.model.parts[0], found)
    assert offered is not None
    hand.do("together", edits=offered["edits"])
    assert findings(printable(hand.build().bodies).laid(np.eye(3)))["walls"].well
    # what is painted are the walls, not the floor
    painted = part.surface.normals[found.triangles]
    assert np.abs(painted[:, 2]).max() < 0.01


def test_an_overhang_is_measured() -> None:
    found = findings(table(60))["overhangs"]
    assert found.text == "Overhang of 60°"
    low, high = 6.0, 6 + 6 * math.tan(math.radians(60))
    slant = PI * (low + high) * math.hypot(high - low, 6)
    assert float(found.detail.split()[0]) == pytest.approx(slant / 100, abs=0.1)
    assert findings(table(60), overhang=65)["overhangs"].well


def test_a_pin_in_mid_air_says_where() -> None:
    found = findings(floating(12))["islands"]
    assert "12.1 mm" in found.text


@pytest.mark.parametrize(("bed", "well"), [(70, True), (50, False)])
def test_it_fits_the_bed_or_not(bed: float, well: bool) -> None:
    part = printable(plate("60", "40", "20").build().bodies).laid(np.eye(3))
    assert findings(part, bed_x=bed, bed_y=bed)["fits"].well is well


def test_lying_flat_is_better_than_standing() -> None:
    hand = Hand()
    hand.step("block", width="10", depth="10", height="80")
    hand.step("block", width="50", depth="10", height="10", z="70")
    ways = layings(printable(hand.build().bodies), Process())
    assert ways[0].name in ("on its front", "on its back", "upside down")
    assert ways[0].support == pytest.approx(0, abs=1)
    upright = next(w for w in ways if w.name == "as modelled")
    assert upright.support == pytest.approx(40 * 10, rel=1e-6)
    assert upright.height == pytest.approx(80)


@pytest.mark.parametrize("down", [(0, 0, -1), (0, 0, 1), (1, 0, 0), (1, 2, -3), (-1, 1, 1)])
def test_turning_brings_a_direction_down(down: tuple[float, float, float]) -> None:
    matrix = turning(np.array(down, float))
    assert matrix @ (np.array(down) / np.linalg.norm(down)) == pytest.approx([0, 0, -1])
    assert np.linalg.det(matrix) == pytest.approx(1)
    assert matrix @ matrix.T == pytest.approx(np.eye(3))


@pytest.mark.parametrize(
    "raw",
    [
        {"nozzle": 0},
        {"layer": -1},
        {"walls": 1.5},
        {"fill": float("nan")},
        {"speed": 3},
        {"bed_x": 1e9},
        {"layer": "x"},
    ],
)
def test_values_of_printing_that_cannot_be(raw: dict[str, object]) -> None:
    with pytest.raises(BadInput, match=r"must be|not known"):
        process_of(raw)


# --- the printer

PROGRAM = "\n".join(
    [";Sketch Lathe: peg", ";LAYERS 3", "G28"]
    + [
        line
        for i in range(3)
        for line in (f";LAYER {i + 1}", "G4 P10000", f"G1 X0 Y0 E{1000 * i}", f"G1 E{1000 * (i + 1)}")
    ]
    + [";END", ""]
)


class Clock:
    def __init__(self) -> None:
        self.now = 0.0

    def __call__(self) -> float:
        return self.now


@pytest.fixture
def clock() -> Clock:
    return Clock()


@pytest.fixture
def machine(clock: Clock) -> Machine:
    return Machine(clock, speed=10)


def test_a_job_is_printed_layer_by_layer(machine: Machine, clock: Clock) -> None:
    job = machine.upload(PROGRAM.encode())
    assert machine.state()["state"] == "printing"
    clock.now = 1.5  # 15 s of printing: in the second layer
    now = machine.state()["job"]
    assert (now["layer"], now["percent"], now["seconds_left"]) == (2, 50, 15)
    clock.now = 100
    assert machine.state()["state"] == "idle"
    assert machine.state()["ended"][-1]["id"] == job.id
    assert machine.filament == pytest.approx(SPOOL - 3)


def test_pause_resume_cancel_and_the_queue(machine: Machine, clock: Clock) -> None:
    first, second = machine.upload(PROGRAM.encode()), machine.upload(PROGRAM.encode())
    assert second.state == "waiting"
    machine.act(first.id, "pause")
    clock.now = 50
    assert machine.state()["job"]["layer"] == 1
    machine.act(first.id, "resume")
    clock.now = 51
    assert machine.state()["job"]["layer"] == 2
    machine.act(first.id, "cancel")
    assert machine.state()["job"]["id"] == second.id
    with pytest.raises(PrinterProblem, match="cancelled cannot"):
        machine.act(first.id, "resume")
    with pytest.raises(PrinterProblem, match="no such job"):
        machine.act("nothing", "pause")


def test_running_out_of_filament_pauses_and_a_new_spool_goes_on(machine: Machine, clock: Clock) -> None:
    job = machine.upload(PROGRAM.encode())
    machine.fault("filament")
    clock.now = 5
    state = machine.state()
    assert state["state"] == "paused"
    assert "run out" in state["job"]["why"]
    with pytest.raises(PrinterProblem, match="no filament"):
        machine.act(job.id, "resume")
    machine.load()
    machine.act(job.id, "resume")
    clock.now = 50
    assert machine.state()["ended"][-1]["state"] == "done"


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "not whole"),
        (PROGRAM[:-20].encode(), "not whole"),
        (b"\xff\xfe", "not plain"),
        (b";LAYERS 0\n;END", "no layers"),
    ],
)
def test_programs_that_are_none(machine: Machine, data: bytes, says: str) -> None:
    with pytest.raises(PrinterProblem, match=says):
        machine.upload(data)
    assert machine.state()["state"] == "idle"


def test_a_printer_that_vanishes_is_a_state(clock: Clock) -> None:
    import threading

    from sketchlathe.core.errors import Trouble
    from sketchlathe.printer.http import serve
    from sketchlathe.service.printing import PrinterLink

    server = serve(0, 1.0)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    link = PrinterLink(server.server_port)
    assert link.state()["state"] == "idle"
    job = link.upload(PROGRAM.encode(), "ann")
    assert link.state()["job"]["id"] == job["id"]
    link.act("/faults/lost")
    assert link.state()["state"] == "lost"
    with pytest.raises(Trouble, match="does not answer"):
        link.upload(PROGRAM.encode(), "ann")
    link.act("/faults/back")
    # nothing was queued while it was gone, and the first job goes on
    assert link.state()["job"]["id"] == job["id"]
    assert link.state()["waiting"] == []
    server.shutdown()
    server.server_close()
    assert link.state(fresh=0)["state"] == "lost"


def test_parts_are_laid_on_the_bed() -> None:
    m = Hand()
    m.step("block", width="10", depth="20", height="30", x="50", z="-8")
    part = laid(m)
    assert part.surface.box == (pytest.approx((-5, -10, 0)), pytest.approx((5, 10, 30)))
