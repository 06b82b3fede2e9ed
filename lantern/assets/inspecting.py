"""What is odd about an asset, item by item: counted, with the parts that it is about and a repair where there is one.

In: an imported asset and the document that was begun with it. Out: findings. Called by the server's reading. Nothing is
repaired here: a repair is a patch of the document, which somebody may lay on it and undo.
"""

from collections import defaultdict
from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np

from lantern.assets.faults import Welded, crowded_ones, open_ones
from lantern.assets.hashing import sha256_of_arrays
from lantern.assets.imported import ImportedAsset
from lantern.assets.mesh import Mesh
from lantern.assets.textures import Texture
from lantern.scene.document import Scene
from lantern.scene.findings import Finding, Patch
from lantern.scene.units import likely_unit

MOST_TRIANGLES = 3_000_000
"""Of all meshes together, beyond which edges are not looked at one by one."""
LARGE_TEXELS = 4096 * 4096
_AT_ONCE = 500_000
"""Triangles."""
_AGAINST = 0.5
"""Share of corners whose normals point away from their faces beyond which they are said to."""


@dataclass(frozen=True)
class _Faults:
    """Counts of one mesh."""

    flat: int = 0  # triangles without area
    doubled: int = 0  # triangles that are there twice
    open: int = 0  # edges of one triangle
    crowded: int = 0  # edges of more than two
    inside_out: bool = False
    against: bool = False


def inspect(asset: ImportedAsset, scene: Scene, size: float) -> list[Finding]:
    """Findings in the order of their weight; `size` is the longest side of the box around the asset [m]."""
    brought = {key: part for key, part in scene.parts.items() if part.form is None}
    scene = scene.model_copy(update={"parts": brought})
    wearing: dict[int, list[str]] = defaultdict(list)
    for key, part in scene.parts.items():
        wearing[part.mesh].append(key)
    whole = sum(mesh.triangles for mesh in asset.meshes) <= MOST_TRIANGLES
    faults = {number: _faults(asset.meshes[number], edges=whole) for number in sorted(wearing)}
    found = list(_size(size, scene.asset.scale if scene.asset else asset.scale))
    for kind, text, hint, count_of in _COUNTED:
        counts = {number: int(count_of(fault)) for number, fault in faults.items()}
        keys = tuple(key for number, count in counts.items() if count for key in wearing[number])
        if not keys:
            continue
        repair, label = (_turned_round(keys), "Turn them round") if kind == "inside-out" else (None, "")
        count = len(keys) if kind in _OF_PARTS else sum(counts.values())
        found.append(
            Finding(kind=kind, text=text, hint=hint, count=count, parts=keys, repair=repair, repair_label=label)
        )
    if not whole:
        found.append(Finding(kind="unseen", text="Edges not looked at", hint="There are too many triangles for that."))
    found += [*_without_coordinates(asset, scene), *_flattened(scene)]
    return [*found, *_twin_meshes(asset, scene), *_twin_materials(scene), *_textures(asset.textures)]


_COUNTED: tuple[tuple[str, str, str, Callable[[_Faults], bool | int]], ...] = (
    ("inside-out", "Closed parts that face inwards", "Glass in them has its outside within.", lambda f: f.inside_out),
    ("against", "Normals against their faces", "Shading and shadow disagree there.", lambda f: f.against),
    ("doubled", "Doubled triangles", "They flicker, and glass between them is no glass.", lambda f: f.doubled),
    ("open", "Open edges", "Light gets in there, and glass has no inside.", lambda f: f.open),
    ("crowded", "Edges of more than two triangles", "What is inside cannot be told.", lambda f: f.crowded),
    ("flat", "Triangles without area", "They are never seen.", lambda f: f.flat),
)
_OF_PARTS = ("inside-out", "against")


def _turned_round(keys: Iterable[str]) -> Patch:
    return [{"op": "replace", "path": f"/parts/{key}/inside_out", "value": True} for key in keys]


def _size(size: float, scale: float) -> Iterable[Finding]:
    unit = likely_unit(size, scale)
    if unit is not None:
        word, metres = unit
        yield Finding(kind="size", text="An unusual size", hint=f"Perhaps its units are {word}.", unit=metres)


def _faults(mesh: Mesh, *, edges: bool) -> _Faults:
    flat, against = _shading(mesh)
    if not edges:
        return _Faults(flat=flat, against=against)
    net = Welded.of(mesh)
    open_edges, crowded = len(net.edges(open_ones)), len(net.edges(crowded_ones))
    inside_out = open_edges == 0 and _volume(mesh) < 0
    return _Faults(flat, len(net.doubled()), open_edges, crowded, inside_out, against)


