"""Radiance and importance sampling of a latitude-longitude environment map.

The map is a sphere at infinity. Row 0 is straight up (+Y); the middle column looks along -Z; columns grow
towards +X. Sampling inverts the distribution over the cells of a coarser grid, row first, which keeps neighbouring
sample points neighbours (an alias table would not), and then takes a direction uniform in solid angle within the cell.
The search starts where a guide table says (Chen & Asau, "On Generating Random Variates from an Empirical
Distribution", AIIE Transactions 6(2), 1974).

Blocks: `pixels` (h, w, 4) float16, `rows` and `cells` float32 cumulative distributions, each row of cells with one
more entry than columns, `guides` uint8 for the rows and then for each row of cells, `pdfs` (cells,) float32
[1/sr], `edges` (rows + 1,) float32 cosines of the zenith angle of the grid's row edges.
"""

import math

import numpy as np
from numba import njit
from numpy import float32 as f32
from numpy import int32 as i32

from lantern.kernel.elementary import INV_PI, INV_TWO_PI, arccos, arctan2, sincos_turn
from lantern.kernel.memory import Table, blend_half_rgb, load_f32, load_i32, load_u8, load_vector, prefetch
from lantern.kernel.vectors import SMALL, add, dot, normalize, scale

ENVIRONMENT = Table(
    "environment",
    [
        ("width", "i", 1),
        ("height", "i", 1),
        ("columns", "i", 1),  # of the sampling grid
        ("rows", "i", 1),
        ("cell_across", "f", 1),  # width of a cell in u
        ("turn", "f", 9),  # orthogonal, from the world to the map; of determinant -1 when it is mirrored
        ("intensity", "f", 1),  # of the stored halves
        ("intensity_of_map", "f", 1),  # of the map before it was stored as halves
    ],
)
E = ENVIRONMENT.slots


@njit(**SMALL)
def map_coordinates(environment, d):
    """(u, v) in [0, 1] of a world direction."""
    x = dot(load_vector(environment, E.turn), d)
    y = dot(load_vector(environment, E.turn + 3), d)
    z = dot(load_vector(environment, E.turn + 6), d)
    return f32(0.5) + arctan2(x, -z) * INV_TWO_PI, arccos(min(max(y, f32(-1.0)), f32(1.0))) * INV_PI


@njit(**SMALL)
def grounded_direction(origin, direction, ground, height):
    """Where a map is looked up that is projected on level ground at y = `ground` from `height` [m] above its middle.

    The middle is below and above the origin of the scene. Only rays that go down are turned; at the horizon nothing
    shows.
    """
    above = origin[1] - ground
    if direction[1] >= f32(0.0) or above <= f32(0.0):
        return direction
    t = above / -direction[1]
    return normalize((origin[0] + direction[0] * t, -height, origin[2] + direction[2] * t))


@njit(**SMALL)
def radiance_at(environment, pixels, u, v):
    """Radiance rgb [cd/m²] at map coordinates, bilinear."""
    width, height = load_i32(environment, E.width), load_i32(environment, E.height)
    px, py = u * f32(width) - f32(0.5), v * f32(height) - f32(0.5)
    fx, fy = np.floor(px), np.floor(py)
    x, y = px - fx, py - fy
    # u and v lie within [0, 1], so a column is at most one step outside: no division to wrap it.
    x0, y0 = i32(fx), i32(fy)
    x1, y1 = i32(x0 + i32(1)), min(i32(y0 + i32(1)), i32(height - i32(1)))
    x0 = i32(x0 + width) if x0 < 0 else x0
    x1 = i32(0) if x1 >= width else x1
    y0 = max(y0, i32(0))
    k = load_f32(environment, E.intensity)
    low, high = (f32(1.0) - y) * k, y * k
    weights = ((f32(1.0) - x) * low, x * low, (f32(1.0) - x) * high, x * high)
    return blend_half_rgb(pixels, y0 * width + x0, y0 * width + x1, y1 * width + x0, y1 * width + x1, weights)


@njit(**SMALL)
def _cell_at(environment, u, v):
    columns, rows = load_i32(environment, E.columns), load_i32(environment, E.rows)
    column = min(i32(u * f32(columns)), i32(columns - i32(1)))
    row = min(i32(v * f32(rows)), i32(rows - i32(1)))
    return max(row, i32(0)) * columns + max(column, i32(0))


@njit(**SMALL)
def expect_texels(environment, pixels, u, v):
    """Ask for the texels around map coordinates, without waiting for them."""
    width, height = load_i32(environment, E.width), load_i32(environment, E.height)
    x = i32(u * f32(width) - f32(0.5))
    y = i32(v * f32(height) - f32(0.5))
    # A texel of four halves is two 32-bit slots.
    prefetch(pixels, (y * width + x) * 2)
    prefetch(pixels, (min(i32(y + i32(1)), i32(height - i32(1))) * width + x) * 2)


@njit(**SMALL)
def expect_lookup(environment, pixels, pdfs, d):
    """Ask for the memory that a lookup along d will need, and return the map coordinates for it.

    Texels and pdfs of random directions miss the cache; asked for before a ray is traced, they are there after it.
    """
    u, v = map_coordinates(environment, d)
    expect_texels(environment, pixels, u, v)
    prefetch(pdfs, _cell_at(environment, u, v))
    return u, v


@njit(**SMALL)
def radiance_and_pdf(environment, pixels, pdfs, u, v):
    """(radiance rgb [cd/m²], sampling pdf [1/sr]) at map coordinates from `expect_lookup`."""
    return radiance_at(environment, pixels, u, v), load_f32(pdfs, _cell_at(environment, u, v))


@njit(**SMALL)
def _invert(cdf, start, guides, guide_start, count, u):
    """(index, u rescaled within it) of the step of a cumulative distribution that u falls on."""
    i = int(load_u8(guides, guide_start + int(u * f32(count))))
    while load_f32(cdf, start + i + 1) <= u:
        i += 1
    low = load_f32(cdf, start + i)
    return i, min((u - low) / (load_f32(cdf, start + i + 1) - low), f32(0.99999994))


@njit(**SMALL)
def sample_environment(environment, rows, cells, guides, pdfs, edges, u1, u2):
    """(unit world direction, map u, map v, pdf [1/sr]) from two uniforms."""
    columns, row_count = load_i32(environment, E.columns), load_i32(environment, E.rows)
    row, down = _invert(rows, 0, guides, 0, row_count, u2)
    guide = row_count + row * columns
    column, across = _invert(cells, row * (columns + 1), guides, guide, columns, u1)
    u = (f32(column) + across) * load_f32(environment, E.cell_across)
    top = load_f32(edges, row)
    y = top + (load_f32(edges, row + 1) - top) * down
    r = math.sqrt(max(f32(1.0) - y * y, f32(0.0)))
    s, c = sincos_turn(u - f32(0.5))
    x, z = r * s, -r * c
    direction = add(
        add(scale(load_vector(environment, E.turn), x), scale(load_vector(environment, E.turn + 3), y)),
        scale(load_vector(environment, E.turn + 6), z),
    )
    return direction, u, arccos(y) * INV_PI, load_f32(pdfs, row * columns + column)
