"""The compiled half-edge arrangement: cuts, vertices, links, loops, and which loop lies in which.

After de Berg et al., "Computational Geometry" (3rd ed., ch. 2), with exact pieces instead of polygons. Half-edge
``2e`` runs along edge ``e``, ``2e + 1`` against it; a region lies left of its half-edges.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from .geometry import ARC, ELLIPSE, TURN, acceleration, box, pace, point, sweep_area, velocity, winding
from .meeting import MOST_HITS, meet

TIE = 1e-5  # directions closer than this (rad) are told apart by curvature


@njit(cache=True, error_model="numpy", nogil=True)
def all_cuts(rows, group, eps):
    """Parameters at which each piece is met by another: (piece, parameter) pairs. Pieces of one group never meet."""
    n = rows.shape[0]
    boxes = np.empty((n, 4))
    for i in range(n):
        box(rows[i], boxes[i])
    order = np.argsort(boxes[:, 0])
    piece = np.empty(64, np.int64)
    at = np.empty(64)
    count = 0
    hits, ends = np.empty((MOST_HITS, 2)), np.empty((MOST_HITS, 2))
    for a in range(n):
        i = order[a]
        for b in range(a + 1, n):
            j = order[b]
            if boxes[j, 0] > boxes[i, 2] + 2 * eps:
                break
            if boxes[j, 1] > boxes[i, 3] + 2 * eps or boxes[i, 1] > boxes[j, 3] + 2 * eps:
                continue
            if group[i] >= 0 and group[i] == group[j]:
                continue
            found = meet(rows[i], rows[j], eps, hits, ends)
            if count + 2 * found > piece.shape[0]:
                size = 2 * (count + 2 * found)
                bigger, larger = np.empty(size, np.int64), np.empty(size)
                bigger[:count] = piece[:count]
                larger[:count] = at[:count]
                piece, at = bigger, larger
            for k in range(found):
                piece[count], at[count] = i, hits[k, 0]
                piece[count + 1], at[count + 1] = j, hits[k, 1]
                count += 2
    return piece[:count], at[:count]


@njit(cache=True, error_model="numpy", nogil=True)
def split(rows, piece, at, eps):
    """Stretches between consecutive cuts: (piece, t from, t to)."""
    n = rows.shape[0]
    counts = np.zeros(n + 1, np.int64)
    for i in piece:
        counts[i + 1] += 1
    first = np.cumsum(counts)
    cuts = np.empty(piece.shape[0])
    fill = first[:-1].copy()
    for k in range(piece.shape[0]):
        cuts[fill[piece[k]]] = at[k]
        fill[piece[k]] += 1
    most = piece.shape[0] + 2 * n
    out_piece, out_a, out_b = np.empty(most, np.int64), np.empty(most), np.empty(most)
    m = 0
    stops = np.empty(piece.shape[0] + 2)
    for i in range(n):
        row = rows[i]
        mine = cuts[first[i] : first[i + 1]].copy()
        slack = eps / pace(row)
        whole = (row[0] == ARC or row[0] == ELLIPSE) and row[10] - row[9] >= TURN - 1e-12
        if whole:
            for k in range(mine.shape[0]):
                mine[k] = mine[k] % TURN
        mine.sort()
        size = 0
        if not whole:
            stops[0] = row[9]
            size = 1
        for t in mine:
            if size == 0 or t - stops[size - 1] > slack:
                stops[size] = t
                size += 1
        if whole:
            if size > 1 and stops[0] + TURN - stops[size - 1] <= slack:
                size -= 1
            if size == 0:
                stops[0] = 0.0
                size = 1
            stops[size] = stops[0] + TURN
            size += 1
        elif size > 1 and row[10] - stops[size - 1] <= slack:
            stops[size - 1] = row[10]
        else:
            stops[size] = row[10]
            size += 1
        for k in range(size - 1):
            out_piece[m], out_a[m], out_b[m] = i, stops[k], stops[k + 1]
            m += 1
    return out_piece[:m], out_a[:m], out_b[:m]


@njit(cache=True, error_model="numpy", nogil=True)
def clustered(xy, near):
    """A number for each place, the same for places closer than ``near``; and a place for each number."""
    n = xy.shape[0]
    order = np.argsort(xy[:, 0])
    label = np.empty(n, np.int64)
    places = np.empty((n, 2))
    count = 0
    for a in range(n):
        i = order[a]
        x, y = xy[i, 0], xy[i, 1]
        found = -1
        k = count - 1
        while k >= 0 and x - places[k, 0] <= near:
            if math.hypot(places[k, 0] - x, places[k, 1] - y) <= near:
                found = k
                break
            k -= 1
        if found < 0:
            places[count, 0], places[count, 1] = x, y
            found = count
            count += 1
        label[i] = found
    return label, places[:count].copy()


@njit(cache=True, error_model="numpy", nogil=True)
def end_places(rows, piece, ta, tb):
    """First, last and middle point of each stretch: (3, n, 2)."""
    n = piece.shape[0]
    out = np.empty((3, n, 2))
    for i in range(n):
        row = rows[piece[i]]
        out[0, i, 0], out[0, i, 1] = point(row, ta[i])
        out[1, i, 0], out[1, i, 1] = point(row, tb[i])
        out[2, i, 0], out[2, i, 1] = point(row, (ta[i] + tb[i]) / 2)
    return out


@njit(cache=True, error_model="numpy", nogil=True)
def alive_edges(start, end, count):
    """Which edges are left when those that end in nothing are taken away again and again."""
    n = start.shape[0]
    degree = np.zeros(count, np.int64)
    for i in range(n):
        degree[start[i]] += 1
        degree[end[i]] += 1
    first = np.zeros(count + 1, np.int64)
    first[1:] = np.cumsum(degree)
    at = np.empty(2 * n, np.int64)
    fill = first[:-1].copy()
    for i in range(n):
        at[fill[start[i]]] = i
        fill[start[i]] += 1
        at[fill[end[i]]] = i
        fill[end[i]] += 1
    alive = np.ones(n, np.bool_)
    todo = np.empty(2 * n + count + 1, np.int64)
    size = 0
    for v in range(count):
        if degree[v] == 1:
            todo[size] = v
            size += 1
    while size > 0:
        size -= 1
        v = todo[size]
        for k in range(first[v], first[v + 1]):
            i = at[k]
            if alive[i]:
                alive[i] = False
                for w in (start[i], end[i]):
                    degree[w] -= 1
                    if degree[w] == 1:
                        todo[size] = w
                        size += 1
    return alive


@njit(cache=True, error_model="numpy", nogil=True)
def _departure(row, t, forward):
    """Direction in which a half-edge leaves its vertex, and its curvature there (left is positive)."""
    vx, vy = velocity(row, t)
    ax, ay = acceleration(row, t)
    speed = math.hypot(vx, vy)
    if speed <= 1e-9 * pace(row):
        # a control point on the end: the curve leaves along its second derivative
        sign = 1.0 if forward else -1.0
        x0, y0 = point(row, t)
        x1, y1 = point(row, t + sign * 1e-3)
        return math.atan2(y1 - y0, x1 - x0), 0.0
    curvature = (vx * ay - vy * ax) / (speed * speed * speed)
    if forward:
        return math.atan2(vy, vx), curvature
    return math.atan2(-vy, -vx), -curvature


@njit(cache=True, error_model="numpy", nogil=True)
def link(rows, piece, ta, tb, start, end, count):
    """``next`` of every half-edge: at its end, the one just clockwise of its twin."""
    n = piece.shape[0]
    half = 2 * n
    origin = np.empty(half, np.int64)
    angle, curve = np.empty(half), np.empty(half)
    for e in range(n):
        row = rows[piece[e]]
        origin[2 * e], origin[2 * e + 1] = start[e], end[e]
        angle[2 * e], curve[2 * e] = _departure(row, ta[e], True)
        angle[2 * e + 1], curve[2 * e + 1] = _departure(row, tb[e], False)
    by_angle = np.argsort(angle)
    first = np.zeros(count + 1, np.int64)
    for h in range(half):
        first[origin[h] + 1] += 1
    first = np.cumsum(first)
    around = np.empty(half, np.int64)
    fill = first[:-1].copy()
    for k in range(half):
        h = by_angle[k]
        around[fill[origin[h]]] = h
        fill[origin[h]] += 1
    following = np.empty(half, np.int64)
    for v in range(count):
        low, high = first[v], first[v + 1]
        size = high - low
        if size == 0:
            continue
        ring = around[low:high].copy()
        # begin where there is a gap, so that a tie never straddles ±π
        begin = 0
        for i in range(size):
            if (angle[ring[i]] - angle[ring[i - 1]]) % TURN > TIE:
                begin = i
                break
        turned = np.empty(size, np.int64)
        for i in range(size):
            turned[i] = ring[(begin + i) % size]
        i = 0
        while i < size:
            j = i + 1
            while j < size and (angle[turned[j]] - angle[turned[j - 1]]) % TURN <= TIE:
                j += 1
            for a in range(i + 1, j):  # few at a time: insertion by curvature, left-bending last
                k = a
                while k > i and curve[turned[k]] < curve[turned[k - 1]]:
                    turned[k], turned[k - 1] = turned[k - 1], turned[k]
                    k -= 1
            i = j
        for i in range(size):
            following[turned[i] ^ 1] = turned[i - 1]
    return following


@njit(cache=True, error_model="numpy", nogil=True)
def loops(rows, piece, ta, tb, start, end, following, vertices):
    """Loops of half-edges: loop of each half-edge, area, box and component of each loop."""
    half = following.shape[0]
    loop = np.full(half, -1, np.int64)
    count = 0
    first = np.empty(half, np.int64)
    for h in range(half):
        if loop[h] >= 0:
            continue
        at = h
        while loop[at] < 0:
            loop[at] = count
            at = following[at]
        first[count] = h
        count += 1
    area = np.zeros(count)
    boxes = np.empty((count, 4))
    boxes[:, :2] = np.inf
    boxes[:, 2:] = -np.inf
    one = np.empty(4)
    for e in range(piece.shape[0]):
        row = rows[piece[e]]
        swept = sweep_area(row, ta[e], tb[e])
        area[loop[2 * e]] += swept
        area[loop[2 * e + 1]] -= swept
        box(row, one)
        for h in (2 * e, 2 * e + 1):
            b = boxes[loop[h]]
            b[0], b[1] = min(b[0], one[0]), min(b[1], one[1])
            b[2], b[3] = max(b[2], one[2]), max(b[3], one[3])
    parent = np.arange(vertices)
    for e in range(piece.shape[0]):
        a, b = start[e], end[e]
        while parent[a] != a:
            parent[a] = parent[parent[a]]
            a = parent[a]
        while parent[b] != b:
            parent[b] = parent[parent[b]]
            b = parent[b]
        parent[a] = b
    component = np.empty(count, np.int64)
    for i in range(count):
        v = start[first[i] // 2]
        while parent[v] != v:
            v = parent[v]
        component[i] = v
    return loop, first[:count].copy(), area, boxes, component


@njit(cache=True, error_model="numpy", nogil=True)
def around(rows, piece, ta, tb, following, first, area, boxes, component, inner, outers):
    """Index in ``outers`` of the smallest loop that contains each loop of ``inner``; -1 where none does."""
    out = np.full(inner.shape[0], -1, np.int64)
    for i in range(inner.shape[0]):
        mine = inner[i]
        e = first[mine] // 2
        x, y = point(rows[piece[e]], (ta[e] + tb[e]) / 2)
        best = np.inf
        for k in range(outers.shape[0]):
            o = outers[k]
            if component[o] == component[mine] or area[o] >= best:
                continue
            b = boxes[o]
            if x < b[0] or x > b[2] or y < b[1] or y > b[3]:
                continue
            total = 0.0
            h = first[o]
            while True:
                f = h // 2
                turn = winding(rows[piece[f]], ta[f], tb[f], x, y)
                total += turn if h % 2 == 0 else -turn
                h = following[h]
                if h == first[o]:
                    break
            if total > math.pi:
                best = area[o]
                out[i] = k
    return out
