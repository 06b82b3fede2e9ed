"""glTF 2.0 import: nodes become parts, primitives meshes, materials OpenPBR materials, an animation keys and shapes.

In: a GLB, glTF or zip. Out: an `ImportedAsset`. Called by `reading`.
"""

from pathlib import Path

import numpy as np
import pygltflib

from lantern.assets.accessors import AccessorReader
from lantern.assets.container import GLB_MAGIC, ZIP_MAGIC, Container, open_container
from lantern.assets.errors import AssetError
from lantern.assets.gltf_materials import KNOWN_EXTENSIONS, convert_material
from lantern.assets.gltf_meshes import MeshReader
from lantern.assets.gltf_motion import Motion
from lantern.assets.imported import DEFAULT, ImportedAsset, Progress
from lantern.assets.keys import unique_key
from lantern.assets.source import Source
from lantern.assets.textures import decode_textures
from lantern.scene.document import Part, PartKey

MOST_NODES_DEEP = 256


def recognises(head: bytes, size: int) -> bool:
    """Whether a file begins as a GLB, as JSON, or as a zip, which holds one of them."""
    return head[:4] in (GLB_MAGIC, ZIP_MAGIC) or head.lstrip()[:1] == b"{"


def read(source: Source, progress: Progress) -> ImportedAsset:
    """Everything that the file's scene holds. Raises AssetError."""
    container = open_container(source)
    document = container.document
    missing = [e for e in document.extensionsRequired or [] if e not in KNOWN_EXTENSIONS]
    if missing:
        raise AssetError(container.name, f"needs {', '.join(missing)}, which cannot be read")
    asset = ImportedAsset(Path(container.name).stem[:200] or "asset", container.format)
    ignored = [e for e in document.extensionsUsed or [] if e not in KNOWN_EXTENSIONS]
    if ignored:
        asset.problems.append(f"not used: {', '.join(sorted(ignored))}")
    reader = AccessorReader(container)
    progress("Decoding textures", 0.1)
    asset.textures = decode_textures(container, reader)
    progress("Reading materials", 0.5)
    colored = _colored_materials(container)
    material_keys = _read_materials(container, asset, colored)
    progress("Reading meshes", 0.6)
    _read_parts(container, reader, asset, material_keys)
    return asset


def _colored_materials(container: Container) -> set[int | None]:
    """Numbers of the materials of primitives that bring colours of their vertices (glTF 2.0, section 3.9.2)."""
    primitives = [p for mesh in container.document.meshes or [] for p in mesh.primitives]
    return {p.material for p in primitives if p.attributes.COLOR_0 is not None}


def _read_materials(container: Container, asset: ImportedAsset, colored: set[int | None]) -> list[str]:
    keys: list[str] = []
    for number, source in enumerate(container.document.materials or []):
        name = (source.name or f"Material {number + 1}")[:200]
        key = unique_key(name, asset.materials)
        material = convert_material(container, source, name, asset.textures, asset.problems)
        asset.materials[key] = material.model_copy(update={"vertex_colors": number in colored})
        keys.append(key)
    if None in colored:
        asset.materials["default"] = DEFAULT.model_copy(update={"vertex_colors": True})
    return keys


def _roots(container: Container) -> list[int]:
    document = container.document
    if document.scenes:
        number = document.scene if document.scene is not None else 0
        if not 0 <= number < len(document.scenes):
            raise AssetError(container.name, f"scene {number} is missing")
        return list(document.scenes[number].nodes or [])
    children = {child for node in document.nodes or [] for child in node.children or []}
    return [n for n in range(len(document.nodes or [])) if n not in children]


def _read_parts(container: Container, reader: AccessorReader, asset: ImportedAsset, material_keys: list[str]) -> None:
    document = container.document
    motion = Motion(container, reader, asset.problems)
    meshes = MeshReader(container, reader, motion, asset.meshes, asset.problems)
    stack: list[tuple[int, np.ndarray, tuple[int, ...]]] = [
        (number, np.eye(4), ()) for number in reversed(_roots(container))
    ]
    while stack:
        number, parent, above = stack.pop()
        if not isinstance(number, int) or not 0 <= number < len(document.nodes or []):
            raise AssetError(container.name, f"node {number} is missing")
        if number in above:
            raise AssetError(container.name, f"node {number} is among its own descendants")
        if len(above) > MOST_NODES_DEEP:
            raise AssetError(container.name, f"nodes are nested more than {MOST_NODES_DEEP} deep")
        node = document.nodes[number]
        matrix = parent @ motion.matrix(number)
        chain = (*above, number)
        stack.extend((child, matrix, chain) for child in reversed(node.children or []))
        if node.mesh is None:
            continue
        if not 0 <= node.mesh < len(document.meshes or []):
            raise AssetError(container.name, f"mesh {node.mesh} of node {number} is missing")
        source = document.meshes[node.mesh]
        base = (node.name or source.name or f"Part {len(asset.parts) + 1}")[:180]
        if node.skin is not None:
            asset.problems.append(f"{base}: its skin is not applied, it keeps its shape")
        keys = _part_keys(motion, chain)
        for index, primitive in enumerate(source.primitives):
            mesh = meshes.number_of(number, index)
            if mesh is None:
                continue
            name = base if len(source.primitives) == 1 else f"{base} {index + 1}"
            asset.parts[unique_key(name, asset.parts)] = Part(
                name=name,
                mesh=mesh,
                material=_material_of(container, primitive, asset, material_keys),
                matrix=_rows(matrix),
                keys=keys,
            )


def _rows(matrix: np.ndarray) -> tuple[float, ...]:
    return tuple(float(v) for v in matrix[:3].ravel())


def _part_keys(motion: Motion, chain: tuple[int, ...]) -> tuple[PartKey, ...]:
    """Keys of a part whose nodes, from the root down, are `chain`; none for one that rests all the while."""
    moments = motion.moments(chain)
    if not len(moments):
        return ()
    matrices = np.broadcast_to(np.eye(4), (len(moments), 4, 4))
    for number in chain:
        matrices = matrices @ motion.matrices(number, moments)
    rows = matrices[:, :3].reshape(-1, 12).tolist()
    return tuple(PartKey(time=time, matrix=tuple(row)) for time, row in zip(moments.tolist(), rows, strict=True))


def _material_of(container: Container, primitive: pygltflib.Primitive, asset: ImportedAsset, keys: list[str]) -> str:
    if primitive.material is None:
        if "default" not in asset.materials:
            asset.materials["default"] = DEFAULT
        return "default"
    if not 0 <= primitive.material < len(keys):
        raise AssetError(container.name, f"material {primitive.material} is missing")
    return keys[primitive.material]
