"""Where two pieces meet: lines and circles analytically, ellipses and Béziers by bracketing and Newton's method.

Overlaps give the ends of the shared stretch; tangencies give one meeting.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from .geometry import ARC, BEZIER, ELLIPSE, SEGMENT, TURN, bulge, pace, point, velocity

MOST_HITS = 64


@njit(cache=True, error_model="numpy")
def angle_in(row, angle, slack):
    """An angle as a parameter of an arc or ellipse (its turn chosen), or NaN outside."""
    turned = row[9] + (angle - row[9]) % TURN
    if turned <= row[10] + slack:
        return min(turned, row[10])
    if turned - TURN >= row[9] - slack:
        return row[9]
    return np.nan


@njit(cache=True, error_model="numpy")
def locate(row, x, y, eps):
    """The parameter of a point on a piece, or NaN if it is farther than ``eps`` from it."""
    kind = row[0]
    if kind == SEGMENT:
        dx, dy = x - row[1], y - row[2]
        t = dx * row[3] + dy * row[4]
        if abs(dy * row[3] - dx * row[4]) > eps or t < -eps or t > row[10] + eps:
            return np.nan
        return min(max(t, 0.0), row[10])
    if kind == ARC:
        dx, dy = x - row[1], y - row[2]
        if abs(math.hypot(dx, dy) - row[3]) > eps:
            return np.nan
        return angle_in(row, math.atan2(dy, dx), eps / row[3])
    low, high = row[9], row[10]
    steps = 16 if kind == BEZIER else 32
    best, where = np.inf, low
    for i in range(steps + 1):
        t = low + (high - low) * i / steps
        px, py = point(row, t)
        d = (px - x) ** 2 + (py - y) ** 2
        if d < best:
            best, where = d, t
    if math.sqrt(best) > eps + pace(row) * (high - low) / steps:
        return np.nan
    t = where
    for _ in range(30):
        px, py = point(row, t)
        vx, vy = velocity(row, t)
        vv = vx * vx + vy * vy
        if vv == 0.0:
            break
        step = ((x - px) * vx + (y - py) * vy) / vv
        t = min(max(t + step, low), high)
        if abs(step) * pace(row) < 1e-3 * eps:
            break
    px, py = point(row, t)
    return t if math.hypot(px - x, py - y) <= eps else np.nan


@njit(cache=True, error_model="numpy")
def _put(hits, n, s, t):
    if n < MOST_HITS and not (math.isnan(s) or math.isnan(t)):
        hits[n, 0] = s
        hits[n, 1] = t
        return n + 1
    return n


@njit(cache=True, error_model="numpy")
def _shared_ends(p, q, eps, hits):
    """Ends of each that lie on the other."""
    n = 0
    for end in (q[9], q[10]):
        x, y = point(q, end)
        n = _put(hits, n, locate(p, x, y, eps), end)
    for end in (p[9], p[10]):
        x, y = point(p, end)
        n = _put(hits, n, end, locate(q, x, y, eps))
    return n


@njit(cache=True, error_model="numpy")
def _segments(p, q, eps, hits):
    cross = p[3] * q[4] - p[4] * q[3]
    if abs(cross) * min(p[10], q[10]) <= eps:  # parallel as far as the shorter one can tell
        return _shared_ends(p, q, eps, hits)
    dx, dy = q[1] - p[1], q[2] - p[2]
    s = (dx * q[4] - dy * q[3]) / cross
    t = (dx * p[4] - dy * p[3]) / cross
    slack = eps / min(1.0, abs(cross))
    if -slack <= s <= p[10] + slack and -slack <= t <= q[10] + slack:
        return _put(hits, 0, min(max(s, 0.0), p[10]), min(max(t, 0.0), q[10]))
    return 0


@njit(cache=True, error_model="numpy")
def _segment_arc(p, q, eps, hits):
    dx, dy = q[1] - p[1], q[2] - p[2]
    foot = dx * p[3] + dy * p[4]
    away = abs(dy * p[3] - dx * p[4])
    if away > q[3] + eps:
        return 0
    half = 0.0 if abs(away - q[3]) <= eps else math.sqrt(max(q[3] * q[3] - away * away, 0.0))
    n = 0
    for sign in (-1.0, 1.0):
        s = foot + sign * half
        if -eps <= s <= p[10] + eps:
            s = min(max(s, 0.0), p[10])
            x, y = point(p, s)
            n = _put(hits, n, s, angle_in(q, math.atan2(y - q[2], x - q[1]), eps / q[3]))
        if half == 0.0:
            break
    return n


@njit(cache=True, error_model="numpy")
def _arcs(p, q, eps, hits):
    dx, dy = q[1] - p[1], q[2] - p[2]
    apart = math.hypot(dx, dy)
    if apart <= eps and abs(p[3] - q[3]) <= eps:
        return _shared_ends(p, q, eps, hits)
    if apart > p[3] + q[3] + eps or apart < abs(p[3] - q[3]) - eps or apart < 1e-300:
        return 0
    ux, uy = dx / apart, dy / apart
    n = 0
    inside = abs(apart - abs(p[3] - q[3])) <= eps
    if inside or abs(apart - p[3] - q[3]) <= eps:
        sign = -1.0 if inside and q[3] > p[3] else 1.0
        along, half = sign * p[3], 0.0
    else:
        along = (apart * apart + p[3] * p[3] - q[3] * q[3]) / (2 * apart)
        half = math.sqrt(max(p[3] * p[3] - along * along, 0.0))
    for sign in (-1.0, 1.0):
        x, y = p[1] + along * ux - sign * half * uy, p[2] + along * uy + sign * half * ux
        on_p = angle_in(p, math.atan2(y - p[2], x - p[1]), eps / p[3])
        on_q = angle_in(q, math.atan2(y - q[2], x - q[1]), eps / q[3])
        n = _put(hits, n, on_p, on_q)
        if half == 0.0:
            break
    return n


@njit(cache=True, error_model="numpy")
def _steps(row):
    if row[0] == SEGMENT:
        return 1
    if row[0] == BEZIER:
        return 2
    return math.ceil((row[10] - row[9]) / (math.pi / 2))


@njit(cache=True, error_model="numpy")
def _refined(p, q, s, t, low_s, high_s, low_t, high_t):
    """Levenberg-Marquardt on P(s) = Q(t) from a bracket; (s, t, gap)."""
    x, y = point(p, s)
    u, v = point(q, t)
    fx, fy = x - u, y - v
    f = fx * fx + fy * fy
    damp = 1e-12
    for _ in range(60):
        if f == 0.0:
            break
        ax, ay = velocity(p, s)
        bx, by = velocity(q, t)
        aa, bb, ab = ax * ax + ay * ay, bx * bx + by * by, -(ax * bx + ay * by)
        ga, gb = ax * fx + ay * fy, -(bx * fx + by * fy)
        ka, kb = aa * (1 + damp), bb * (1 + damp)
        det = ka * kb - ab * ab
        if det <= 0.0:
            damp = max(damp * 10, 1e-12)
            if damp > 1e6:
                break
            continue
        ds, dt = -(ga * kb - gb * ab) / det, -(gb * ka - ga * ab) / det
        ns, nt = min(max(s + ds, low_s), high_s), min(max(t + dt, low_t), high_t)
        x, y = point(p, ns)
        u, v = point(q, nt)
        new = (x - u) ** 2 + (y - v) ** 2
        if new < f:
            small = abs(ns - s) <= 1e-15 * (1 + abs(s)) and abs(nt - t) <= 1e-15 * (1 + abs(t))
            s, t, f, fx, fy = ns, nt, new, x - u, y - v
            damp = max(damp * 0.1, 1e-14)
            if small:
                break
        else:
            damp *= 10
            if damp > 1e6:
                break
    return s, t, math.sqrt(f)


@njit(cache=True, error_model="numpy")
def _projected(row, t0, t1, x, y):
    """The parameter between t0 and t1 whose place on the chord is nearest to a point."""
    ax, ay = point(row, t0)
    bx, by = point(row, t1)
    wx, wy = bx - ax, by - ay
    ww = wx * wx + wy * wy
    f = ((x - ax) * wx + (y - ay) * wy) / ww if ww > 0.0 else 0.5
    return t0 + (t1 - t0) * min(max(f, 0.0), 1.0)


@njit(cache=True, error_model="numpy")
def _free(p, q, eps, hits):
    """Meetings where at least one is an ellipse or a Bézier: halved until both are nearly straight, then refined."""
    n = 0
    np_, nq = _steps(p), _steps(q)
    bulge_p, bulge_q = bulge(p), bulge(q)
    stack = np.empty((256, 4))
    for i in range(np_):
        for j in range(nq):
            stack[0, 0] = p[9] + (p[10] - p[9]) * i / np_
            stack[0, 1] = p[9] + (p[10] - p[9]) * (i + 1) / np_
            stack[0, 2] = q[9] + (q[10] - q[9]) * j / nq
            stack[0, 3] = q[9] + (q[10] - q[9]) * (j + 1) / nq
            size = 1
            while size > 0:
                size -= 1
                s0, s1, t0, t1 = stack[size, 0], stack[size, 1], stack[size, 2], stack[size, 3]
                ax, ay = point(p, s0)
                bx, by = point(p, s1)
                cx, cy = point(q, t0)
                dx, dy = point(q, t1)
                hp, hq = s1 - s0, t1 - t0
                sag_p, sag_q = bulge_p * hp * hp / 8, bulge_q * hq * hq / 8
                slack = sag_p + sag_q + eps
                if (
                    max(ax, bx) + slack < min(cx, dx) or max(cx, dx) + slack < min(ax, bx)
                    or max(ay, by) + slack < min(cy, dy) or max(cy, dy) + slack < min(ay, by)
                ):  # fmt: skip
                    continue
                bent_p = sag_p - 0.005 * math.hypot(bx - ax, by - ay)
                bent_q = sag_q - 0.005 * math.hypot(dx - cx, dy - cy)
                if (bent_p > 2 * eps or bent_q > 2 * eps) and size < 250:
                    middle = (s0 + s1) / 2 if bent_p > bent_q else (t0 + t1) / 2
                    stack[size + 1] = stack[size]
                    if bent_p > bent_q:
                        stack[size, 1] = stack[size + 1, 0] = middle
                    else:
                        stack[size, 3] = stack[size + 1, 2] = middle
                    size += 2
                    continue
                # nearly straight ones still meet twice where they run nearly the same way: start from both ends
                for f in (0.05, 0.95):
                    s = s0 + hp * f
                    x, y = point(p, s)
                    t = _projected(q, t0, t1, x, y)
                    s, t, gap = _refined(
                        p, q, s, t, max(s0 - 0.1 * hp, p[9]), min(s1 + 0.1 * hp, p[10]),
                        max(t0 - 0.1 * hq, q[9]), min(t1 + 0.1 * hq, q[10]),
                    )  # fmt: skip
                    if gap > eps:
                        continue
                    x, y = point(p, s)
                    new = True
                    for k in range(n):
                        u, v = point(p, hits[k, 0])
                        if math.hypot(u - x, v - y) <= _one_place(p, q, s, t, eps):
                            new = False
                    if new:
                        n = _put(hits, n, s, t)
    return n


@njit(cache=True, error_model="numpy")
def _one_place(p, q, s, t, eps):
    """How far apart two meetings must be to be two: near tangency a root is only good to the root of eps."""
    ax, ay = velocity(p, s)
    bx, by = velocity(q, t)
    size = math.hypot(ax, ay) * math.hypot(bx, by)
    crossing = abs(ax * by - ay * bx) / size if size > 0 else 0.0
    if crossing > 1e-3:
        return 10 * eps
    reach = min((p[10] - p[9]) * pace(p), (q[10] - q[9]) * pace(q))
    return 10 * math.sqrt(eps * reach)


@njit(cache=True, error_model="numpy")
def meet(p, q, eps, hits, ends):
    """All meetings of two pieces within ``eps`` mm: fills ``hits`` (64, 2) with parameters on each; how many.

    ``ends`` (64, 2) is room to work in.
    """
    a, b = p[0], q[0]
    if a == SEGMENT and b == SEGMENT:
        return _segments(p, q, eps, hits)
    if a == SEGMENT and b == ARC:
        n = _segment_arc(p, q, eps, hits)
    elif a == ARC and b == SEGMENT:
        n = _segment_arc(q, p, eps, hits)
        for i in range(n):
            hits[i, 0], hits[i, 1] = hits[i, 1], hits[i, 0]
    elif a == ARC and b == ARC:
        n = _arcs(p, q, eps, hits)
    else:
        shared = _shared_ends(p, q, eps, ends)
        if shared >= 2 and _overlap(p, q, eps, ends, shared):
            hits[:shared] = ends[:shared]
            return shared
        n = _free(p, q, eps, hits)
    return _near_shared_end(p, q, eps, hits, n, ends)


@njit(cache=True, error_model="numpy")
def _overlap(p, q, eps, ends, shared):
    """Whether two free pieces run together between ends of theirs."""
    low, high = ends[0, 0], ends[0, 0]
    for i in range(1, shared):
        low, high = min(low, ends[i, 0]), max(high, ends[i, 0])
    if (high - low) * pace(p) <= 10 * eps:
        return False
    for f in (0.31, 0.5, 0.77):
        x, y = point(p, low + f * (high - low))
        if math.isnan(locate(q, x, y, 4 * eps)):
            return False
    return True


@njit(cache=True, error_model="numpy")
def _near_shared_end(p, q, eps, hits, n, ends):
    """Put what lies close to a shared end exactly there."""
    shared = _shared_ends(p, q, eps, ends)
    if shared == 0:
        return n
    size = max((p[10] - p[9]) * pace(p), (q[10] - q[9]) * pace(q))
    reach = min(math.sqrt(eps * size) * 4, 0.05 * size)
    kept = 0
    for i in range(n):
        far = True
        for j in range(shared):
            if abs(hits[i, 0] - ends[j, 0]) * pace(p) <= reach and abs(hits[i, 1] - ends[j, 1]) * pace(q) <= reach:
                far = False
        if far:
            hits[kept] = hits[i]
            kept += 1
    for j in range(shared):
        kept = _put(hits, kept, ends[j, 0], ends[j, 1])
    return kept


__all__ = ["ARC", "ELLIPSE", "MOST_HITS", "locate", "meet"]
