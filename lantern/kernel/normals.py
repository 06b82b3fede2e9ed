"""Normals of fine surfaces, quickly: they are made again while a hand moves a displacement.

In: points, triangles, which of their corners share a normal. Out: unit normals. Called by `shaping.surface`.
"""

import math

import numpy as np
from numba import njit

from lantern.kernel.vectors import EXACT


@njit(cache=True, **EXACT)
def _add_faces(points, corners, groups, sums):
    """Add to sums (g, 3) the normals of triangles, of each at its three corners by its angle there."""
    for t in range(len(corners)):
        for i in range(3):
            here, ahead, behind = corners[t, i], corners[t, (i + 1) % 3], corners[t, (i + 2) % 3]
            x, y, z = points[here, 0], points[here, 1], points[here, 2]
            ax, ay, az = points[ahead, 0] - x, points[ahead, 1] - y, points[ahead, 2] - z
            bx, by, bz = points[behind, 0] - x, points[behind, 1] - y, points[behind, 2] - z
            nx, ny, nz = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
            length = math.sqrt(nx * nx + ny * ny + nz * nz)
            if length > 0.0:
                weight = math.atan2(length, ax * bx + ay * by + az * bz) / length
                group = groups[t, i]
                sums[group, 0] += nx * weight
                sums[group, 1] += ny * weight
                sums[group, 2] += nz * weight


def group_normals(points: np.ndarray, corners: np.ndarray, groups: np.ndarray, count: int) -> np.ndarray:
    """(count, 3) unit normals over points (p, 3) float64, of triangles with (m, 3) points and groups of their corners.

    Of each face around by its angle (Thürmer & Wüthrich, "Computing Vertex Normals from Polygonal Facets", JGT 3(1),
    1998); +Y where the faces cancel.
    """
    sums = np.zeros((count, 3))
    _add_faces(points, corners, groups, sums)
    length = np.linalg.norm(sums, axis=1, keepdims=True)
    return np.where(length > 1e-30, sums / np.maximum(length, 1e-30), [0.0, 1.0, 0.0])
