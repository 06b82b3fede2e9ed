"""A newer version of an asset in the place of the one before, without losing what was done to it.

In: the document, both versions as they were brought in. Out: the document with the newer one, and a table of what
became of each part. Called by the server's reading. A part is the same by its key, which comes of its path and name in
the file; else by its name; else by its shape, where only one has it. What hands have done to it stays: its name, its
material, what sees it, where it was moved, sets and copies.
"""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np

from lantern.assets.beginning import pivoted, pivoted_groups
from lantern.assets.hashing import sha256_of_arrays
from lantern.assets.imported import ImportedAsset
from lantern.assets.keys import unique_key
from lantern.scene.document import Asset, Material, MeshPiece, Part, Scene
from lantern.scene.inputs import with_texture, with_textures
from lantern.scene.layers import with_inputs
from lantern.scene.model import Key, Model
from lantern.scene.placed import PartGroup
from lantern.scene.placing import affine, stand_of
from lantern.scene.reading import SceneError
from lantern.scene.texture_use import TextureUse

_OF_THE_FILE = ("mesh", "matrix", "keys", "pivot")
"""Fields of a part that come with another version; all others are what somebody has made of it."""


class SwapRow(Model):
    """What became of a part."""

    key: Key
    name: str
    state: Literal["same", "moved", "changed", "new", "gone"]


@dataclass(frozen=True)
class Version:
    """A version of an asset: its parts, groups and materials as they came, and a digest of the shape of each part."""

    parts: Mapping[str, Part]
    materials: Mapping[str, Material]
    shapes: Mapping[str, str]
    groups: Mapping[str, PartGroup] = field(default_factory=dict)


def version_of(asset: ImportedAsset) -> Version:
    """What of an asset says which of its parts are those of another version."""
    digests = [sha256_of_arrays([mesh.positions, mesh.indices]) for mesh in asset.meshes]
    parts = pivoted(asset)
    shapes = {key: digests[part.mesh] for key, part in parts.items()}
    return Version(parts, asset.materials, shapes, pivoted_groups(asset.groups, parts))


def swapped(scene: Scene, before: Version, after: Version, asset: Asset) -> tuple[Scene, list[SwapRow]]:
    """The document with another version of its asset, and what became of its parts, those that are gone at the end."""
    matched = _matched(before, after)
    if scene.asset:
        stood = {"scale": scene.asset.scale, "up": scene.asset.up, "clip": asset.clip or scene.asset.clip}
        asset = asset.model_copy(update=stood)
    textures = _textures(before.materials, after.materials)
    materials = {key: _material(key, material, after, textures) for key, material in scene.materials.items()}
    parts, rows = _parts(scene, before, after, matched, asset)
    parts = {key: _retextured(part, textures) for key, part in parts.items()}
    groups = dict(scene.part_groups)
    named = _new_groups(groups, before, after, asset)
    for key, part in after.parts.items():
        old = matched.get(key)
        if old is not None:
            continue
        if part.material not in materials:
            materials[part.material] = after.materials[part.material]
        fresh = unique_key(key, parts)
        group = named.get(part.group) if part.group is not None else None
        parts[fresh] = part.model_copy(update={"pivot": _stood(part.pivot, asset), "group": group})
        rows.append(SwapRow(key=fresh, name=part.name, state="new"))
    gone = [SwapRow(key=key, name=part.name, state="gone") for key, part in scene.parts.items() if key not in parts]
    changes = {"asset": asset, "parts": parts, "part_groups": groups, "materials": materials}
    return scene.model_copy(update=changes), rows + gone


def _new_groups(groups: dict[str, PartGroup], before: Version, after: Version, asset: Asset) -> dict[str, str | None]:
    """The document's keys of the newer version's groups; those that the one before did not have are added to `groups`.

    None of one that the document has dissolved.
    """
    named: dict[str, str | None] = {}
    for key, group in after.groups.items():
        if key in before.groups:
            named[key] = key if key in groups else None
            continue
        named[key] = fresh = unique_key(key, groups)
        above = named.get(group.group) if group.group is not None else None
        groups[fresh] = group.model_copy(update={"group": above, "pivot": _stood(group.pivot, asset)})
    return named


def matched_by_hand(before: Scene, after: Scene, matches: Mapping[str, str]) -> Scene:
    """The document with a newer version in which parts that are new there take the place of others that are gone.

    `matches` has the key of the gone part by that of the new one. The new shape has what hands made of the old part.
    Raises SceneError for a pair that is none.
    """
    parts, textures = dict(after.parts), _textures(before.materials, after.materials)
    for new, old in matches.items():
        if new not in parts or new in before.parts:
            raise SceneError(f"parts/{new}: is no new part of the newer version")
        if old in parts or old not in before.parts or before.parts[old].form is not None:
            raise SceneError(f"parts/{old}: is no part that the newer version lacks")
        came = parts.pop(new)
        of_the_file = {name: getattr(came, name) for name in _OF_THE_FILE}
        kept = _retextured(before.parts[old], textures)
        parts[old] = kept.model_copy(update={**of_the_file, "pieces": ()})
    return after.model_copy(update={"parts": parts})


def _retextured(part: Part, textures: Mapping[int, int]) -> Part:
    """A part whose own images, that it is displaced or strewn by, are those of the newer version in their places."""

    def now(use: TextureUse | None) -> TextureUse | None:
        number = None if use is None else textures.get(use.texture)
        return None if use is None or number is None else use.model_copy(update={"texture": number})

    scatter = part.strewn and part.strewn.model_copy(update={"mask": now(part.strewn.mask)})
    return part.model_copy(update={"displacement_texture": now(part.displacement_texture), "strewn": scatter})


