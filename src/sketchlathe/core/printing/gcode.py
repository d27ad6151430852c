"""The file for the printer: numerical control code (ISO 6983, the G-code that printers read).

Comments tell the printer what it shows: ``;LAYERS n``, ``;LAYER i``.
"""

from __future__ import annotations

import math

import numpy as np

from .layers import Layers
from .process import Process
from .tracks import LIFT, TRAVEL, tracks

CLEAR = 20
"""How many layers higher the head goes when all is done."""


def gcode(layers: Layers, process: Process, name: str) -> str:
    """The whole program. Lengths in mm, absolute places, absolute filament."""
    count = len(layers.areas)
    out = [
        f";Sketch Lathe: {_one_line(name)}", f";LAYERS {count}",
        f";NOZZLE {process.nozzle:g} LAYER {process.layer:g} FILAMENT {process.filament:g}", "G21", "G90", "M82",
        "G28", "G92 E0",
    ]  # fmt: skip
    pushed, per = 0.0, process.line * process.layer / (math.pi * process.filament**2 / 4)
    for number, lines in enumerate(tracks(layers, process)):
        z = (number + 1) * process.layer
        out += [
            f";LAYER {number + 1}",
            f"G0 Z{z:.3f} F{60 * LIFT:.0f}",
            f"G4 P{round(process.layer_pause * 1000)}",
        ]
        for points, speed in zip(lines.pieces(), lines.speeds, strict=True):
            out.append(f"G0 X{points[0][0]:.3f} Y{points[0][1]:.3f} F{60 * TRAVEL:.0f}")
            feed = f" F{60 * speed:.3f}"
            for (x, y), far in zip(points[1:], np.linalg.norm(np.diff(points, axis=0), axis=1), strict=True):
                pushed += far * per
                out.append(f"G1 X{x:.3f} Y{y:.3f} E{pushed:.4f}{feed}")
                feed = ""
    out += [f"G0 Z{(count + CLEAR) * process.layer:.2f} F{60 * LIFT:.0f}", "M84", ";END"]
    return "\n".join(out) + "\n"


def _one_line(name: str) -> str:
    """A name as a comment: a line of its own would be read as a command."""
    return " ".join("".join(c if c.isprintable() else " " for c in name).split()).encode("ascii", "replace").decode()
