"""HDR maps of other layouts as latitude and longitude: cube crosses and angular balls.

In: linear pixels of an HDR file. Out: (h, 2h, 3) of the same light. Called by the reading of maps.

An upright cross is 3:4 with the face behind the viewer at its foot, upside down; a lying one is 4:3. A ball is a square
angular map (Debevec, "Rendering Synthetic Objects into Real Scenes", SIGGRAPH 1998): the distance from its middle is
the angle from the line of sight, all around at its rim. All look along -Z in their middle.
"""

import math
from typing import Literal

import numpy as np

Layout = Literal["lat_long", "cross_upright", "cross_lying", "ball"]
_NEAR = 0.02
"""How far a ratio of sides may be from that of a layout."""


def layout_of(width: int, height: int) -> Layout:
    """What a file of so many pixels is taken for; latitude and longitude unless its sides say otherwise."""
    ratios: dict[Layout, float] = {"cross_upright": 3 / 4, "cross_lying": 4 / 3, "ball": 1.0}
    for layout, ratio in ratios.items():
        if abs(width / height / ratio - 1) < _NEAR and width >= 3:
            return layout
    return "lat_long"


def as_lat_long(pixels: np.ndarray, layout: Layout | None = None) -> np.ndarray:
    """The map by latitude and longitude; the very same array where it is one already."""
    height, width = pixels.shape[:2]
    layout = layout or layout_of(width, height)
    if layout == "lat_long":
        return pixels
    rows = {"cross_upright": height // 2, "cross_lying": width // 2, "ball": height // 2}[layout]
    rows = max(rows, 8)
    d = directions(rows, 2 * rows)
    x, y = _on_ball(d) if layout == "ball" else _on_cross(d, upright=layout == "cross_upright")
    return _bilinear(pixels, x * width - 0.5, y * height - 0.5)


def directions(rows: int, columns: int, first: int = 0, last: int | None = None) -> np.ndarray:
    """(h, columns, 3) unit directions of the middles of a map's pixels, in rows from `first` to before `last`."""
    theta = (np.arange(first, rows if last is None else last) + 0.5)[:, None] / rows * math.pi
    phi = ((np.arange(columns) + 0.5)[None, :] / columns - 0.5) * 2 * math.pi
    s, c = np.sin(theta), np.cos(theta)
    return np.stack([s * np.sin(phi), np.broadcast_to(c, (len(theta), columns)), -s * np.cos(phi)], -1)


def _on_ball(d: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    angle = np.arccos(np.clip(-d[..., 2], -1.0, 1.0)) / math.pi
    across = np.maximum(np.hypot(d[..., 0], d[..., 1]), 1e-12)
    return 0.5 + d[..., 0] / across * angle / 2, 0.5 - d[..., 1] / across * angle / 2


def _on_cross(d: np.ndarray, *, upright: bool) -> tuple[np.ndarray, np.ndarray]:
    """Places [0, 1] of directions on a cross."""
    x, y, z = d[..., 0], d[..., 1], d[..., 2]
    ax, ay, az = np.abs(x), np.abs(y), np.abs(z)
    front, back = (az >= ax) & (az >= ay) & (z < 0), (az >= ax) & (az >= ay) & (z >= 0)
    right, left = (ax > az) & (ax >= ay) & (x > 0), (ax > az) & (ax >= ay) & (x <= 0)
    up = (ay > ax) & (ay > az) & (y > 0)
    most = np.maximum(np.maximum(ax, ay), az)
    column, row = np.ones_like(x), np.where(up, 0.0, 2.0)
    # Straight up and down lie above and below the face ahead, and go on from it.
    u, v = x / most, np.where(up, -z, z) / most
    faces = (
        (front, 1, 1, x, -y),
        (right, 2, 1, z, -y),
        (left, 0, 1, -z, -y),
        (back, 1, 3, x, y) if upright else (back, 3, 1, -x, -y),
    )
    for mask, at_column, at_row, across, down in faces:
        column, row = np.where(mask, at_column, column), np.where(mask, at_row, row)
        u, v = np.where(mask, across / most, u), np.where(mask, down / most, v)
    columns, rows = (3, 4) if upright else (4, 3)
    return (column + (u + 1) / 2) / columns, (row + (v + 1) / 2) / rows


def _bilinear(pixels: np.ndarray, x: np.ndarray, y: np.ndarray) -> np.ndarray:
    height, width = pixels.shape[:2]
    x0, y0 = np.floor(x).astype(int), np.floor(y).astype(int)
    fx, fy = (x - x0)[..., None].astype(np.float32), (y - y0)[..., None].astype(np.float32)
    x1, y1 = np.clip(x0 + 1, 0, width - 1), np.clip(y0 + 1, 0, height - 1)
    x0, y0 = np.clip(x0, 0, width - 1), np.clip(y0, 0, height - 1)
    low = pixels[y0, x0] * (1 - fx) + pixels[y0, x1] * fx
    high = pixels[y1, x0] * (1 - fx) + pixels[y1, x1] * fx
    return np.asarray(low * (1 - fy) + high * fy, np.float32)
