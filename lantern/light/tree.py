"""Building the light tree on the host.

In: for each light its bounds, cone of normals and power. Out: `LightTree`. Called by `light.emitters`. Groups are
split in two by the surface area orientation heuristic over 12 buckets (Conty Estevez & Kulla 2018, section 4.2),
compiled because an emissive mesh may have a hundred thousand triangles, and then joined to wide nodes.
"""

import math
from dataclasses import dataclass, fields

import numpy as np
from numba import njit

from lantern.light.tree_kernels import LANE_BITS, NODE, WIDE

BUCKETS = 12
LEAF = 128
"""Neighbours of one mesh that share a leaf at most, picked among by power: every level costs two estimates."""
GROUP = 12  # low, high, axis, cosines of spread and reach, power
DEEPEST = 30
"""Divisions in two that lead to a light at most: three of them make a level of the wide tree, LANE_BITS of a trail."""


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

    def of(self, lights: np.ndarray) -> "Bounds":
        """What is known of some of the lights, by their numbers."""
        return Bounds(*(getattr(self, field.name)[lights] for field in fields(self)))


@dataclass(frozen=True, eq=False)
class LightTree:
    """A built tree, and the order that the rows of the lights must be brought into."""

    nodes: np.ndarray  # rows of NODE
    order: np.ndarray  # (n,) old number of each light
    trails: np.ndarray  # (n,) int32 way from the root to each light, in the new order
    shares: np.ndarray  # (n,) float32 cumulative share of the power of its leaf, in the new order
    cluster: np.ndarray  # (n,) as in `Bounds`
    groups: "Groups"
    meshed: "Groups | None" = None
    """How those of `cluster` >= 0 were grouped among themselves, where they are many."""


@dataclass(frozen=True, eq=False)
class Groups:
    """How lights are divided in two, again and again; a first half is the group that follows its whole."""

    order: np.ndarray  # (n,) number of each light
    children: np.ndarray  # (groups,) second half, or -1 - first light of a leaf, counted in this order
    counts: np.ndarray  # (groups,) lights of a leaf, 0 for the others
    deepest: int
    """Divisions that lead to a light at most."""


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
def _build(lights, cluster, order, children, counts):
    count = len(lights)
    # Columns: begin, end, parent (-1 for a first child), depth.
    stack = np.zeros((128, 4), np.int64)
    stack[0, 1], stack[0, 2] = count, -1
    groups, sides = np.zeros((BUCKETS, GROUP)), np.zeros((2, GROUP))
    top, used, deepest = 1, 0, 0
    while top:
        top -= 1
        begin, end, parent, depth = stack[top, 0], stack[top, 1], stack[top, 2], stack[top, 3]
        node = used
        used += 1
        deepest = max(deepest, depth)
        if parent >= 0:
            children[parent] = node
        if _is_leaf(cluster, order, begin, end):
            children[node], counts[node] = -1 - begin, end - begin
            continue
        # A tree that would outgrow its trail is halved from there on.
        middle = _split(lights, order, begin, end, groups, sides) if depth < DEEPEST // 2 else (begin + end) // 2
        # The first child is the next node made, so it goes on top of the second.
        for k, value in enumerate((middle, end, node, depth + 1)):
            stack[top, k] = value
        for k, value in enumerate((begin, middle, -1, depth + 1)):
            stack[top + 1, k] = value
        top += 2
    return used, deepest


@njit(cache=True)
def _refit(lights, order, rows, children, counts, shares):
    """Measure the groups of a tree: children come after their parents."""
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


@njit(cache=True)
def _widen(children, counts, groups, ways, trails):
    """Join groups that are divided in two to nodes of up to WIDE; returns how many nodes there are.

    Fills, a row a node, the number of each group (-1 for none) and the node that divides it further or, as in
    `children`, its first light; and the trail of every light.
    """
    groups[:] = -1
    groups[0, 0], ways[0, 0] = 0, children[0]
    if children[0] < 0:
        return 1
    ways[0, 0] = 1
    # Columns: the group that a node divides, trail, depth.
    made = np.zeros((len(groups), 3), np.int64)
    levels = np.zeros(WIDE, np.int64)
    node, used = 1, 2
    while node < used:
        trail, depth = made[node, 1], made[node, 2]
        groups[node, 0], levels[0] = made[node, 0], 0
        lanes = 1
        while lanes < WIDE:
            # The least divided first: so WIDE groups are never fewer levels deep than a whole tree of that size.
            best = -1
            for lane in range(lanes):
                if children[groups[node, lane]] >= 0 and (best < 0 or levels[lane] < levels[best]):
                    best = lane
            if best < 0:
                break
            whole = groups[node, best]
            groups[node, best], groups[node, lanes] = whole + 1, children[whole]
            levels[best] += 1
            levels[lanes] = levels[best]
            lanes += 1
        for lane in range(lanes):
            group, way = groups[node, lane], trail | (lane << (LANE_BITS * depth))
            if children[group] >= 0:
                made[used, 0], made[used, 1], made[used, 2] = group, way, depth + 1
                ways[node, lane] = used
                used += 1
            else:
                ways[node, lane] = children[group]
                first = -1 - children[group]
                trails[first : first + counts[group]] = way
        node += 1
    return used


