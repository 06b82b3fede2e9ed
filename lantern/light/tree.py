"""Building the light tree on the host.

In: for each light its bounds, cone of normals and power. Out: `LightTree`. Called by
`light.emitters`. Splits by the surface area orientation heuristic over 12 buckets (Conty Estevez & Kulla
2018, section 4.2), compiled because an emissive mesh may have a hundred thousand triangles.
"""

import math
from dataclasses import dataclass

import numpy as np
from numba import njit

from lantern.light.tree_kernels import NODE

BUCKETS = 12
LEAF = 128
"""Neighbours of one mesh that share a leaf at most, picked among by power: every level costs two estimates."""
GROUP = 12  # low, high, axis, cosines of spread and reach, power
DEEPEST = 30  # bits of a trail


@dataclass(frozen=True)
class Bounds:
    """What the tree knows of n lights; all float64. Angles are given by cosines."""

    low: np.ndarray  # (n, 3) m
    high: np.ndarray  # (n, 3) m
    axis: np.ndarray  # (n, 3) unit
    cos_spread: np.ndarray  # (n,)
    cos_reach: np.ndarray  # (n,)
    power: np.ndarray  # (n,) > 0
    cluster: np.ndarray  # (n,) int: lights of the same number >= 0 may share a leaf


@dataclass(frozen=True, eq=False)
class LightTree:
    """A built tree, and the order that the rows of the lights must be brought into."""

    nodes: np.ndarray  # rows of NODE
    order: np.ndarray  # (n,) old number of each light
    trails: np.ndarray  # (n,) int32, in the new order
    shares: np.ndarray  # (n,) float32 cumulative share of the power of its leaf, in the new order
    cluster: np.ndarray  # (n,) as in `Bounds`
    children: np.ndarray  # (nodes,) second child, or -1 - first light of a leaf
    counts: np.ndarray  # (nodes,) lights of a leaf, 0 for the others


@njit(cache=True)
def _join_cones(g, other):
    """Widen the cone of group g (axis 6-8, cosine 9) to hold another's."""
    if g[9] <= -1.0:
        return  # it is the whole sphere already, as that of any closed glowing mesh soon is
    a, b = math.acos(min(max(g[9], -1.0), 1.0)), math.acos(min(max(other[9], -1.0), 1.0))
    cosine = g[6] * other[6] + g[7] * other[7] + g[8] * other[8]
    between = math.acos(min(max(cosine, -1.0), 1.0))
    if min(between + b, math.pi) <= a:
        return
    if min(between + a, math.pi) <= b:
        for k in range(6, 10):
            g[k] = other[k]
        return
    half = (a + between + b) / 2
    # The part of the other axis across this one: turning towards it by half - a centres the new cone.
    x, y, z = other[6] - cosine * g[6], other[7] - cosine * g[7], other[8] - cosine * g[8]
    length = math.sqrt(x * x + y * y + z * z)
    if half >= math.pi or length < 1e-12:
        g[9] = -1.0
        return
    c, s = math.cos(half - a), math.sin(half - a) / length
    g[6], g[7], g[8] = c * g[6] + s * x, c * g[7] + s * y, c * g[8] + s * z
    g[9] = math.cos(half)


@njit(cache=True)
def _measure(g):
    """Power times surface area times solid angle that a group may shine into (equation 1 of the paper)."""
    x, y, z = max(g[3] - g[0], 1e-9), max(g[4] - g[1], 1e-9), max(g[5] - g[2], 1e-9)
    area = 2 * (x * y + y * z + z * x)
    spread = math.acos(min(max(g[9], -1.0), 1.0))
    whole = min(spread + math.acos(min(max(g[10], -1.0), 1.0)), math.pi)
    sine = math.sin(spread)
    bent = 2 * whole * sine - math.cos(spread - 2 * whole) - 2 * spread * sine + g[9]
    angle = 2 * math.pi * (1 - g[9]) + math.pi / 2 * bent
    return g[11] * area * angle


@njit(cache=True)
def _join(g, other):
    """Widen group g to hold another: low, high, axis, cosines of spread and reach, power."""
    if g[11] == 0.0:
        for k in range(GROUP):
            g[k] = other[k]
        return
    for k in range(3):
        g[k] = min(g[k], other[k])
        g[k + 3] = max(g[k + 3], other[k + 3])
    _join_cones(g, other)
    g[10] = min(g[10], other[10])
    g[11] += other[11]


@njit(cache=True)
def _bucket_of(low, high, centre):
    return min(int((centre - low) / (high - low) * BUCKETS), BUCKETS - 1)


@njit(cache=True)
def _centre(lights, m, k):
    return (lights[m, k] + lights[m, k + 3]) / 2


@njit(cache=True)
def _extent(lights, order, begin, end, k):
    low = high = _centre(lights, order[begin], k)
    for i in range(begin + 1, end):
        c = _centre(lights, order[i], k)
        low, high = min(low, c), max(high, c)
    return low, high


@njit(cache=True)
def _clear(groups):
    for b in range(len(groups)):
        groups[b, 11] = 0.0


