"""Residuals and gradients of every equation, compiled; all in length units.

A row has a kind, up to eight variables (``-1`` where unused) and four constants. Signs and branches are
constants chosen from the drawing when the constraint is made, so that the root asked for is the one found.
Angles are ``k wrap(atan2(u x v, u . v) - a)`` with ``k`` a local length: this keeps the right root far more
often than polynomial forms.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

SLOTS = 8
CONSTANTS = 4

# kinds: name = code            variables                       constants
DIFFERENCE = 0  # x1 - x0 - d                                   d
DISTANCE = 1  # |p1-p0| - d     p0 p1                           d
POINT_LINE = 2  # n.(p-a) - d   p a b                           d (signed)
ANGLE = 3  # between a0a1, b0b1 a0 a1 b0 b1                     angle, k (0: mean length)
EQUAL_LENGTH = 4  # |u|-|v|     a0 a1 b0 b1
ON_CIRCLE = 5  # |p-c| - r      p c r
TANGENT_LINE = 6  # s n.(c-a)-r c a b r                         s
TANGENT_ROUND = 7  # |c1c2| - (s1 r1 + s2 r2)  c1 c2 r1 r2      s1 s2
MIDDLE = 8  # 2 m - a - b       m a b   (one coordinate)
SYMMETRIC_ALONG = 9  # u.(q-p)  p q a b
SYMMETRIC_ACROSS = 10  # n.((p+q)/2-a)  p q a b
VALUE = 11  # x0 - d            x                               d  (a radius)
RATIO = 12  # x1 - f x0         x0 x1                           f


@njit(cache=True, error_model="numpy", inline="always")
def _wrap(angle: float) -> float:
    return angle - 2.0 * math.pi * math.floor((angle + math.pi) / (2.0 * math.pi))


@njit(cache=True, error_model="numpy", nogil=True)
def residuals(kind, var, con, x, r, g):
    """Fill ``r`` (m) and ``g`` (m, 8): residual and gradient of each row at ``x``. Returns the sum of squares."""
    total = 0.0
    for i in range(kind.shape[0]):
        k = kind[i]
        v = var[i]
        c = con[i]
        for j in range(SLOTS):
            g[i, j] = 0.0
        value = 0.0
        if k == DIFFERENCE:
            value = x[v[1]] - x[v[0]] - c[0]
            g[i, 0] = -1.0
            g[i, 1] = 1.0
        elif k == VALUE:
            value = x[v[0]] - c[0]
            g[i, 0] = 1.0
        elif k == RATIO:
            value = x[v[1]] - c[0] * x[v[0]]
            g[i, 0] = -c[0]
            g[i, 1] = 1.0
        elif k == DISTANCE:
            dx = x[v[2]] - x[v[0]]
            dy = x[v[3]] - x[v[1]]
            d = math.sqrt(dx * dx + dy * dy)
            value = d - c[0]
            ux, uy = (dx / d, dy / d) if d > 1e-14 else (1.0, 0.0)
            g[i, 0] = -ux
            g[i, 1] = -uy
            g[i, 2] = ux
            g[i, 3] = uy
        elif k == POINT_LINE:
            wx = x[v[4]] - x[v[2]]
            wy = x[v[5]] - x[v[3]]
            w = max(math.sqrt(wx * wx + wy * wy), 1e-14)
            ux, uy = wx / w, wy / w
            qx = x[v[0]] - x[v[2]]
            qy = x[v[1]] - x[v[3]]
            t = ux * qx + uy * qy
            value = -uy * qx + ux * qy - c[0]
            s = t / w
            g[i, 0] = -uy
            g[i, 1] = ux
            g[i, 2] = uy * (1.0 - s)
            g[i, 3] = -ux * (1.0 - s)
            g[i, 4] = uy * s
            g[i, 5] = -ux * s
        elif k == ANGLE:
            ux = x[v[2]] - x[v[0]]
            uy = x[v[3]] - x[v[1]]
            wx = x[v[6]] - x[v[4]]
            wy = x[v[7]] - x[v[5]]
            uu = max(ux * ux + uy * uy, 1e-28)
            ww = max(wx * wx + wy * wy, 1e-28)
            scale = c[1] if c[1] > 0.0 else 0.5 * (math.sqrt(uu) + math.sqrt(ww))
            value = scale * _wrap(math.atan2(ux * wy - uy * wx, ux * wx + uy * wy) - c[0])
            # d(angle of w) - d(angle of u); the scale is held, which only changes the step's length
            au, bu = -uy / uu * scale, ux / uu * scale
            aw, bw = -wy / ww * scale, wx / ww * scale
            g[i, 0] = au
            g[i, 1] = bu
            g[i, 2] = -au
            g[i, 3] = -bu
            g[i, 4] = -aw
            g[i, 5] = -bw
            g[i, 6] = aw
            g[i, 7] = bw
        elif k == EQUAL_LENGTH:
            ux = x[v[2]] - x[v[0]]
            uy = x[v[3]] - x[v[1]]
            wx = x[v[6]] - x[v[4]]
            wy = x[v[7]] - x[v[5]]
            u = max(math.sqrt(ux * ux + uy * uy), 1e-14)
            w = max(math.sqrt(wx * wx + wy * wy), 1e-14)
            value = u - w
            g[i, 0] = -ux / u
            g[i, 1] = -uy / u
            g[i, 2] = ux / u
            g[i, 3] = uy / u
            g[i, 4] = wx / w
            g[i, 5] = wy / w
            g[i, 6] = -wx / w
            g[i, 7] = -wy / w
        elif k == ON_CIRCLE:
            dx = x[v[0]] - x[v[2]]
            dy = x[v[1]] - x[v[3]]
            d = math.sqrt(dx * dx + dy * dy)
            ux, uy = (dx / d, dy / d) if d > 1e-14 else (1.0, 0.0)
            value = d - x[v[4]]
            g[i, 0] = ux
            g[i, 1] = uy
            g[i, 2] = -ux
            g[i, 3] = -uy
            g[i, 4] = -1.0
        elif k == TANGENT_LINE:
            wx = x[v[4]] - x[v[2]]
            wy = x[v[5]] - x[v[3]]
            w = max(math.sqrt(wx * wx + wy * wy), 1e-14)
            ux, uy = wx / w, wy / w
            qx = x[v[0]] - x[v[2]]
            qy = x[v[1]] - x[v[3]]
            t = (ux * qx + uy * qy) / w
            s = c[0]
            value = s * (-uy * qx + ux * qy) - x[v[6]]
            g[i, 0] = -s * uy
            g[i, 1] = s * ux
            g[i, 2] = s * uy * (1.0 - t)
            g[i, 3] = -s * ux * (1.0 - t)
            g[i, 4] = s * uy * t
            g[i, 5] = -s * ux * t
            g[i, 6] = -1.0
        elif k == TANGENT_ROUND:
            dx = x[v[2]] - x[v[0]]
            dy = x[v[3]] - x[v[1]]
            d = math.sqrt(dx * dx + dy * dy)
            ux, uy = (dx / d, dy / d) if d > 1e-14 else (1.0, 0.0)
            value = d - c[0] * x[v[4]] - c[1] * x[v[5]]
            g[i, 0] = -ux
            g[i, 1] = -uy
            g[i, 2] = ux
            g[i, 3] = uy
            g[i, 4] = -c[0]
            g[i, 5] = -c[1]
        elif k == MIDDLE:
            value = x[v[0]] - 0.5 * (x[v[1]] + x[v[2]])
            g[i, 0] = 1.0
            g[i, 1] = -0.5
            g[i, 2] = -0.5
        elif k in (SYMMETRIC_ALONG, SYMMETRIC_ACROSS):
            wx = x[v[6]] - x[v[4]]
            wy = x[v[7]] - x[v[5]]
            w = max(math.sqrt(wx * wx + wy * wy), 1e-14)
            ux, uy = wx / w, wy / w
            if k == SYMMETRIC_ALONG:
                qx = x[v[2]] - x[v[0]]
                qy = x[v[3]] - x[v[1]]
                value = ux * qx + uy * qy
                n = (-uy * qx + ux * qy) / w
                g[i, 0] = -ux
                g[i, 1] = -uy
                g[i, 2] = ux
                g[i, 3] = uy
                g[i, 4] = uy * n
                g[i, 5] = -ux * n
                g[i, 6] = -uy * n
                g[i, 7] = ux * n
            else:
                qx = 0.5 * (x[v[0]] + x[v[2]]) - x[v[4]]
                qy = 0.5 * (x[v[1]] + x[v[3]]) - x[v[5]]
                value = -uy * qx + ux * qy
                t = (ux * qx + uy * qy) / w
                g[i, 0] = -0.5 * uy
                g[i, 1] = 0.5 * ux
                g[i, 2] = -0.5 * uy
                g[i, 3] = 0.5 * ux
                g[i, 4] = uy * (1.0 - t)
                g[i, 5] = -ux * (1.0 - t)
                g[i, 6] = uy * t
                g[i, 7] = -ux * t
        r[i] = value
        total += value * value
    return total


def blank_rows(count: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Empty arrays for ``count`` rows: kinds, variables (-1) and constants."""
    return (
        np.zeros(count, np.int64),
        np.full((count, SLOTS), -1, np.int64),
        np.zeros((count, CONSTANTS), np.float64),
    )
