"""Minimum-norm Levenberg-Marquardt on the sparse KKT system, compiled.

Step: ``[H Jᵀ; J -λI][dx; y] = [H g; -r]``. With ``g = 0`` and small λ this is the smallest move (in the metric
H) that solves the linearised equations, so an under-constrained sketch moves as little as possible.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from ..equations.residuals import SLOTS, residuals
from . import ldl

SOLVED, STATIONARY, STOPPED = 0, 1, 2


@njit(cache=True, error_model="numpy", nogil=True)
def assemble(ax, h, lam, g, var, hpos, lpos, jpos):
    """Write H, J (from row gradients ``g``) and -λ into the matrix values."""
    ax[:] = 0.0
    for j in range(hpos.shape[0]):
        ax[hpos[j]] += h[j]
    for i in range(lpos.shape[0]):
        ax[lpos[i]] -= lam
        for s in range(SLOTS):
            if jpos[i, s] >= 0:
                ax[jpos[i, s]] += g[i, s]


@njit(cache=True, error_model="numpy", nogil=True)
def factor_at(work, pattern, ax):
    """Factor the matrix values ``ax``."""
    ap, ai, parent, lp, _pos = pattern
    li, lx, d, flag, stack, y, lnz, _b = work
    return ldl.factor(d.shape[0], ap, ai, ax, parent, lp, li, lx, d, flag, stack, y, lnz)


@njit(cache=True, error_model="numpy", nogil=True)
def backsolve(work, pattern, top, bottom, out):
    """Solve for the right side ``[top; bottom]``; ``out`` takes the first ``len(top)`` unknowns."""
    _ap, _ai, _parent, lp, pos = pattern
    li, lx, d, _flag, _stack, _y, _lnz, b = work
    n = top.shape[0]
    for j in range(n):
        b[pos[j]] = top[j]
    for i in range(bottom.shape[0]):
        b[pos[n + i]] = bottom[i]
    ldl.solve(d.shape[0], lp, li, lx, d, b)
    for j in range(n):
        out[j] = b[pos[j]]


@njit(cache=True, error_model="numpy", nogil=True)
def newton(kind, var, con, hpos, lpos, jpos, pattern, work, x, h, mu, tolerance, limit):
    """Bring ``x`` (in place) onto the equations. Returns (status, iterations, largest residual).

    ``x`` holds the n = len(hpos) unknowns, then what is held; it and the constants are scaled so that the sketch
    is about 1 across. Status is SOLVED, STATIONARY (a conflict: the residual cannot fall) or STOPPED (limit
    reached or damping ran away).
    """
    n = hpos.shape[0]
    m = kind.shape[0]
    if m == 0:
        return SOLVED, 0, 0.0
    r = np.empty(m)
    g = np.empty((m, SLOTS))
    r_new = np.empty(m)
    g_new = np.empty((m, SLOTS))
    ax = np.empty(pattern[1].shape[0])
    dx = np.empty(n)
    zero = np.zeros(n)
    grad = np.empty(n)
    trial = x.copy()
    f = residuals(kind, var, con, x, r, g)
    for it in range(limit):
        worst = 0.0
        for i in range(m):
            worst = max(worst, abs(r[i]))
        if worst <= tolerance:
            return SOLVED, it, worst
        if not math.isfinite(f):
            return STOPPED, it, worst
        grad[:] = 0.0
        for i in range(m):
            for s in range(SLOTS):
                if 0 <= var[i, s] < n:
                    grad[var[i, s]] += g[i, s] * r[i]
        norm_g = 0.0
        for j in range(n):
            norm_g += grad[j] * grad[j]
        if math.sqrt(norm_g) <= 1e-8 * math.sqrt(f):
            return STATIONARY, it, worst
        lam = max(mu * min(1.0, math.sqrt(f / m)), 1e-10)
        assemble(ax, h, lam, g, var, hpos, lpos, jpos)
        ok = factor_at(work, pattern, ax)
        if ok:
            backsolve(work, pattern, zero, -r, dx)
            predicted = 0.0
            for i in range(m):
                t = r[i]
                for s in range(SLOTS):
                    if 0 <= var[i, s] < n:
                        t += g[i, s] * dx[var[i, s]]
                predicted += t * t
            for j in range(n):
                trial[j] = x[j] + dx[j]
            f_new = residuals(kind, var, con, trial, r_new, g_new)
            gain = f - predicted
            rho = (f - f_new) / gain if gain > 0.0 else -1.0
            ok = math.isfinite(f_new) and f_new < f and (rho > 1e-4 or f_new < 1e-24)
        if ok:
            x[:] = trial
            f = f_new
            r[:] = r_new
            g[:] = g_new
            if rho > 0.95:
                mu *= 0.1
            elif rho > 0.75:
                mu *= 0.25
            elif rho < 0.25:
                mu *= 4.0
        else:
            # At the rounding floor no step can lower f any more: good enough is good.
            if worst <= 1e3 * tolerance:
                return SOLVED, it, worst
            mu = max(mu, 1e-9) * 8.0
            if mu > 1e8:
                return STOPPED, it, worst
    worst = 0.0
    for i in range(m):
        worst = max(worst, abs(r[i]))
    return (SOLVED if worst <= tolerance else STOPPED), limit, worst


@njit(cache=True, error_model="numpy", nogil=True)
def project(kind, var, con, hpos, lpos, jpos, pattern, work, x, block):
    """Project the columns of ``block`` (n, k) on the null space of J at ``x``, in place, twice for accuracy."""
    n = hpos.shape[0]
    m = kind.shape[0]
    if m == 0:
        return True
    r = np.empty(m)
    g = np.empty((m, SLOTS))
    ax = np.empty(pattern[1].shape[0])
    h = np.ones(n)
    residuals(kind, var, con, x, r, g)
    assemble(ax, h, 1e-10, g, var, hpos, lpos, jpos)
    if not factor_at(work, pattern, ax):
        return False
    zero = np.zeros(m)
    top = np.empty(n)
    out = np.empty(n)
    for k in range(block.shape[1]):
        for _ in range(2):
            for j in range(n):
                top[j] = block[j, k]
            backsolve(work, pattern, top, zero, out)
            for j in range(n):
                block[j, k] = out[j]
    return True


@njit(cache=True, error_model="numpy", nogil=True)
def project_left(kind, var, con, hpos, lpos, jpos, pattern, work, x, block):
    """Project the columns of ``block`` (m, k) on the left null space of J at ``x``, in place: combinations of
    equations that say nothing. From ``[I Jᵀ; J -λI][·; w] = [0; y]`` follows ``-λ w = λ (J Jᵀ + λ)⁻¹ y``, that
    projection for small λ.
    """
    n = hpos.shape[0]
    m = kind.shape[0]
    lam = 1e-10
    r = np.empty(m)
    g = np.empty((m, SLOTS))
    ax = np.empty(pattern[1].shape[0])
    residuals(kind, var, con, x, r, g)
    assemble(ax, np.ones(n), lam, g, var, hpos, lpos, jpos)
    if not factor_at(work, pattern, ax):
        return False
    _ap, _ai, _parent, lp, pos = pattern
    li, lx, d, _flag, _stack, _y, _lnz, b = work
    for k in range(block.shape[1]):
        for _ in range(2):
            for j in range(n):
                b[pos[j]] = 0.0
            for i in range(m):
                b[pos[n + i]] = block[i, k]
            ldl.solve(d.shape[0], lp, li, lx, d, b)
            for i in range(m):
                block[i, k] = -lam * b[pos[n + i]]
    return True


@njit(cache=True, error_model="numpy", nogil=True)
def drag_step(kind, var, con, hpos, lpos, jpos, pattern, work, x, h, dragged, target, moved):
    """One accepted move of the ``dragged`` variables towards ``target``; ``x`` in place. Returns distance left.

    A tangent step in the weighted metric, limited to a tenth of the sketch, then restoration onto the
    equations. It counts only if the distance falls and nothing moves more than eight times the step: without
    that rule the sketch jumps and oscillates at the limits of reach.
    """
    n = hpos.shape[0]
    m = kind.shape[0]
    k = dragged.shape[0]
    r = np.empty(m)
    g = np.empty((m, SLOTS))
    ax = np.empty(pattern[1].shape[0])
    zero_m = np.zeros(m)
    want = np.zeros(n)
    dx = np.empty(n)
    trial = x.copy()
    distance = 0.0
    for a in range(k):
        distance += (target[a] - x[dragged[a]]) ** 2
    distance = math.sqrt(distance)
    for _ in range(3):
        if distance < 1e-12:
            break
        residuals(kind, var, con, x, r, g)
        want[:] = 0.0
        limit = min(1.0, 0.1 / distance)
        for a in range(k):
            want[dragged[a]] = h[dragged[a]] * (target[a] - x[dragged[a]]) * limit
        if m > 0:
            assemble(ax, h, 1e-10, g, var, hpos, lpos, jpos)
            if not factor_at(work, pattern, ax):
                break
            backsolve(work, pattern, want, zero_m, dx)
        else:
            for j in range(n):
                dx[j] = want[j] / h[j]
        # what is held does not move: no need to try
        able = 0.0
        for a in range(k):
            able += dx[dragged[a]] ** 2
        if math.sqrt(able) < 1e-6 * distance * limit:
            break
        scale = 1.0
        accepted = False
        for _try in range(5):
            step = 0.0
            for j in range(n):
                trial[j] = x[j] + scale * dx[j]
            for a in range(k):
                step += (scale * dx[dragged[a]]) ** 2
            step = math.sqrt(step)
            if step < 1e-13:
                break
            status, _it, _w = newton(kind, var, con, hpos, lpos, jpos, pattern, work, trial, h, 1e-8, 1e-11, 12)
            if status == SOLVED:
                left = 0.0
                for a in range(k):
                    left += (target[a] - trial[dragged[a]]) ** 2
                left = math.sqrt(left)
                most = 0.0
                for j in range(n):
                    most = max(most, abs(trial[j] - x[j]))
                if left < distance * (1.0 - 1e-9) and most <= 8.0 * max(step, 1e-9):
                    accepted = True
                    break
            scale *= 0.35
        if not accepted:
            break
        x[:] = trial
        distance = left
        moved[0] += 1
    return distance
