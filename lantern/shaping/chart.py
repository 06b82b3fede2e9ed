"""The board of 24 patches by which colours are judged: its published reference values, and its mesh.

In: its width. Out: a `Mesh` with a colour for each patch. Called by `forms`.
"""

import numpy as np

from lantern.assets.mesh import Mesh
from lantern.scene.colorimetry import linear_of_lab

COLUMNS, ROWS = 6, 4
GAP = 0.12
"""Of the frame between two patches, as a share of a patch."""
FRAME = 0.03
"""Reflectance of the frame."""
PATCHES_LAB = np.array(
    [
        (37.54, 14.37, 14.92), (64.66, 19.27, 17.50), (49.32, -3.82, -22.54),
        (43.46, -12.74, 22.72), (54.94, 9.61, -24.79), (70.48, -32.26, -0.37),
        (62.73, 35.83, 56.50), (39.43, 10.75, -45.17), (50.57, 48.64, 16.67),
        (30.10, 22.54, -20.87), (71.77, -24.13, 58.19), (71.51, 18.24, 67.37),
        (28.37, 15.42, -49.80), (54.38, -39.72, 32.27), (42.43, 51.05, 28.62),
        (81.80, 2.67, 80.41), (50.63, 51.28, -14.12), (49.57, -29.71, -28.32),
        (95.19, -1.03, 2.93), (81.29, -0.57, 0.44), (66.89, -0.75, -0.06),
        (50.76, -0.13, 0.14), (35.63, -0.46, -0.48), (20.64, 0.07, -0.46),
    ]
)  # fmt: skip
"""CIE L*a*b* under D50 seen by the 2° observer, by rows from the upper left: the values that are published for the
common chart of skin, sky, leaf, primary and grey patches, as made since the end of 2014."""


def patch_colors() -> np.ndarray:
    """(24, 3) linear Rec. 709 reflectances in [0, 1]; the cyan patch lies outside and has no red at all."""
    return np.clip(linear_of_lab(PATCHES_LAB), 0.0, 1.0)


def chart_mesh(width: float) -> Mesh:
    """The board, `width` metres wide, upright on Y = 0, its front towards +Z."""
    patch = width / (COLUMNS + (COLUMNS + 1) * GAP)
    across, up = _lines(COLUMNS) * patch - width / 2, _lines(ROWS) * patch
    columns, rows = len(across) - 1, len(up) - 1
    colors = np.full((rows, columns, 3), FRAME)
    colors[1::2, 1::2] = patch_colors().reshape(ROWS, COLUMNS, 3)[::-1]
    i, j = np.meshgrid(np.arange(rows), np.arange(columns), indexing="ij")
    corners = [(i, j), (i, j + 1), (i + 1, j + 1), (i + 1, j)]
    points = np.stack([np.stack([across[c], up[r], np.zeros(r.shape)], -1) for r, c in corners], axis=2).reshape(-1, 3)
    quads = np.arange(len(points)).reshape(-1, 4)
    colors = np.repeat(colors.reshape(-1, 3), 4, axis=0)
    return Mesh(
        np.ascontiguousarray(points, np.float32),
        np.concatenate([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]]).astype(np.uint32),
        np.tile(np.array([0.0, 0.0, 1.0], np.float32), (len(points), 1)),
        np.ascontiguousarray(points[:, :2], np.float32)[None],
        None,
        colors=np.column_stack([colors, np.ones(len(colors))]).astype(np.float32),
    )


def _lines(count: int) -> np.ndarray:
    """Where cells begin and end: a gap, a patch, a gap …, in patches."""
    return np.concatenate([[0.0], np.cumsum([GAP, *([1.0, GAP] * count)])])
