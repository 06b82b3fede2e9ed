"""Shapes as vertex grids: turned profiles, swept bands. Every grid brings smooth normals and UVs."""

import itertools
import math
from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True, eq=False)
class Shape:
    """A triangle mesh with normals and UVs, lengths in metres."""

    positions: np.ndarray  # (n, 3) float32
    normals: np.ndarray  # (n, 3) float32
    uvs: np.ndarray  # (n, 2) float32
    indices: np.ndarray  # (m, 3) uint32


def from_grid(points: np.ndarray, uvs: np.ndarray) -> Shape:
    """A (rows, columns, 3) grid of points as a mesh; the outside is along d(row) × d(column).

    Columns that close on themselves share their normals. Triangles without area (at a pole) are left out.
    """
    rows, columns = points.shape[:2]
    along, across = np.gradient(points, axis=0), np.gradient(points, axis=1)
    if np.allclose(points[:, 0], points[:, -1], atol=1e-9):
        across[:, 0] = across[:, -1] = (points[:, 1] - points[:, -2]) / 2
    normals = np.cross(along, across)
    length = np.linalg.norm(normals, axis=2, keepdims=True)
    poles = length[..., 0] < 1e-12
    normals = normals / np.maximum(length, 1e-12)
    for row, column in np.argwhere(poles):
        # A pole takes the direction that the ring beside it shares.
        ring = normals[1 if row == 0 else row - 1].mean(axis=0)
        normals[row, column] = ring / max(float(np.linalg.norm(ring)), 1e-12)
    number = np.arange(rows * columns, dtype=np.uint32).reshape(rows, columns)
    a, b, c, d = number[:-1, :-1], number[:-1, 1:], number[1:, :-1], number[1:, 1:]
    indices = np.concatenate([np.stack([a, c, b], -1).reshape(-1, 3), np.stack([b, c, d], -1).reshape(-1, 3)])
    flat = points.reshape(-1, 3)
    corners = flat[indices]
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    return Shape(
        flat.astype(np.float32),
        normals.reshape(-1, 3).astype(np.float32),
        uvs.reshape(-1, 2).astype(np.float32),
        indices[area > 1e-14],
    )


def rounded(profile: list[tuple[float, float, float]], arc_steps: int = 6) -> np.ndarray:
    """A polyline of (x, y, corner radius) with its corners rounded by arcs, as (n, 2)."""
    points: list[np.ndarray] = []
    for i, (x, y, radius) in enumerate(profile):
        corner = np.array([x, y])
        if radius <= 0 or i in (0, len(profile) - 1):
            points.append(corner)
            continue
        before, after = np.array(profile[i - 1][:2]) - corner, np.array(profile[i + 1][:2]) - corner
        u, v = before / np.linalg.norm(before), after / np.linalg.norm(after)
        half = math.acos(float(np.clip(u @ v, -1, 1))) / 2
        reach = min(radius / max(math.tan(half), 1e-6), 0.45 * np.linalg.norm(before), 0.45 * np.linalg.norm(after))
        for t in np.linspace(0, 1, arc_steps + 1):
            # A quadratic through the corner: round enough at millimetre scale.
            points.append(corner + u * reach * (1 - t) ** 2 + v * reach * t**2)
    return np.array(points)


def dense(polyline: np.ndarray, spacing: float) -> np.ndarray:
    """A polyline with points added so that no segment is longer than `spacing`; existing points stay."""
    out = [polyline[0]]
    for a, b in itertools.pairwise(polyline):
        steps = max(1, math.ceil(float(np.linalg.norm(b - a)) / spacing))
        out.extend(a + (b - a) * k / steps for k in range(1, steps + 1))
    return np.array(out)


def turned(profile: np.ndarray, segments: int, ripple: np.ndarray | None = None, u_repeat: float = 1.0) -> Shape:
    """A profile of (radius, height) turned about +Y; listed upwards on the outside.

    `ripple` (segments + 1,) is added to the radius around the axis; its last entry equals its first.
    """
    angle = np.linspace(0, 2 * math.pi, segments + 1)
    radius = np.maximum(profile[:, :1] + (np.zeros(segments + 1) if ripple is None else ripple), 0.0)
    points = np.stack(
        [radius * np.sin(angle), np.broadcast_to(profile[:, 1:], radius.shape), radius * np.cos(angle)], axis=-1
    )
    points[:, -1] = points[:, 0]
    steps = np.linalg.norm(np.diff(profile, axis=0), axis=1)
    v = np.concatenate([[0.0], np.cumsum(steps)]) / max(steps.sum(), 1e-9)
    uvs = np.stack(np.meshgrid(np.linspace(0, u_repeat, segments + 1), 1 - v), axis=-1)
    return from_grid(points[::-1], uvs[::-1])


def swept(path: np.ndarray, section: np.ndarray, side: np.ndarray, uv_scale: tuple[float, float]) -> Shape:
    """A closed cross-section (k, 2) carried along a path (n, 3), counter-clockwise seen against the path.

    `side` (3,) is the section's first axis throughout; the second is perpendicular to it and the path.
    """
    tangent = np.gradient(path, axis=0)
    tangent /= np.linalg.norm(tangent, axis=1, keepdims=True)
    up = np.cross(tangent, side)
    up /= np.linalg.norm(up, axis=1, keepdims=True)
    ring = np.concatenate([section, section[:1]])
    points = path[:, None] + ring[None, :, :1] * side + ring[None, :, 1:] * up[:, None]
    along = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(path, axis=0), axis=1))])
    around = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(ring, axis=0), axis=1))])
    uvs = np.stack(np.meshgrid(around * uv_scale[0], along * uv_scale[1]), axis=-1)
    return from_grid(points, uvs)


def merged(*shapes: Shape) -> Shape:
    """Several shapes as one mesh."""
    offsets = np.cumsum([0] + [len(s.positions) for s in shapes[:-1]])
    return Shape(
        np.concatenate([s.positions for s in shapes]),
        np.concatenate([s.normals for s in shapes]),
        np.concatenate([s.uvs for s in shapes]),
        np.concatenate([s.indices + np.uint32(o) for s, o in zip(shapes, offsets, strict=True)]),
    )


def moved(shape: Shape, offset: tuple[float, float, float]) -> Shape:
    """A shape shifted by `offset` [m]."""
    return Shape(shape.positions + np.array(offset, np.float32), shape.normals, shape.uvs, shape.indices)
