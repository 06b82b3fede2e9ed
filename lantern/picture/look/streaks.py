"""Streaks: lines of light through what is bright, as of a filter with fine scratches; red runs further than blue."""

import math
from functools import partial

import numpy as np
from numba import njit
from numpy import float32 as f32

from lantern.kernel.vectors import EXACT
from lantern.picture.look.colours import GREEN
from lantern.picture.strips import in_strips
from lantern.scene.look import Streaks

CHANNELS_NM = (612.0, 549.0, 464.0)
"""Dominant wavelengths of the primaries of Rec. 709."""
THICKNESS = 0.0012
"""Standard deviation across a streak, as a share of the frame's height."""
FALL = 4.0
"""Over its length the light of a streak falls to e^-FALL."""


def streak_kernel(streaks: Streaks, size: tuple[int, int], height: float) -> np.ndarray:
    """(h, w, 3) float32 about pixel (0, 0), each channel of sum 1; `height` is that of the frame in pixels."""
    across = max(THICKNESS * height, 0.5)
    angles = math.radians(streaks.angle) + 2 * math.pi * np.arange(streaks.arms) / streaks.arms
    ways = np.stack([np.cos(angles), np.sin(angles)], -1).astype(np.float32)
    spread = 1 + 3 * streaks.spread * (np.array(CHANNELS_NM) - GREEN) / GREEN
    falls = FALL / np.maximum(streaks.length / 100 * height * spread, 0.5)
    kernel = np.zeros((*size, 3), np.float32)
    in_strips(*size, partial(_fill, kernel, ways, np.float32(across), falls.astype(np.float32)))
    return np.asarray(kernel / kernel.sum(axis=(0, 1), dtype=np.float64), np.float32)


@njit(**EXACT, cache=True)
def _fill(kernel, ways, thickness, falls, begin, end):
    """Fill rows [begin, end) with arms, each along one of the `ways` (n, 2)."""
    height, width = kernel.shape[0], kernel.shape[1]
    for row in range(begin, end):
        y = f32(row if row < (height + 1) // 2 else row - height)
        for column in range(width):
            x = f32(column if column < (width + 1) // 2 else column - width)
            for arm in range(ways.shape[0]):
                off = (x * ways[arm, 1] + y * ways[arm, 0]) / thickness
                along = x * ways[arm, 0] - y * ways[arm, 1]
                if off * off > f32(20.0) or along <= f32(-0.5):
                    continue
                # A half at the middle, so that two opposite arms make one line without a bright spot.
                begins = min(along + f32(0.5), f32(1.0)) * math.exp(f32(-0.5) * off * off)
                along = max(along, f32(0.0))
                for channel in range(3):
                    kernel[row, column, channel] += begins * math.exp(-along * falls[channel])
