"""Nodes of a glTF file: what hangs on them and where (glTF 2.0, section 3.5; `EXT_mesh_gpu_instancing`).

In: an opened file. Out: parts, lights and cameras of an `ImportedAsset`. Called by `asset`.
"""

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from lantern.assets.imported import DEFAULT, ImportedAsset
from lantern.assets.keys import unique_key
from lantern.assets.readers.gltf.accessors import AccessorReader
from lantern.assets.readers.gltf.container import Container
from lantern.assets.readers.gltf.document import Entry
from lantern.assets.readers.gltf.lights import light_of, lights_of_file, sight_of
from lantern.assets.readers.gltf.meshes import MeshReader, is_skinned
from lantern.assets.readers.gltf.motion import Motion, clip_number, clips_of, composed
from lantern.assets.readers.gltf.variants import MaterialVariants
from lantern.assets.tree import Chain, grouped
from lantern.scene.document import Part, PartKey

MOST_NODES_DEEP = 256
MOST_PARTS = 200_000
INSTANCING = "EXT_mesh_gpu_instancing"


class Place(NamedTuple):
    """A node where it stands: its number, those from the root down to it, and its matrix (4, 4) to the world."""

    number: int
    chain: tuple[int, ...]
    matrix: np.ndarray


class NodeReader:
    """Reads the nodes of a file into `asset`, whose materials are there. Raises AssetError for what cannot be used."""

    def __init__(
        self,
        container: Container,
        reader: AccessorReader,
        asset: ImportedAsset,
        material_keys: list[str],
        clip: str | None = None,
    ) -> None:
        self._document, self._reader, self._asset = container.document, reader, asset
        self._material_keys = material_keys
        asset.clips = clips_of(container)
        self._motion = Motion(container, reader, asset.problems, clip_number(asset, clip))
        self._meshes = MeshReader(container, reader, self._motion, asset.meshes, asset.problems)
        self._lights = lights_of_file(container)
        self._chains: dict[str, Chain] = {}
        self._variants = MaterialVariants(self._document, reader, material_keys)

    def read(self) -> None:
        """Everything that the file's scene holds."""
        for place in self._places():
            node = self._document.nodes[place.number]
            if node.mesh is not None:
                self._add_parts(place, node)
            if node.camera is not None:
                self._add_camera(place, node)
            light = light_of(self._reader, self._lights, node, place.matrix, f"Light {len(self._asset.lights) + 1}")
            if light is not None:
                self._asset.lights[unique_key(light.name, self._asset.lights)] = light
        self._asset.parts, self._asset.groups = grouped(self._asset.parts, self._chains)
        self._asset.variants = self._variants.groups(self._asset.parts, self._asset.problems)

    def _chain_of(self, place: Place) -> Chain:
        """The nodes that a part hangs on: its own, too, for a mesh of several materials is several parts."""
        return tuple((number, self._document.nodes[number].name or "") for number in place.chain)

    def _places(self) -> Iterator[Place]:
        stack = [Place(number, (), np.eye(4)) for number in reversed(self._roots())]
        while stack:
            number, above, parent = stack.pop()
            if not isinstance(number, int) or not 0 <= number < len(self._document.nodes or []):
                raise self._reader.fail(f"node {number} is missing")
            if number in above:
                raise self._reader.fail(f"node {number} is among its own descendants")
            if len(above) > MOST_NODES_DEEP:
                raise self._reader.fail(f"nodes are nested more than {MOST_NODES_DEEP} deep")
            matrix, chain = parent @ self._motion.matrix(number), (*above, number)
            children = self._document.nodes[number].children or []
            stack.extend(Place(child, chain, matrix) for child in reversed(children))
            yield Place(number, chain, matrix)

    def _roots(self) -> list[int]:
        document = self._document
        if document.scenes:
            number = document.scene if document.scene is not None else 0
            if not 0 <= number < len(document.scenes):
                raise self._reader.fail(f"scene {number} is missing")
            return list(document.scenes[number].nodes or [])
        children = {child for node in document.nodes or [] for child in node.children or []}
        return [n for n in range(len(document.nodes or [])) if n not in children]

    def _add_parts(self, place: Place, node: Entry) -> None:
        if not 0 <= node.mesh < len(self._document.meshes or []):
            raise self._reader.fail(f"mesh {node.mesh} of node {place.number} is missing")
        source = self._document.meshes[node.mesh]
        parts, hung = self._asset.parts, None
        base = (node.name or source.name or f"Part {len(parts) + 1}")[:180]
        if node.skin is not None and not all(is_skinned(node, primitive) for primitive in source.primitives):
            self._asset.problems.append(f"{base}: has a skin but no joints, it keeps its shape")
        elif node.skin is not None:
            hung = self._chain_of(place)
            # Joints alone say where the vertices are (section 3.7.3.3).
            place = Place(place.number, (), np.eye(4))
        moments, moved = self._moved(place.chain)
        chain = hung or self._chain_of(place)
        instances = self._instances(place.number, node)
        for index, primitive in enumerate(source.primitives):
            mesh = self._meshes.number_of(place.number, index)
            if mesh is None:
                continue
            name = base if len(source.primitives) == 1 else f"{base} {index + 1}"
            material = self._material_of(primitive)
            for number, instance in enumerate(instances):
                if len(parts) >= MOST_PARTS:
                    raise self._reader.fail(f"has more than {MOST_PARTS} parts")
                own = name if len(instances) == 1 else f"{name} {number + 1}"
                key = unique_key(own, parts)
                self._chains[key] = chain
                self._variants.take(key, primitive)
                parts[key] = Part(
                    name=own,
                    mesh=mesh,
                    material=material,
                    matrix=_rows((place.matrix @ instance)[None])[0],
                    keys=tuple(
                        PartKey(time=time, matrix=row)
                        for time, row in zip(moments.tolist(), _rows(moved @ instance), strict=True)
                    ),
                )

    def _moved(self, chain: tuple[int, ...]) -> tuple[np.ndarray, np.ndarray]:
        """Moments (m,) [s] and matrices (m, 4, 4) of what hangs on nodes from the root down; none if it rests."""
        moments = self._motion.moments(chain)
        matrices = np.broadcast_to(np.eye(4), (len(moments), 4, 4))
        for number in chain if len(moments) else ():
            matrices = matrices @ self._motion.matrices(number, moments)
        return moments, matrices

    def _instances(self, number: int, node: Entry) -> np.ndarray:
        """(n, 4, 4) where a node's mesh stands on it: once, or as often as the extension says."""
        spread = (node.extensions or {}).get(INSTANCING)
        if spread is None:
            return np.eye(4)[None]
        attributes = spread.get("attributes") if isinstance(spread, dict) else None
        if not isinstance(attributes, dict):
            raise self._reader.fail(f"node {number}: its instances have no attributes")

        def values(name: str, kind: str) -> np.ndarray | None:
            return None if name not in attributes else self._reader.floats(attributes[name], kind).astype(np.float64)

        found = values("TRANSLATION", "VEC3"), values("ROTATION", "VEC4"), values("SCALE", "VEC3")
        counts = {len(array) for array in found if array is not None}
        if len(counts) != 1:
            raise self._reader.fail(f"node {number}: its instances disagree how many they are")
        rest = ((0.0, 0.0, 0.0), (0.0, 0.0, 0.0, 1.0), (1.0, 1.0, 1.0))
        count = counts.pop()
        moves, turns, sizes = (
            np.broadcast_to(np.array(still), (count, len(still))) if array is None else array
            for array, still in zip(found, rest, strict=True)
        )
        matrices = composed(moves, turns, sizes)
        if not np.isfinite(matrices).all():
            raise self._reader.fail(f"node {number}: an instance is not finite")
        return matrices

    def _material_of(self, primitive: Entry) -> str:
        if primitive.material is None:
            self._asset.materials.setdefault("default", DEFAULT)
            return "default"
        if not 0 <= primitive.material < len(self._material_keys):
            raise self._reader.fail(f"material {primitive.material} is missing")
        return self._material_keys[primitive.material]

    def _add_camera(self, place: Place, node: Entry) -> None:
        cameras = self._document.cameras or []
        if not isinstance(node.camera, int) or not 0 <= node.camera < len(cameras):
            raise self._reader.fail(f"camera {node.camera} of node {place.number} is missing")
        camera = cameras[node.camera]
        sight = sight_of(self._reader, camera, node.name, place.matrix)
        if sight is None:
            self._asset.problems.append(f"camera {node.name or place.number}: only perspective cameras are read")
        else:
            self._asset.sights.append(sight)


def _rows(matrices: np.ndarray) -> list[tuple[float, ...]]:
    """Twelve numbers each of (n, 4, 4) matrices."""
    return [tuple(row) for row in matrices[:, :3].reshape(-1, 12).tolist()]
