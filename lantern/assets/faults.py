"""Where a mesh is not in order: its edges and triangles of which the import report says how many there are.

In: a mesh. Out: numbers of edges and triangles, or lines to be drawn. Called by `inspecting`, which counts, and by the
compiled scene, which shows. Vertices at one place are one.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from lantern.assets.corners import together
from lantern.assets.mesh import Mesh
from lantern.assets.smoothing import welded

Fault = Literal["open", "crowded", "doubled", "flat"]
"""Kinds that have a place on the mesh; named as findings are."""


def open_ones(counts: np.ndarray) -> np.ndarray:
    """Whether edges of so many triangles are open."""
    return counts == 1


def crowded_ones(counts: np.ndarray) -> np.ndarray:
    """Whether edges belong to more triangles than a surface has on its two sides."""
    return counts > 2


@dataclass(frozen=True, eq=False)
class Welded:
    """The triangles of a mesh that are more than an edge or a point, by welded vertices."""

    points: np.ndarray  # (n, 3)
    triangles: np.ndarray  # (m, 3) int64

    @classmethod
    def of(cls, mesh: Mesh) -> "Welded":
        points, indices = welded(mesh.positions, mesh.indices)
        # What collapses to an edge or a point has no neighbours.
        kept = (indices != np.roll(indices, 1, axis=1)).all(axis=1)
        return cls(points, indices[kept].astype(np.int64))

    def doubled(self) -> np.ndarray:
        """Numbers of the triangles that were there already."""
        corners = np.sort(self.triangles, axis=1)
        alike = together(together(corners[:, 0], corners[:, 1]), corners[:, 2])
        return np.setdiff1d(np.arange(len(corners)), np.unique(alike, return_index=True)[1])

    def edges(self, wanted: Callable[[np.ndarray], np.ndarray]) -> np.ndarray:
        """(k, 2) ends of the edges of which `wanted` says so, told how many triangles each has."""
        pairs = np.sort(self.triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
        names, counts = np.unique((pairs[:, 0] << 32) | pairs[:, 1], return_counts=True)
        chosen = names[wanted(counts)]
        return np.stack([chosen >> 32, chosen & 0xFFFFFFFF], axis=1)


def fault_lines(mesh: Mesh, kind: Fault) -> np.ndarray:
    """(k, 2, 3) float32 ends of the lines that show the faults of a kind: edges, or outlines of triangles."""
    if kind == "flat":
        return _outlines(mesh.positions, mesh.indices[flat_triangles(mesh.positions, mesh.indices)])
    net = Welded.of(mesh)
    if kind == "doubled":
        return _outlines(net.points, net.triangles[net.doubled()])
    return net.points[net.edges(open_ones if kind == "open" else crowded_ones)].astype(np.float32)


def flat_triangles(positions: np.ndarray, indices: np.ndarray) -> np.ndarray:
    """(m,) bool, whether triangles have no area."""
    places = positions[indices].astype(np.float64)
    return (np.cross(places[:, 1] - places[:, 0], places[:, 2] - places[:, 0]) == 0).all(axis=1)


def _outlines(points: np.ndarray, triangles: np.ndarray) -> np.ndarray:
    return points[triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)].astype(np.float32)