def _shading(mesh: Mesh) -> tuple[int, bool]:
    """(triangles without area, whether most corners have a normal that points away from their face)."""
    flat = against = corners = 0
    for begin in range(0, len(mesh.indices), _AT_ONCE):
        indices = mesh.indices[begin : begin + _AT_ONCE]
        places = mesh.positions[indices].astype(np.float64)
        faces = np.cross(places[:, 1] - places[:, 0], places[:, 2] - places[:, 0])
        has_area = (faces != 0).any(axis=1)
        along = np.einsum("mi,mci->mc", faces[has_area], mesh.normals[indices[has_area]].astype(np.float64))
        flat += len(indices) - int(has_area.sum())
        against += int((along < 0).sum())
        corners += along.size
    return flat, corners > 0 and against > _AGAINST * corners


def _volume(mesh: Mesh) -> float:
    """Six times the volume within a closed mesh [m³], below zero when its faces look inwards."""
    corners = mesh.positions[mesh.indices] - mesh.positions.mean(axis=0, dtype=np.float64)
    return float(np.einsum("mi,mi->", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])))


def _without_coordinates(asset: ImportedAsset, scene: Scene) -> Iterable[Finding]:
    mapped = {
        key
        for key, material in scene.materials.items()
        if any(name.endswith("_texture") and value is not None for name, value in material)
    }
    dressed = ((key, part) for key, part in scene.parts.items() if part.material in mapped)
    keys = tuple(key for key, part in dressed if asset.meshes[part.mesh].uvs is None)
    if keys:
        yield Finding(
            kind="uvs", text="Images without texture coordinates", hint="Nothing says how they lie on these parts.",
            count=len(keys), parts=keys,
        )  # fmt: skip


def _flattened(scene: Scene) -> Iterable[Finding]:
    matrices = {key: np.array(part.matrix).reshape(3, 4)[:, :3] for key, part in scene.parts.items()}
    keys = tuple(key for key, matrix in matrices.items() if np.linalg.det(matrix) == 0)
    if keys:
        hint = "The file scales them to zero along an axis."
        yield Finding(kind="flattened", text="Parts without depth", hint=hint, count=len(keys), parts=keys)


def _twin_meshes(asset: ImportedAsset, scene: Scene) -> Iterable[Finding]:
    first: dict[str, int] = {}
    twin: dict[int, int] = {}
    for number, mesh in enumerate(asset.meshes):
        arrays = [mesh.positions, mesh.indices, mesh.normals, mesh.uvs, mesh.tangents, mesh.colors]
        if mesh.shapes is None:
            twin[number] = first.setdefault(sha256_of_arrays(arrays), number)
    moved = {key: twin[part.mesh] for key, part in scene.parts.items() if twin.get(part.mesh, part.mesh) != part.mesh}
    if moved:
        repair: Patch = [{"op": "replace", "path": f"/parts/{key}/mesh", "value": mesh} for key, mesh in moved.items()]
        yield Finding(
            kind="twin-meshes", text="Meshes that are there twice", hint="They could share their triangles.",
            count=len(moved), parts=tuple(moved), repair=repair, repair_label="Share them",
        )  # fmt: skip


def _twin_materials(scene: Scene) -> Iterable[Finding]:
    first: dict[str, str] = {}
    twin = {}
    for key, material in scene.materials.items():
        same = first.setdefault(material.model_copy(update={"name": ""}).model_dump_json(), key)
        if same != key:
            twin[key] = same
    if not twin:
        return
    keys = tuple(key for key, part in scene.parts.items() if part.material in twin)
    repair: Patch = [
        {"op": "replace", "path": f"/parts/{key}/material", "value": twin[scene.parts[key].material]} for key in keys
    ]
    repair += [{"op": "remove", "path": f"/materials/{key}"} for key in twin]
    yield Finding(
        kind="twin-materials", text="Materials like others", hint="They differ in nothing but their names.",
        count=len(twin), parts=keys, repair=repair, repair_label="Make them one",
    )  # fmt: skip


def _textures(textures: list[Texture]) -> Iterable[Finding]:
    sizes = {id(texture.texels): texture.texels.shape[:2] for texture in textures}
    large = sum(height * width > LARGE_TEXELS for height, width in sizes.values())
    if large:
        yield Finding(
            kind="large-textures", text="Images over 4096 × 4096 texels", hint="They take much memory.", count=large
        )
