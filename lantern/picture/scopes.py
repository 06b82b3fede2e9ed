"""Scopes: what values a picture has, by column (waveform) and by colour difference (vectorscope).

In: display bytes. Out: small pictures. Called by the render host.
"""

import numpy as np

WIDTH, HEIGHT = 256, 128
SIDE = 160
MOST_PIXELS = 120_000
"""Pixels that are counted; more say nothing else."""
GAIN = 0.55
"""Power of the share of pixels by which it is drawn: what is rare is still seen."""
_CB = np.array([-0.114572, -0.385428, 0.5], np.float32)
_CR = np.array([0.5, -0.454153, -0.045847], np.float32)
"""Colour differences of ITU-R BT.709-6, 3.3, from encoded values."""


def _thinned(picture: np.ndarray) -> np.ndarray:
    step = max(int(np.sqrt(picture.shape[0] * picture.shape[1] / MOST_PIXELS)), 1)
    return picture[::step, ::step]


def waveform(picture: np.ndarray) -> np.ndarray:
    """(HEIGHT, WIDTH, 3) uint8: over each column of the picture how often each value of a channel is, 255 on top."""
    small = _thinned(picture)
    columns = np.arange(small.shape[1]) * WIDTH // small.shape[1]
    drawn = np.zeros((HEIGHT, WIDTH, 3), np.float32)
    for channel in range(3):
        rows = HEIGHT - 1 - small[..., channel].astype(np.int32) * HEIGHT // 256
        places = rows * WIDTH + columns[None, :]
        counts = np.bincount(places.ravel(), minlength=HEIGHT * WIDTH).reshape(HEIGHT, WIDTH)
        drawn[..., channel] = counts / max(small.shape[0] * small.shape[1] / WIDTH, 1)
    return _drawn(drawn)


def vectorscope(picture: np.ndarray) -> np.ndarray:
    """(SIDE, SIDE, 3) uint8: where colours lie by Cb to the right and Cr upwards, in the colour that they have."""
    small = _thinned(picture).reshape(-1, 3)
    values = small.astype(np.float32) / 255
    x = ((values @ _CB + 0.5) * (SIDE - 1) + 0.5).astype(np.int32)
    y = ((0.5 - values @ _CR) * (SIDE - 1) + 0.5).astype(np.int32)
    places = np.clip(y, 0, SIDE - 1) * SIDE + np.clip(x, 0, SIDE - 1)
    counts = np.bincount(places, minlength=SIDE * SIDE).astype(np.float32)
    sums = np.stack([np.bincount(places, values[:, c], SIDE * SIDE) for c in range(3)], -1)
    color = sums / np.maximum(sums.max(axis=-1, keepdims=True), 1e-6)
    strength = np.clip((counts / max(len(small), 1) * 600) ** GAIN, 0, 1)
    drawn = (0.25 + 0.75 * color) * strength[:, None]
    return np.asarray(np.clip(drawn * 255, 0, 255).reshape(SIDE, SIDE, 3), np.uint8)


def _drawn(shares: np.ndarray) -> np.ndarray:
    return np.asarray(np.clip(255 * np.minimum(shares * 6, 1) ** GAIN, 0, 255), np.uint8)
