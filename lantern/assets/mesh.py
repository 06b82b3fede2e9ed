"""Triangle meshes: the arrays, their checks, and normals for files that bring none."""

from dataclasses import dataclass, replace

import numpy as np

from lantern.assets.cage import Cage

POINTS, LINES, TRIANGLES, STRIP, FAN = 0, 1, 4, 5, 6


@dataclass(frozen=True, eq=False)
class Mesh:
    """One triangle mesh in its own space, lengths in metres."""

    positions: np.ndarray  # (n, 3) float32
    indices: np.ndarray  # (m, 3) uint32
    normals: np.ndarray  # (n, 3) float32, unit
    uvs: np.ndarray | None  # (sets, n, 2) float32
    tangents: np.ndarray | None  # (n, 4) float32, w is the handedness
    shapes: "MeshShapes | None" = None  # when it deforms
    colors: np.ndarray | None = None  # (n, 4) float32, linear Rec. 709 and alpha
    cage: Cage | None = None  # faces as the file has them, where they are not these triangles

    @property
    def triangles(self) -> int:
        return len(self.indices)


@dataclass(frozen=True, eq=False)
class MeshShapes:
    """Where the vertices of a deforming mesh are at some moments."""

    times: tuple[float, ...]  # (k,) rising, k >= 2 [s]
    positions: np.ndarray  # (k, n, 3) float32
    normals: np.ndarray  # (k, n, 3) float32, unit


def triangulate(indices: np.ndarray, mode: int) -> np.ndarray:
    """(m, 3) uint32 triangles of a list, strip or fan (glTF 2.0, section 3.7.2.1)."""
    indices = indices.astype(np.uint32)
    if mode == TRIANGLES:
        return indices[: len(indices) // 3 * 3].reshape(-1, 3)
    count = max(len(indices) - 2, 0)
    i = np.arange(count)
    if mode == STRIP:
        odd = i % 2
        return (
            np.stack([indices[i], indices[i + 1 + odd], indices[i + 2 - odd]], 1)
            if count
            else np.zeros((0, 3), np.uint32)
        )
    return (
        np.stack([indices[i + 1], indices[i + 2], np.repeat(indices[:1], count)], 1)
        if count
        else np.zeros((0, 3), np.uint32)
    )


def flat_shaded(positions: np.ndarray, indices: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Unshared vertices with the normal of their triangle: (positions, indices, normals)."""
    corners = indices.ravel()
    spread = positions[corners]
    triangles = spread.reshape(-1, 3, 3)
    normals = np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0])
    length = np.linalg.norm(normals, axis=1, keepdims=True)
    normals = np.where(length > 0, normals / np.maximum(length, 1e-30), [0.0, 1.0, 0.0]).astype(np.float32)
    return spread, np.arange(len(corners), dtype=np.uint32).reshape(-1, 3), np.repeat(normals, 3, 0)


def unit_normals(normals: np.ndarray) -> np.ndarray:
    """Normals of length 1; a zero normal becomes +Y, so that nothing downstream divides by zero."""
    length = np.linalg.norm(normals, axis=1, keepdims=True)
    return np.where(length > 1e-12, normals / np.maximum(length, 1e-12), [0.0, 1.0, 0.0]).astype(np.float32)


def carried(mesh: Mesh, matrix: np.ndarray) -> Mesh:
    """A mesh in the space that a matrix (4, 4) brings it to."""
    linear = matrix[:3, :3]
    mirrored = float(np.linalg.det(linear)) < 0
    cofactors = np.cross(linear[[1, 2, 0]], linear[[2, 0, 1]]) * (-1 if mirrored else 1)
    normals = unit_normals(mesh.normals @ cofactors.T / max(float(np.abs(cofactors).max()), 1e-30))
    positions = (mesh.positions @ linear.T + matrix[:3, 3]).astype(np.float32)
    tangents = None
    if mesh.tangents is not None:
        tangents = np.column_stack([mesh.tangents[:, :3] @ linear.T, mesh.tangents[:, 3] * (-1 if mirrored else 1)])
    indices = mesh.indices[:, ::-1] if mirrored else mesh.indices
    return replace(mesh, positions=positions, normals=normals, tangents=tangents, indices=indices, cage=None)
