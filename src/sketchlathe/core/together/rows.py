"""The equations of placing, compiled: residuals, derivatives, normal equations. Plain arrays in, plain arrays out.

A row touches two bodies, so its derivative is two blocks of six numbers, and the normal equations are gathered from
these.
"""

from __future__ import annotations

import numpy as np
from numba import njit

OFFSET, SLANT, APART, REACH = 0, 1, 2, 3
CODES = {"offset": OFFSET, "slant": SLANT, "apart": APART, "reach": REACH}


@njit(cache=True)
def _turned(turn, x):
    return np.array([
        turn[0, 0] * x[0] + turn[0, 1] * x[1] + turn[0, 2] * x[2],
        turn[1, 0] * x[0] + turn[1, 1] * x[1] + turn[1, 2] * x[2],
        turn[2, 0] * x[0] + turn[2, 1] * x[1] + turn[2, 2] * x[2],
    ])  # fmt: skip


@njit(cache=True)
def _cross(a, b, out):
    out[0] = a[1] * b[2] - a[2] * b[1]
    out[1] = a[2] * b[0] - a[0] * b[2]
    out[2] = a[0] * b[1] - a[1] * b[0]


@njit(cache=True)
def evaluate(turns, shifts, middles, one, other, p, q, u, v, c, form, size, blocks):
    """Residuals (r) at poses (n + 1; the last stands still), and ``blocks`` (r, 2, 6) filled with the derivatives by
    turn and shift / size of the two bodies. ``middles`` (n + 1, 3): the points that bodies turn about, in their
    coordinates.
    """
    count = len(c)
    about = np.empty_like(middles)
    for i in range(len(middles)):
        about[i] = _turned(turns[i], middles[i]) + shifts[i]
    residual = np.empty(count)
    normal, arm, tilt = np.empty(3), np.empty(3), np.empty(3)
    for r in range(count):
        a, b = one[r], other[r]
        if form[r] == SLANT:
            uw, vw = _turned(turns[a], u[r]), _turned(turns[b], v[r])
            residual[r] = uw[0] * vw[0] + uw[1] * vw[1] + uw[2] * vw[2] - c[r]
            _cross(uw, vw, tilt)
            for k in range(3):
                blocks[r, 0, k], blocks[r, 1, k] = tilt[k], -tilt[k]
                blocks[r, 0, 3 + k] = blocks[r, 1, 3 + k] = 0.0
            continue
        pw, qw = _turned(turns[a], p[r]) + shifts[a], _turned(turns[b], q[r]) + shifts[b]
        d = pw - qw
        if form[r] == APART:
            long = max(np.sqrt(d[0] * d[0] + d[1] * d[1] + d[2] * d[2]), 1e-12)
            normal[:] = d / long
        else:
            vw = _turned(turns[b], v[r])
            along = d[0] * vw[0] + d[1] * vw[1] + d[2] * vw[2]
            if form[r] == OFFSET:
                long = along
                normal[:] = vw
            else:
                off = d - along * vw
                long = max(np.sqrt(off[0] * off[0] + off[1] * off[1] + off[2] * off[2]), 1e-12)
                normal[:] = off / long
        residual[r] = (long - c[r]) / size
        # both bodies are pulled at the same point, one forward and one back
        for side, body, sign in ((0, a, 1.0), (1, b, -1.0)):
            arm[:] = pw - about[body]
            _cross(arm, normal, tilt)
            for k in range(3):
                blocks[r, side, k] = sign * tilt[k] / size
                blocks[r, side, 3 + k] = sign * normal[k]
    return residual


@njit(cache=True)
def gather(residual, blocks, one, other, moving, turns_too, shifts_too, matrix, gradient):
    """The normal equations JᵀJ (6 n, 6 n) and Jᵀf of rows, for bodies that move; turns or shifts alone if so asked."""
    matrix[:] = 0.0
    gradient[:] = 0.0
    for r in range(len(residual)):
        pair = (one[r], other[r])
        for s in range(2):
            if not moving[pair[s]]:
                continue
            for i in range(6):
                if (i < 3 and not turns_too) or (i >= 3 and not shifts_too) or blocks[r, s, i] == 0.0:
                    continue
                gradient[6 * pair[s] + i] += blocks[r, s, i] * residual[r]
                for t in range(2):
                    if not moving[pair[t]]:
                        continue
                    for j in range(6):
                        if (j < 3 and turns_too) or (j >= 3 and shifts_too):
                            matrix[6 * pair[s] + i, 6 * pair[t] + j] += blocks[r, s, i] * blocks[r, t, j]


@njit(cache=True)
def moved(turns, shifts, middles, by, size):
    """Poses (n + 1) after small motions (6 n), each a turn about a body's middle (n + 1, 3; in its own coordinates)
    and a shift / size. Rodrigues' formula.
    """
    out_turns, out_shifts = turns.copy(), shifts.copy()
    k, r = np.zeros((3, 3)), np.empty((3, 3))
    for i in range(len(by) // 6):
        x, y, z = by[6 * i], by[6 * i + 1], by[6 * i + 2]
        angle = np.sqrt(x * x + y * y + z * z)
        k[0, 1], k[0, 2], k[1, 0], k[1, 2], k[2, 0], k[2, 1] = -z, y, z, -x, -y, x
        first = 1.0 if angle < 1e-8 else np.sin(angle) / angle
        second = 0.5 if angle < 1e-8 else (1.0 - np.cos(angle)) / (angle * angle)
        for a in range(3):
            for b in range(3):
                square = k[a, 0] * k[0, b] + k[a, 1] * k[1, b] + k[a, 2] * k[2, b]
                r[a, b] = (1.0 if a == b else 0.0) + first * k[a, b] + second * square
        middle = _turned(turns[i], middles[i]) + shifts[i]
        for a in range(3):
            for b in range(3):
                out_turns[i, a, b] = r[a, 0] * turns[i, 0, b] + r[a, 1] * turns[i, 1, b] + r[a, 2] * turns[i, 2, b]
        out_shifts[i] = _turned(r, shifts[i] - middle) + middle + by[6 * i + 3 : 6 * i + 6] * size
    return out_turns, out_shifts
