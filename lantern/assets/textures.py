"""Textures as every reader makes them: texels, and how they go on beyond the edges."""

from dataclasses import dataclass

import numpy as np

REPEAT, CLAMP, MIRROR = 0, 1, 2


@dataclass(frozen=True, eq=False)
class Texture:
    """One texture as stored: values are not decoded from sRGB, alpha is not multiplied in."""

    texels: np.ndarray  # (h, w, channels) uint8, uint16, float16 or float32, C-contiguous; 1 to 4 channels
    wrap_u: int  # REPEAT, CLAMP or MIRROR
    wrap_v: int
    nearest: bool = False  # texels are not blended
