"""Quadrangles found again in meshes that were cut into triangles: a subdivision of those follows the shape.

In: triangles. Out: faces of four corners and of three. Called by `density`.
"""

import numpy as np

FLAT = np.cos(np.radians(30))
"""Triangles that meet at more than 30° were never one face."""
SQUARE = 0.94
"""Largest |cosine| of a corner of a quadrangle that is taken for one."""
_NEXT = 0.05
"""How much less square the next triangle in the file may be: most files list the halves of a face together."""


def paired(points: np.ndarray, corners: np.ndarray, alike: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """((f,) corners of each face, (c,) numbers of corners) of (m, 3) triangles over points.

    `alike` (3m,) is equal for corners that have all in common: what lies across a seam stays apart. The squarest pairs
    are joined first.
    """
    a, b, across, square = _candidates(points, corners, alike.reshape(-1, 3))
    joined = np.zeros(len(corners), bool)
    kept = []
    # Plain numbers: looking up single entries of arrays would take most of the time.
    taken = bytearray(len(corners))
    for number in np.argsort(square, kind="stable").tolist():
        one, other = a[number], b[number]
        if not taken[one] and not taken[other]:
            taken[one] = taken[other] = 1
            kept.append(number)
    if kept:
        joined[a[kept]] = joined[b[kept]] = True
    quads = across[kept].reshape(-1, 4)
    left = np.flatnonzero(~joined)
    threes = (left[:, None] * 3 + np.arange(3)).ravel()
    return np.concatenate([np.full(len(quads), 4), np.full(len(left), 3)]), np.concatenate([quads.ravel(), threes])


def _candidates(
    points: np.ndarray, corners: np.ndarray, alike: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Pairs of triangles that could be one face: ((k,), (k,)), its (k, 4) corners, (k,) how far it is from square."""
    starts, ends = alike.ravel(), np.roll(alike, -1, axis=1).ravel()
    along = (starts.astype(np.int64) << 32) | ends
    back = (ends.astype(np.int64) << 32) | starts
    order = np.argsort(along, kind="stable")
    at = np.minimum(np.searchsorted(along[order], back), len(order) - 1)
    partner = order[at]
    _, edge, counts = np.unique(along, return_inverse=True, return_counts=True)
    is_single = counts[edge] == 1
    here = np.flatnonzero((along[partner] == back) & is_single & is_single[partner])
    here = here[here < partner[here]]
    there = partner[here]
    a, b = here // 3, there // 3
    # From the corner opposite the edge, round: its start, the other's opposite corner, its end.
    own, other = 3 * a + (here % 3 + 2) % 3, 3 * b + (there % 3 + 2) % 3
    quad = np.column_stack([own, here, other, there])
    places = points[corners.ravel()[quad]].astype(np.float64)
    sides = np.roll(places, -1, axis=1) - places
    length = np.linalg.norm(sides, axis=2)
    unit = sides / np.maximum(length, 1e-300)[..., None]
    turns = -np.einsum("kci,kci->kc", unit, np.roll(unit, 1, axis=1))
    normals = np.cross(np.roll(unit, 1, axis=1), unit)
    whole = normals.sum(axis=1)
    convex = (np.einsum("kci,ki->kc", normals, whole) > 0).all(axis=1)
    faces = [np.cross(unit[:, i], unit[:, (i + 1) % 4]) for i in (3, 1)]
    flat = np.einsum("ki,ki->k", *faces) >= FLAT * np.linalg.norm(faces[0], axis=1) * np.linalg.norm(faces[1], axis=1)
    worst = np.abs(turns).max(axis=1)
    good = convex & flat & (worst < SQUARE) & (length.min(axis=1) > 0)
    order_bonus = np.where(np.abs(a - b) == 1, 0.0, _NEXT)
    return a[good], b[good], quad[good], (worst + order_bonus)[good]
