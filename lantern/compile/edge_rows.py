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
from lantern.scene.inputs import MaterialInput
from lantern.scene.sources import WornSource
from lantern.shaping.edges import MOST_EDGES, MeshEdges, bends, edge_grid, mesh_edges, thinned

MOST_TRIANGLES = 2_000_000
"""Of a mesh whose edges are looked for: somebody is waiting."""
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


_Row = tuple[np.ndarray, tuple[np.ndarray, ...]]
"""A row, and what its addresses point to."""
KEPT_BYTES = 128 << 20
"""Of rows that nothing asks for just now: to go back to a material costs none anew, as between two variants."""


class EdgeRows:
    """Rows of ROUNDING, one for each mesh and reach that some part asks for."""

    def __init__(self) -> None:
        self._edges: dict[Mesh, MeshEdges] = {}
        self._known: dict[_Key, _Row | str | None] = {}
        """A reason where they cannot be had, None where there is no edge."""
        self._unasked: dict[_Key, _Row | str | None] = {}
        """Rows of before, the last to be let go of behind."""
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
        wanted: dict[_Key, _Row | str | None] = {}
        places: dict[_Key, int] = {}
        found = []
        for one in asked:
            reason = _hindrance(one)
            key = None if reason else _key(one)
            if key is not None:
                if key not in wanted:
                    wanted[key] = self._had(key)
                    if isinstance(wanted[key], tuple):
                        places[key] = len(places)
                row = wanted[key]
                reason = row if isinstance(row, str) else None
            if reason:
                what = "rounded" if one.rounds else "looked for"
                self.problems.append(f"{one.part.name}: its edges are not {what}, because it {reason}")
            found.append(-1 if key is None else places.get(key, -1))
        before = {**self._unasked, **self._known}
        self._unasked = _newest({key: row for key, row in before.items() if key not in wanted})
        self._edges = {key.mesh: self._edges[key.mesh] for key in wanted if key.mesh in self._edges}
        self._known = wanted
        rows = [row[0] for row in wanted.values() if isinstance(row, tuple)]
        self.rows = np.stack(rows) if rows else np.zeros((1, ROUNDING_WIDTH), np.uint64)
        return found

    def _had(self, key: _Key) -> _Row | str | None:
        for rows in (self._known, self._unasked):
            if key in rows:
                return rows[key]
        return self._row(key)

    def _row(self, key: _Key) -> _Row | str | None:
        if key.mesh not in self._edges:
            self._edges[key.mesh] = mesh_edges(key.mesh)
        every = self._edges[key.mesh]
        edges = every.chosen() if key.rounds else thinned(every.chosen(key.reach), key.reach)
        if len(edges) > MOST_EDGES:
            return f"has {len(edges):,} of them, and {MOST_EDGES:,} are the most"
        if key.inside_out:
            edges = edges * np.append(np.ones(18, np.float32), np.float32(-1.0))
        grid = edge_grid(edges, WIDEST * key.reach if key.rounds else key.reach)
        bend = np.zeros(0, np.float32) if key.rounds else bends(key.mesh) * (-1 if key.inside_out else 1)
        if grid is None and (key.rounds or not bend.any()):
            return None
        if grid is None:
            nothing = np.zeros(5, np.float32)
            return ROUNDING.block({"bends": bend, "frame": nothing}), (bend, nothing)
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
        return ROUNDING.block(named), (grid.edges, grid.cells, grid.starts, grid.listed, frame, bend)


def _newest(rows: dict[_Key, _Row | str | None]) -> dict[_Key, _Row | str | None]:
    """The last of rows that fit into KEPT_BYTES, in their order."""
    kept, size = {}, 0
    for key, row in reversed(rows.items()):
        size += sum(each.nbytes for each in row[1]) if isinstance(row, tuple) else 0
        if size <= KEPT_BYTES:
            kept[key] = row
    return dict(reversed(kept.items()))


def _key(one: WantedEdges) -> _Key | None:
    """What a row for it is made of; None of what has no size."""
    scale = abs(float(np.linalg.det(one.pose[:, :3]))) ** (1 / 3)
    if scale < _LEAST_SCALE:
        return None
    return _Key(one.mesh, float(np.float32(one.reach / scale)), one.rounds, one.part.inside_out)


def _hindrance(one: WantedEdges) -> str | None:
    """Why the edges of a part cannot be had."""
    if one.rounds and one.mesh.shapes is not None:
        return "changes its shape"
    return "has too many triangles" if one.mesh.triangles > MOST_TRIANGLES else None


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
