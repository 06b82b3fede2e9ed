"""Maps of other layouts: each direction shows what it showed in the file."""

import math

import numpy as np
import pytest

from lantern.engine.map_layouts import as_lat_long, layout_of


def looked_up(directions):
    """A smooth light all around that no two directions share."""
    return np.stack([2 + directions[..., 0], 2 + directions[..., 1], 2 + directions[..., 2]], -1).astype(np.float32)


def lat_long(rows):
    theta = (np.arange(rows) + 0.5) / rows * math.pi
    phi = ((np.arange(2 * rows) + 0.5) / (2 * rows) - 0.5) * 2 * math.pi
    s, c = np.sin(theta)[:, None], np.cos(theta)[:, None]
    return np.stack([s * np.sin(phi), np.broadcast_to(c, (rows, 2 * rows)), -s * np.cos(phi)], -1)


def cross(side, *, upright):
    """A cross of a cube's faces, each drawn by its own axes: right, down, ahead."""
    faces = {
        (1, 0): ((1, 0, 0), (0, 0, -1), (0, 1, 0)),  # above: its lower edge meets the face ahead
        (1, 1): ((1, 0, 0), (0, -1, 0), (0, 0, -1)),
        (1, 2): ((1, 0, 0), (0, 0, 1), (0, -1, 0)),
        (0, 1): ((0, 0, -1), (0, -1, 0), (-1, 0, 0)),
        (2, 1): ((0, 0, 1), (0, -1, 0), (1, 0, 0)),
    }
    faces |= {(1, 3): ((1, 0, 0), (0, 1, 0), (0, 0, 1))} if upright else {(3, 1): ((-1, 0, 0), (0, -1, 0), (0, 0, 1))}
    columns, rows = (3, 4) if upright else (4, 3)
    pixels = np.zeros((rows * side, columns * side, 3), np.float32)
    place = (np.arange(side) + 0.5) / side * 2 - 1
    for (column, row), axes in faces.items():
        right, down, ahead = (np.array(axis, float) for axis in axes)
        d = place[None, :, None] * right + place[:, None, None] * down + ahead
        d /= np.linalg.norm(d, axis=-1, keepdims=True)
        pixels[row * side : (row + 1) * side, column * side : (column + 1) * side] = looked_up(d)
    return pixels


def ball(side):
    place = (np.arange(side) + 0.5) / side * 2 - 1
    x, y = np.meshgrid(place, -place)
    r = np.hypot(x, y)
    angle, around = np.minimum(r, 1) * math.pi, np.maximum(r, 1e-9)
    d = np.stack([np.sin(angle) * x / around, np.sin(angle) * y / around, -np.cos(angle)], -1)
    return looked_up(d)


@pytest.mark.parametrize(
    "pixels", [cross(64, upright=True), cross(64, upright=False), ball(256)], ids=["up", "lying", "ball"]
)
def test_every_direction_shows_what_it_showed(pixels):
    found = as_lat_long(pixels)
    away = np.abs(found - looked_up(lat_long(found.shape[0]))).max(axis=-1)
    # Texels at the edges of faces blend with what lies beside them in the file.
    assert np.percentile(away, 85) < 0.02 and np.median(away) < 0.003


def test_a_layout_is_told_by_its_sides():
    sides = {(2048, 1024): "lat_long", (900, 1200): "cross_upright", (1200, 900): "cross_lying", (512, 512): "ball"}
    assert {side: layout_of(*side) for side in sides} == sides
    plain = np.ones((8, 16, 3), np.float32)
    assert as_lat_long(plain) is plain
