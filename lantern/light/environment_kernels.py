"""Radiance and importance sampling of a latitude-longitude environment map.

The map is a sphere at infinity. Row 0 is straight up (+Y); the middle column looks along -Z; columns grow
towards +X. Sampling picks a cell of a coarser grid by an alias table (Walker 1977; Vose, IEEE TSE 17(9), 1991)
and then a direction uniform in solid angle within the cell.

Blocks: `pixels` (h, w, 3) float32, `choices` (cells,) uint32, `densities` (cells,) float32 [1/sr], `edges`
(rows + 1,) float32 cosines of the zenith angle of the grid's row edges.
"""

import math

import numpy as np
from numba import njit
from numpy import float32 as f32
from numpy import int32 as i32
from numpy import uint32 as u32

from lantern.kernel.elementary import INV_PI, INV_TWO_PI, arccos, arctan2, sincos_turn
from lantern.kernel.memory import Table, load_f32, load_i32, load_u32, prefetch
from lantern.kernel.vectors import SMALL

ENVIRONMENT = Table(
    "environment",
    [
        ("width", "i", 1),
        ("height", "i", 1),
        ("columns", "i", 1),  # of the sampling grid
        ("rows", "i", 1),
        ("cell_across", "f", 1),  # width of a cell in u
        ("sine", "f", 1),  # of the rotation about +Y
        ("cosine", "f", 1),
        ("intensity", "f", 1),
    ],
)
_WIDTH, _HEIGHT, _COLUMNS, _ROWS = (ENVIRONMENT.slot(n) for n in ("width", "height", "columns", "rows"))
_CELL_ACROSS = ENVIRONMENT.slot("cell_across")
_SINE, _COSINE, _INTENSITY = (ENVIRONMENT.slot(n) for n in ("sine", "cosine", "intensity"))
_INV_65536 = f32(1.0 / 65536.0)


@njit(**SMALL)
def _to_map(environment, d):
    """(u, v) in [0, 1] of a world direction."""
    sine, cosine = load_f32(environment, _SINE), load_f32(environment, _COSINE)
    x = cosine * d[0] - sine * d[2]
    z = sine * d[0] + cosine * d[2]
    return f32(0.5) + arctan2(x, -z) * INV_TWO_PI, arccos(d[1]) * INV_PI


@njit(**SMALL)
def _radiance_at(environment, pixels, u, v):
    width, height = load_i32(environment, _WIDTH), load_i32(environment, _HEIGHT)
    px, py = u * f32(width) - f32(0.5), v * f32(height) - f32(0.5)
    fx, fy = np.floor(px), np.floor(py)
    x, y = px - fx, py - fy
    # u and v lie within [0, 1], so a column is at most one step outside: no division to wrap it.
    x0, y0 = i32(fx), i32(fy)
    x1, y1 = i32(x0 + i32(1)), min(i32(y0 + i32(1)), i32(height - 1))
    x0 = i32(x0 + width) if x0 < 0 else x0
    x1 = i32(0) if x1 >= width else x1
    y0 = max(y0, i32(0))
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


@njit(**SMALL)
def _cell_at(environment, u, v):
    columns, rows = load_i32(environment, _COLUMNS), load_i32(environment, _ROWS)
    column = min(i32(u * f32(columns)), i32(columns - i32(1)))
    row = min(i32(v * f32(rows)), i32(rows - i32(1)))
    return max(row, i32(0)) * columns + max(column, i32(0))


@njit(**SMALL)
def expect_lookup(environment, pixels, densities, d):
    """Ask for the memory that a lookup along d will need, and return the map coordinates for it.

    Texels and densities of random directions miss the cache; asked for before a ray is traced, they are there after it.
    """
    u, v = _to_map(environment, d)
    width, height = load_i32(environment, _WIDTH), load_i32(environment, _HEIGHT)
    x = i32(u * f32(width) - f32(0.5))
    y = i32(v * f32(height) - f32(0.5))
    prefetch(pixels, (y * width + x) * 3)
    prefetch(pixels, (min(i32(y + i32(1)), i32(height - i32(1))) * width + x) * 3)
    prefetch(densities, _cell_at(environment, u, v))
    return u, v


@njit(**SMALL)
def radiance_and_density(environment, pixels, densities, u, v):
    """(radiance rgb [cd/m²], sampling density [1/sr]) at map coordinates from `expect_lookup`."""
    return _radiance_at(environment, pixels, u, v), load_f32(densities, _cell_at(environment, u, v))


@njit(**SMALL)
def expect_sample(environment, choices, u_cell):
    """Ask for the entry of the alias table that `sample_environment` will read for this uniform."""
    count = load_i32(environment, _COLUMNS) * load_i32(environment, _ROWS)
    prefetch(choices, i32(u_cell * f32(count)))


@njit(**SMALL)
def sample_environment(environment, pixels, choices, densities, edges, u_cell, u_keep, u1, u2):
    """(unit world direction, radiance rgb [cd/m²], density [1/sr]) from four uniforms.

    An entry of `choices` holds the chance to keep its cell [1/65536] above the number of its alias.
    """
    columns, rows = load_i32(environment, _COLUMNS), load_i32(environment, _ROWS)
    count = i32(columns * rows)
    cell = min(i32(u_cell * f32(count)), i32(count - i32(1)))
    choice = load_u32(choices, cell)
    if u_keep >= f32(choice >> u32(16)) * _INV_65536:
        cell = i32(choice & u32(0xFFFF))
    across = load_f32(environment, _CELL_ACROSS)
    # An integer division would cost as much as the rest; float32 is exact here, the grid has at most 2^16 cells.
    row = i32((f32(cell) + f32(0.5)) * across)
    u = (f32(i32(cell - row * columns)) + u1) * across
    top = load_f32(edges, row)
    y = top + (load_f32(edges, row + 1) - top) * u2
    r = math.sqrt(max(f32(1.0) - y * y, f32(0.0)))
    s, c = sincos_turn(u - f32(0.5))
    x, z = r * s, -r * c
    sine, cosine = load_f32(environment, _SINE), load_f32(environment, _COSINE)
    direction = (cosine * x + sine * z, y, cosine * z - sine * x)
    radiance = _radiance_at(environment, pixels, u, arccos(y) * INV_PI)
    return direction, radiance, load_f32(densities, cell)
