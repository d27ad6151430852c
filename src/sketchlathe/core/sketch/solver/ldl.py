"""Sparse LDLᵀ without pivoting, for the quasi-definite matrix ``[H Jᵀ; J -λI]``.

Up-looking factorisation after T. A. Davis, "Algorithm 849: A concise sparse Cholesky factorization package"
(ACM TOMS 31, 2005). Quasi-definite matrices have an LDLᵀ for every ordering (Vanderbei 1995), so the order is
chosen once per topology for little fill and never again.
"""

from __future__ import annotations

import numpy as np
from numba import njit


@njit(cache=True, error_model="numpy", nogil=True)
def symbolic(n, ap, ai):
    """Elimination tree and column counts of an upper-triangular pattern; returns (parent, lp)."""
    parent = np.full(n, -1, np.int64)
    flag = np.full(n, -1, np.int64)
    count = np.zeros(n, np.int64)
    for k in range(n):
        flag[k] = k
        for p in range(ap[k], ap[k + 1]):
            i = ai[p]
            while i < k and flag[i] != k:
                if parent[i] == -1:
                    parent[i] = k
                count[i] += 1
                flag[i] = k
                i = parent[i]
    lp = np.zeros(n + 1, np.int64)
    for k in range(n):
        lp[k + 1] = lp[k] + count[k]
    return parent, lp


@njit(cache=True, error_model="numpy", nogil=True)
def factor(n, ap, ai, ax, parent, lp, li, lx, d, flag, pattern, y, lnz):
    """Numeric factorisation into ``li, lx, d`` (work arrays given). Returns False at a zero pivot."""
    for k in range(n):
        y[k] = 0.0
        top = n
        flag[k] = k
        lnz[k] = 0
        for p in range(ap[k], ap[k + 1]):
            i = ai[p]
            y[i] += ax[p]
            size = 0
            while flag[i] != k:
                pattern[size] = i
                size += 1
                flag[i] = k
                i = parent[i]
            while size > 0:
                top -= 1
                size -= 1
                pattern[top] = pattern[size]
        d[k] = y[k]
        y[k] = 0.0
        for t in range(top, n):
            i = pattern[t]
            yi = y[i]
            y[i] = 0.0
            end = lp[i] + lnz[i]
            for p in range(lp[i], end):
                y[li[p]] -= lx[p] * yi
            l_ki = yi / d[i]
            d[k] -= l_ki * yi
            li[end] = k
            lx[end] = l_ki
            lnz[i] += 1
        if d[k] == 0.0 or not np.isfinite(d[k]):
            return False
    return True


@njit(cache=True, error_model="numpy", nogil=True)
def solve(n, lp, li, lx, d, b):
    """Solve in place: ``b`` becomes the solution (in the permuted order)."""
    for j in range(n):
        bj = b[j]
        for p in range(lp[j], lp[j + 1]):
            b[li[p]] -= lx[p] * bj
    for j in range(n):
        b[j] /= d[j]
    for j in range(n - 1, -1, -1):
        s = b[j]
        for p in range(lp[j], lp[j + 1]):
            s -= lx[p] * b[li[p]]
        b[j] = s
