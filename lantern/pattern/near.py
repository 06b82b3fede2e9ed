"""How far a place is from parts, by a grid of distances; and how much of what is before it is hidden.

In: the tables, the number of a grid, a place of the scene at rest. Out: metres, or a share. Called by the program. The
grids are made by `compile.nearness`.
"""

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import Addresses, load_f32, load_i64, load_u64
from lantern.kernel.vectors import EXACT, SMALL, add, scale
from lantern.pattern.tables import SHADING

GRID = Addresses("grid", ["values", "frame", "across", "up", "deep"])
"""`values` (deep, up, across) float32 m; `frame` its origin [m] and cells a metre; the rest are numbers."""
GRID_WIDTH = GRID.width
G, T = GRID.slots, SHADING.slots
NOWHERE = f32(1e6)
"""m, where there is nothing to be near to."""
_STEPS = 5
_ZERO, _ONE, _HALF = f32(0.0), f32(1.0), f32(0.5)


@njit(**SMALL)
def _cell(place, origin, cells, count):
    """(lower cell, share of the upper, how far outside [cells]) of a coordinate."""
    at = (place - origin) * cells
    kept = min(max(at, _ZERO), f32(count - 1))
    low = min(int(kept), count - 2)
    return low, kept - f32(low), at - kept


@njit(**EXACT)
def near_distance(tables, number, p):
    """Metres from a place to what a grid is of, between the corners of its cell; beyond the grid at most so much."""
    grids, row = load_u64(tables, T.grids), number * GRID_WIDTH
    across = load_i64(grids, row + G.across)
    if across < 2:
        return NOWHERE
    up, deep = load_i64(grids, row + G.up), load_i64(grids, row + G.deep)
    values, frame = load_u64(grids, row + G.values), load_u64(grids, row + G.frame)
    cells = load_f32(frame, 3)
    i, x, out_x = _cell(p[0], load_f32(frame, 0), cells, across)
    j, y, out_y = _cell(p[1], load_f32(frame, 1), cells, up)
    k, z, out_z = _cell(p[2], load_f32(frame, 2), cells, deep)
    at = (k * up + j) * across + i
    found = _ZERO
    for corner in range(8):
        a, b, c = corner & 1, (corner >> 1) & 1, corner >> 2
        share = (x if a else _ONE - x) * (y if b else _ONE - y) * (z if c else _ONE - z)
        found += share * load_f32(values, at + a + b * across + c * across * up)
    outside = max(max(abs(out_x), abs(out_y)), abs(out_z))
    return found + outside / cells


@njit(**EXACT)
def occluded(tables, number, p, n, reach):
    """[0, 1]: how much nearer things are before a place than they would be before a plane.

    Evans, "Fast Approximations for Global Illumination on Dynamic Scenes", SIGGRAPH 2006 course 26: distances along
    the normal, the nearer ones counting twice as much as the next.
    """
    hidden, whole, weight = _ZERO, _ZERO, _ONE
    for step in range(_STEPS):
        away = reach * f32(step + 1) / f32(_STEPS)
        distance = near_distance(tables, number, add(p, scale(n, away)))
        hidden += weight * max(away - distance, _ZERO)
        whole += weight * away
        weight *= _HALF
    return hidden / whole
