"""Rows of the parts whose edges are shaded as if they were rounded.

In: parts, the meshes that they are shown as, where they stand. Out: rows for `rays.rounding`, and which of
them is whose. Called by `geometry`. Edges of a mesh are looked for once; another radius makes another grid.
"""

from collections.abc import Sequence

import numpy as np

from lantern.assets.mesh import Mesh
from lantern.rays.rounding import ROUNDING, ROUNDING_WIDTH, WIDEST
from lantern.scene.document import Part
from lantern.shaping.edges import edge_grid, sharp_edges

MOST_TRIANGLES = 4_000_000
"""Of a mesh whose edges are looked for: somebody is waiting."""
_LEAST_SCALE = 1e-12


class EdgeRows:
    """Rows of ROUNDING, one for each mesh and radius that some part is shaded by."""

    def __init__(self) -> None:
        self._sharp: dict[Mesh, np.ndarray] = {}
        self._known: dict[tuple[Mesh, float], tuple[np.ndarray, object] | None] = {}
        """Row, and what its addresses point to; None where there is no edge."""
        self.rows = np.zeros((1, ROUNDING_WIDTH), np.uint64)
        self.problems: list[str] = []
        """What of the document's wishes could not be had."""

    @property
    def are_there(self) -> bool:
        """Whether some part has a row, or was refused one."""
        return bool(self._known or self.problems)

    def bring(self, rounded: Sequence[tuple[int, Part, Mesh, np.ndarray]]) -> dict[int, int]:
        """Rows by part; `rounded` says of each part with rounded edges its number, its mesh, and its pose (3, 4)."""
        self.problems = []
        found: dict[int, int] = {}
        wanted: dict[tuple[Mesh, float], tuple[np.ndarray, object] | None] = {}
        places: dict[tuple[Mesh, float], int] = {}
        sharp: dict[Mesh, np.ndarray] = {}
        for number, part, mesh, pose in rounded:
            if problem := _hindrance(mesh):
                self.problems.append(f"{part.name}: its edges are not rounded, {problem}")
                continue
            scale = abs(float(np.linalg.det(pose[:, :3]))) ** (1 / 3)
            if scale < _LEAST_SCALE or part.edge_radius is None:
                continue
            key = mesh, float(np.float32(part.edge_radius / scale))
            if key not in wanted:
                if mesh not in sharp:
                    sharp[mesh] = self._sharp[mesh] if mesh in self._sharp else sharp_edges(mesh)
                wanted[key] = self._known[key] if key in self._known else _row(sharp[mesh], key[1])
            if wanted[key] is not None:
                found[number] = places.setdefault(key, len(places))
        self._sharp, self._known = sharp, wanted
        rows = [row[0] for key in places if (row := wanted[key]) is not None]
        self.rows = np.stack(rows) if rows else np.zeros((1, ROUNDING_WIDTH), np.uint64)
        return found


def _hindrance(mesh: Mesh) -> str | None:
    """Why the edges of a mesh cannot be rounded."""
    if mesh.shapes is not None:
        return "because it changes its shape"
    return "because it has too many triangles" if mesh.triangles > MOST_TRIANGLES else None


def _row(edges: np.ndarray, radius: float) -> tuple[np.ndarray, object] | None:
    grid = edge_grid(edges, WIDEST * radius)
    if grid is None:
        return None
    frame = np.array([*grid.origin, 1 / grid.side, radius], np.float32)
    named: dict[str, np.ndarray | int] = {
        "edges": grid.edges,
        "cells": grid.cells,
        "count": len(grid.cells),
        "starts": grid.starts,
        "listed": grid.listed,
        "frame": frame,
        "across": int(grid.counts[0]),
        "down": int(grid.counts[1]),
    }
    return ROUNDING.block(named), (grid, frame)
