"""How often each brightness is in a picture, and how much of it has gone beyond what the display shows.

In: display bytes. Out: shares. Called by the render host.
"""

from dataclasses import dataclass

import numpy as np

BINS = 64
DARKEST, BRIGHTEST = 0, 255


@dataclass(frozen=True)
class Histogram:
    """Of red, green and blue."""

    channels: tuple[tuple[float, ...], ...]
    """(3) x (BINS): share of the pixels whose channel lies in each range, from dark to bright."""
    crushed: tuple[float, ...]
    """(3): share of the pixels whose channel is at the display's black."""
    clipped: tuple[float, ...]
    """(3): share of the pixels whose channel is at its white."""


def histogram(rgb: np.ndarray) -> Histogram:
    """Of an (h, w, 3) uint8 picture that has pixels."""
    channels = rgb.reshape(-1, 3)
    count = len(channels)
    shares = [np.bincount(channel >> 2, minlength=BINS) / count for channel in channels.T]
    return Histogram(
        tuple(tuple(share.tolist()) for share in shares),
        tuple(((channels == DARKEST).sum(axis=0) / count).tolist()),
        tuple(((channels == BRIGHTEST).sum(axis=0) / count).tolist()),
    )
