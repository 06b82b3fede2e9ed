"""Vignette: by the angle of the light, cos⁴ (Reiss, Journal of the Optical Society of America 35, 1945), and drawn."""

import numpy as np

from lantern.scene.look import Vignette


def vignette_gain(vignette: Vignette, rows: tuple[int, int], size: tuple[int, int], half_diagonal: float) -> np.ndarray:
    """(rows, w) float32 factors of the rows [begin, end) of a frame of (height, width) pixels.

    `half_diagonal` is the tangent of the angle from the axis to the corner.
    """
    height, width = size
    y = ((np.arange(*rows) + 0.5) / height * 2 - 1)[:, None].astype(np.float32)
    x = ((np.arange(width) + 0.5) / width * 2 - 1)[None, :].astype(np.float32)
    aspect = np.float32(width / height)
    circle = (x * x * aspect * aspect + y * y) / (aspect * aspect + 1)
    # Between the frame's own shape, a super-ellipse through its corners, and the circle around it.
    frame = np.sqrt((x**4 + y**4) / 2)
    radius = np.sqrt(frame + (circle - frame) * np.float32(vignette.roundness))
    t = np.clip((radius - vignette.begins) / (1 - vignette.begins), 0, 1)
    gain = np.exp2(np.float32(vignette.edge * vignette.strength) * t * t * (3 - 2 * t))
    if vignette.natural > 0 and half_diagonal > 0:
        cosine_squared = 1 / (1 + circle * np.float32(half_diagonal**2))
        gain *= 1 + np.float32(vignette.natural * vignette.strength) * (cosine_squared * cosine_squared - 1)
    return np.asarray(gain, np.float32)
