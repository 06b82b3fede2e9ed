"""Rows of the edges of parts: of those that are shaded as if they were rounded, of those whose materials ask for them.

In: parts, the meshes that they are shown as, where they stand, how far from an edge it matters. Out: rows for
`rays.rounding`, and which of them is whose. Called by `geometry`. Edges of a mesh are looked for once; another reach
makes another grid.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from lantern.assets.mesh import Mesh
from lantern.rays.rounding import ROUNDING, ROUNDING_WIDTH, WIDEST
from lantern.scene.document import Material, Part
from lantern.scene.inputs import MaterialInput, WornSource
from lantern.shaping.edges import bends, edge_grid, sharp_edges, thinned

MOST_TRIANGLES = 4_000_000
"""Of a mesh whose edges are looked for: somebody is waiting."""
_APART = 0.1
"""Of a mask's reach: edges closer together than that count as one."""
_LEAST_SCALE = 1e-12


@dataclass(frozen=True)
class WantedEdges:
    """Edges of a part that something asks for."""

    number: int  # of the part
    part: Part
    mesh: Mesh
    pose: np.ndarray  # (3, 4)
    reach: float  # m: the radius that they are rounded by, or how far from them a mask goes
    rounds: bool


@dataclass(frozen=True)
class _Key:
    """What a row is made of."""

    mesh: Mesh
    reach: float  # in units of the mesh
    rounds: bool
    inside_out: bool


_Row = tuple[np.ndarray, object]
"""A row, and what its addresses point to."""


class EdgeRows:
    """Rows of ROUNDING, one for each mesh and reach that some part asks for."""

    def __init__(self) -> None:
        self._sharp: dict[Mesh, np.ndarray] = {}
        self._known: dict[_Key, _Row | None] = {}
        """None where there is no edge."""
        self.rows = np.zeros((1, ROUNDING_WIDTH), np.uint64)
        self.problems: list[str] = []
        """What of the document's wishes could not be had."""

    @property
    def are_there(self) -> bool:
        """Whether some part has a row, or was refused one."""
        return bool(self._known or self.problems)

    def bring(self, asked: Sequence[WantedEdges]) -> list[int]:
        """The row of each that is asked for; -1 for none."""
        self.problems = []
        keys = [self._key(one) for one in asked]
        sharp: dict[Mesh, np.ndarray] = {}
        wanted: dict[_Key, _Row | None] = {}
        places: dict[_Key, int] = {}
        for key in keys:
            if key is None or key in wanted:
                continue
            if key in self._known:
                wanted[key] = self._known[key]
            elif not key.rounds:
                found = thinned(sharp_edges(key.mesh, key.reach), _APART * key.reach)
                wanted[key] = _row(found, key)
            else:
                if key.mesh not in sharp:
                    sharp[key.mesh] = self._sharp[key.mesh] if key.mesh in self._sharp else sharp_edges(key.mesh)
                wanted[key] = _row(sharp[key.mesh], key)
            if wanted[key] is not None:
                places[key] = len(places)
        every = self._sharp | sharp
        self._sharp = {key.mesh: every[key.mesh] for key in wanted if key.mesh in every}
        self._known = wanted
        rows = [row[0] for key in places if (row := wanted[key]) is not None]
        self.rows = np.stack(rows) if rows else np.zeros((1, ROUNDING_WIDTH), np.uint64)
        return [-1 if key is None else places.get(key, -1) for key in keys]

    def _key(self, one: WantedEdges) -> _Key | None:
        if problem := _hindrance(one):
            self.problems.append(problem)
            return None
        scale = abs(float(np.linalg.det(one.pose[:, :3]))) ** (1 / 3)
        if scale < _LEAST_SCALE:
            return None
        return _Key(one.mesh, float(np.float32(one.reach / scale)), one.rounds, one.part.inside_out)


def _hindrance(one: WantedEdges) -> str | None:
    """Why the edges of a part cannot be had."""
    what = "its edges are not rounded" if one.rounds else "its edges are not looked for"
    if one.rounds and one.mesh.shapes is not None:
        return f"{one.part.name}: {what}, because it changes its shape"
    if one.mesh.triangles > MOST_TRIANGLES:
        return f"{one.part.name}: {what}, because it has too many triangles"
    return None


def _row(sharp: np.ndarray, key: _Key) -> _Row | None:
    if key.inside_out:
        sharp = sharp * np.append(np.ones(18), -1.0)
    grid = edge_grid(sharp, WIDEST * key.reach if key.rounds else key.reach)
    bend = np.zeros(0, np.float32) if key.rounds else bends(key.mesh) * (-1 if key.inside_out else 1)
    if grid is None and (key.rounds or not bend.any()):
        return None
    if grid is None:
        return ROUNDING.block({"bends": bend, "frame": np.zeros(5, np.float32)}), bend
    frame = np.array([*grid.origin, 1 / grid.side, key.reach], np.float32)
    named: dict[str, np.ndarray | int] = {
        "edges": grid.edges,
        "cells": grid.cells,
        "count": len(grid.cells),
        "starts": grid.starts,
        "listed": grid.listed,
        "frame": frame,
        "across": int(grid.counts[0]),
        "down": int(grid.counts[1]),
        "bends": bend,
    }
    return ROUNDING.block(named), (grid, frame, bend)


def edge_reaches(materials: Mapping[str, Material]) -> dict[str, float]:
    """How far [m] from an edge it matters to each material that asks for edges: a step of √2 more than it says.

    A width that is dragged asks for another grid at these steps alone.
    """
    own = {key: _widest(material.inputs.values()) for key, material in materials.items() if material.inputs}
    found = {key: width for key, width in own.items() if width > 0}
    for key, material in materials.items():
        for layer in material.layers:
            width = max(_widest(layer.inputs()), own.get(layer.material, 0.0))
            if layer.enabled and width > 0:
                found[key] = max(found.get(key, 0.0), width)
    return {key: 2.0 ** (np.ceil(2 * np.log2(width) + 1e-9) / 2) for key, width in found.items()}


def _widest(inputs: Iterable[MaterialInput]) -> float:
    return max((one.source.width for one in inputs if isinstance(one.source, WornSource)), default=0.0)
