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
