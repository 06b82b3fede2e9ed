"""Shafts of light from bright places, drawn and not traced: they stand before everything, whatever casts shadow.

What is bright is smeared away from a point of the frame (Mitchell, "Volumetric Light Scattering as a Post-Process",
GPU Gems 3, 2007, ch. 13); the picture's depth tells what is far enough to be a source.
"""

import numpy as np
from PIL import Image

from lantern.picture.look.bright import add_enlarged, columns_of, take_bright
from lantern.picture.look.grid import resized, shrunk
from lantern.picture.look.surround import Surround
from lantern.picture.strips import in_strips
from lantern.scene.look import Shafts

FINENESS = 384
"""Longer side of what they are drawn in: they are soft."""
ROUNDS = 7
"""Each doubles the steps of the smear: 128 of them."""


def with_shafts(picture: np.ndarray, shafts: Shafts, around: Surround) -> np.ndarray:
    """(h, w, 3) float32 with shafts added; the same array where there are none."""
    if shafts.strength == 0:
        return picture
    height, width, _ = picture.shape
    finer = max(max(height, width) / FINENESS, 1.0)
    size = max(round(height / finer), 1), max(round(width / finer), 1)
    bright, result = np.empty((3, height, width), np.float32), picture.copy()
    least, none = np.float32(2.0**shafts.above), np.float32(0.0)
    in_strips(height, width, lambda begin, end: take_bright(picture, least, none, begin, end, result, bright))
    if shafts.behind is not None and around.depth is not None:
        bright *= resized((around.depth > shafts.behind).astype(np.float32), (height, width))
    drawn = np.stack([_smeared(plane, shafts) for plane in shrunk(bright, size)]) * np.float32(shafts.strength)
    columns = columns_of(width, size[1])
    in_strips(height, width, lambda begin, end: add_enlarged(drawn, *columns, begin, end, result))
    return result


def _smeared(plane: np.ndarray, shafts: Shafts) -> np.ndarray:
    """(h, w) mean of what lies between each pixel and a part of the way to the point that shafts come from."""
    height, width = plane.shape
    x, y = shafts.x / 100 * width, shafts.y / 100 * height
    # From all the way down to a step, each round averages what the last one left with itself further in.
    steps = 1 - shafts.length / 100 * 0.5 ** np.arange(1, ROUNDS + 1)
    for scale in steps:
        matrix = (scale, 0, x * (1 - scale), 0, scale, y * (1 - scale))
        image = Image.fromarray(np.ascontiguousarray(plane, np.float32))
        inner = image.transform((width, height), Image.Transform.AFFINE, matrix, Image.Resampling.BILINEAR)
        plane = (plane + np.asarray(inner)) / 2
    return plane
