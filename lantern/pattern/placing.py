"""Where a place lies in the repeats of a pattern or an image: by texture coordinates, or by a frame in metres."""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import load_f32, load_i32, peek_f32, peek_vector
from lantern.kernel.vectors import EXACT, SMALL
from lantern.pattern.tables import BY_CYLINDER, BY_SPHERE, BY_UV, PLACEMENT, POINT

L, P = PLACEMENT.slots, POINT.slots
PLACEMENT_WIDTH = PLACEMENT.width
_ZERO, _ONE, _HALF = f32(0.0), f32(1.0), f32(0.5)
_INVERSE_TURN, _INVERSE_HALF_TURN = f32(0.5 / math.pi), f32(1.0 / math.pi)


@njit(**SMALL)
def _carried(placements, m, p):
    """A place by three rows of four numbers."""
    return (
        load_f32(placements, m) * p[0]
        + load_f32(placements, m + 1) * p[1]
        + load_f32(placements, m + 2) * p[2]
        + load_f32(placements, m + 3),
        load_f32(placements, m + 4) * p[0]
        + load_f32(placements, m + 5) * p[1]
        + load_f32(placements, m + 6) * p[2]
        + load_f32(placements, m + 7),
        load_f32(placements, m + 8) * p[0]
        + load_f32(placements, m + 9) * p[1]
        + load_f32(placements, m + 10) * p[2]
        + load_f32(placements, m + 11),
    )


@njit(**EXACT)
def place_of(placements, row, point):
    """(x, y, z) in repeats. Flat kinds leave z at 0, the box and the plane keep the depth."""
    kind = load_i32(placements, row + L.kind)
    if kind == BY_UV:
        at = P.uv + 2 * load_i32(placements, row + L.uv_set)
        return _carried(placements, row + L.matrix, (peek_f32(point, at), peek_f32(point, at + 1), _ZERO))
    place = peek_vector(point, P.rest if load_i32(placements, row + L.rest) != 0 else P.own)
    x, y, z = _carried(placements, row + L.matrix, place)
    if kind == BY_CYLINDER:
        return math.atan2(x, z) * _INVERSE_TURN * load_f32(placements, row + L.around), y, _ZERO
    if kind == BY_SPHERE:
        around = load_f32(placements, row + L.around)
        polar = math.atan2(math.sqrt(x * x + z * z), y) * _INVERSE_HALF_TURN
        return math.atan2(x, z) * _INVERSE_TURN * around, (_HALF - polar) * around * _HALF, _ZERO
    return x, y, z


@njit(**EXACT)
def side_weights(placements, row, point):
    """How much each of the three pairs of sides of a box shows at a place, by the normal there; they sum to 1."""
    n = peek_vector(point, P.rest_normal if load_i32(placements, row + L.rest) != 0 else P.own_normal)
    t = row + L.turn
    a = abs(load_f32(placements, t) * n[0] + load_f32(placements, t + 1) * n[1] + load_f32(placements, t + 2) * n[2])
    b = abs(
        load_f32(placements, t + 3) * n[0] + load_f32(placements, t + 4) * n[1] + load_f32(placements, t + 5) * n[2]
    )
    c = abs(
        load_f32(placements, t + 6) * n[0] + load_f32(placements, t + 7) * n[1] + load_f32(placements, t + 8) * n[2]
    )
    least = max(a, max(b, c)) * (_ONE - load_f32(placements, row + L.blend))
    a, b, c = max(a - least, _ZERO), max(b - least, _ZERO), max(c - least, _ZERO)
    inverse = _ONE / max(a + b + c, f32(1e-12))
    return a * inverse, b * inverse, c * inverse
