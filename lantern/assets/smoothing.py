"""Normals for meshes that bring none: smooth where faces meet flatly, sharp where they meet at an edge.

In: positions and triangles. Out: a `Mesh`. Called by readers of formats without normals.
"""

import numpy as np

from lantern.assets.mesh import Mesh, unit_normals

SAME_PLACE = 2.0**-20
"""Of the size of a mesh: vertices so near are one, as those are that only rounding to 32 bits has told apart."""
SHARP_DEGREES = 40.0
"""Faces that meet at more than this have an edge between them."""
_CORNERS_AT_ONCE = 300_000
_NORMAL_STEPS, _SHADES = 10_000, 65_535


def smooth_mesh(
    positions: np.ndarray, indices: np.ndarray, colors: np.ndarray | None = None, sharp: float = SHARP_DEGREES
) -> Mesh:
    """A mesh of (n, 3) positions and (m, 3) triangles; `colors` are (n, 4) linear, `sharp` is in degrees.

    Vertices at one place with one colour are one. A corner's normal is the mean of those of the faces around its vertex
    that lie within `sharp` of its own, each by the angle that the face has there (Thürmer & Wüthrich, "Computing Vertex
    Normals from Polygonal Facets", JGT 3(1), 1998). Triangles without area are left out.
    """
    positions, indices, colors = _welded(positions, indices, colors)
    corners = positions[indices].astype(np.float64)
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(normals, axis=1)
    kept = area > 0
    indices, corners, normals = indices[kept], corners[kept], normals[kept] / area[kept, None]
    smooth = _corner_normals(indices, normals, _angles(corners), np.cos(np.radians(sharp)))
    # Corners of one vertex with one normal share it again.
    _, alike = np.unique(_packed(np.round((smooth + 1) * _NORMAL_STEPS)), return_inverse=True)
    _, first, inverse = np.unique(
        indices.ravel() * np.int64(len(alike)) + alike, return_index=True, return_inverse=True
    )
    vertices = indices.ravel()[first]
    return Mesh(
        np.ascontiguousarray(positions[vertices]),
        inverse.reshape(-1, 3).astype(np.uint32),
        unit_normals(smooth[first]),
        None,
        None,
        colors=None if colors is None else np.ascontiguousarray(colors[vertices]),
    )


def _welded(
    positions: np.ndarray, indices: np.ndarray, colors: np.ndarray | None
) -> tuple[np.ndarray, np.ndarray, np.ndarray | None]:
    low, size = positions.min(axis=0), max(float(np.ptp(positions, axis=0).max()), 1e-30)
    places = _packed(np.round((positions.astype(np.float64) - low) / (size * SAME_PLACE)))
    _, first, inverse = np.unique(places, return_index=True, return_inverse=True)
    if colors is not None:
        shades = _packed(np.round(np.clip(colors[:, :3], 0, 1) * _SHADES))
        _, shade = np.unique(shades, return_inverse=True)
        _, first, inverse = np.unique(inverse * np.int64(len(shade)) + shade, return_index=True, return_inverse=True)
    return positions[first], inverse[indices], None if colors is None else colors[first]


def _packed(rows: np.ndarray) -> np.ndarray:
    """(n,) int64 that are equal where (n, 3) whole numbers in [0, 2^21) are: far quicker to sort than rows."""
    a, b, c = rows.astype(np.int64).T
    return (a << 42) | (b << 21) | c


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
