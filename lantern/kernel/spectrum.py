"""Wavelengths for the few effects that need them, in a renderer whose light has three channels.

Colour matching: Wyman, Sloan & Shirley, "Simple Analytic Approximations to the CIE XYZ Color Matching
Functions", JCGT 2(2), 2013, section 2.2 (multi-lobe fit). XYZ to linear Rec. 709: IEC 61966-2-1.
"""

import math

import numpy as np
from numba import njit
from numpy import float32 as f32

from lantern.kernel.vectors import SMALL

XYZ_TO_RGB = np.array(
    [[3.2404542, -1.5371385, -0.4985314], [-0.9692660, 1.8760108, 0.0415560], [0.0556434, -0.2040259, 1.0572252]]
)
SHORTEST, LONGEST = 400.0, 700.0
"""Wavelengths [nm] over which `wavelength_weight` is defined."""


def matching_functions(wavelengths: np.ndarray) -> np.ndarray:
    """CIE 1931 2° observer (n, 3) at wavelengths (n,) [nm]; the fit's error is below 1 % of each maximum."""

    def lobe(mean: float, below: float, above: float) -> np.ndarray:
        t = (wavelengths - mean) * np.where(wavelengths < mean, below, above)
        return np.asarray(np.exp(-0.5 * t * t))

    x = 0.362 * lobe(442.0, 0.0624, 0.0374) + 1.056 * lobe(599.8, 0.0264, 0.0323) - 0.065 * lobe(501.1, 0.0490, 0.0382)
    y = 0.821 * lobe(568.8, 0.0213, 0.0247) + 0.286 * lobe(530.9, 0.0613, 0.0322)
    z = 1.217 * lobe(437.0, 0.0845, 0.0278) + 0.681 * lobe(459.0, 0.0385, 0.0725)
    return np.stack([x, y, z], axis=1)


def reflectance_weights(wavelengths: np.ndarray) -> np.ndarray:
    """(n, 3) weights that turn a reflectance spectrum into linear Rec. 709; a flat 1 becomes white."""
    rgb = matching_functions(wavelengths) @ XYZ_TO_RGB.T
    return np.asarray(rgb / rgb.sum(axis=0))


@njit(**SMALL)
def _band(t, centre):
    x = abs(t - centre) * f32(3.0)
    return f32(0.0) if x >= f32(1.0) else f32(0.5) + f32(0.5) * math.cos(f32(math.pi) * x)


@njit(**SMALL)
def wavelength_weight(t):
    """RGB of the wavelength 400 + 300 t nm, t [0, 1): never negative, mean (1, 1, 1) over t.

    Three raised cosines in place of the matching functions, whose negative lobes would make noise of both signs.
    They are a third of the range wide either way and their outer halves fold back, so that each has mean 1.
    """
    blue = _band(t, f32(1.0 / 6.0))
    green = _band(t, f32(0.5))
    red = _band(t, f32(5.0 / 6.0))
    # Beyond the outer centres there is one band only: it stands for both of its halves.
    if t < f32(1.0 / 6.0):
        blue = f32(1.0)
    if t > f32(5.0 / 6.0):
        red = f32(1.0)
    return red * f32(3.0), green * f32(3.0), blue * f32(3.0)


def cauchy(ior: float, abbe: float, scale: float) -> tuple[float, float]:
    """(A, B) of n(λ) = A + B / λ² [λ in nm], OpenPBR 1.1 section 3.7: `ior` at the d line, `abbe` number over `scale`.

    V = (n_d - 1) / (n_F - n_C) at 587.6, 486.1 and 656.3 nm. No dispersion at scale 0.
    """
    if scale <= 0.0:
        return ior, 0.0
    spread = (ior - 1.0) / (abbe / scale)
    b = spread / (486.1**-2 - 656.3**-2)
    return ior - b / 587.6**2, b
