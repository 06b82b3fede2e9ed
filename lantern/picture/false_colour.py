"""False colour of luminance or illuminance, with the scale that reads it, and lines of equal light.

In: (h, w) photometric values [cd/m² or lx]. Out: display bytes and the scale's ticks. Called by the live view.
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
LINES = (1.0, 2.0, 5.0)
"""Where lines of equal light run in each decade: steps of about a stop and a third."""
LINE, DECADE_LINE = (240, 238, 232), (110, 226, 214)
_LEAST = np.float32(1e-12)


@dataclass(frozen=True)
class LightScale:
    """Powers of ten [log10 of the unit] at the two ends of the colours."""

    low: int
    high: int

    def ticks(self) -> list[tuple[float, str]]:
        """(value, colour as #rrggbb) of each decade."""
        steps = np.arange(self.low, self.high + 1)
        colors = colours_of((steps - self.low) / (self.high - self.low))
        return [
            (10.0 ** int(step), "#{:02x}{:02x}{:02x}".format(*color)) for step, color in zip(steps, colors, strict=True)
        ]


def luminance_of(radiance: np.ndarray) -> np.ndarray:
    """(h, w) cd/m² of (h, w, 3) radiance."""
    return np.asarray(radiance @ WEIGHTS)


def illuminance_of(radiance: np.ndarray) -> np.ndarray:
    """(h, w) lx that arrive on a perfect matt white which sends (h, w, 3) radiance: π times its luminance."""
    return np.asarray(radiance @ (WEIGHTS * np.float32(math.pi)))


def light_scale(values: np.ndarray) -> LightScale:
    """The decades that hold all but the darkest and brightest hundredth of a picture."""
    lit = values[values > 1e-9]
    if len(lit) == 0:
        return LightScale(-1, 1)
    low, high = np.percentile(lit, (1, 99.5))
    top = math.ceil(math.log10(high) - 1e-9)
    bottom = max(math.floor(math.log10(low)), top - MOST_DECADES)
    return LightScale(min(bottom, top - LEAST_DECADES), top)


def colours_of(share: np.ndarray) -> np.ndarray:
    """(..., 3) uint8 of (...) shares of the scale; what lies beyond it gets the colour of its end."""
    place = np.clip(share, 0.0, 1.0) * (len(COLORS) - 1)
    return np.stack([np.interp(place, np.arange(len(COLORS)), COLORS[:, c]) for c in range(3)], -1).astype(np.uint8)


def false_colour(values: np.ndarray, scale: LightScale) -> np.ndarray:
    """(h, w, 3) uint8 of (h, w) values; what lies beyond the scale gets the colour of its end."""
    share = (np.log10(np.maximum(values, _LEAST)) - scale.low) / (scale.high - scale.low)
    table = colours_of(np.linspace(0.0, 1.0, 1024))
    return np.asarray(table[(np.clip(share, 0.0, 1.0) * 1023 + 0.5).astype(np.int32)])


def with_isolines(rgb: np.ndarray, values: np.ndarray, scale: LightScale) -> np.ndarray:
    """The picture with lines where the light passes 1, 2 or 5 of a decade of the scale; those of 1 stand out."""
    levels = np.outer(10.0 ** np.arange(scale.low, scale.high + 1), LINES).ravel()
    above = np.searchsorted(levels, values)
    lines = rgb.copy()
    for axis in (0, 1):
        here = [slice(None), slice(None)]
        here[axis] = slice(None, -1)
        near, far = above[tuple(here)], np.roll(above, -1, axis)[tuple(here)]
        passed = np.maximum(near, far) - 1
        crosses = near != far
        lines[tuple(here)][crosses] = np.where((passed % len(LINES) == 0)[..., None], DECADE_LINE, LINE)[crosses]
    return lines