def _matched(before: Version, after: Version) -> dict[str, str]:
    """Keys of the version before by those of the newer one."""
    found = {key: key for key in after.parts if key in before.parts}
    for attribute in ("name", "shape"):
        left_old = [key for key in before.parts if key not in set(found.values())]
        left_new = [key for key in after.parts if key not in found]
        old = _by(attribute, before, left_old)
        for key, said in _by(attribute, after, left_new, turned=True).items():
            if said in old:
                found[key] = old[said]
    return found


def _by(attribute: str, version: Version, keys: Sequence[str], *, turned: bool = False) -> dict[str, str]:
    """Keys by what only one part has, or what it has by its key."""
    said = {key: version.parts[key].name if attribute == "name" else version.shapes[key] for key in keys}
    counts = Counter(said.values())
    single = {key: value for key, value in said.items() if counts[value] == 1}
    return single if turned else {value: key for key, value in single.items()}


def _parts(
    scene: Scene, before: Version, after: Version, matched: Mapping[str, str], asset: Asset
) -> tuple[dict[str, Part], list[SwapRow]]:
    """The document's own parts that are still there, in its order, and bodies that the asset has not brought.

    Copies go with the part that they are copies of.
    """
    newer = {old: new for new, old in matched.items()}
    meshes = {before.parts[old].mesh: (before.parts[old], new) for old, new in newer.items()}
    renumbered = {old: after.parts[new].mesh for old, (_, new) in meshes.items()}
    parts, rows = {}, []
    for key, part in scene.parts.items():
        if part.form is not None:
            parts[key] = part
            continue
        first, new = (before.parts[key], newer.get(key)) if key in before.parts else meshes.get(part.mesh, (part, None))
        if new is None:
            continue
        came = after.parts[new]
        if key not in before.parts:
            keys = came.keys if part.keys == first.keys else part.keys
            pieces = _repieced(part, renumbered)
            if pieces is None:
                continue
            parts[key] = part.model_copy(update={"mesh": came.mesh, "keys": keys, "pieces": pieces})
            rows.append(SwapRow(key=key, name=part.name, state="same"))
            continue
        was = before.parts[key]
        parts[key] = part.model_copy(update=_of_the_file(part, was, came, asset))
        state: Literal["same", "moved", "changed"] = "same"
        if before.shapes[key] != after.shapes[new]:
            state = "changed"
        elif (was.matrix, was.keys) != (came.matrix, came.keys):
            state = "moved"
        rows.append(SwapRow(key=key, name=part.name, state=state))
    return parts, rows


def _repieced(part: Part, meshes: Mapping[int, int]) -> tuple[MeshPiece, ...] | None:
    """The pieces of a part by the numbers that their meshes have in the newer version; None when one is gone."""
    if any(piece.mesh not in meshes for piece in part.pieces):
        return None
    return tuple(piece.model_copy(update={"mesh": meshes[piece.mesh]}) for piece in part.pieces)


def _of_the_file(part: Part, was: Part, came: Part, asset: Asset) -> dict[str, Any]:
    """What another version says of a part; a matrix or a pivot that was changed by hand is changed in the new one."""
    fields: dict[str, Any] = {"mesh": came.mesh, "keys": came.keys, "matrix": came.matrix}
    if part.matrix != was.matrix:
        try:
            changed = affine(part.matrix) @ np.linalg.inv(affine(was.matrix)) @ affine(came.matrix)
            fields["matrix"] = tuple(changed[:3].ravel().tolist())
        except np.linalg.LinAlgError:
            fields["matrix"] = part.matrix
    kept = np.allclose(part.pivot, _stood(was.pivot, asset), rtol=1e-5, atol=1e-9)
    return fields | ({"pivot": _stood(came.pivot, asset)} if kept else {})


def _stood(point: Sequence[float], asset: Asset) -> tuple[float, ...]:
    """A point of the file where the asset stands."""
    placed = stand_of(asset)[:3, :3] @ np.array(point, np.float64)
    return tuple(float(f"{v:.9g}") for v in placed)


def _textures(before: Mapping[str, Material], after: Mapping[str, Material]) -> dict[int, int]:
    """Numbers of textures in the newer version by those before: of those that a material has in the same place."""
    found = {}
    for key, material in before.items():
        other = after.get(key)
        for name, use in material if other else ():
            new = getattr(other, name)
            if isinstance(use, TextureUse) and isinstance(new, TextureUse) and use.file is None and new.file is None:
                found[use.texture] = new.texture
    return found


def _material(key: str, material: Material, after: Version, textures: Mapping[int, int]) -> Material:
    """A material with images of the newer version: its own there, or those in the place of what it has."""
    came = after.materials.get(key)
    changes: dict[str, Any] = {}
    for name, use in material:
        if not name.endswith("_texture") or (isinstance(use, TextureUse) and use.file is not None):
            continue
        if came is not None:
            changes[name] = getattr(came, name)
        elif isinstance(use, TextureUse):
            number = textures.get(use.texture)
            changes[name] = None if number is None else use.model_copy(update={"texture": number})
    changes["inputs"] = with_textures(material.inputs, textures.get)
    changes["layers"] = with_inputs(material.layers, lambda one: with_texture(one, textures.get))
    return material.model_copy(update=changes)
