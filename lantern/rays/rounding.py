"""The sharp edges near a place: how far they are, and the normal of a fillet in their place without its geometry.

In: a place on a mesh, its normal, the sharp edges near it. Out: a normal; distances. Called by `hit` and `attributes`.

A ball of radius r that rolls along an edge whose faces part by θ touches them t = r tan(θ/2) away from it. Seen from
the ball's centre, a place at a distance d < t from the edge lies below the point of the fillet whose normal is turned
by φ, tan φ = (t - d) / r, towards the other face: half of θ at the edge, nothing where the fillet ends.
"""

from numba import njit
from numpy import float32 as f32
from numpy import int64 as i64

from lantern.kernel.memory import Addresses, load_f32, load_i32, load_i64, load_u64, load_vector
from lantern.kernel.vectors import EXACT, SMALL, add, dot, lerp, normalize, scale, sub

ROUNDING = Addresses("rounding", ["edges", "cells", "count", "starts", "listed", "frame", "across", "down", "bends"])
"""A row a part that has one: arrays of an `EdgeGrid`; how many `cells` there are, and how many fit along x and y.
`frame` is (5,) float32: the grid's origin, 1 / side of a cell, the radius. `bends` is a float32 a vertex: the mean
curvature, or 0 for a row that nobody asks for it."""
WIDEST = 2.0
"""Radii that a rounding may reach from its edge: of a blade it would reach without end."""
R = ROUNDING.slots
ROUNDING_WIDTH = ROUNDING.width
_ZERO, _ONE = f32(0.0), f32(1.0)
_WIDEST = f32(WIDEST)
_EDGE = 19
FAR = f32(1e30)
"""Distance of an edge that there is not."""
_LEAST_LENGTH = f32(1e-30)


@njit(**SMALL)
def _cell_at(row, at, place):
    """The number of the cell that a place lies in, -1 outside of the grid."""
    frame = load_u64(row, at + R.frame)
    inverse = load_f32(frame, 3)
    x = i64((place[0] - load_f32(frame, 0)) * inverse)
    y = i64((place[1] - load_f32(frame, 1)) * inverse)
    z = i64((place[2] - load_f32(frame, 2)) * inverse)
    across, down = load_i64(row, at + R.across), load_i64(row, at + R.down)
    if x < 0 or y < 0 or z < 0 or x >= across or y >= down:
        return i64(-1)
    return (z * down + y) * across + x


@njit(**SMALL)
def _found(row, at, cell):
    """Where a cell stands among those that have edges, -1 for none."""
    cells, low, high = load_u64(row, at + R.cells), 0, load_i64(row, at + R.count)
    while low < high:
        middle = (low + high) >> 1
        if load_i64(cells, middle) < cell:
            low = middle + 1
        else:
            high = middle
    return low if low < load_i64(row, at + R.count) and load_i64(cells, low) == cell else -1


@njit(**SMALL)
def _lean(edges, at, place, normal, radius):
    """What one edge adds to a unit normal: tan φ along the way to the other face; zero out of reach."""
    nothing = (_ZERO, _ZERO, _ZERO)
    begin = load_vector(edges, at)
    along = sub(load_vector(edges, at + 3), begin)
    away = sub(place, begin)
    share = min(max(dot(away, along) / max(dot(along, along), _LEAST_LENGTH), _ZERO), _ONE)
    away = sub(away, scale(along, share))
    distance = dot(away, away) ** f32(0.5)
    if distance >= radius * _WIDEST:
        return nothing
    own = normalize(lerp(load_vector(edges, at + 6), load_vector(edges, at + 9), share))
    other = normalize(lerp(load_vector(edges, at + 12), load_vector(edges, at + 15), share))
    if dot(other, normal) > dot(own, normal):
        own, other = other, own
    cosine = dot(own, other)
    reach = radius * min(((_ONE - cosine) / max(_ONE + cosine, f32(1e-6))) ** f32(0.5), _WIDEST)
    # The far edges of a thin plate are near, but their faces are not the one that the place lies on.
    fade = min(dot(own, normal), _ONE)
    if distance > _ZERO:
        fade *= _ONE - min(abs(dot(away, own)) / distance, _ONE)
    tangent = max(reach - distance, _ZERO) / radius * fade
    if tangent <= _ZERO:
        return nothing
    return scale(normalize(sub(other, scale(own, cosine))), tangent)


@njit(**EXACT)
def rounded(row, number, place, normal):
    """The normal at a place of a part's mesh, both in the mesh's space, with the edges near it rounded.

    `row` is the address of the ROUNDING table, `number` the row of the part. Edges that lean the same way count once,
    as the pieces of a rim do; those of a corner add up.
    """
    at = number * ROUNDING_WIDTH
    found = _found(row, at, _cell_at(row, at, place))
    if found < 0:
        return normal
    normal = normalize(normal)
    edges, listed, starts = load_u64(row, at + R.edges), load_u64(row, at + R.listed), load_u64(row, at + R.starts)
    radius = load_f32(load_u64(row, at + R.frame), 4)
    leaning = (_ZERO, _ZERO, _ZERO)
    for k in range(load_i32(starts, found), load_i32(starts, found + 1)):
        lean = _lean(edges, load_i32(listed, k) * _EDGE, place, normal, radius)
        whole = dot(lean, lean)
        if whole > _ZERO:
            leaning = add(leaning, scale(lean, _ONE - min(max(dot(leaning, lean) / whole, _ZERO), _ONE)))
    return add(normal, leaning)


@njit(**EXACT)
def edge_distances(row, number, place):
    """(distance to the nearest edge that sticks out, the same of those that lead inwards), in units of the mesh.

    `row` and `number` as for `rounded`; FAR where there is none within the reach that the row was made for.
    """
    at = number * ROUNDING_WIDTH
    found = _found(row, at, _cell_at(row, at, place))
    outwards, inwards = FAR, FAR
    if found < 0:
        return outwards, inwards
    edges, listed, starts = load_u64(row, at + R.edges), load_u64(row, at + R.listed), load_u64(row, at + R.starts)
    for k in range(load_i32(starts, found), load_i32(starts, found + 1)):
        edge = load_i32(listed, k) * _EDGE
        begin = load_vector(edges, edge)
        along, away = sub(load_vector(edges, edge + 3), begin), sub(place, begin)
        share = min(max(dot(away, along) / max(dot(along, along), _LEAST_LENGTH), _ZERO), _ONE)
        away = sub(away, scale(along, share))
        squared = dot(away, away)
        if load_f32(edges, edge + 18) > _ZERO:
            outwards = min(outwards, squared)
        else:
            inwards = min(inwards, squared)
    return outwards ** f32(0.5), inwards ** f32(0.5)
