"""Patterns, layers and decals of a scene as images, for formats that know nothing else.

In: a document and its asset. Out: for each part that wears some, its mesh laid out flat, a plain material and images.
Called by `exporting`. Parts that can only look alike share what is made.
"""

import os
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from lantern.assets.imported import ImportedAsset
from lantern.assets.mesh import Mesh
from lantern.compile.compiled import CompiledScene
from lantern.compile.dresses import decals_on
from lantern.engine.baked_images import BakedLook, bake, with_tangents
from lantern.scene.document import Material, Part, Scene
from lantern.scene.inputs import MaterialInput
from lantern.scene.sources import ChanceSource, DistanceSource, HeightSource, OcclusionSource, SlopeSource
from lantern.shaping.unwrapping import unwrapped

SIZES = (512, 1024, 2048, 4096)
"""Texels along a side of the images of the largest part."""
LEAST = 64
"""The same of the smallest."""
MOST_LOOKS = 48
"""Parts, or groups of parts alike, whose looks are made: each has several images."""
_OF_THE_PLACE = (ChanceSource, SlopeSource, HeightSource, OcclusionSource, DistanceSource)


@dataclass(frozen=True, eq=False)
class BakedPart:
    """What stands in for a part's mesh and what it wears; parts that share one share its number."""

    number: int
    mesh: Mesh
    look: BakedLook


def baked_parts(
    scene: Scene, asset: ImportedAsset, pictures: Mapping[str, np.ndarray], meshes: Sequence[Mesh], size: int
) -> tuple[dict[str, BakedPart], list[str]]:
    """By key those visible parts that wear more than a plain material with maps, and what could not be had.

    `meshes` are those of all parts in their order; `size` is one of SIZES.
    """
    mesh_of = dict(zip(scene.parts, meshes, strict=True))
    groups, lost = _groups(scene, mesh_of)
    if not groups:
        return {}, lost
    compiled = CompiledScene(scene, asset, None, None, pictures, final=True)
    areas = [_area(mesh_of[keys[0]], compiled.pose_of(keys[0])) for keys in groups]
    order = np.argsort(areas)[::-1]
    if len(groups) > MOST_LOOKS:
        lost.append(f"the patterns of the {len(groups) - MOST_LOOKS} smallest parts: {MOST_LOOKS} are made images of")
    found: dict[str, BakedPart] = {}
    for number, place in enumerate(order[:MOST_LOOKS]):
        key, texels = groups[place][0], _texels(areas[place] / max(areas[order[0]], 1e-30), size)
        part = scene.parts[key]
        try:
            mesh = with_tangents(unwrapped(mesh_of[key], texels))
        except ValueError as error:
            lost.append(f"{part.name}: its patterns, for {error}")
            continue
        look = bake(compiled, key, mesh, scene.materials[part.material], texels, os.cpu_count() or 1)
        lost += [f"{part.name}: {word}" for word in look.lost]
        found |= {each: BakedPart(number, mesh, look) for each in groups[place]}
    return found, lost


def _groups(scene: Scene, mesh_of: Mapping[str, Mesh]) -> tuple[list[list[str]], list[str]]:
    """Keys of the parts to be made images of, those together that look alike; and why others cannot be."""
    decals, lost = decals_on(scene), []
    worn: dict[object, list[str]] = {}
    for key, part in scene.parts.items():
        if not part.visible or not (key in decals or _varies(scene, part)):
            continue
        mesh = mesh_of[key]
        reason = _cannot(part, mesh)
        if reason is not None:
            lost.append(f"{part.name}: its patterns, for {reason}")
            continue
        shared = key not in decals and not _is_of_its_place(scene, part)
        worn.setdefault((id(mesh), part.material) if shared else key, []).append(key)
    return list(worn.values()), lost


def _inputs_of(scene: Scene, material: Material) -> list[MaterialInput]:
    """Everything that varies of a material, and of those over it."""
    found = list(material.inputs.values())
    for layer in material.layers:
        found += [*layer.inputs(), *scene.materials[layer.material].inputs.values()]
    return found


def _varies(scene: Scene, part: Part) -> bool:
    material = scene.materials[part.material]
    return bool(material.inputs or material.layers)


def _is_of_its_place(scene: Scene, part: Part) -> bool:
    """Whether another part of the same mesh would look otherwise in the same material."""
    material = scene.materials[part.material]
    if material.emission_lumens is not None:
        return True
    return any(
        isinstance(one.source, _OF_THE_PLACE) or (one.placement.space == "scene" and one.placement.kind != "uv")
        for one in _inputs_of(scene, material)
    )


def _cannot(part: Part, mesh: Mesh) -> str | None:
    if part.strewn is not None:
        return "it is strewn, and its copies are one mesh"
    return None if mesh.shapes is None else "it changes its shape"


def _area(mesh: Mesh, pose: np.ndarray) -> float:
    """m² of a mesh where it stands."""
    corners = (mesh.positions.astype(np.float64) @ pose[:, :3].T)[mesh.indices]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    return float(np.linalg.norm(across, axis=1).sum() / 2)


def _texels(share: float, size: int) -> int:
    """As fine on a smaller part as on the largest: a power of two."""
    wanted = size * float(np.sqrt(max(share, 0.0)))
    return int(min(max(2 ** np.ceil(np.log2(max(wanted, 1.0))), LEAST), size))
