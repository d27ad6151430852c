"""What printing takes: time, filament, cost. Counted along the very lines that the program for the printer has."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from .gcode import CLEAR
from .layers import Layers
from .process import Process
from .tracks import LIFT, TRAVEL, tracks


@dataclass(frozen=True)
class Estimate:
    """Seconds, grams, metres of filament, cost; ``seconds_each`` and ``grams_each`` by layer."""

    seconds: float
    grams: float
    metres: float
    cost: float
    seconds_each: np.ndarray
    grams_each: np.ndarray


def estimate(layers: Layers, process: Process, density: float) -> Estimate:
    """What the program for these layers takes. ``density`` in g/cm³."""
    lengths, seconds = np.zeros(len(layers.areas)), np.zeros(len(layers.areas))
    at = np.zeros(2)
    for i, lines in enumerate(tracks(layers, process)):
        lengths[i], drawing = lines.drawn()
        seconds[i] = drawing + lines.travelled(at) / TRAVEL + process.layer / LIFT + process.layer_pause
        if len(lines.points):
            at = lines.points[-1]
    seconds[-1:] += CLEAR * process.layer / LIFT
    volume = lengths * process.line * process.layer
    grams = volume / 1000 * density
    total = float(volume.sum())
    return Estimate(
        float(seconds.sum()),
        float(grams.sum()),
        total / (math.pi * process.filament**2 / 4) / 1000,
        float(grams.sum()) / 1000 * process.price,
        seconds,
        grams,
    )
