"""Fringe, distortion and soft corners: from where in the frame each colour of a pixel comes.

In: the lit picture, the look. Out: the picture as the lens draws it. Called by `pipeline`. All three move or widen
what is drawn about the middle of the frame, so that they are one reading of the picture.
"""

import math
from collections.abc import Callable
from typing import Any

import numpy as np
from numba import njit
from numpy import float32 as f32
from scipy import ndimage

from lantern.kernel.vectors import EXACT, SMALL
from lantern.picture.look.grid import resized
from lantern.picture.strips import at_once
from lantern.scene.look import Look

_ZERO, _ONE = f32(0.0), f32(1.0)
_HALF = f32(0.5)
_STEP = np.uint32(1)
Strips = Callable[[int, Callable[[int, int], Any]], None]
"""Runs a function over strips of rows (begin, end), side by side."""


def drawn(picture: np.ndarray, look: Look, strips: Strips) -> np.ndarray:
    """(h, w, 3) float32 as the lens draws it; the same array where it draws everything in its place."""
    fringe, bend, softness = look.fringe.strength, look.distortion.strength, look.softness.strength
    if fringe == bend == softness == 0:
        return picture
    height, _width, _ = picture.shape
    scales = np.array([1 - look.fringe.red / 100 * fringe, 1.0, 1 - look.fringe.blue / 100 * fringe], np.float32)
    blurred, blur = picture[:1, :1], 0.0
    if softness > 0:
        blur = look.softness.blur / 100 * height * softness
        blurred = _blurred(picture, blur)
    result = np.empty_like(picture)
    numbers = np.array([bend * look.distortion.bend, look.softness.begins, blur], np.float32)

    def work(begin: int, end: int) -> None:
        _draw(picture, blurred, scales, numbers, begin, end, result)

    strips(height, work)
    return result


def _blurred(picture: np.ndarray, radius: float) -> np.ndarray:
    """The picture blurred by a Gaussian as wide as a disc of `radius` pixels, in as few pixels as that needs."""
    step = max(int(radius / 1.5), 1)
    size = max(picture.shape[0] // step, 1), max(picture.shape[1] // step, 1)
    sigma = radius / 2 / step  # a disc spreads as far as a Gaussian of half its radius, by variance on each axis
    blurred = np.empty((*size, 3), np.float32)

    def work(begin: int, end: int) -> None:
        for c in range(begin, end):
            blurred[..., c] = ndimage.gaussian_filter(resized(picture[..., c], size), sigma, mode="nearest")

    at_once(3, work)
    return blurred


@njit(**SMALL)
def _bilinear(picture, y, x, channel):
    """The picture between its pixels; (0.5, 0.5) is the middle of the first, and edges go on outside."""
    height, width = picture.shape[0], picture.shape[1]
    y, x = y - _HALF, x - _HALF
    if y >= _ZERO and x >= _ZERO and y < f32(height - 1) and x < f32(width - 1):
        # Unsigned, so that no index is asked whether it counts from the end.
        i, j = np.uint32(y), np.uint32(x)
        v, u = y - f32(i), x - f32(j)
        upper = picture[i, j, channel] * (_ONE - u) + picture[i, j + _STEP, channel] * u
        lower = picture[i + _STEP, j, channel] * (_ONE - u) + picture[i + _STEP, j + _STEP, channel] * u
        return upper * (_ONE - v) + lower * v
    row, column = math.floor(y), math.floor(x)
    v, u = f32(y - row), f32(x - column)
    above, below = min(max(int(row), 0), height - 1), min(max(int(row) + 1, 0), height - 1)
    left, right = min(max(int(column), 0), width - 1), min(max(int(column) + 1, 0), width - 1)
    upper = picture[above, left, channel] * (_ONE - u) + picture[above, right, channel] * u
    lower = picture[below, left, channel] * (_ONE - u) + picture[below, right, channel] * u
    return upper * (_ONE - v) + lower * v


@njit(**EXACT, cache=True)
def _draw(picture, blurred, scales, numbers, begin, end, result):
    """Fill rows [begin, end) of `result`; numbers: the bend, where softness begins, the corner's blur [pixels]."""
    height, width = picture.shape[0], picture.shape[1]
    half_height, half_width = f32(height) * _HALF, f32(width) * _HALF
    corner = half_height * half_height + half_width * half_width
    bend, begins, blur = numbers[0], numbers[1], numbers[2]
    # Pincushion bends what lies between towards the corners, which stay: the frame is always filled.
    whole = _ONE + max(bend, _ZERO)
    for row in range(begin, end):
        y = f32(row) + _HALF - half_height
        for column in range(width):
            x = f32(column) + _HALF - half_width
            squared = (x * x + y * y) / corner
            scale = (_ONE + bend * squared) / whole
            soft = _ZERO
            if blur > _ZERO:
                t = min(max((math.sqrt(squared) - begins) / (_ONE - begins), _ZERO), _ONE)
                soft = t * t * (f32(3.0) - f32(2.0) * t)
            for channel in range(3):
                s = scale * scales[channel]
                from_y, from_x = half_height + y * s, half_width + x * s
                value = _bilinear(picture, from_y, from_x, channel)
                if soft > _ZERO:
                    down = f32(blurred.shape[0]) / f32(height)
                    across = f32(blurred.shape[1]) / f32(width)
                    value += (_bilinear(blurred, from_y * down, from_x * across, channel) - value) * soft
                result[row, column, channel] = value
