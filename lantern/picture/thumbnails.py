"""Small pictures for the shelf."""

import numpy as np

from lantern.picture.display import to_display

WIDTH, HEIGHT = 256, 128
CURVE_POINTS = 61


def environment_thumbnail(pixels: np.ndarray) -> np.ndarray:
    """(HEIGHT, WIDTH, 3) uint8 of a map, exposed so that its median becomes middle grey."""
    small = small_map(pixels)
    # The median is not led astray by a sun.
    middle = float(np.median(small.mean(axis=2)))
    return to_display(small, float(np.log2(0.18 / max(middle, 1e-6))), "filmic")


def small_map(pixels: np.ndarray) -> np.ndarray:
    """(HEIGHT, WIDTH, 3) float32 of a map: the mean of each block; a smaller map repeats its texels."""
    rows = np.arange(HEIGHT) * pixels.shape[0] // HEIGHT
    columns = np.arange(WIDTH) * pixels.shape[1] // WIDTH
    small = np.add.reduceat(np.add.reduceat(pixels, rows, axis=0), columns, axis=1)
    heights = np.maximum(np.diff(np.append(rows, pixels.shape[0])), 1)
    widths = np.maximum(np.diff(np.append(columns, pixels.shape[1])), 1)
    return (small / (heights[:, None, None] * widths[None, :, None])).astype(np.float32)


def profile_curve(candela: np.ndarray) -> list[tuple[float, float]]:
    """Outline of a light distribution in the plane of 0° and 180°, the axis down: closed, x and y in [-1, 1].

    `candela` is (vertical angles from 0° to 180°, horizontal angles from 0° to 360°), evenly spaced.
    """
    peak = max(float(candela.max()), 1e-9)
    steps = np.linspace(0, candela.shape[0] - 1, CURVE_POINTS).round().astype(int)
    angles = np.pi * steps / (candela.shape[0] - 1)
    right, left = candela[steps, 0] / peak, candela[steps, candela.shape[1] // 2] / peak
    x = np.concatenate([right * np.sin(angles), -(left * np.sin(angles))[::-1]])
    y = np.concatenate([right * np.cos(angles), (left * np.cos(angles))[::-1]])
    return [(round(float(a), 3), round(float(b), 3)) for a, b in zip(x, y, strict=True)]
