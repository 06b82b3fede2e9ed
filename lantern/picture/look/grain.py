"""Grain of film: by its density, the same in each frame, as large a share of the frame at any size.

The spread of density grows with the square root of the share of grains that are developed and of those that are not
(binomial grain; Selwyn, Photographic Journal 75, 1935): none in black and white, most between. Where a pixel holds
many grains their mean spreads less, by the root of their number.
"""

import math

import numpy as np
from numba import njit
from numpy import float32 as f32
from numpy import uint32 as u32

from lantern.kernel.random import TWO_TO_MINUS_24, mix
from lantern.kernel.vectors import EXACT, SMALL
from lantern.scene.look import Grain

STRONGEST = 0.1
"""Standard deviation of display values at the middle, at amount 1 and of grains as large as pixels."""
_ZERO, _ONE, _TWO, _HALF = f32(0.0), f32(1.0), f32(2.0), f32(0.5)
_ROOT12 = f32(12.0**0.5)


def add_grain(values: np.ndarray, grain: Grain, top: int, height: int) -> None:
    """Add grain to (rows, w, 3) float32 display values, the first of which is row `top` of the frame; overwritten."""
    size = grain.size / 100 * height
    # A picture smaller than its grains shows each; one larger shows means of them.
    cell, spread = max(size, 1.0), min(size, 1.0)
    numbers = np.array([cell, STRONGEST * grain.strength * spread, grain.color], np.float32)
    rows, columns, _ = values.shape
    first = int(np.float32(top) / numbers[0])
    last = int(np.float32(top + rows - 1) / numbers[0]) + 1
    grains = np.empty((4, last - first + 1, int(np.float32(columns - 1) / numbers[0]) + 2), np.float32)
    _add(values, numbers, top, grain.seed, first, grains)


@njit(**SMALL)
def _of(row, column, channel, seed):
    """Of a grain: evenly spread about 0 with a standard deviation of 1."""
    number = mix(u32(column) + mix(u32(row) + mix(u32(channel) + mix(u32(seed)))))
    return (f32(number >> u32(8)) * TWO_TO_MINUS_24 - _HALF) * _ROOT12


@njit(**SMALL)
def _between(grains, y, x, channel):
    """Between four grains, as spread as one."""
    row, column = int(y), int(x)
    v, u = y - f32(row), x - f32(column)
    a, b, c, d = (_ONE - u) * (_ONE - v), u * (_ONE - v), (_ONE - u) * v, u * v
    total = (
        a * grains[channel, row, column]
        + b * grains[channel, row, column + 1]
        + c * grains[channel, row + 1, column]
        + d * grains[channel, row + 1, column + 1]
    )
    return total / math.sqrt(a * a + b * b + c * c + d * d)


@njit(**EXACT, cache=True)
def _add(values, numbers, top, seed, first, grains):
    """`grains` (3 colours and grey, rows, columns) is room for those from row `first` on, overwritten."""
    cell, spread, color = numbers[0], numbers[1], numbers[2]
    channels = 3 if color > _ZERO else 0
    for channel in range(3 - channels, 4):
        for row in range(grains.shape[1]):
            for column in range(grains.shape[2]):
                grains[channel, row, column] = _of(row + first, column, channel, seed)
    for row in range(values.shape[0]):
        for column in range(values.shape[1]):
            # Pixels as large as grains lie on them.
            y, x = f32(row + top) / cell - f32(first), f32(column) / cell
            grey = _between(grains, y, x, 3)
            for channel in range(3):
                own = _between(grains, y, x, channel) if color > _ZERO else grey
                value = min(max(values[row, column, channel], _ZERO), _ONE)
                density = _TWO * math.sqrt(value * (_ONE - value))
                value += spread * density * (grey + (own - grey) * color)
                values[row, column, channel] = min(max(value, _ZERO), _ONE)
