"""Meshes from corners: each corner of a triangle brings its own normal, texture coordinates and colour.

In: arrays by corner. Out: a `Mesh` whose vertices are shared where all of them agree. Called by readers of formats that
index their attributes one by one.
"""

import numpy as np

from lantern.assets.mesh import Mesh, unit_normals

_NORMAL_STEPS, _SHADES = 10_000, 65_535


def mesh_of_corners(
    positions: np.ndarray,
    indices: np.ndarray,
    normals: np.ndarray,
    uvs: np.ndarray | None = None,
    colors: np.ndarray | None = None,
) -> Mesh:
    """A mesh of (n, 3) positions and (m, 3) triangles.

    Of their corners come (3m, 3) normals, (sets, 3m, 2) texture coordinates and (3m, 4) linear colours. Normals that
    differ by less than a ten-thousandth are one.
    """
    normals = unit_normals(normals)
    alike = np.asarray(indices).ravel().astype(np.int64)
    alike = together(alike, packed(np.round((normals + 1) * _NORMAL_STEPS)))
    for coordinates in () if uvs is None else uvs:
        alike = together(alike, np.ascontiguousarray(coordinates, np.float32).view(np.int64)[:, 0])
    if colors is not None:
        alike = together(alike, packed(np.round(np.clip(colors[:, :3], 0, 1) * _SHADES)))
        alike = together(alike, np.round(np.clip(colors[:, 3], 0, 1) * _SHADES).astype(np.int64))
    _, first, corners = np.unique(alike, return_index=True, return_inverse=True)
    return Mesh(
        np.ascontiguousarray(positions[np.asarray(indices).ravel()[first]], np.float32),
        corners.reshape(-1, 3).astype(np.uint32),
        np.ascontiguousarray(normals[first]),
        None if uvs is None else np.ascontiguousarray(uvs[:, first], np.float32),
        None,
        colors=None if colors is None else np.ascontiguousarray(colors[first], np.float32),
    )


def packed(rows: np.ndarray) -> np.ndarray:
    """(n,) int64 that are equal where (n, 3) whole numbers in [0, 2^21) are: far quicker to sort than rows."""
    a, b, c = rows.astype(np.int64).T
    return (a << 42) | (b << 21) | c


def together(one: np.ndarray, other: np.ndarray) -> np.ndarray:
    """(n,) int64 that are equal where both of two (n,) int64 are; what goes in must be below 2^31, or is numbered."""
    _, other = np.unique(other, return_inverse=True)
    return np.unique(one * (np.int64(other.max()) + 1) + other, return_inverse=True)[1] if len(one) else one
