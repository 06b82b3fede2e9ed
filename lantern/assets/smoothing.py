"""Normals for meshes that bring none: smooth where faces meet flatly, sharp where they meet at an edge.

In: positions and triangles. Out: a `Mesh`. Called by readers, for what comes without normals.
"""

import numpy as np

from lantern.assets.corners import mesh_of_corners, packed
from lantern.assets.mesh import Mesh

SAME_PLACE = 2.0**-20
"""Of the size of a mesh: vertices so near are one, as those are that only rounding to 32 bits has told apart."""
SHARP_DEGREES = 40.0
"""Faces that meet at more than this have an edge between them."""
_CORNERS_AT_ONCE = 300_000


def smooth_mesh(
    positions: np.ndarray,
    indices: np.ndarray,
    colors: np.ndarray | None = None,
    uvs: np.ndarray | None = None,
    sharp: float = SHARP_DEGREES,
) -> Mesh:
    """A mesh of (n, 3) positions and (m, 3) triangles.

    Corners have (3m, 4) linear colours and (sets, 3m, 2) texture coordinates; `sharp` is in degrees. Vertices at one
    place are one. A corner's normal is the mean of those of the faces around its vertex that lie within `sharp` of its
    own, each by the angle that the face has there (Thürmer & Wüthrich, "Computing Vertex Normals from Polygonal
    Facets", JGT 3(1), 1998). Triangles without area are left out.
    """
    positions, indices = welded(positions, indices)
    corners = positions[indices].astype(np.float64)
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(normals, axis=1)
    kept = area > 0
    indices, corners, normals = indices[kept], corners[kept], normals[kept] / area[kept, None]
    smooth = _corner_normals(indices, normals, _angles(corners), np.cos(np.radians(sharp)))
    three = np.repeat(kept, 3)
    return mesh_of_corners(
        positions,
        indices,
        smooth,
        None if uvs is None else uvs[:, three],
        None if colors is None else colors[three],
    )


def welded(positions: np.ndarray, indices: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Positions (k, 3) of vertices of which none are at one place, and triangles of them."""
    if not len(positions):
        return positions, indices
    low, size = positions.min(axis=0), max(float(np.ptp(positions, axis=0).max()), 1e-30)
    places = packed(np.round((positions.astype(np.float64) - low) / (size * SAME_PLACE)))
    _, first, inverse = np.unique(places, return_index=True, return_inverse=True)
    return positions[first], inverse[indices]


def _angles(corners: np.ndarray) -> np.ndarray:
    """(m, 3) angles [rad] of triangles at their corners."""
    found = np.empty(corners.shape[:2])
    for i in range(3):
        a = corners[:, (i + 1) % 3] - corners[:, i]
        b = corners[:, (i + 2) % 3] - corners[:, i]
        found[:, i] = np.arctan2(np.linalg.norm(np.cross(a, b), axis=1), np.einsum("ij,ij->i", a, b))
    return found


def _corner_normals(indices: np.ndarray, normals: np.ndarray, angles: np.ndarray, least: float) -> np.ndarray:
    """(3m, 3) normals of corners: of each the weighted mean of the faces at its vertex within reach of its own."""
    vertex, weight = indices.ravel(), angles.ravel()
    face = np.repeat(np.arange(len(indices)), 3)
    order = np.argsort(vertex, kind="stable")
    counts = np.bincount(vertex)
    starts = np.concatenate([[0], np.cumsum(counts)])
    found = np.empty((len(vertex), 3))
    for begin in range(0, len(vertex), _CORNERS_AT_ONCE):
        part = np.arange(begin, min(begin + _CORNERS_AT_ONCE, len(vertex)))
        around = counts[vertex[part]]
        mine = np.repeat(np.arange(len(part)), around)
        within = np.arange(len(mine)) - np.repeat(np.cumsum(around) - around, around)
        other = order[np.repeat(starts[vertex[part]], around) + within]
        theirs = normals[face[other]]
        near = np.einsum("ij,ij->i", theirs, normals[face[part]][mine]) >= least
        weighted = theirs * (weight[other] * near)[:, None]
        found[part] = np.stack([np.bincount(mine, weighted[:, i], len(part)) for i in range(3)], axis=1)
    return found
