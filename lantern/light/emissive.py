"""Triangles that glow, as rows that kernels sample.

In: triangles of one part in world space and their luminance. Out: `EmissiveTriangles`. Called by `trace.light_rows`,
which keeps them while their part stays as it is: a glowing mesh may have a hundred thousand.
"""

from dataclasses import dataclass

import numpy as np

from lantern.light.shapes import CAMERA_SEES, LIGHT, REFLECTIONS_SEE, TRIANGLE


@dataclass(frozen=True, eq=False)
class EmissiveTriangles:
    """Triangles of one emissive part."""

    part: int
    rows: np.ndarray  # (n,) rows of LIGHT; their trails in the light tree are not known yet
    low: np.ndarray  # (n, 3) m, bounds
    high: np.ndarray  # (n, 3) m
    power: np.ndarray  # (n,) mean cd/m² times m²


def emissive_triangles(part: int, corners: np.ndarray, luminance: np.ndarray, group: int) -> EmissiveTriangles:
    """Rows of the triangles of part number `part`: corners (n, 3, 3) [m], luminance (n,) mean [cd/m²] of each."""
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    normal = np.cross(b - a, c - a)
    twice = np.linalg.norm(normal, axis=1)
    rows = np.zeros(len(corners), LIGHT.dtype)
    rows["kind"], rows["group"], rows["seen"] = TRIANGLE, group, CAMERA_SEES | REFLECTIONS_SEE
    rows["casts"], rows["link"], rows["profile"] = 1, -1, -1
    rows["position"], rows["across"], rows["along"] = a, b - a, c - a
    rows["normal"] = normal / np.maximum(twice, 1e-30)[:, None]
    rows["area"], rows["part"], rows["primitive"] = twice / 2, part, np.arange(len(corners))
    return EmissiveTriangles(part, rows, corners.min(axis=1), corners.max(axis=1), luminance * twice / 2)
