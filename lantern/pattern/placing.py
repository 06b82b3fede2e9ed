"""Where a place lies in the repeats of a pattern or an image: by texture coordinates, or by a frame in metres."""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import load_f32, load_i32, peek_f32, peek_i32, peek_vector
from lantern.kernel.vectors import EXACT, SMALL
from lantern.pattern.tables import BY_CYLINDER, BY_SPHERE, BY_UV, BY_WRAP, PLACEMENT, POINT

L, P = PLACEMENT.slots, POINT.slots
PLACEMENT_WIDTH = PLACEMENT.width
_ZERO, _ONE, _HALF, _TWO = f32(0.0), f32(1.0), f32(0.5), f32(2.0)
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


@njit(**SMALL)
def frame_normal(placements, row, point):
    """The normal at a place in a placement's own axes."""
    n, t = peek_vector(point, P.rest_normal if load_i32(placements, row + L.rest) != 0 else P.own_normal), row + L.turn
    return (
        load_f32(placements, t) * n[0] + load_f32(placements, t + 1) * n[1] + load_f32(placements, t + 2) * n[2],
        load_f32(placements, t + 3) * n[0] + load_f32(placements, t + 4) * n[1] + load_f32(placements, t + 5) * n[2],
        load_f32(placements, t + 6) * n[0] + load_f32(placements, t + 7) * n[1] + load_f32(placements, t + 8) * n[2],
    )


@njit(**EXACT)
def bent(placements, row, point, x, y, z):
    """A place in widths from the middle of a sheet that bends with the surface, as (across, up, depth).

    Where the surface leans by θ, the sheet has followed an arc whose chord leads there: it is θ/2 over sin θ/2 as long.
    Exact on a cylinder and a sphere that touch the frame at its middle; on a plane nothing changes.
    """
    n = frame_normal(placements, row, point)
    lean = math.sqrt(n[0] * n[0] + n[1] * n[1])
    if lean > f32(1e-4):
        a, b = n[0] / lean, n[1] / lean
        along = x * a + y * b
        half = _HALF * math.atan2(lean, n[2])
        arc = math.sqrt(along * along + z * z) * half / math.sin(half)
        more = (arc if along >= _ZERO else -arc) - along
        x, y = x + more * a, y + more * b
    return x + _HALF, y * load_f32(placements, row + L.around) + _HALF, z


@njit(**EXACT)
def place_of(placements, row, point):
    """(x, y, z) in repeats. Flat kinds leave z at 0, the box and the plane keep the depth."""
    kind = load_i32(placements, row + L.kind)
    if kind == BY_UV:
        at = P.uv + 2 * load_i32(placements, row + L.uv_set)
        return _carried(placements, row + L.matrix, (peek_f32(point, at), peek_f32(point, at + 1), _ZERO))
    place = peek_vector(point, P.rest if load_i32(placements, row + L.rest) != 0 else P.own)
    x, y, z = _carried(placements, row + L.matrix, place)
    if kind == BY_WRAP:
        return bent(placements, row, point, x, y, z)
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
    n = frame_normal(placements, row, point)
    a, b, c = abs(n[0]), abs(n[1]), abs(n[2])
    least = max(a, max(b, c)) * (_ONE - load_f32(placements, row + L.blend))
    a, b, c = max(a - least, _ZERO), max(b - least, _ZERO), max(c - least, _ZERO)
    inverse = _ONE / max(a + b + c, f32(1e-12))
    return a * inverse, b * inverse, c * inverse


@njit(**EXACT)
def within(placements, row, point, place, reach, both_sides):
    """[0, 1] within the bounds of a decal's frame: 1 on the side that it looks at, no deeper than `reach` widths."""
    x, y, z = place
    if x < _ZERO or x > _ONE or y < _ZERO or y > _ONE or abs(z) > reach:
        return _ZERO
    facing = frame_normal(placements, row, point)[2]
    if both_sides:
        facing = abs(facing)
    elif peek_i32(point, P.front) == 0:
        facing = -facing
    if load_i32(placements, row + L.kind) == BY_WRAP:
        return _ONE if facing > f32(-0.9) or both_sides else _ZERO
    # A plane's image is drawn out where the surface leans away: it fades before it is a smear.
    share = min(max((facing - f32(0.08)) / f32(0.12), _ZERO), _ONE)
    return share * share * (f32(3.0) - _TWO * share)