@njit(cache=True)
def _split(lights, order, begin, end, groups, sides):
    """Partition order[begin:end] in place and return where the right side begins; the last two are work space."""
    best_cost, best_axis, best_edge = np.inf, -1, 0
    for k in range(3):
        low, high = _extent(lights, order, begin, end, k)
        if high - low < 1e-12:
            continue
        _clear(groups)
        for i in range(begin, end):
            _join(groups[_bucket_of(low, high, _centre(lights, order[i], k))], lights[order[i]])
        for edge in range(1, BUCKETS):
            _clear(sides)
            for b in range(BUCKETS):
                if groups[b, 11] > 0.0:
                    _join(sides[0 if b < edge else 1], groups[b])
            if sides[0, 11] > 0.0 and sides[1, 11] > 0.0:
                cost = _measure(sides[0]) + _measure(sides[1])
                if cost < best_cost:
                    best_cost, best_axis, best_edge = cost, k, edge
    if best_axis < 0:
        return (begin + end) // 2
    low, high = _extent(lights, order, begin, end, best_axis)
    middle = begin
    for i in range(begin, end):
        if _bucket_of(low, high, _centre(lights, order[i], best_axis)) < best_edge:
            order[i], order[middle] = order[middle], order[i]
            middle += 1
    return middle


@njit(cache=True)
def _is_leaf(cluster, order, begin, end):
    if end - begin == 1:
        return True
    first = cluster[order[begin]]
    if end - begin > LEAF or first < 0:
        return False
    same = 0
    for i in range(begin, end):
        same += cluster[order[i]] == first
    return same == end - begin


@njit(cache=True)
def _build(lights, cluster, order, rows, children, counts, trails, shares):
    count = len(lights)
    # Columns: begin, end, parent (-1 for a first child), trail, depth.
    stack = np.zeros((128, 5), np.int64)
    stack[0, 1], stack[0, 2] = count, -1
    groups, sides = np.zeros((BUCKETS, GROUP)), np.zeros((2, GROUP))
    top, used = 1, 0
    while top:
        top -= 1
        begin, end, parent, trail, depth = stack[top, 0], stack[top, 1], stack[top, 2], stack[top, 3], stack[top, 4]
        node = used
        used += 1
        if parent >= 0:
            children[parent] = node
        for i in range(begin, end):
            _join(rows[node], lights[order[i]])
        if _is_leaf(cluster, order, begin, end):
            children[node], counts[node] = -1 - begin, end - begin
            total = 0.0
            for i in range(begin, end):
                total += lights[order[i], 11]
                trails[i], shares[i] = trail, total / rows[node, 11]
            shares[end - 1] = 1.0
            continue
        # A tree that would outgrow its trail is halved from there on.
        middle = _split(lights, order, begin, end, groups, sides) if depth < DEEPEST // 2 else (begin + end) // 2
        # The first child is the next node made, so it goes on top of the second.
        for k, value in enumerate((middle, end, node, trail | (1 << depth), depth + 1)):
            stack[top, k] = value
        for k, value in enumerate((begin, middle, -1, trail, depth + 1)):
            stack[top + 1, k] = value
        top += 2
    return used


@njit(cache=True)
def _refit(lights, order, rows, children, counts, shares):
    """Measure the groups of a tree again whose lights have moved: children come after their parents."""
    for node in range(len(children) - 1, -1, -1):
        if children[node] >= 0:
            _join(rows[node], rows[node + 1])
            _join(rows[node], rows[children[node]])
            continue
        begin = -1 - children[node]
        end = begin + counts[node]
        for i in range(begin, end):
            _join(rows[node], lights[order[i]])
        total = 0.0
        for i in range(begin, end):
            total += lights[order[i], 11]
            shares[i] = total / rows[node, 11]
        shares[end - 1] = 1.0


def build_tree(bounds: Bounds, before: LightTree | None = None) -> LightTree:
    """The tree of n lights: halving below half of DEEPEST keeps 2^15 lights a branch within a trail.

    When it is known how the same lights were grouped `before`, the groups are kept and only measured again: dragging a
    light must not sort the thousand triangles of a glowing mesh anew. Any grouping is right; it only costs some noise.
    """
    count = len(bounds.power)
    order, trails, shares = np.arange(count), np.zeros(count, np.int64), np.zeros(count, np.float32)
    cluster = bounds.cluster.astype(np.int64)
    none = np.zeros(0, np.int64)
    if count == 0:
        return LightTree(NODE.zeros(1), order, trails.astype(np.int32), shares, cluster, none, none)
    columns = (bounds.cos_spread, bounds.cos_reach, bounds.power)
    lights = np.ascontiguousarray(
        np.hstack([bounds.low, bounds.high, bounds.axis, *(np.reshape(c, (-1, 1)) for c in columns)]), np.float64
    )
    groups = np.zeros((2 * count, GROUP))
    if before is not None and np.array_equal(cluster, before.cluster):
        order, trails = before.order, before.trails
        children, counts = before.children, before.counts
        used = len(children)
        _refit(lights, order, groups, children, counts, shares)
    else:
        children, counts = np.zeros(2 * count, np.int64), np.zeros(2 * count, np.int64)
        used = _build(lights, cluster, order, groups, children, counts, trails, shares)
    rows = NODE.zeros(used)
    low, high = groups[:used, 0:3], groups[:used, 3:6]
    rows["centre"], rows["radius"] = (low + high) / 2, np.linalg.norm(high - low, axis=1) / 2
    rows["axis"], rows["cos_spread"], rows["cos_reach"] = groups[:used, 6:9], groups[:used, 9], groups[:used, 10]
    rows["sin_spread"] = np.sqrt(np.maximum(1 - groups[:used, 9] ** 2, 0))
    rows["power"] = groups[:used, 11]
    rows["child"], rows["count"] = children[:used], counts[:used]
    return LightTree(rows, order, trails.astype(np.int32), shares, cluster, children[:used], counts[:used])
