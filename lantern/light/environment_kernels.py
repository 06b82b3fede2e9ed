"""Radiance and importance sampling of a latitude-longitude environment map.

The map is a sphere at infinity. Row 0 is straight up (+Y); the middle column looks along -Z; columns grow
towards +X. Sampling picks a cell of a coarser grid by an alias table (Walker 1977; Vose, IEEE TSE 17(9), 1991)
and then a direction uniform in solid angle within the cell.
"""

import math

import numpy as np

from numba import njit
from numpy import float32 as f32

from lantern.kernel.elementary import INV_PI, INV_TWO_PI, arccos, arctan2, sincos_turn
from lantern.kernel.memory import Table, load_f32, load_i32
from lantern.kernel.vectors import EXACT

CELL = Table("cell", [("keep", "f", 1), ("alias", "i", 1), ("density", "f", 1)])
ENVIRONMENT = Table(
    "environment",
    [
        ("width", "i", 1),
        ("height", "i", 1),
        ("columns", "i", 1),  # of the sampling grid
        ("rows", "i", 1),
        ("sine", "f", 1),  # of the rotation about +Y
        ("cosine", "f", 1),
        ("intensity", "f", 1),
    ],
)
_WIDTH, _HEIGHT, _COLUMNS, _ROWS = (ENVIRONMENT.slot(n) for n in ("width", "height", "columns", "rows"))
_SINE, _COSINE, _INTENSITY = (ENVIRONMENT.slot(n) for n in ("sine", "cosine", "intensity"))
_KEEP, _ALIAS, _DENSITY, _CELL_WIDTH = CELL.slot("keep"), CELL.slot("alias"), CELL.slot("density"), CELL.width


@njit(**EXACT)
def _to_map(environment, d):
    """(u, v) in [0, 1] of a world direction."""
    sine, cosine = load_f32(environment, _SINE), load_f32(environment, _COSINE)
    x = cosine * d[0] - sine * d[2]
    z = sine * d[0] + cosine * d[2]
    return f32(0.5) + arctan2(x, -z) * INV_TWO_PI, arccos(d[1]) * INV_PI


@njit(**EXACT)
def _radiance_at(environment, pixels, u, v):
    width, height = load_i32(environment, _WIDTH), load_i32(environment, _HEIGHT)
    px, py = u * f32(width) - f32(0.5), v * f32(height) - f32(0.5)
    fx, fy = np.floor(px), np.floor(py)
    x, y = px - fx, py - fy
    x0, x1 = int(fx) % width, (int(fx) + 1) % width
    y0, y1 = max(int(fy), 0), min(int(fy) + 1, height - 1)
    a, b = (y0 * width + x0) * 3, (y0 * width + x1) * 3
    c, d = (y1 * width + x0) * 3, (y1 * width + x1) * 3
    k = load_f32(environment, _INTENSITY)
    wa, wb = (f32(1.0) - x) * (f32(1.0) - y) * k, x * (f32(1.0) - y) * k
    wc, wd = (f32(1.0) - x) * y * k, x * y * k
    return (
        load_f32(pixels, a) * wa + load_f32(pixels, b) * wb + load_f32(pixels, c) * wc + load_f32(pixels, d) * wd,
        load_f32(pixels, a + 1) * wa
        + load_f32(pixels, b + 1) * wb
        + load_f32(pixels, c + 1) * wc
        + load_f32(pixels, d + 1) * wd,
        load_f32(pixels, a + 2) * wa
        + load_f32(pixels, b + 2) * wb
        + load_f32(pixels, c + 2) * wc
        + load_f32(pixels, d + 2) * wd,
    )


@njit(**EXACT)
def radiance_and_density(environment, pixels, cells, d):
    """(radiance rgb [cd/m²], sampling density [1/sr]) along unit world direction d."""
    u, v = _to_map(environment, d)
    columns, rows = load_i32(environment, _COLUMNS), load_i32(environment, _ROWS)
    column = min(max(int(u * f32(columns)), 0), columns - 1)
    row = min(max(int(v * f32(rows)), 0), rows - 1)
    density = load_f32(cells, (row * columns + column) * _CELL_WIDTH + _DENSITY)
    return _radiance_at(environment, pixels, u, v), density


@njit(**EXACT)
def _choose_cell(environment, cells, u_cell, u_keep):
    count = load_i32(environment, _COLUMNS) * load_i32(environment, _ROWS)
    cell = min(int(u_cell * f32(count)), count - 1)
    if u_keep >= load_f32(cells, cell * _CELL_WIDTH + _KEEP):
        cell = load_i32(cells, cell * _CELL_WIDTH + _ALIAS)
    return cell


@njit(**EXACT)
def sample_environment(environment, pixels, cells, u_cell, u_keep, u1, u2):
    """(unit world direction, radiance rgb [cd/m²], density [1/sr]) from four uniforms."""
    cell = _choose_cell(environment, cells, u_cell, u_keep)
    columns, rows = load_i32(environment, _COLUMNS), load_i32(environment, _ROWS)
    row = cell // columns
    column = cell - row * columns
    u = (f32(column) + u1) / f32(columns)
    top = sincos_turn(f32(row) / f32(rows) * f32(0.5))[1]
    bottom = sincos_turn(f32(row + 1) / f32(rows) * f32(0.5))[1]
    y = top + (bottom - top) * u2
    r = math.sqrt(max(f32(1.0) - y * y, f32(0.0)))
    s, c = sincos_turn(u - f32(0.5))
    x, z = r * s, -r * c
    sine, cosine = load_f32(environment, _SINE), load_f32(environment, _COSINE)
    direction = (cosine * x + sine * z, y, cosine * z - sine * x)
    radiance = _radiance_at(environment, pixels, u, arccos(y) * INV_PI)
    return direction, radiance, load_f32(cells, cell * _CELL_WIDTH + _DENSITY)