def _node_rows(measures: np.ndarray, groups: np.ndarray, ways: np.ndarray, counts: np.ndarray) -> np.ndarray:
    """Rows of NODE from the measures of all groups and the groups of each node."""
    rows = NODE.zeros(len(groups))
    there = groups >= 0
    lanes = np.where(there[..., None], measures[groups], 0.0)
    low, high = lanes[..., 0:3], lanes[..., 3:6]
    for axis, name in enumerate("xyz"):
        rows[f"centre_{name}"] = (low[..., axis] + high[..., axis]) / 2
        rows[f"axis_{name}"] = lanes[..., 6 + axis]
    rows["radius"] = np.linalg.norm(high - low, axis=-1) / 2
    rows["cos_spread"], rows["cos_reach"], rows["power"] = lanes[..., 9], lanes[..., 10], lanes[..., 11]
    rows["sin_spread"] = np.sqrt(np.maximum(1 - lanes[..., 9] ** 2, 0))
    rows["child"], rows["count"] = ways, np.where(there, counts[groups], 0)
    rows["lanes"] = WIDE
    return rows


def _numbers(bounds: Bounds) -> np.ndarray:
    """(n, GROUP) float64 of what kernels read of lights."""
    columns = (bounds.cos_spread, bounds.cos_reach, bounds.power)
    return np.ascontiguousarray(
        np.hstack([bounds.low, bounds.high, bounds.axis, *(np.reshape(c, (-1, 1)) for c in columns)]), np.float64
    )


def _grouped(lights: np.ndarray, cluster: np.ndarray) -> Groups:
    """Lights divided as they lie."""
    count = len(lights)
    order = np.arange(count)
    children, counts = np.zeros(2 * count, np.int64), np.zeros(2 * count, np.int64)
    used, deepest = _build(lights, cluster, order, children, counts)
    return Groups(order, children[:used], counts[:used], deepest)


def _measured(lights: np.ndarray, groups: Groups) -> tuple[np.ndarray, np.ndarray]:
    """(measures of every group, share of each light of the power of its leaf)."""
    measures, shares = np.zeros((len(groups.children), GROUP)), np.zeros(len(lights), np.float32)
    _refit(lights, groups.order, measures, groups.children, groups.counts, shares)
    return measures, shares


def _grafted(top: Groups, item: int, below: Groups, numbers: np.ndarray, others: np.ndarray) -> Groups:
    """`top`, whose light `item` stands for all of `below`; `numbers` and `others` are what their lights are called."""
    at = int(np.flatnonzero(top.order == item)[0])
    leaf = int(np.flatnonzero(top.children == -1 - at)[0])
    more_groups, more_lights = len(below.children) - 1, len(below.order) - 1
    children = top.children.copy()
    children[(children >= 0) & (children > leaf)] += more_groups
    children[children < -1 - at] -= more_lights
    own = np.where(below.children >= 0, below.children + leaf, below.children - at)
    above = top.order[:at], top.order[at + 1 :]
    return Groups(
        np.concatenate([others[above[0]], numbers[below.order], others[above[1]]]),
        np.concatenate([children[:leaf], own, children[leaf + 1 :]]),
        np.concatenate([top.counts[:leaf], below.counts, top.counts[leaf + 1 :]]),
        top.deepest + below.deepest,
    )


def _with_meshes(lights: np.ndarray, cluster: np.ndarray, before: LightTree | None) -> tuple[Groups, Groups | None]:
    """(groups of all lights, those of glowing meshes alone, which last while lamps come and go)."""
    numbers, others = np.flatnonzero(cluster >= 0), np.flatnonzero(cluster < 0)
    if len(numbers) <= LEAF:
        return _grouped(lights, cluster), None
    known = before.meshed if before is not None else None
    if known is None or before is None or not np.array_equal(before.cluster[before.cluster >= 0], cluster[numbers]):
        known = _grouped(lights[numbers], cluster[numbers])
    if len(others) == 0:
        return known, known
    measures, _ = _measured(lights[numbers], known)
    top = _grouped(np.concatenate([lights[others], measures[:1]]), np.full(len(others) + 1, -1))
    if top.deepest + known.deepest > DEEPEST:
        return _grouped(lights, cluster), None
    return _grafted(top, len(others), known, numbers, others), known


def build_tree(bounds: Bounds, before: LightTree | None = None) -> LightTree:
    """The tree of n lights: halving below half of DEEPEST keeps 2^15 lights a branch within a trail.

    When it is known how the same lights were grouped `before`, the groups are kept and only measured again: neither
    dragging a lamp nor another set of lamps must sort the thousand triangles of a glowing mesh anew. Any grouping is
    right; it only costs some noise.
    """
    count = len(bounds.power)
    cluster = bounds.cluster.astype(np.int64)
    if count == 0:
        nothing, none = NODE.zeros(1), np.zeros(0, np.int64)
        nothing["child"] = -1
        shares = np.zeros(0, np.float32)
        return LightTree(nothing, none, none.astype(np.int32), shares, cluster, Groups(none, none, none, 0))
    lights = _numbers(bounds)
    if before is not None and np.array_equal(cluster, before.cluster):
        grouped, meshed = before.groups, before.meshed
    else:
        grouped, meshed = _with_meshes(lights, cluster, before)
    measures, shares = _measured(lights, grouped)
    trails = np.zeros(count, np.int64)
    room = len(grouped.children) + 1
    groups, ways = np.zeros((room, WIDE), np.int64), np.zeros((room, WIDE), np.int64)
    used = _widen(grouped.children, grouped.counts, groups, ways, trails)
    rows = _node_rows(measures, groups[:used], ways[:used], grouped.counts)
    return LightTree(rows, grouped.order, trails.astype(np.int32), shares, cluster, grouped, meshed)
