"""Ghosts: what is bright, mirrored twice between surfaces of the lens, is drawn again along the line through the
middle.

Each pair of surfaces draws it at another size, turned round or not, out of focus: a soft disc. The area grows with the
size squared, and the light is spread over it.
"""

import numpy as np
from PIL import Image
from scipy import fft

from lantern.picture.look.grid import offsets, resized
from lantern.scene.look import Ghosts

FINENESS = 384
"""Longer side of what they are drawn in: they are out of focus."""


def ghosts_of(bright: np.ndarray, ghosts: Ghosts) -> np.ndarray:
    """(3, h, w) float32 of all ghosts of the bright light on the grid; together they hold its light."""
    chance = np.random.default_rng(ghosts.seed)
    finer = max(max(bright.shape) / FINENESS, 1.0)
    size = max(round(bright.shape[1] / finer), 1), max(round(bright.shape[2] / finer), 1)
    planes = [resized(plane, size) for plane in bright]
    found = np.zeros((3, *size), np.float32)
    for number in range(ghosts.number):
        place, spread, hue = chance.random(3)
        # Half of them turned round; none near to the light itself, where it could not be told from it.
        scale = float((0.25 + 1.1 * place) * (-1 if number % 2 == 0 else 0.6))
        radius = ghosts.size / 100 * size[0] * (0.5 + spread)
        tint = 1 + ghosts.spread * np.cos(2 * np.pi * (hue + np.arange(3) / 3))
        for c, soft in enumerate(_discs(planes, radius)):
            found[c] += _drawn_at(soft, scale) * np.float32(tint[c] / ghosts.number / scale**2)
    return np.stack([resized(plane, bright.shape[1:]) for plane in found])


def _discs(planes: list[np.ndarray], radius: float) -> list[np.ndarray]:
    """Planes (h, w) convolved with a disc of sum 1."""
    height, width = planes[0].shape
    room = 2 * round(radius) + 2
    padded = fft.next_fast_len(height + room, real=True), fft.next_fast_len(width + room, real=True)
    y, x = offsets(padded)
    disc = np.clip(radius + 0.5 - np.sqrt(x * x + y * y), 0, 1).astype(np.float32)
    drawn = fft.rfft2(disc / np.float32(disc.sum(dtype=np.float64)), workers=-1)
    whole = [fft.irfft2(fft.rfft2(plane, padded, workers=-1) * drawn, padded, workers=-1) for plane in planes]
    return [np.maximum(one[:height, :width], 0) for one in whole]


def _drawn_at(plane: np.ndarray, scale: float) -> np.ndarray:
    """(h, w) drawn `scale` times as large about the middle, turned round where that is negative."""
    height, width = plane.shape
    back = 1 / scale
    matrix = (back, 0, width / 2 * (1 - back), 0, back, height / 2 * (1 - back))
    drawn = Image.fromarray(np.ascontiguousarray(plane, np.float32))
    return np.asarray(drawn.transform((width, height), Image.Transform.AFFINE, matrix, Image.Resampling.BILINEAR))
