"""The light tree: picking one of many lights by how much it may contribute at a place.

Conty Estevez & Kulla, "Importance Sampling of Many Lights with Adaptive Tree Splitting", HPG 2018; importance as in
Pharr, Jakob & Humphreys, "Physically Based Rendering", 4th ed., section 12.6.3, without splitting.
"""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import Table, load_f32, load_i32, load_vector
from lantern.kernel.vectors import EXACT, SMALL, dot, sub
from lantern.light.shapes import LIGHT, LIGHT_WIDTH

NODE = Table(
    "node",
    [
        ("centre", "f", 3),  # of the bounds [m]
        ("radius", "f", 1),  # half their diagonal [m]
        ("axis", "f", 3),  # cone of normals
        ("cos_spread", "f", 1),  # half angle of that cone
        ("sin_spread", "f", 1),
        ("cos_reach", "f", 1),  # how far beyond it light goes
        ("power", "f", 1),
        ("child", "i", 1),  # second child, the first follows its parent; -1 - first light for a leaf
        ("count", "i", 1),  # lights of a leaf: neighbours of one mesh, chosen among by power
        ("spare", "i", 3),  # rows of one cache line
    ],
)
N, L = NODE.slots, LIGHT.slots
NODE_WIDTH = NODE.width
_ZERO, _ONE = f32(0.0), f32(1.0)


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
def importance(nodes, node, p, n, on_surface):
    """A bound-like estimate of the irradiance at p (normal n if `on_surface`) from the lights of a node [lx/π]."""
    row = node * NODE_WIDTH
    d = sub(p, load_vector(nodes, row + N.centre))
    radius = load_f32(nodes, row + N.radius)
    square, radius2 = dot(d, d), radius * radius
    inside = square <= radius2
    closeness = _ONE / math.sqrt(max(square, f32(1e-20)))
    sin_box = _ZERO if inside else radius * closeness
    cos_box = f32(-1.0) if inside else math.sqrt(_ONE - sin_box * sin_box)
    value = load_f32(nodes, row + N.power) / max(square, radius2)
    cos_o = load_f32(nodes, row + N.cos_spread)
    if cos_o > f32(-1.0):
        cos_w = dot(load_vector(nodes, row + N.axis), d) * closeness
        sin_w, sin_o = _sine(cos_w), load_f32(nodes, row + N.sin_spread)
        cos_x, sin_x = _cos_less(sin_w, cos_w, sin_o, cos_o), _sin_less(sin_w, cos_w, sin_o, cos_o)
        cos_least = _cos_less(sin_x, cos_x, sin_box, cos_box)
        if cos_least <= load_f32(nodes, row + N.cos_reach):
            return _ZERO
        value *= cos_least
    if on_surface:
        cos_i = abs(dot(d, n)) * closeness
        value *= _cos_less(_sine(cos_i), cos_i, sin_box, cos_box)
    return max(value, _ZERO)


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
def pick_light(nodes, shares, p, n, on_surface, u):
    """(light, probability) for a place; light is -1 when none can reach it. `shares` is of `LightTree`."""
    node, probability = 0, _ONE
    while True:
        child = load_i32(nodes, node * NODE_WIDTH + N.child)
        if child < 0:
            count = load_i32(nodes, node * NODE_WIDTH + N.count)
            if count == 1:
                return -1 - child, probability
            number, share = _among(shares, -1 - child, count, u)
            return number, probability * share
        first = importance(nodes, node + 1, p, n, on_surface)
        second = importance(nodes, child, p, n, on_surface)
        total = first + second
        if total <= _ZERO:
            return -1, _ZERO
        share = first / total
        if u < share:
            u = min(u / share, f32(0.99999994))
            probability *= share
            node = node + 1
        else:
            u = min((u - share) / max(_ONE - share, f32(1e-12)), f32(0.99999994))
            probability *= _ONE - share
            node = child


@njit(**EXACT)
def pick_probability(nodes, shares, lights, p, n, on_surface, number):
    """Probability with which `pick_light` takes light `number`."""
    node, probability = 0, _ONE
    trail = load_i32(lights, number * LIGHT_WIDTH + L.trail)
    while True:
        child = load_i32(nodes, node * NODE_WIDTH + N.child)
        if child < 0:
            below = load_f32(shares, number - 1) if number > -1 - child else _ZERO
            return probability * (load_f32(shares, number) - below)
        first = importance(nodes, node + 1, p, n, on_surface)
        second = importance(nodes, child, p, n, on_surface)
        total = first + second
        if total <= _ZERO:
            return _ZERO
        if trail & 1:
            probability *= second / total
            node = child
        else:
            probability *= first / total
            node = node + 1
        trail >>= 1
