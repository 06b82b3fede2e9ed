"""Marks in a picture: where it is clipped, and which of its colours the display does not have.

In: display bytes and the light they are of. Out: bytes with marks. Called by the live view; no print has them.
"""

from typing import Literal

import numpy as np

from lantern.picture.display import TO_P3
from lantern.picture.look.pipeline import graded
from lantern.picture.look.surround import Surround
from lantern.picture.press import beyond_press
from lantern.scene.look import Look

Marks = Literal["clipping", "gamut", "press"]

WHITE_CLIPPED, BLACK_CLIPPED, OUT_OF_GAMUT = (236, 98, 60), (72, 132, 232), (226, 60, 190)
BAND = 6
"""Pixels from a stripe to the next."""
NEGATIVE = -1e-3
"""Of the largest channel: what is further below 0 lies beyond the display's primaries."""


def marked(picture: np.ndarray, light: np.ndarray, look: Look, around: Surround, what: Marks) -> np.ndarray:
    """(h, w, 3) uint8 with stripes where it is clipped, or beyond the display or the press."""
    result = picture.copy()
    stripes = (np.add.outer(np.arange(picture.shape[0]), np.arange(picture.shape[1])) // (BAND // 2)) % 2 == 0
    if what == "clipping":
        result[(picture == 255).any(axis=-1) & stripes] = WHITE_CLIPPED
        result[(picture == 0).all(axis=-1) & stripes] = BLACK_CLIPPED
        return result
    if what == "press":
        profile = look.press_profile
        if profile is not None and profile.sha256 in around.files:
            result[beyond_press(picture, look.encoding, around.files[profile.sha256]) & stripes] = OUT_OF_GAMUT
        return result
    result[_beyond(light, look, around) & stripes] = OUT_OF_GAMUT
    return result


def _beyond(light: np.ndarray, look: Look, around: Surround) -> np.ndarray:
    """(h, w) whether graded light lies beyond what the primaries of the display can mix, before it is compressed."""
    seen = graded(light, look, around)
    if look.encoding == "p3":
        seen = seen @ TO_P3.T.astype(np.float32)
    return np.asarray(seen.min(axis=-1) < NEGATIVE * np.maximum(seen.max(axis=-1), 1e-6))
