"""The faces of a mesh as their file has them, before they are cut into triangles: what a subdivision starts from.

In: what a reader finds. Out: a `Cage`, kept beside the triangles of a `Mesh`. Made by readers of formats with faces of
any number of corners, and by `shaping.density` from triangles.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

INFINITE = 10.0
"""Sharpness from which an edge stays sharp at every level, as the formats that know of sharpness have it."""


@dataclass(frozen=True, eq=False)
class Channel:
    """Values that vary by the corner of a face: texture coordinates, colours."""

    values: np.ndarray  # (u, width) float32
    indices: np.ndarray  # (c,) int64, of each corner

    @classmethod
    def of(cls, values: np.ndarray, indices: np.ndarray | None = None) -> "Channel":
        """Of (n, width) values, by corner unless `indices` say otherwise; equal ones are one, so that faces hang
        together where a vertex was split for its normals."""
        unique, number = np.unique(values, axis=0, return_inverse=True)
        number = number.ravel()
        return cls(unique.astype(np.float32), (number if indices is None else number[indices]).astype(np.int64))


def _no_pairs() -> np.ndarray:
    return np.zeros((0, 2), np.int64)


def _no_numbers() -> np.ndarray:
    return np.zeros(0, np.float64)


@dataclass(frozen=True, eq=False)
class Cage:
    """Faces of three or more corners over shared points."""

    points: np.ndarray  # (p, 3) float32 [m], in the mesh's own space
    counts: np.ndarray  # (f,) int64 corners of each face
    corners: np.ndarray  # (c,) int64 point of each corner, face by face
    uvs: tuple[Channel, ...] = ()
    colors: Channel | None = None
    creases: np.ndarray = field(default_factory=_no_pairs)  # (k, 2) int64 ends of edges that are sharp
    sharpness: np.ndarray = field(default_factory=_no_numbers)  # (k,) float64, INFINITE or more for always

    @property
    def is_of_triangles(self) -> bool:
        return bool((self.counts == 3).all())


def cage_of_faces(
    points: np.ndarray,
    counts: np.ndarray,
    corners: np.ndarray,
    uvs: Sequence[Channel] = (),
    colors: Channel | None = None,
    creases: np.ndarray | None = None,
    sharpness: np.ndarray | None = None,
) -> Cage | None:
    """The cage of (f,) faces over some of the points (p, 3); None where triangles and normals say all that it would.

    Faces of fewer than three corners, and those that come back to a point, are left out.
    """
    face = np.repeat(np.arange(len(counts)), counts)
    order = np.argsort((face << 32) | corners, kind="stable")
    again = (np.diff(face[order]) == 0) & (np.diff(corners[order]) == 0)
    good = counts >= 3
    good[face[order][1:][again]] = False
    kept = good[face]
    used, numbers = np.unique(corners[kept], return_inverse=True)
    ends, sharp = _no_pairs(), _no_numbers()
    if creases is not None and sharpness is not None and len(creases) and len(used):
        at = np.minimum(np.searchsorted(used, creases), len(used) - 1)
        there = (used[at] == creases).all(axis=1)
        ends, sharp = at[there], sharpness[there]
    if not len(used) or ((counts[good] == 3).all() and not len(ends)):
        return None

    def of(channel: Channel) -> Channel:
        return Channel(channel.values, channel.indices[kept])

    return Cage(
        np.ascontiguousarray(points[used], np.float32), counts[good], numbers, tuple(of(channel) for channel in uvs),
        of(colors) if colors else None, ends, sharp,
    )  # fmt: skip
