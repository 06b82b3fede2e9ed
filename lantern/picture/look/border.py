"""A border inside the frame, of one colour."""

import numpy as np

from lantern.color import encode_srgb
from lantern.picture.display import HDR
from lantern.picture.hdr import graphics_color
from lantern.scene.look import Border


def draw_border(values: np.ndarray, border: Border, encoding: str, top: int, height: int) -> None:
    """Draw it over (rows, w, 3) float32 display values, the first of which is row `top` of the frame; overwritten."""
    width = max(round(border.width / 100 * height), 1)
    color = np.clip(np.array(border.color), 0, 1)
    color = (graphics_color(color) if encoding == HDR else encode_srgb(color)).astype(np.float32)
    above = min(max(width - top, 0), values.shape[0])
    below = max(min(height - width - top, values.shape[0]), above)
    middle = values[above:below]
    for side in (values[:above], values[below:], middle[:, :width], middle[:, max(values.shape[1] - width, width) :]):
        side += (color - side) * np.float32(border.strength)
