"""Colours as they are measured and agreed on: CIE L*a*b* under D50, spectra, and what linear Rec. 709 is of them.

In: L*a*b*, reflectance by wavelength, linear RGB. Out: each as another. Called by the board of patches, brand colours
and what judges them.
"""

import numpy as np

from lantern.color import RGB_TO_XYZ
from lantern.kernel.spectrum import XYZ_TO_RGB, matching_functions

D50 = np.array([0.96422, 1.0, 0.82521])
"""CIE XYZ of the white of D50, 2° observer, as ICC.1:2022 has it."""
D50_TO_D65 = np.array(
    [[0.9555766, -0.0230393, 0.0631636], [-0.0282895, 1.0099416, 0.0210077], [0.0122982, -0.0204830, 1.3299098]]
)
"""Bradford's adaptation, as ICC.1:2022, annex E has it, between the whites of D50 and D65."""
_DAYLIGHT_NM = np.arange(380.0, 741.0, 10.0)
_S0 = np.array(
    [63.4, 65.8, 94.8, 104.8, 105.9, 96.8, 113.9, 125.6, 125.5, 121.3, 121.3, 113.5, 113.1, 110.8, 106.5, 108.8, 105.3,
     104.4, 100.0, 96.0, 95.1, 89.1, 90.5, 90.3, 88.4, 84.0, 85.1, 81.9, 82.6, 84.9, 81.3, 71.9, 74.3, 76.4, 63.3, 71.7,
     77.0]
)  # fmt: skip
_S1 = np.array(
    [38.5, 35.0, 43.4, 46.3, 43.9, 37.1, 36.7, 35.9, 32.6, 27.9, 24.3, 20.1, 16.2, 13.2, 8.6, 6.1, 4.2, 1.9, 0.0, -1.6,
     -3.5, -3.5, -5.8, -7.2, -8.6, -9.5, -10.9, -10.7, -12.0, -14.0, -13.6, -12.0, -13.3, -12.9, -10.6, -11.6, -12.2]
)  # fmt: skip
_S2 = np.array(
    [3.0, 1.2, -1.1, -0.5, -0.7, -1.2, -2.6, -2.9, -2.8, -2.6, -2.6, -1.8, -1.5, -1.3, -1.2, -1.0, -0.5, -0.3, 0.0, 0.2,
     0.5, 2.1, 3.2, 4.1, 4.7, 5.1, 6.7, 7.3, 8.6, 9.8, 10.2, 8.3, 9.6, 8.5, 7.0, 7.6, 8.0]
)  # fmt: skip
"""Components of daylight, CIE 15:2018, table 6, every 10 nm."""


def lab_of_linear(linear: np.ndarray) -> np.ndarray:
    """CIE L*a*b* (..., 3) under D50 of linear Rec. 709 (..., 3) whose white is the perfect diffuser's."""
    xyz = np.asarray(linear, np.float64) @ RGB_TO_XYZ.T @ np.linalg.inv(D50_TO_D65).T
    return _lab_of_shares(xyz / D50)


def linear_of_lab(lab: np.ndarray) -> np.ndarray:
    """Linear Rec. 709 (..., 3) of CIE L*a*b* (..., 3) under D50; outside [0, 1] where no screen has the colour."""
    light, a, b = np.moveaxis(np.asarray(lab, np.float64), -1, 0)
    y = (light + 16) / 116
    roots = np.stack([y + a / 500, y, y - b / 200], -1)
    # CIE 15:2018, section 8.2.1, the other way round.
    shares = np.where(roots > 6 / 29, roots**3, (roots - 4 / 29) * 3 * (6 / 29) ** 2)
    return np.asarray(shares * D50 @ D50_TO_D65.T @ XYZ_TO_RGB.T)


def lab_of_spectrum(wavelengths: np.ndarray, reflectance: np.ndarray) -> np.ndarray:
    """CIE L*a*b* (3,) under D50 of shares [0, 1] of light that is reflected at (n,) rising wavelengths [nm].

    Beyond the ends it goes on as it ends (CIE 15:2018, section 7.2.3).
    """
    nm = np.arange(380.0, 741.0, 5.0)
    weights = matching_functions(nm) * daylight(0.3457, 0.3585, nm)[:, None]
    xyz = np.interp(nm, wavelengths, reflectance) @ weights
    return _lab_of_shares(xyz / weights.sum(axis=0))


def daylight(x: float, y: float, wavelengths: np.ndarray) -> np.ndarray:
    """Relative power (n,) at wavelengths [nm] within 380 and 740 of daylight of a chromaticity (CIE 15:2018, 4.1.2)."""
    below = 0.0241 + 0.2562 * x - 0.7341 * y
    first = (-1.3515 - 1.7703 * x + 5.9114 * y) / below
    second = (0.0300 - 31.4424 * x + 30.0717 * y) / below
    return np.interp(wavelengths, _DAYLIGHT_NM, _S0 + first * _S1 + second * _S2)


def _lab_of_shares(shares: np.ndarray) -> np.ndarray:
    roots = np.where(shares > 216 / 24389, np.cbrt(shares), (24389 / 27 * shares + 16) / 116)
    x, y, z = np.moveaxis(roots, -1, 0)
    return np.stack([116 * y - 16, 500 * (x - y), 200 * (y - z)], -1)
