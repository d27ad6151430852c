"""Residuals and gradients of every equation, compiled; all in length units.

A row has a kind, up to ten variables (``-1`` where unused), eight constants, and an offset: what its residual is to be
while a change is walked (nought otherwise). Signs and branches are
constants chosen from the drawing when the constraint is made, so that the root asked for is the one found.
Angles are ``k wrap(atan2(u x v, u . v) - a)`` with ``k`` a local length: this keeps the right root far more
often than polynomial forms.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

SLOTS = 10
OFFSET = 8  # the column of the offset among the constants
CONSTANTS = 9

# kinds: name = code            variables                       constants
DIFFERENCE = 0  # x1 - x0 - d                                   d
DISTANCE = 1  # |p1-p0| - d     p0 p1                           d
POINT_LINE = 2  # n.(p-a) - d   p a b                           d (signed)
ANGLE = 3  # between a0a1, b0b1 a0 a1 b0 b1                     angle, k (0: mean length)
EQUAL_LENGTH = 4  # |u|-|v|     a0 a1 b0 b1
ON_CIRCLE = 5  # |p-c| - r      p c r
TANGENT_LINE = 6  # s n.(c-a) - f r - d  c a b r              s f d
TANGENT_ROUND = 7  # |c1c2| - (s1 r1 + s2 r2) - d  c1 c2 r1 r2  s1 s2 d
MIDDLE = 8  # 2 m - a - b       m a b   (one coordinate)
SYMMETRIC_ALONG = 9  # u.(q-p) - d  p q a b                     d
SYMMETRIC_ACROSS = 10  # n.((p+q)/2-a)  p q a b
VALUE = 11  # x0 - d            x                               d  (a radius)
RATIO = 12  # x1 - f x0         x0 x1                           f
LINEAR = 13  # sum of c_j x_j    up to 8                        c_j
STEP_ACROSS = 14  # n.(q-p) - d  p q a b                        d
ARC_LENGTH = 15  # r sweep - L  c start end r                   L, sweep as it is drawn
# from here on gradients come from complex steps (W. Squire and G. Trapp, SIAM Review 40, 1998)
RARE = 20
ON_ELLIPSE = 20  # p on ellipse  p c tip minor
ELLIPSE_LINE = 21  # line touches ellipse  c tip minor a b      s
ELLIPSE_NORMAL = 22  # normal at p points to q  p c tip minor q
ELLIPSE_RUN = 23  # p q runs along the ellipse at p  p c tip minor q
ON_CUBIC = 24  # one coordinate of a point on a spline piece  p a c0 c1 b t   (t from 0 to 1 + c0) f0 f1 t0
BEND = 25  # curvature at p of control h and second control q against a radius  p h q r   s
BENDS = 26  # curvatures of two splines that meet at p  p h q h2 q2


@njit(cache=True, error_model="numpy", inline="always")
def _wrap(angle: float) -> float:
    return angle - 2.0 * math.pi * math.floor((angle + math.pi) / (2.0 * math.pi))


@njit(cache=True, error_model="numpy")
def _rare(k, z, c):
    """Equations met seldom, written so that complex numbers pass through (no absolute values, no angles)."""
    if k == ON_CUBIC:
        # controls of the piece: a, a + (c0 - a) f0, b + (c1 - b) f1, b
        t = z[5] - c[2]
        a, b = z[1], z[4]
        p1 = a + (z[2] - a) * c[0]
        p2 = b + (z[3] - b) * c[1]
        s = 1.0 - t
        return z[0] - (s * s * s * a + 3.0 * s * s * t * p1 + 3.0 * s * t * t * p2 + t * t * t * b)
    if k in (BEND, BENDS):
        ux, uy = z[2] - z[0], z[3] - z[1]
        vx, vy = z[4] - z[2], z[5] - z[3]
        long = np.sqrt(ux * ux + uy * uy)
        first = (ux * vy - uy * vx) / (long * long * long) * (2.0 / 3.0)
        if k == BEND:
            return (first * z[6] - c[0]) * c[1]
        wx, wy = z[6] - z[0], z[7] - z[1]
        qx, qy = z[8] - z[6], z[9] - z[7]
        other = np.sqrt(wx * wx + wy * wy)
        # run through p from one to the other: the second is read backwards, so its sign turns
        return (first + (wx * qy - wy * qx) / (other * other * other) * (2.0 / 3.0)) * c[0]
    if k == ELLIPSE_LINE:
        wx, wy, minor = z[2] - z[0], z[3] - z[1], z[4]
        dx, dy = z[7] - z[5], z[8] - z[6]
        long = np.sqrt(dx * dx + dy * dy)
        nx, ny = -dy / long, dx / long
        major = np.sqrt(wx * wx + wy * wy)
        along = nx * wx + ny * wy
        across = (nx * wy - ny * wx) / major * minor
        # support function: half the width of the ellipse across the line
        return c[0] * (nx * (z[0] - z[5]) + ny * (z[1] - z[6])) - np.sqrt(along * along + across * across)
    px, py = z[0] - z[2], z[1] - z[3]
    wx, wy, minor = z[4] - z[2], z[5] - z[3], z[6]
    major = np.sqrt(wx * wx + wy * wy)
    ex, ey = wx / major, wy / major
    along = px * ex + py * ey
    across = -px * ey + py * ex
    u, v = along / major, across / minor
    if k == ON_ELLIPSE:
        return (np.sqrt(u * u + v * v) - 1.0) * np.sqrt(major * minor)
    # gradient of the ellipse's equation at p: its normal there
    nx = ex * u / major - ey * v / minor
    ny = ey * u / major + ex * v / minor
    size = np.sqrt(nx * nx + ny * ny)
    qx, qy = z[7] - z[0], z[8] - z[1]
    if k == ELLIPSE_NORMAL:
        return (nx * qy - ny * qx) / size
    return (nx * qx + ny * qy) / size


@njit(cache=True, error_model="numpy", nogil=True)
def residuals(kind, var, con, x, r, g):
    """Fill ``r`` (m) and ``g`` (m, 10): residual and gradient of each row at ``x``. Returns the sum of squares."""
    total = 0.0
    z = np.zeros(SLOTS, np.complex128)
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
            value = s * (-uy * qx + ux * qy) - c[1] * x[v[6]] - c[2]
            g[i, 0] = -s * uy
            g[i, 1] = s * ux
            g[i, 2] = s * uy * (1.0 - t)
            g[i, 3] = -s * ux * (1.0 - t)
            g[i, 4] = s * uy * t
            g[i, 5] = -s * ux * t
            g[i, 6] = -c[1]
        elif k == TANGENT_ROUND:
            dx = x[v[2]] - x[v[0]]
            dy = x[v[3]] - x[v[1]]
            d = math.sqrt(dx * dx + dy * dy)
            ux, uy = (dx / d, dy / d) if d > 1e-14 else (1.0, 0.0)
            value = d - c[0] * x[v[4]] - c[1] * x[v[5]] - c[2]
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
        elif k == LINEAR:
            for j in range(8):
                if v[j] >= 0:
                    value += c[j] * x[v[j]]
                    g[i, j] = c[j]
        elif k == ARC_LENGTH:
            ax = x[v[2]] - x[v[0]]
            ay = x[v[3]] - x[v[1]]
            bx = x[v[4]] - x[v[0]]
            by = x[v[5]] - x[v[1]]
            aa = max(ax * ax + ay * ay, 1e-28)
            bb = max(bx * bx + by * by, 1e-28)
            sweep = c[1] + _wrap(math.atan2(ax * by - ay * bx, ax * bx + ay * by) - c[1])
            rad = x[v[6]]
            value = rad * sweep - c[0]
            g[i, 2] = rad * ay / aa
            g[i, 3] = -rad * ax / aa
            g[i, 4] = -rad * by / bb
            g[i, 5] = rad * bx / bb
            g[i, 0] = -g[i, 2] - g[i, 4]
            g[i, 1] = -g[i, 3] - g[i, 5]
            g[i, 6] = sweep
        elif k >= RARE:
            for j in range(SLOTS):
                z[j] = x[v[j]] if v[j] >= 0 else 0.0
            value = _rare(k, z, c).real
            for j in range(SLOTS):
                if v[j] >= 0:
                    z[j] += 1e-30j
                    g[i, j] = _rare(k, z, c).imag * 1e30
                    z[j] = z[j].real
        elif k in (SYMMETRIC_ALONG, SYMMETRIC_ACROSS, STEP_ACROSS):
            wx = x[v[6]] - x[v[4]]
            wy = x[v[7]] - x[v[5]]
            w = max(math.sqrt(wx * wx + wy * wy), 1e-14)
            ux, uy = wx / w, wy / w
            if k == SYMMETRIC_ALONG:
                qx = x[v[2]] - x[v[0]]
                qy = x[v[3]] - x[v[1]]
                value = ux * qx + uy * qy - c[0]
                n = (-uy * qx + ux * qy) / w
                g[i, 0] = -ux
                g[i, 1] = -uy
                g[i, 2] = ux
                g[i, 3] = uy
                g[i, 4] = uy * n
                g[i, 5] = -ux * n
                g[i, 6] = -uy * n
                g[i, 7] = ux * n
            elif k == STEP_ACROSS:
                qx = x[v[2]] - x[v[0]]
                qy = x[v[3]] - x[v[1]]
                value = -uy * qx + ux * qy - c[0]
                t = (ux * qx + uy * qy) / w
                g[i, 0] = uy
                g[i, 1] = -ux
                g[i, 2] = -uy
                g[i, 3] = ux
                g[i, 4] = -uy * t
                g[i, 5] = ux * t
                g[i, 6] = uy * t
                g[i, 7] = -ux * t
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
        value -= c[OFFSET]
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
