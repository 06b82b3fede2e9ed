"""Polygons as triangles: convex ones as fans, the others by cutting off ears.

In: how many corners each face has, and their places. Out: triangles of corners. Called by readers of formats with faces
of any number of corners.
"""

import numpy as np

MOST_CORNERS = 4096
"""Of a face that is cut exactly; one with more is taken as a fan."""


def triangulated(counts: np.ndarray, corners: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(m, 3) numbers of corners of triangles and (m,) the face of each, of faces with (f,) corners at (sum, 3) places.

    Faces of fewer than three corners have none. Meisters, "Polygons have ears", Am. Math. Monthly 82(6), 1975.
    """
    counts = np.asarray(counts, np.int64)
    starts = np.cumsum(counts) - counts
    triangles, faces = [np.zeros((0, 3), np.int64)], [np.zeros(0, np.int64)]
    for count in np.unique(counts[counts >= 3]).tolist():
        chosen = np.flatnonzero(counts == count)
        fan = np.stack([np.zeros(count - 2, np.int64), np.arange(1, count - 1), np.arange(2, count)], axis=1)
        cut = np.repeat(fan[None], len(chosen), 0)
        if 3 < count <= MOST_CORNERS:
            for number in np.flatnonzero(_not_fans(corners, starts[chosen], fan)).tolist():
                start = starts[chosen[number]]
                cut[number] = _ears(corners[start : start + count], fan)
        triangles.append((cut + starts[chosen][:, None, None]).reshape(-1, 3))
        faces.append(np.repeat(chosen, count - 2))
    order = np.argsort(np.concatenate(faces), kind="stable")
    return np.concatenate(triangles)[order], np.concatenate(faces)[order]


def _not_fans(corners: np.ndarray, starts: np.ndarray, fan: np.ndarray) -> np.ndarray:
    """(f,) whether a triangle of a face's fan is turned against another."""
    places = corners[starts[:, None, None] + fan].astype(np.float64)
    normals = np.cross(places[:, :, 1] - places[:, :, 0], places[:, :, 2] - places[:, :, 0])
    whole = normals.sum(axis=1)
    return np.asarray((np.einsum("fti,fi->ft", normals, whole) < 0).any(axis=1))


def _ears(places: np.ndarray, fan: np.ndarray) -> np.ndarray:
    """(n - 2, 3) corners of the triangles of one simple polygon at (n, 3) places; the fan, if it is none."""
    flat = _flattened(places.astype(np.float64))
    left, cut = list(range(len(flat))), []
    while len(left) > 3:
        for i in range(len(left)):
            ear = left[i - 1], left[i], left[(i + 1) % len(left)]
            if _is_ear(flat, ear, left):
                cut.append(ear)
                left.pop(i)
                break
        else:
            return fan
    return np.array([*cut, left], np.int64)


def _flattened(places: np.ndarray) -> np.ndarray:
    """(n, 2) of a nearly plane polygon that runs against the clock (Newell's normal)."""
    following = np.roll(places, -1, axis=0)
    normal = np.cross(places, following).sum(axis=0)
    drop = int(np.argmax(np.abs(normal)))
    a, b = ((1, 2), (2, 0), (0, 1))[drop]
    return places[:, [a, b]] if normal[drop] >= 0 else places[:, [b, a]]


def _is_ear(flat: np.ndarray, ear: tuple[int, int, int], left: list[int]) -> bool:
    a, b, c = flat[list(ear)]
    if _side(a, b, c) <= 0:
        return False
    others = flat[[i for i in left if i not in ear]]
    within = (_side(a, b, others) >= 0) & (_side(b, c, others) >= 0) & (_side(c, a, others) >= 0)
    return not within.any()


def _side(a: np.ndarray, b: np.ndarray, points: np.ndarray) -> np.ndarray:
    """Above zero where points (..., 2) lie to the left of the line from a to b."""
    along, to = b - a, points - a
    return np.asarray(along[0] * to[..., 1] - along[1] * to[..., 0])
