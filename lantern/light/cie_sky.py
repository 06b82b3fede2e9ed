"""Skies of the CIE Standard General Sky (CIE S 011 / ISO 15469:2004): how luminance is spread, and how much it is.

The standard gives relative luminance only. Its level is set to the horizontal illuminance of overcast and partly cloudy
skies of IES RP-21 (DiLaura 1984): 300 + 21,000 sin h lx and 300 + 45,000 sin h lx, and of a clear sky as `daylight`.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from lantern.light.light_row import blackbody
from lantern.scene.surroundings import SkyKind


@dataclass(frozen=True)
class StandardSky:
    """Gradation a, b and indicatrix c, d, e of a type (table 1 of the standard), what it gives and its colour."""

    gradation: tuple[float, float]
    indicatrix: tuple[float, float, float]
    base: float  # lx
    rise: float  # lx times the sine of the sun's elevation
    kelvin: float
    sun: float
    """Extinction of the direct light per air mass (RP-21); infinite behind clouds."""


STANDARD_SKIES: dict[SkyKind, StandardSky] = {
    "overcast": StandardSky((4.0, -0.70), (0.0, -1.0, 0.0), 300, 21_000, 6500, math.inf),
    "brighter_overcast": StandardSky((4.0, -0.70), (2.0, -1.5, 0.15), 300, 21_000, 6500, math.inf),
    "even": StandardSky((0.0, -1.0), (0.0, -1.0, 0.0), 300, 21_000, 6500, math.inf),
    "partly_cloudy": StandardSky((0.0, -1.0), (5.0, -2.5, 0.30), 300, 45_000, 7500, 0.80),
    "white_blue": StandardSky((-1.0, -0.55), (10.0, -3.0, 0.45), 800, 15_500, 10_000, 0.35),
    "cie_clear": StandardSky((-1.0, -0.32), (10.0, -3.0, 0.45), 800, 15_500, 14_000, 0.21),
    "hazy": StandardSky((-1.0, -0.15), (16.0, -3.0, 0.30), 800, 15_500, 8_000, 0.50),
}
_CLEAR = ("white_blue", "cie_clear", "hazy")


def relative_luminance(
    sky: StandardSky, zenith_angle: np.ndarray, from_sun: np.ndarray, sun_zenith: float
) -> np.ndarray:
    """L / L at the zenith (equation 1 of the standard): angles in radians, of any shape that fit one another."""
    a, b = sky.gradation
    c, d, e = sky.indicatrix

    def gradation(angle: np.ndarray | float) -> np.ndarray:
        return np.asarray(1 + a * np.exp(b / np.maximum(np.cos(angle), 1e-4)))

    def indicatrix(angle: np.ndarray | float) -> np.ndarray:
        return np.asarray(1 + c * (np.exp(d * angle) - math.exp(d * math.pi / 2)) + e * np.cos(angle) ** 2)

    return np.asarray(indicatrix(from_sun) * gradation(zenith_angle) / (indicatrix(sun_zenith) * gradation(0.0)))


def horizontal_illuminance(kind: SkyKind, elevation: float) -> float:
    """lx that a sky without its sun gives open ground, the sun `elevation` degrees high."""
    sky, sine = STANDARD_SKIES[kind], max(math.sin(math.radians(elevation)), 0.0)
    return sky.base + sky.rise * (math.sqrt(sine) if kind in _CLEAR else sine)


def standard_radiance(kind: SkyKind, directions: np.ndarray, sun: np.ndarray, elevation: float) -> np.ndarray:
    """Linear Rec. 709 cd/m² (..., 3) of a sky without the sun's disk; black below the horizon.

    `directions` (..., 3) and `sun` (3,) are unit vectors, the sun `elevation` degrees high.
    """
    sky = STANDARD_SKIES[kind]
    sun_zenith = math.acos(min(max(float(sun[1]), 0.0), 1.0))

    def relative(towards: np.ndarray) -> np.ndarray:
        zenith_angle = np.arccos(np.clip(towards[..., 1], 0.0, 1.0))
        return relative_luminance(sky, zenith_angle, np.arccos(np.clip(towards @ sun, -1.0, 1.0)), sun_zenith)

    level = horizontal_illuminance(kind, elevation) / _integral(relative)
    luminance = np.where(directions[..., 1] > 0, relative(directions) * level, 0.0)
    return np.asarray(luminance[..., None] * blackbody(sky.kelvin))


def _integral(relative: Callable[[np.ndarray], np.ndarray]) -> float:
    """lx on open ground of a sky of zenith luminance 1, by the midpoint rule in the square of the sine."""
    count = 96
    sine2 = (np.arange(count) + 0.5) / count
    theta = np.arcsin(np.sqrt(sine2))
    phi = (np.arange(2 * count) + 0.5) / (2 * count) * 2 * math.pi
    s, c = np.sin(theta)[:, None], np.cos(theta)[:, None]
    directions = np.stack([s * np.sin(phi), np.broadcast_to(c, (count, 2 * count)), -s * np.cos(phi)], -1)
    # cos θ sin θ dθ is half of the step in the square of the sine.
    return float(relative(directions).mean() * math.pi)
