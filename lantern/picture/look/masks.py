"""Where a local grade works: a gradient, an ellipse, or where the camera sees certain parts.

In: places of the frame as the document tells them. Out: shares of each pixel. Called by `pipeline`, strip by strip.
"""

import math
from collections.abc import Sequence

import numpy as np

from lantern.picture.look.grid import resized
from lantern.picture.look.surround import Surround
from lantern.scene.look import EllipseMask, GradientMask, LocalGrade, PartMask


def mattes(places: Sequence[LocalGrade], around: Surround, size: tuple[int, int]) -> dict[tuple[str, ...], np.ndarray]:
    """(h, w) shares of parts that places ask for, in the size of the picture; what is not known is nowhere."""
    wanted = {one.mask.parts for one in places if isinstance(one.mask, PartMask)}
    return {parts: resized(around.mattes[parts], size) for parts in wanted if parts in around.mattes}


def masks_of(
    places: Sequence[LocalGrade], rows: tuple[int, int], size: tuple[int, int], known: dict[tuple[str, ...], np.ndarray]
) -> np.ndarray:
    """(places, rows, w) float32 [0, 1] of the rows [begin, end) of a frame of (height, width) pixels."""
    height, width = size
    begin, end = rows
    found = np.zeros((len(places), end - begin, width), np.float32)
    # Both in heights of the frame, from its upper left corner.
    y = ((np.arange(begin, end) + 0.5) / height)[:, None].astype(np.float32)
    x = ((np.arange(width) + 0.5) / height)[None, :].astype(np.float32)
    for number, place in enumerate(places):
        match place.mask:
            case GradientMask():
                found[number] = _gradient(place.mask, x, y, width / height)
            case EllipseMask():
                found[number] = _ellipse(place.mask, x, y, width / height)
            case PartMask(parts=parts) if parts in known:
                found[number] = known[parts][begin:end]
        if place.inverted:
            found[number] = 1 - found[number]
    return found


def _smooth(t: np.ndarray) -> np.ndarray:
    t = np.clip(t, 0, 1)
    return np.asarray(t * t * (3 - 2 * t))


def _gradient(mask: GradientMask, x: np.ndarray, y: np.ndarray, shape: float) -> np.ndarray:
    right, up = math.cos(math.radians(mask.angle)), math.sin(math.radians(mask.angle))
    along = (x - mask.x / 100 * shape) * right - (y - mask.y / 100) * up
    return _smooth(along / (mask.length / 100))


def _ellipse(mask: EllipseMask, x: np.ndarray, y: np.ndarray, shape: float) -> np.ndarray:
    c, s = math.cos(math.radians(mask.turn)), math.sin(math.radians(mask.turn))
    across, down = x - mask.x / 100 * shape, y - mask.y / 100
    u = (across * c - down * s) / (mask.width / 200)
    v = (across * s + down * c) / (mask.height / 200)
    radius = np.sqrt(u * u + v * v)
    inner = 1 - mask.feather
    return _smooth((1 - radius) / max(1 - inner, 1e-3))
