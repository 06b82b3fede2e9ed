"""The light tree: picking one of many lights by how much it may contribute at a place.

Conty Estevez & Kulla, "Importance Sampling of Many Lights with Adaptive Tree Splitting", HPG 2018; importance as in
Pharr, Jakob & Humphreys, "Physically Based Rendering", 4th ed., section 12.6.3, without splitting. Nodes are eight
wide: a walk over two children a level waits at each for roots and quotients that could be had side by side.
"""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import Table, load_f32, load_i32, peek_f32, store_f32
from lantern.kernel.vectors import EXACT, SMALL
from lantern.light.shapes import LIGHT, LIGHT_WIDTH

WIDE = 8
"""Groups of a node: their estimates are made side by side, in the lanes of the processor's vector unit."""
LANE_BITS = 3

NODE = Table(
    "node",
    [
        # Of each group, those of a node one after another. Of its bounds [m]:
        ("centre_x", "f", WIDE),
        ("centre_y", "f", WIDE),
        ("centre_z", "f", WIDE),
        ("radius", "f", WIDE),  # half their diagonal
        ("axis_x", "f", WIDE),  # of the cone of normals
        ("axis_y", "f", WIDE),
        ("axis_z", "f", WIDE),
        ("cos_spread", "f", WIDE),  # half angle of that cone
        ("sin_spread", "f", WIDE),
        ("cos_reach", "f", WIDE),  # how far beyond it light goes
        ("power", "f", WIDE),  # 0 where a node has fewer groups
        ("child", "i", WIDE),  # node of the groups of this one; -1 - first light when it is not divided
        ("count", "i", WIDE),  # lights of a group that is not divided: neighbours of one mesh, chosen among by power
        ("lanes", "i", 1),  # WIDE: a loop of known length would be unrolled before it is brought side by side
        ("spare", "i", WIDE - 1),  # rows of whole cache lines
    ],
)
"""Node 0 has one group, of all lights."""
N, L = NODE.slots, LIGHT.slots
NODE_WIDTH = NODE.width
_ZERO, _ONE = f32(0.0), f32(1.0)
_TINY = f32(1e-20)


@njit(**SMALL)
def _cos_less(sin_a, cos_a, sin_b, cos_b):
    """cos(max(0, a - b))."""
    return _ONE if cos_a > cos_b else cos_a * cos_b + sin_a * sin_b


@njit(**SMALL)
def _sin_less(sin_a, cos_a, sin_b, cos_b):
    """sin(max(0, a - b))."""
    return _ZERO if cos_a > cos_b else sin_a * cos_b - cos_a * sin_b


@njit(**SMALL)
def _sine(cosine):
    return math.sqrt(max(_ONE - cosine * cosine, _ZERO))


@njit(**SMALL)
def _estimate(nodes, at, p, n, on_surface):
    """`importance` of the group whose numbers begin at slot `at`: without a branch, so that lanes stay together."""
    x = p[0] - load_f32(nodes, at + N.centre_x)
    y = p[1] - load_f32(nodes, at + N.centre_y)
    z = p[2] - load_f32(nodes, at + N.centre_z)
    radius = load_f32(nodes, at + N.radius)
    square, radius2 = max(x * x + y * y + z * z, _TINY), radius * radius
    closeness = _ONE / math.sqrt(square)
    inside = square <= radius2
    sin_box = radius * closeness
    cos_box = _sine(sin_box)
    sin_box = _ZERO if inside else sin_box
    cos_box = -_ONE if inside else cos_box
    cos_w = closeness * (
        load_f32(nodes, at + N.axis_x) * x + load_f32(nodes, at + N.axis_y) * y + load_f32(nodes, at + N.axis_z) * z
    )
    sin_w = _sine(cos_w)
    cos_o, sin_o = load_f32(nodes, at + N.cos_spread), load_f32(nodes, at + N.sin_spread)
    cos_x, sin_x = _cos_less(sin_w, cos_w, sin_o, cos_o), _sin_less(sin_w, cos_w, sin_o, cos_o)
    cos_least = _cos_less(sin_x, cos_x, sin_box, cos_box)
    reaches = cos_least > load_f32(nodes, at + N.cos_reach)
    value = load_f32(nodes, at + N.power) / max(square, radius2) * cos_least
    value = value if reaches else _ZERO
    if on_surface:
        cos_i = abs(x * n[0] + y * n[1] + z * n[2]) * closeness
        value *= _cos_less(_sine(cos_i), cos_i, sin_box, cos_box)
    return max(value, _ZERO)


