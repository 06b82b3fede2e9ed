"""glTF 2.0 import: nodes become parts, primitives meshes, materials OpenPBR materials.

In: the path of a GLB, glTF or zip. Out: an `ImportedAsset`. Called by the engine when it compiles, by the server
when a file is uploaded, and by the command line.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
import pygltflib

from lantern.assets.accessors import AccessorReader
from lantern.assets.container import DEFAULT_LIMIT, Container, open_container
from lantern.assets.errors import AssetError
from lantern.assets.gltf_materials import KNOWN_EXTENSIONS, convert_material
from lantern.assets.keys import unique_key
from lantern.assets.mesh import FAN, LINES, STRIP, TRIANGLES, Mesh, flat_shaded, triangulate, unit_normals
from lantern.assets.textures import Texture, decode_textures
from lantern.scene.document import Material, Part

MOST_NODES_DEEP = 256
Progress = Callable[[str, float], None]


@dataclass
class ImportedAsset:
    """What a file holds, ready to be put into a scene document and compiled."""

    name: str
    format: str
    meshes: list[Mesh] = field(default_factory=list)
    parts: dict[str, Part] = field(default_factory=dict)
    materials: dict[str, Material] = field(default_factory=dict)
    textures: list[Texture] = field(default_factory=list)
    problems: list[str] = field(default_factory=list)

    @property
    def triangles(self) -> int:
        """Triangles of all parts, instances counted each time."""
        return sum(self.meshes[part.mesh].triangles for part in self.parts.values())

    def bounds(self) -> tuple[np.ndarray, np.ndarray]:
        """Lowest and highest corner (3,) [m] of all parts in world space."""
        return bounds_of([mesh.positions for mesh in self.meshes], self.parts.values())


def bounds_of(points_of: Sequence[np.ndarray], parts: Iterable[Part]) -> tuple[np.ndarray, np.ndarray]:
    """Lowest and highest corner (3,) float64 [m] of some parts in world space; `points_of` has (n, 3) points a mesh."""
    low, high = np.full(3, np.inf), np.full(3, -np.inf)
    for part in parts:
        matrix = np.array(part.matrix, np.float64).reshape(3, 4)
        points = points_of[part.mesh] @ matrix[:, :3].T + matrix[:, 3]
        low, high = np.minimum(low, points.min(0)), np.maximum(high, points.max(0))
    return low, high


def _no_progress(what: str, share: float) -> None:
    """For callers that do not watch."""


def import_asset(
    path: Path, limit: int = DEFAULT_LIMIT, name: str | None = None, progress: Progress = _no_progress
) -> ImportedAsset:
    """Read a file whole. `progress` hears what is being done and the share [0, 1] that is done.

    Raises AssetError for anything that makes the file unusable; lesser faults are listed in `problems`.
    """
    progress("Opening", 0.0)
    container = open_container(path, limit, name)
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
    material_keys = _read_materials(container, asset)
    progress("Reading meshes", 0.6)
    _read_parts(container, reader, asset, material_keys)
    if asset.triangles == 0:
        raise AssetError(container.name, "holds no triangles")
    progress("Done", 1.0)
    return asset


def _read_materials(container: Container, asset: ImportedAsset) -> list[str]:
    keys: list[str] = []
    for number, source in enumerate(container.document.materials or []):
        name = (source.name or f"Material {number + 1}")[:200]
        key = unique_key(name, asset.materials)
        asset.materials[key] = convert_material(container, source, name, asset.textures, asset.problems)
        keys.append(key)
    return keys


def _local_matrix(container: Container, number: int, node: pygltflib.Node) -> np.ndarray:
    try:
        matrix = _composed(node)
    except (TypeError, ValueError) as error:
        raise AssetError(container.name, f"node {number} has an unreadable transform ({error})") from error
    if not np.isfinite(matrix).all():
        raise AssetError(container.name, f"node {number} has a transform that is not finite")
    return matrix


def _composed(node: pygltflib.Node) -> np.ndarray:
    if node.matrix is not None:
        return np.array(node.matrix, np.float64).reshape(4, 4).T
    matrix = np.eye(4)
    x, y, z, w = node.rotation or (0.0, 0.0, 0.0, 1.0)
    length = (x * x + y * y + z * z + w * w) ** 0.5 or 1.0
    x, y, z, w = x / length, y / length, z / length, w / length
    rotation = np.array(
        [
            [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
            [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
            [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
        ]
    )
    matrix[:3, :3] = rotation * np.array(node.scale or (1.0, 1.0, 1.0))
    matrix[:3, 3] = node.translation or (0.0, 0.0, 0.0)
    return matrix


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
    meshes: dict[tuple[int, int], int | None] = {}
    stack = [(number, np.eye(4), frozenset[int]()) for number in reversed(_roots(container))]
    while stack:
        number, parent, above = stack.pop()
        if not isinstance(number, int) or not 0 <= number < len(document.nodes or []):
            raise AssetError(container.name, f"node {number} is missing")
        if number in above:
            raise AssetError(container.name, f"node {number} is among its own descendants")
        if len(above) > MOST_NODES_DEEP:
            raise AssetError(container.name, f"nodes are nested more than {MOST_NODES_DEEP} deep")
        node = document.nodes[number]
        matrix = parent @ _local_matrix(container, number, node)
        below = above | {number}
        stack.extend((child, matrix, below) for child in reversed(node.children or []))
        if node.mesh is None:
            continue
        if not 0 <= node.mesh < len(document.meshes or []):
            raise AssetError(container.name, f"mesh {node.mesh} of node {number} is missing")
        source = document.meshes[node.mesh]
        base = (node.name or source.name or f"Part {len(asset.parts) + 1}")[:180]
        for index, primitive in enumerate(source.primitives):
            where = (node.mesh, index)
            if where not in meshes:
                meshes[where] = _read_primitive(container, reader, asset, where, primitive)
            mesh = meshes[where]
            if mesh is None:
                continue
            name = base if len(source.primitives) == 1 else f"{base} {index + 1}"
            asset.parts[unique_key(name, asset.parts)] = Part(
                name=name,
                mesh=mesh,
                material=_material_of(container, primitive, asset, material_keys),
                matrix=tuple(float(v) for v in matrix[:3].ravel()),
            )


def _material_of(container: Container, primitive: pygltflib.Primitive, asset: ImportedAsset, keys: list[str]) -> str:
    if primitive.material is None:
        if "default" not in asset.materials:
            asset.materials["default"] = Material(name="Default", specular_roughness=0.5)
        return "default"
    if not 0 <= primitive.material < len(keys):
        raise AssetError(container.name, f"material {primitive.material} is missing")
    return keys[primitive.material]


def _read_primitive(
    container: Container,
    reader: AccessorReader,
    asset: ImportedAsset,
    where: tuple[int, int],
    primitive: pygltflib.Primitive,
) -> int | None:
    """Number of the new mesh, or None for points and lines."""
    here = f"mesh {where[0]} primitive {where[1]}"
    mode = TRIANGLES if primitive.mode is None else primitive.mode
    if mode not in (TRIANGLES, STRIP, FAN):
        asset.problems.append(f"{here}: {'points' if mode < LINES else 'lines'} are not drawn")
        return None
    attributes = primitive.attributes
    if attributes.POSITION is None:
        asset.problems.append(f"{here}: has no positions and is left out")
        return None
    positions = reader.floats(attributes.POSITION, "VEC3")
    if not np.isfinite(positions).all():
        vertex = int(np.argwhere(~np.isfinite(positions))[0][0])
        raise AssetError(container.name, f"{here}: position of vertex {vertex} is not finite")
    if primitive.indices is None:
        flat = np.arange(len(positions), dtype=np.uint32)
    else:
        flat = reader.read(primitive.indices, "SCALAR")
        if flat.dtype.kind != "u":
            raise AssetError(container.name, f"{here}: indices must be unsigned integers")
        if len(flat) and int(flat.max()) >= len(positions):
            raise AssetError(
                container.name, f"{here}: index {int(flat.max())} is out of range, there are {len(positions)} vertices"
            )
    indices = triangulate(flat, mode)
    if not len(indices):
        asset.problems.append(f"{here}: has no triangles and is left out")
        return None
    normals, uvs, tangents = _attributes(reader, attributes, len(positions), here)
    if normals is None:
        positions, indices, normals, uvs, tangents = flat_shaded(positions, indices, uvs, tangents)
    asset.meshes.append(
        Mesh(np.ascontiguousarray(positions), np.ascontiguousarray(indices), unit_normals(normals), uvs, tangents)
    )
    return len(asset.meshes) - 1


def _attributes(
    reader: AccessorReader, attributes: pygltflib.Attributes, count: int, here: str
) -> tuple[np.ndarray | None, ...]:
    arrays: list[np.ndarray | None] = []
    for name, kind in (("NORMAL", "VEC3"), ("TEXCOORD_0", "VEC2"), ("TANGENT", "VEC4")):
        number = getattr(attributes, name)
        array = None if number is None else reader.floats(number, kind)
        if array is not None and len(array) != count:
            raise reader.fail(f"{here}: {name} has {len(array)} entries for {count} vertices")
        arrays.append(None if array is None else np.nan_to_num(np.ascontiguousarray(array), posinf=0.0, neginf=0.0))
    return tuple(arrays)
