"""Reading the prefiltered environment."""

import numpy as np
from numba import njit
from numpy import float32 as f32
from numpy import int32 as i32

from lantern.kernel.memory import load_f32, load_vector
from lantern.kernel.vectors import EXACT, SMALL, lerp, scale
from lantern.light.environment_kernels import ENVIRONMENT, map_coordinates, radiance_at
from lantern.light.prefilter import COLUMNS, ROUGHNESSES, ROWS

E = ENVIRONMENT.slots
_LEVEL = ROWS * COLUMNS
_STEP = f32(ROUGHNESSES[0])
_LAST = len(ROUGHNESSES) - 1


@njit(**SMALL)
def _level_at(levels, level, u, v):
    px, py = u * f32(COLUMNS) - f32(0.5), v * f32(ROWS) - f32(0.5)
    fx, fy = np.floor(px), np.floor(py)
    x, y = px - fx, py - fy
    x0, y0 = i32(fx), i32(fy)
    x1, y1 = (x0 + 1) % COLUMNS, min(y0 + 1, ROWS - 1)
    x0, y0 = (x0 + COLUMNS) % COLUMNS, max(y0, 0)
    base = level * _LEVEL
    low = lerp(
        load_vector(levels, (base + y0 * COLUMNS + x0) * 3), load_vector(levels, (base + y0 * COLUMNS + x1) * 3), x
    )
    high = lerp(
        load_vector(levels, (base + y1 * COLUMNS + x0) * 3), load_vector(levels, (base + y1 * COLUMNS + x1) * 3), x
    )
    return lerp(low, high, y)


@njit(**EXACT)
def reflected_environment(environment, pixels, levels, direction, roughness):
    """RGB [cd/m²] that a rough mirror shows which reflects towards `direction`."""
    u, v = map_coordinates(environment, direction)
    place = roughness / _STEP - f32(1.0)
    if place <= f32(0.0):
        sharp = radiance_at(environment, pixels, u, v)
        if roughness <= f32(0.0):
            return sharp
        blurred = scale(_level_at(levels, 0, u, v), load_f32(environment, E.intensity_of_map))
        return lerp(sharp, blurred, roughness / _STEP)
    level = min(int(place), _LAST - 1)
    t = min(place - f32(level), f32(1.0))
    blurred = lerp(_level_at(levels, level, u, v), _level_at(levels, level + 1, u, v), t)
    return scale(blurred, load_f32(environment, E.intensity_of_map))
