"""Triangles that glow, as rows that kernels sample.

In: triangles of one part in world space and their luminance. Out: `EmissiveTriangles`. Called by `compile.light_rows`,
which keeps them while their part stays as it is: a glowing mesh may have a hundred thousand.
"""

from dataclasses import dataclass

import numpy as np

from lantern.light.shapes import CAMERA_SEES, LIGHT, REFLECTIONS_SEE, TRIANGLE


@dataclass(frozen=True, eq=False)
class EmissiveTriangles:
    """Triangles of one emissive part."""

    part: int
    two_sided: bool
    rows: np.ndarray  # (n,) rows of LIGHT; their trails in the light tree are not known yet
    low: np.ndarray  # (n, 3) m, bounds
    high: np.ndarray  # (n, 3) m
    power: np.ndarray  # (n,) mean cd/m² times m²


@dataclass(frozen=True)
class GlowingPart:
    """What the lights of a part's triangles have in common."""

    part: int
    group: int
    mirrored: bool  # the outside of its triangles is where their corners run clockwise
    two_sided: bool
    glossy: bool  # gloss shows it


def emissive_triangles(glow: GlowingPart, corners: np.ndarray, luminance: np.ndarray) -> EmissiveTriangles:
    """Rows of the triangles of a part: corners (n, 3, 3) [m] as the mesh orders them, luminance (n,) mean [cd/m²]."""
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    normal = np.cross(b - a, c - a)
    twice = np.linalg.norm(normal, axis=1)
    rows = np.zeros(len(corners), LIGHT.dtype)
    rows["kind"], rows["group"] = TRIANGLE, glow.group
    rows["seen"] = CAMERA_SEES | (REFLECTIONS_SEE if glow.glossy else 0)
    rows["casts"], rows["link"], rows["profile"] = 1, -1, -1
    rows["two_sided"] = glow.two_sided
    rows["position"], rows["across"], rows["along"] = a, b - a, c - a
    outside = -1.0 if glow.mirrored else 1.0
    rows["normal"] = outside * normal / np.maximum(twice, 1e-30)[:, None]
    rows["area"], rows["part"], rows["primitive"] = twice / 2, glow.part, np.arange(len(corners))
    power = luminance * twice / 2 * (2 if glow.two_sided else 1)
    return EmissiveTriangles(glow.part, glow.two_sided, rows, corners.min(axis=1), corners.max(axis=1), power)
