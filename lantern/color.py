"""What the primaries of linear Rec. 709 say, for host and kernels alike.

ITU-R BT.709-6, item 3.2 (luminance); IEC 61966-2-1 (sRGB).
"""

import numpy as np

LUMINANCE_WEIGHTS = (0.2126, 0.7152, 0.0722)
LUMINANCE = np.array(LUMINANCE_WEIGHTS)
"""(3,) weights of linear R, G and B."""


def decode_srgb(encoded: np.ndarray) -> np.ndarray:
    """Linear values of sRGB ones in [0, 1], exact."""
    return np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)


def encode_srgb(linear: np.ndarray) -> np.ndarray:
    """sRGB values of linear ones in [0, 1], exact."""
    return np.where(linear <= 0.0031308, linear * 12.92, 1.055 * np.maximum(linear, 0.0031308) ** (1 / 2.4) - 0.055)


RGB_TO_XYZ = np.array(
    [[0.4123908, 0.3575843, 0.1804808], [0.2126390, 0.7151687, 0.0721923], [0.0193308, 0.1191948, 0.9505322]]
)
"""From linear Rec. 709 to CIE XYZ of its white, D65."""


def lab_of(linear: np.ndarray) -> np.ndarray:
    """CIE L*a*b* (..., 3) of linear Rec. 709 (..., 3) against the perfect diffuser in D65 (CIE 15:2018, 8.2.1)."""
    ratio = np.asarray(linear, np.float64) @ RGB_TO_XYZ.T / RGB_TO_XYZ.sum(axis=1)
    x, y, z = np.moveaxis(np.where(ratio > 216 / 24389, np.cbrt(ratio), (24389 / 27 * ratio + 16) / 116), -1, 0)
    return np.stack([116 * y - 16, 500 * (x - y), 200 * (y - z)], -1)
