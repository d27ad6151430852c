"""The spline basis, compiled. Piegl & Tiller, The NURBS Book, A2.1 to A2.3, for many parameters."""

from __future__ import annotations

import numpy as np
from numba import njit


@njit(cache=True)
def basis(knots, degree, t):
    """The spline basis at parameters (n) inside the domain: the first control of each (n), and the values and
    derivatives of the ``degree`` + 1 functions that are not nought there, (n, degree + 1). ``knots`` flat, with
    repetitions.
    """
    n = len(t)
    first = np.empty(n, np.int64)
    values, slopes = np.zeros((n, degree + 1)), np.zeros((n, degree + 1))
    lower, now = np.zeros(degree + 1), np.zeros(degree + 1)
    last = len(knots) - degree - 2
    for i in range(n):
        span = min(max(np.searchsorted(knots, t[i], side="right") - 1, degree), last)
        first[i] = span - degree
        now[:] = 0.0
        lower[:] = 0.0
        now[0] = 1.0
        lower[0] = 1.0
        for k in range(1, degree + 1):
            lower[:] = now
            now[:] = 0.0
            for r in range(k):
                left, right = knots[span + 1 - k + r], knots[span + 1 + r]
                share = lower[r] / (right - left)
                now[r] += (right - t[i]) * share
                now[r + 1] += (t[i] - left) * share
        values[i] = now
        for r in range(degree):
            share = degree * lower[r] / (knots[span + 1 + r] - knots[span + 1 - degree + r])
            slopes[i, r] -= share
            slopes[i, r + 1] += share
    return first, values, slopes
