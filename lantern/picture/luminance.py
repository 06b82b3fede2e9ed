"""False colour of luminance, with the scale that reads it.

In: scene-linear radiance [cd/m²]. Out: display bytes and the scale's ticks. Called by the live view.
"""

import math
from dataclasses import dataclass

import numpy as np

from lantern.color import LUMINANCE

WEIGHTS = LUMINANCE.astype(np.float32)
# sRGB, from dark to bright: lightness rises all the way, so that the picture still reads in grey.
COLORS = np.array(
    [
        (12, 8, 28), (52, 20, 88), (96, 26, 112), (150, 36, 104), (200, 58, 78),
        (232, 98, 52), (246, 152, 46), (250, 206, 84), (255, 250, 214),
    ],
    np.float32,
)  # fmt: skip
LEAST_DECADES, MOST_DECADES = 2, 6


@dataclass(frozen=True)
class LuminanceScale:
    """Powers of ten [log10 cd/m²] at the two ends of the colours."""

    low: int
    high: int

    def ticks(self) -> list[tuple[float, str]]:
        """(luminance [cd/m²], colour as #rrggbb) of each decade."""
        steps = np.arange(self.low, self.high + 1)
        colors = _colors((steps - self.low) / (self.high - self.low))
        return [
            (10.0 ** int(step), "#{:02x}{:02x}{:02x}".format(*color)) for step, color in zip(steps, colors, strict=True)
        ]


def luminance_scale(radiance: np.ndarray) -> LuminanceScale:
    """The decades that hold all but the darkest and brightest hundredth of a picture."""
    luminance = radiance.reshape(-1, 3) @ WEIGHTS
    lit = luminance[luminance > 1e-9]
    if len(lit) == 0:
        return LuminanceScale(-1, 1)
    low, high = np.percentile(lit, (1, 99.5))
    top = math.ceil(math.log10(high) - 1e-9)
    bottom = max(math.floor(math.log10(low)), top - MOST_DECADES)
    return LuminanceScale(min(bottom, top - LEAST_DECADES), top)


def _colors(share: np.ndarray) -> np.ndarray:
    place = np.clip(share, 0.0, 1.0) * (len(COLORS) - 1)
    return np.stack([np.interp(place, np.arange(len(COLORS)), COLORS[:, c]) for c in range(3)], -1).astype(np.uint8)


def false_colour(radiance: np.ndarray, scale: LuminanceScale) -> np.ndarray:
    """(h, w, 3) uint8 of (h, w, 3) radiance; what lies beyond the scale gets the colour of its end."""
    luminance = np.maximum(radiance @ WEIGHTS, np.float32(1e-12))
    share = (np.log10(luminance) - scale.low) / (scale.high - scale.low)
    table = _colors(np.linspace(0.0, 1.0, 1024))
    return np.asarray(table[(np.clip(share, 0.0, 1.0) * 1023 + 0.5).astype(np.int32)])
