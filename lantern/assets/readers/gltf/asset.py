"""glTF 2.0 import: nodes become parts, primitives meshes, materials OpenPBR materials, an animation keys and shapes.

In: a GLB or glTF. Out: an `ImportedAsset`. Called by `reading`.
"""

from pathlib import Path

from lantern.assets.errors import AssetError
from lantern.assets.imported import DEFAULT, ImportedAsset, Progress
from lantern.assets.keys import unique_key
from lantern.assets.readers.gltf.accessors import AccessorReader
from lantern.assets.readers.gltf.container import GLB_MAGIC, Container, open_container
from lantern.assets.readers.gltf.materials import MATERIAL_EXTENSIONS, convert_material
from lantern.assets.readers.gltf.nodes import NodeReader
from lantern.assets.readers.gltf.textures import decode_textures
from lantern.assets.readers.gltf.variants import others_of
from lantern.assets.source import Source

KNOWN_EXTENSIONS = {
    *MATERIAL_EXTENSIONS,
    "EXT_mesh_gpu_instancing",
    "EXT_meshopt_compression",
    "EXT_texture_webp",
    "KHR_animation_pointer",
    "KHR_draco_mesh_compression",
    "KHR_lights_punctual",
    "KHR_materials_variants",
    "KHR_mesh_quantization",
    "KHR_texture_basisu",
}
"""What a file may need."""


def recognises(head: bytes, size: int) -> bool:
    """Whether a file begins as a GLB or as JSON."""
    return head[:4] == GLB_MAGIC or head.lstrip()[:1] == b"{"


def read(source: Source, progress: Progress) -> ImportedAsset:
    """Everything that the file's scene holds. Raises AssetError."""
    try:
        return _read(source, progress)
    except (TypeError, AttributeError, KeyError, IndexError, ValueError, OverflowError) as error:
        if isinstance(error, AssetError):
            raise
        raise source.fail(f"its JSON does not follow glTF 2.0 ({str(error)[:160]})") from error


def _read(source: Source, progress: Progress) -> ImportedAsset:
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
    NodeReader(container, reader, asset, material_keys, source.clip).read()
    return asset


def _colored_materials(container: Container) -> set[int | None]:
    """Numbers of the materials of primitives that bring colours of their vertices (glTF 2.0, section 3.9.2)."""
    primitives = [p for mesh in container.document.meshes or [] for p in mesh.primitives]
    colored = [p for p in primitives if p.attributes.COLOR_0 is not None]
    return {p.material for p in colored} | {number for p in colored for number in others_of(p)}


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
