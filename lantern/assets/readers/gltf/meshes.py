"""Meshes of a glTF file: primitives with their shapes (glTF 2.0, sections 3.7.2.1 and 3.7.2.2).

In: a primitive and the weights of its shapes on the node that wears it. Out: one `Mesh`. Called by `asset`.
"""

from typing import Any

import numpy as np

from lantern.assets.mesh import FAN, LINES, STRIP, TRIANGLES, Mesh, MeshShapes, flat_shaded, unit_normals
from lantern.assets.readers.gltf.accessors import AccessorReader
from lantern.assets.readers.gltf.container import Container
from lantern.assets.readers.gltf.document import Entry
from lantern.assets.readers.gltf.motion import Motion
from lantern.assets.readers.gltf.primitives import PrimitiveArrays
from lantern.assets.readers.gltf.skins import Skins

MOST_POSED = 8_000_000
"""Vertices times moments of a deforming mesh: 200 MB."""


def is_skinned(node: Entry, primitive: Entry) -> bool:
    """Whether joints carry the vertices of a node's primitive."""
    return node.skin is not None and primitive.attributes.JOINTS_0 is not None


class MeshReader:
    """The meshes of one file, appended to `meshes` as they are asked for; one worn alike by several nodes is one."""

    def __init__(
        self, container: Container, reader: AccessorReader, motion: Motion, meshes: list[Mesh], problems: list[str]
    ) -> None:
        self._container, self._reader, self._motion = container, reader, motion
        self._meshes, self._problems = meshes, problems
        self._skins = Skins(container, reader, motion)
        self._numbers: dict[tuple[Any, ...], int | None] = {}

    def number_of(self, node_number: int, index: int) -> int | None:
        """Number of the mesh of a node's primitive; None, with a problem noted, for points and lines."""
        node = self._container.document.nodes[node_number]
        source = self._container.document.meshes[node.mesh]
        primitive = source.primitives[index]
        where = (node.mesh, index)
        times, weights = np.zeros(1), np.zeros((1, 0))
        if primitive.targets:
            rest = node.weights or source.weights or [0.0] * len(primitive.targets)
            times, weights = self._motion.shape_weights(node_number, rest)
            if weights.shape[1] != len(primitive.targets):
                raise self._reader.fail(
                    f"mesh {where[0]} primitive {where[1]}: {weights.shape[1]} weights for"
                    f" {len(primitive.targets)} shapes"
                )
        bones = None
        if is_skinned(node, primitive):
            moments = np.union1d(self._skins.moments(node.skin), times if len(times) > 1 else [])
            if len(moments) > 1:
                times, weights = moments, self._motion.shape_weights_at(node_number, moments, weights)
            bones = self._skins.bones(node.skin, moments)
        worn = (*where, node.skin, times.tobytes(), weights.tobytes())
        if worn not in self._numbers:
            mesh = self._read(where, primitive, times, weights, bones)
            self._numbers[worn] = None if mesh is None else len(self._meshes)
            self._meshes += [] if mesh is None else [mesh]
        return self._numbers[worn]

    def _read(
        self,
        where: tuple[int, int],
        primitive: Entry,
        times: np.ndarray,
        weights: np.ndarray,
        bones: np.ndarray | None,
    ) -> Mesh | None:
        here = f"mesh {where[0]} primitive {where[1]}"
        mode = TRIANGLES if primitive.mode is None else primitive.mode
        if mode not in (TRIANGLES, STRIP, FAN):
            self._problems.append(f"{here}: {'points' if mode < LINES else 'lines'} are not drawn")
            return None
        if primitive.attributes.POSITION is None:
            self._problems.append(f"{here}: has no positions and is left out")
            return None
        arrays = PrimitiveArrays(self._reader, primitive, here)
        positions = arrays.positions()
        indices = arrays.triangles(len(positions), mode)
        if not len(indices):
            self._problems.append(f"{here}: has no triangles and is left out")
            return None
        normals, tangents, uvs, colors = arrays.attributes(len(positions))
        if len(times) * len(positions) > MOST_POSED:
            kept = np.linspace(0, len(times) - 1, max(MOST_POSED // len(positions), 2)).astype(int)
            self._problems.append(f"{here}: of {len(times)} shapes over time {len(kept)} are kept")
            times, weights = times[kept], weights[kept]
            bones = None if bones is None else bones[kept]
        poses, bent = self._posed(primitive, positions, normals, weights, here)
        if bones is not None:
            poses, bent = self._skins.carried(arrays, bones, poses, bent, here)
        if bent is None:
            spread = [flat_shaded(pose, indices) for pose in poses]
            corners = indices.ravel()
            _, indices, _ = flat_shaded(poses[0], indices)
            uvs = None if uvs is None else np.ascontiguousarray(uvs[:, corners])
            tangents, colors = (None if array is None else array[corners] for array in (tangents, colors))
            poses, bent = np.stack([s[0] for s in spread]), np.stack([s[2] for s in spread])
        bent = np.stack([unit_normals(n) for n in bent])
        shapes = MeshShapes(tuple(times.tolist()), poses, bent) if len(times) > 1 else None
        positions, indices = np.ascontiguousarray(poses[0]), np.ascontiguousarray(indices)
        return Mesh(positions, indices, bent[0], uvs, tangents, shapes, colors)

    def _posed(
        self,
        primitive: Entry,
        positions: np.ndarray,
        normals: np.ndarray | None,
        weights: np.ndarray,
        here: str,
    ) -> tuple[np.ndarray, np.ndarray | None]:
        """Positions and normals (k, n, 3) float32 of a mesh with its shapes mixed in by weights (k, shapes)."""
        poses = np.repeat(positions[None].astype(np.float32), len(weights), 0)
        bent = None if normals is None else np.repeat(normals[None].astype(np.float32), len(weights), 0)
        for target, share in zip(primitive.targets or [], weights.T.astype(np.float32), strict=True):
            for name, base in (("POSITION", poses), ("NORMAL", bent)):
                accessor = target.get(name) if isinstance(target, dict) else getattr(target, name, None)
                if accessor is None or base is None:
                    continue
                shift = self._reader.floats(accessor, "VEC3")
                if len(shift) != len(positions) or not np.isfinite(shift).all():
                    raise self._reader.fail(f"{here}: a shape's {name} cannot be used")
                base += share[:, None, None] * shift
        return poses, bent
