"""Taking the bright light out of a picture, and adding what was spread of it, pixel by pixel.

Kernels of `scatter`: rows of (h, w, 3) pictures against (3, h, w) planes of the light that spreads.
"""

import math

import numpy as np
from numba import njit
from numpy import float32 as f32

from lantern.kernel.vectors import EXACT

_ZERO, _ONE, _HALF = f32(0.0), f32(1.0), f32(0.5)


@njit(**EXACT, cache=True)
def take_bright(picture, least, share, begin, end, left, bright):
    """Write the light above `least` into `bright` (3, h, w), and take a share of it from `left` (h, w, 3); rows [begin,
    end), both overwritten. Its colour is that of the pixel."""
    for row in range(begin, end):
        for column in range(picture.shape[1]):
            r, g, b = picture[row, column, 0], picture[row, column, 1], picture[row, column, 2]
            brightest = max(r, g, b)
            over = (brightest - least) / brightest if brightest > least else _ZERO
            r, g, b = max(r, _ZERO) * over, max(g, _ZERO) * over, max(b, _ZERO) * over
            bright[0, row, column], bright[1, row, column], bright[2, row, column] = r, g, b
            left[row, column, 0] -= share * r
            left[row, column, 1] -= share * g
            left[row, column, 2] -= share * b


@njit(**EXACT, cache=True)
def calm(bright, most, begin, end, result):
    """Rows [begin, end) of (3, h, w) planes into `result`, overwritten, with no pixel more than `most` times as bright
    as the brightest of the eight around it. At an edge of the frame there are fewer."""
    height, width = bright.shape[1], bright.shape[2]
    for row in range(begin, end):
        for column in range(width):
            own, others = _ZERO, _ZERO
            for y in range(max(row - 1, 0), min(row + 2, height)):
                for x in range(max(column - 1, 0), min(column + 2, width)):
                    value = max(bright[0, y, x], bright[1, y, x], bright[2, y, x])
                    if y == row and x == column:
                        own = value
                    else:
                        others = max(others, value)
            share = _ONE if own <= most * others else most * others / own
            for channel in range(3):
                result[channel, row, column] = bright[channel, row, column] * share


def columns_of(width: int, on_grid: int) -> tuple[np.ndarray, np.ndarray]:
    """For each of `width` pixels the left one of the two grid pixels that it lies between, and how far from it."""
    place = np.clip((np.arange(width) + 0.5) * on_grid / width - 0.5, 0, on_grid - 1)
    left = np.minimum(place.astype(np.int32), max(on_grid - 2, 0))
    return left, (place - left).astype(np.float32)


@njit(**EXACT, cache=True)
def add_enlarged(spread, columns, shares, begin, end, result):
    """Add planes (3, h, w) of the grid, linear between their pixels, to rows [begin, end) of `result` (H, W, 3)."""
    height, rows = result.shape[0], spread.shape[1]
    last = spread.shape[2] - 1
    for row in range(begin, end):
        y = min(max((f32(row) + _HALF) * f32(rows) / f32(height) - _HALF, _ZERO), f32(rows - 1))
        above = min(math.floor(y), max(rows - 2, 0))
        below, v = min(above + 1, rows - 1), y - f32(above)
        for column in range(result.shape[1]):
            left, u = columns[column], shares[column]
            right = min(left + 1, last)
            for channel in range(3):
                upper = spread[channel, above, left] * (_ONE - u) + spread[channel, above, right] * u
                lower = spread[channel, below, left] * (_ONE - u) + spread[channel, below, right] * u
                result[row, column, channel] += upper * (_ONE - v) + lower * v
