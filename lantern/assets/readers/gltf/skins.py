"""Skins: vertices carried along by joints (glTF 2.0, section 3.7.3).

In: an opened file and how its nodes move. Out: where the joints have put the vertices, at the moments that matter.
Called by `meshes`.
"""

from collections.abc import Sequence

import numpy as np

from lantern.assets.readers.gltf.accessors import AccessorReader
from lantern.assets.readers.gltf.container import Container
from lantern.assets.readers.gltf.motion import Motion
from lantern.assets.readers.gltf.primitives import PrimitiveArrays

_SETS = 2
"""Of four joints a vertex."""


class Skins:
    """The skins of one file. Raises AssetError for one that cannot be used."""

    def __init__(self, container: Container, reader: AccessorReader, motion: Motion) -> None:
        self._document, self._reader, self._motion = container.document, reader, motion
        nodes = self._document.nodes or []
        self._parents = {child: number for number, node in enumerate(nodes) for child in node.children or []}

    def moments(self, skin: int) -> np.ndarray:
        """Moments [s] at which the joints of a skin are elsewhere, so close that turns are round; none if they rest."""
        chains = [self._chain(joint) for joint in self._joints(skin)]
        return self._motion.moments_of_all({node for chain in chains for node in chain})

    def bones(self, skin: int, moments: np.ndarray) -> np.ndarray:
        """(m, joints, 4, 4) from the space of a mesh to the scene, at moments (m,) [s]; at rest, for none of them."""
        joints = self._joints(skin)
        inverse = self._bind_matrices(skin, len(joints))
        placed: dict[int, np.ndarray] = {}
        found = np.empty((max(len(moments), 1), len(joints), 4, 4))
        for place, joint in enumerate(joints):
            for node in self._chain(joint):
                if node in placed:
                    continue
                own = self._motion.matrices(node, moments) if len(moments) else self._motion.matrix(node)[None]
                above = self._parents.get(node)
                placed[node] = own if above is None else placed[above] @ own
            found[:, place] = placed[joint] @ inverse[place]
        return found

    def carried(
        self, arrays: PrimitiveArrays, bones: np.ndarray, poses: np.ndarray, bent: np.ndarray | None, here: str
    ) -> tuple[np.ndarray, np.ndarray | None]:
        """Positions and normals (k, n, 3) in the scene, of those in a mesh's own space, by bones (k, joints, 4, 4)."""
        influences = [self._influence(arrays, number, poses.shape[1], bones.shape[1], here) for number in range(_SETS)]
        joints = np.concatenate([joint for joint, _ in influences], axis=1)
        weights = np.concatenate([weight for _, weight in influences], axis=1)
        total = weights.sum(axis=1, keepdims=True)
        weights = np.where(total > 0, weights / np.maximum(total, 1e-12), np.eye(1, weights.shape[1]))
        turned = np.linalg.pinv(bones[:, :, :3, :3]).transpose(0, 1, 3, 2)
        placed, leaning = np.empty_like(poses), None if bent is None else np.empty_like(bent)
        for step in range(len(poses)):
            blended = np.zeros((poses.shape[1], 3, 4))
            normals = np.zeros((poses.shape[1], 3, 3))
            for column in range(weights.shape[1]):
                share = weights[:, column, None, None]
                blended += share * bones[step, joints[:, column], :3]
                normals += share * turned[step, joints[:, column]]
            placed[step] = np.einsum("nij,nj->ni", blended[:, :, :3], poses[step]) + blended[:, :, 3]
            if leaning is not None and bent is not None:
                leaning[step] = np.einsum("nij,nj->ni", normals, bent[step])
        return placed, leaning

    def _joints(self, number: int) -> Sequence[int]:
        skins, nodes = self._document.skins or [], self._document.nodes or []
        if not isinstance(number, int) or not 0 <= number < len(skins):
            raise self._reader.fail(f"skin {number} is missing")
        joints = skins[number].joints or []
        if not joints or not all(isinstance(joint, int) and 0 <= joint < len(nodes) for joint in joints):
            raise self._reader.fail(f"skin {number} has a joint that is missing")
        return list(joints)

    def _chain(self, joint: int) -> list[int]:
        """Nodes from the root down to a joint."""
        chain = [joint]
        while (above := self._parents.get(chain[0])) is not None:
            if above in chain:
                raise self._reader.fail(f"node {above} is among its own descendants")
            chain.insert(0, above)
        return chain

    def _bind_matrices(self, number: int, count: int) -> np.ndarray:
        accessor = self._document.skins[number].inverseBindMatrices
        if accessor is None:
            return np.broadcast_to(np.eye(4), (count, 4, 4))
        flat = self._reader.floats(accessor, "MAT4").astype(np.float64)
        if len(flat) < count or not np.isfinite(flat).all():
            raise self._reader.fail(f"skin {number} has {len(flat)} usable matrices for {count} joints")
        return flat[:count].reshape(-1, 4, 4).transpose(0, 2, 1)

    def _influence(
        self, arrays: PrimitiveArrays, number: int, count: int, joints: int, here: str
    ) -> tuple[np.ndarray, np.ndarray]:
        """(n, 4) joints and weights of a set; none of the second where the file has but one."""
        which, share = arrays.values(f"JOINTS_{number}", "VEC4"), arrays.values(f"WEIGHTS_{number}", "VEC4")
        if which is None or share is None:
            return np.zeros((count, 0), np.int64), np.zeros((count, 0))
        if len(which) != count or len(share) != count or not np.isfinite(share).all():
            raise self._reader.fail(f"{here}: its joints and weights do not fit its {count} vertices")
        if count and not 0 <= which.min() <= which.max() < joints:
            raise self._reader.fail(f"{here}: joint {int(which.max())} is out of range, there are {joints}")
        return which.astype(np.int64), np.maximum(share.astype(np.float64), 0.0)