@njit(**SMALL)
def importance(nodes, p, n, on_surface):
    """A bound-like estimate of the irradiance at p (normal n if `on_surface`) from all lights [lx/π]."""
    return _estimate(nodes, 0, p, n, on_surface)


@njit(**EXACT)
def _weigh(nodes, node, p, n, on_surface, weights):
    """Write the estimates of a node's groups; returns their sum."""
    for lane in range(load_i32(nodes, node * NODE_WIDTH + N.lanes)):
        store_f32(weights, lane, _estimate(nodes, node * NODE_WIDTH + lane, p, n, on_surface))
    return (
        (peek_f32(weights, 0) + peek_f32(weights, 1))
        + (peek_f32(weights, 2) + peek_f32(weights, 3))
        + ((peek_f32(weights, 4) + peek_f32(weights, 5)) + (peek_f32(weights, 6) + peek_f32(weights, 7)))
    )


@njit(**SMALL)
def _among(shares, first, count, u):
    """(light, probability) among the neighbours of a leaf by their cumulative shares."""
    low, high = first, first + count - 1
    while low < high:
        middle = (low + high) >> 1
        if u < load_f32(shares, middle):
            high = middle
        else:
            low = middle + 1
    below = load_f32(shares, low - 1) if low > first else _ZERO
    return low, load_f32(shares, low) - below


@njit(**EXACT)
def pick_light(nodes, shares, p, n, on_surface, u, weights):
    """(light, probability) for a place; light is -1 when none can reach it.

    `shares` is of `LightTree`, `weights` the address of WIDE slots to work in.
    """
    probability, at = _ONE, 0
    child = load_i32(nodes, N.child)
    while child >= 0:
        total = _weigh(nodes, child, p, n, on_surface, weights)
        if total <= _ZERO:
            return -1, _ZERO
        left, lane, last = u * total, 0, 0
        while True:
            weight = peek_f32(weights, lane)
            if weight > _ZERO:
                last = lane
                if left < weight:
                    break
                left -= weight
            lane += 1
            if lane == WIDE:
                # Rounding: it was the last one that can be picked.
                lane, left = last, _ZERO
                break
        weight = peek_f32(weights, lane)
        u = min(left / weight, f32(0.99999994))
        probability *= weight / total
        at = child * NODE_WIDTH + lane
        child = load_i32(nodes, at + N.child)
    count = load_i32(nodes, at + N.count)
    if count == 1:
        return -1 - child, probability
    number, share = _among(shares, -1 - child, count, u)
    return number, probability * share


@njit(**EXACT)
def pick_probability(nodes, shares, lights, p, n, on_surface, number, weights):
    """Probability with which `pick_light` takes light `number`."""
    probability = _ONE
    trail = load_i32(lights, number * LIGHT_WIDTH + L.trail)
    child = load_i32(nodes, N.child)
    while child >= 0:
        total = _weigh(nodes, child, p, n, on_surface, weights)
        if total <= _ZERO:
            return _ZERO
        lane = trail & (WIDE - 1)
        probability *= peek_f32(weights, lane) / total
        child = load_i32(nodes, child * NODE_WIDTH + lane + N.child)
        trail >>= LANE_BITS
    below = load_f32(shares, number - 1) if number > -1 - child else _ZERO
    return probability * (load_f32(shares, number) - below)
