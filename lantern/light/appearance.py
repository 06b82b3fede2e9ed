"""What the document makes of a map before anything is lit by it: graded light, colour, contrast, blur.

In: (h, w, 3) float32 linear radiance [cd/m²], rows from straight up to straight down. Out: the same. Called by
`compile.environment_tables` and `compile.backdrop_tables`.
"""

import math

import numpy as np

from lantern.color import LUMINANCE
from lantern.light.light_row import blackbody
from lantern.scene.surroundings import Environment, Graded

GRADED_ROWS = 256
"""Rows of a map of graded light: it has one column a turn, and half a degree is less than anybody sees of it."""
NEUTRAL = 6504.0
"""K: light of this temperature is left as it is, the white of Rec. 709."""
_KNEE = 4.0
"""Exponent of what counts as a highlight of a photograph."""


def graded_map(graded: Graded) -> np.ndarray:
    """(GRADED_ROWS, 2, 3) float32 of graded light: the horizon's goes over into the zenith's and the ground's.

    Over the horizon it follows a smoothstep of the height of the horizon's light, below it a third of that.
    """
    elevation = 90.0 - (np.arange(GRADED_ROWS) + 0.5) / GRADED_ROWS * 180.0
    reach = np.where(elevation > 0, graded.horizon_height, graded.horizon_height / 3)
    t = np.clip(np.abs(elevation) / reach, 0.0, 1.0)[:, None]
    t = t * t * (3 - 2 * t)
    far = np.where(elevation[:, None] > 0, np.array(graded.zenith), np.array(graded.ground))
    rows = np.array(graded.horizon) * (1 - t) + far * t
    return np.repeat(rows[:, None, :], 2, axis=1).astype(np.float32)


def stretched(pixels: np.ndarray, stops: float) -> np.ndarray:
    """A photograph, white at 1, whose white is `stops` brighter: L (1 + (2^stops - 1) Y^4), Y its luminance."""
    luminance = np.clip(pixels @ LUMINANCE.astype(np.float32), 0.0, 1.0)
    return np.asarray(pixels * (1 + (2.0**stops - 1) * luminance**_KNEE)[..., None], np.float32)


def coloured(pixels: np.ndarray, environment: Environment) -> np.ndarray:
    """Tinted, of another temperature, more or less saturated; the very same array where none of it is asked for.

    A temperature keeps the luminance of neutral light, saturation that of every pixel.
    """
    factor = np.array(environment.tint, np.float64)
    if environment.temperature is not None:
        factor = factor * blackbody(environment.temperature) / blackbody(NEUTRAL)
    if environment.saturation != 1.0:
        grey = (pixels @ LUMINANCE.astype(np.float32))[..., None]
        pixels = np.maximum(grey + (pixels - grey) * np.float32(environment.saturation), 0.0)
    return pixels if np.all(factor == 1.0) else np.asarray(pixels * factor, np.float32)


def blurred(pixels: np.ndarray, degrees: float) -> np.ndarray:
    """Blurred over the sphere by about a Gaussian of this standard deviation; as much light as before.

    First along the meridians, which go on over the poles, then along each circle of latitude, by its own radius.
    """
    if degrees <= 0.0:
        return pixels
    height, width = pixels.shape[:2]
    sigma = math.radians(degrees)
    if width % 2:
        pixels, width = np.concatenate([pixels, pixels[:, :1]], axis=1), width + 1
    # A great circle is a column and the one opposite, upside down.
    circles = np.concatenate([pixels[:, : width // 2], pixels[::-1, width // 2 :]], axis=0)
    turns = np.fft.rfftfreq(2 * height, 1 / (2 * height))
    spectrum = np.fft.rfft(circles, axis=0) * np.exp(-0.5 * (turns * sigma) ** 2)[:, None, None]
    circles = np.fft.irfft(spectrum, 2 * height, axis=0)
    down = np.concatenate([circles[:height], circles[height:][::-1]], axis=1)
    theta = (np.arange(height) + 0.5) / height * math.pi
    turns = np.fft.rfftfreq(width, 1 / width)
    falls = np.exp(-0.5 * (turns * sigma / np.sin(theta)[:, None]) ** 2)
    around = np.fft.irfft(np.fft.rfft(down, axis=1) * falls[..., None], width, axis=1)
    soft = np.maximum(around, 0.0)
    weights = np.sin(theta)[:, None, None]
    total, now = float((pixels * weights).sum()), float((soft * weights).sum())
    return np.asarray(soft * (total / now if now > 0 else 1.0), np.float32)
