"""Sharpening of display values: the difference of luma from its surroundings, added again."""

import math

import numpy as np
from scipy import ndimage

from lantern.color import LUMINANCE
from lantern.scene.look import Sharpening

REACH = 3.0
"""Standard deviations after which the surroundings end."""
STRONGEST = 2.0
"""How many times the difference is added at amount 1."""


def rows_around(sharpening: Sharpening, height: float) -> int:
    """Rows above and below that a strip of a frame `height` pixels high needs."""
    return math.ceil(REACH * _deviation(sharpening, height)) + 1


def _deviation(sharpening: Sharpening, height: float) -> float:
    return sharpening.radius / 100 * height


def sharpen(values: np.ndarray, sharpening: Sharpening, height: float) -> None:
    """Sharpen (h, w, 3) float32 display values; overwritten."""
    deviation = _deviation(sharpening, height)
    luma = values @ LUMINANCE.astype(np.float32)
    soft = ndimage.gaussian_filter(luma, deviation, mode="nearest", truncate=REACH)
    values += (luma - soft)[..., None] * np.float32(STRONGEST * sharpening.strength)
    np.clip(values, 0, 1, out=values)
