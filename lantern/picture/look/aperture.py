"""The aperture that diffracts: blades, scratches and dust, or an image of one.

In: blades by number, roundness and turn, what lies on the glass; or an image. Out: transmittance over a square. Called
by `glare`.
"""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from PIL import Image, ImageDraw

ACROSS = 256
"""Pixels across the opening."""
_FINER = 4


@dataclass(frozen=True)
class Aperture:
    """An opening with what lies on it; without blades it is round."""

    blades: int | None = None
    roundness: float = 0.0
    turn: float = 0.0  # degrees
    scratches: int = 0
    dust: int = 0
    seed: int = 1


@lru_cache(maxsize=8)
def transmittance(aperture: Aperture) -> np.ndarray:
    """(ACROSS, ACROSS) float32 [0, 1]: the opening inscribed in the square."""
    side = ACROSS * _FINER
    drawn = Image.new("L", (side, side), 0)
    pen = ImageDraw.Draw(drawn)
    pen.polygon([(side / 2 * (1 + x), side / 2 * (1 - y)) for x, y in _outline(aperture)], fill=255)
    _draw_scratches(pen, aperture, side)
    small = np.asarray(drawn.resize((ACROSS, ACROSS), Image.Resampling.BOX), np.float32) / 255
    small.setflags(write=False)
    return small


def _outline(aperture: Aperture, steps: int = 720) -> list[tuple[float, float]]:
    """Points of the edge on the unit circle's inside: straight between blades, or rounder."""
    points = []
    for step in range(steps):
        angle = 2 * math.pi * step / steps
        radius = 1.0
        if aperture.blades is not None:
            half = math.pi / aperture.blades
            off = (angle - math.radians(aperture.turn) - math.pi / 2) % (2 * half) - half
            straight = math.cos(half) / math.cos(off)
            radius = straight + (1 - straight) * aperture.roundness
        points.append((radius * math.cos(angle), radius * math.sin(angle)))
    return points


def _draw_scratches(pen: ImageDraw.ImageDraw, aperture: Aperture, side: int) -> None:
    chance = np.random.default_rng(aperture.seed)
    for _ in range(aperture.scratches):
        x, y, angle, length = chance.random(4)
        dx, dy = math.cos(2 * math.pi * angle) * length * side, math.sin(2 * math.pi * angle) * length * side
        at = x * side, y * side
        pen.line([at, (at[0] + dx, at[1] + dy)], fill=0, width=_FINER)
    for _ in range(aperture.dust):
        x, y, size = chance.random(3)
        radius = side * (0.003 + 0.012 * size * size)
        pen.ellipse([x * side - radius, y * side - radius, x * side + radius, y * side + radius], fill=0)


def from_image(pixels: np.ndarray) -> np.ndarray:
    """(ACROSS, ACROSS) transmittance of an image of an aperture: its grey, white where light passes.

    Raises ValueError when it has values that are no numbers, or lets no light pass.
    """
    grey = np.asarray(pixels, np.float32)
    grey = grey[..., : min(grey.shape[-1], 3)].mean(axis=-1) if grey.ndim == 3 else grey
    if not np.isfinite(grey).all():
        rows, columns = np.nonzero(~np.isfinite(grey))
        raise ValueError(
            f"{len(rows)} of its pixels are no numbers, the first in row {rows[0] + 1}, column {columns[0] + 1}"
        )
    brightest = float(grey.max())
    if brightest <= 0:
        raise ValueError("it is black all over: no light passes such an aperture")
    side = max(grey.shape)
    square = np.zeros((side, side), np.float32)
    top, left = (side - grey.shape[0]) // 2, (side - grey.shape[1]) // 2
    square[top : top + grey.shape[0], left : left + grey.shape[1]] = np.clip(grey / brightest, 0, 1)
    way = Image.Resampling.BOX if side > ACROSS else Image.Resampling.BILINEAR
    return np.asarray(Image.fromarray(square).resize((ACROSS, ACROSS), way), np.float32)
