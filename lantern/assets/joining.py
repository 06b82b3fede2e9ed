"""Several assets in one file: a zip that lists them, each in a folder of its own with what it refers to.

In: assets that were read, or files of assets. Out: one `ImportedAsset`, or such a zip. Called by `reading`, and by the
server when an asset is added to a project or takes the place of one of several.

The list is `assets.json`: {"assets": [{"folder": "1", "path": "1/lamp.glb", "name": "lamp.glb"}, …]}. All stand in the
space of the first. Keys of the others begin with their folder, so that a newer version of one renames nothing else.
"""

import json
import shutil
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from lantern.assets.archive import LIST, Entry, is_zip, listed
from lantern.assets.imported import ImportedAsset
from lantern.scene.document import Material, Part
from lantern.scene.editions import VariantGroup
from lantern.scene.keys import LONGEST
from lantern.scene.placed import PartGroup
from lantern.scene.placing import affine, stand_of
from lantern.scene.texture_use import TextureUse


@dataclass(frozen=True)
class AssetFile:
    """A file of an asset on this machine, and the name that people know it by."""

    path: Path
    name: str


def joined(assets: Sequence[tuple[str, str, ImportedAsset]]) -> ImportedAsset:
    """One asset of several, each with its folder and name; it is called, and stands, as the first."""
    _, _, first = assets[0]
    whole = replace(first, meshes=[], parts={}, groups={}, materials={}, textures=[], problems=[], variants={})
    back = np.linalg.inv(stand_of(first))
    for number, (folder, name, asset) in enumerate(assets):
        lead = f"{folder}-" if number else ""
        turned = back @ stand_of(asset)
        meshes, textures = len(whole.meshes), len(whole.textures)
        whole.meshes += asset.meshes
        whole.textures += asset.textures
        for key, material in asset.materials.items():
            whole.materials[_led(lead, key)] = _renumbered(material, textures)
        top = None
        if number:
            # All of another asset moves as one; the first is the document's own.
            top = _led(lead, "asset")
            whole.groups[top] = PartGroup(name=name[:200])
        for key, group in asset.groups.items():
            above = top if group.group is None else _led(lead, group.group)
            whole.groups[_led(lead, key)] = group.model_copy(update={"group": above})
        for key, part in asset.parts.items():
            stood = {} if number == 0 else _stood(part, turned)
            use = part.displacement_texture
            shifted = None if use is None else use.model_copy(update={"texture": use.texture + textures})
            moved = {
                "mesh": part.mesh + meshes,
                "material": _led(lead, part.material),
                "group": top if part.group is None else _led(lead, part.group),
                "displacement_texture": shifted,
            }
            whole.parts[_led(lead, key)] = part.model_copy(update=moved | stood)
        for key, variants in asset.variants.items():
            whole.variants[_led(lead, key)] = _led_variants(lead, variants, textures)
        whole.problems += [f"{name}: {problem}" for problem in asset.problems]
    return whole


def _led(lead: str, key: str) -> str:
    return (lead + key)[:LONGEST]


def _led_variants(lead: str, group: VariantGroup, textures: int) -> VariantGroup:
    """Variants of an asset whose keys have another beginning, and whose textures other numbers."""

    def led(values: dict[str, Any]) -> dict[str, Any]:
        found = {}
        for path, value in values.items():
            _, section, key, *field = path.split("/")
            if section == "materials" and not field:
                value = _renumbered(Material.model_validate(value), textures).model_dump(mode="json")
            elif field == ["material"]:
                value = _led(lead, value)
            found["/".join(("", section, _led(lead, key), *field))] = value
        return found

    variants = {key: one.model_copy(update={"values": led(one.values)}) for key, one in group.variants.items()}
    return group.model_copy(update={"variants": variants})


def _renumbered(material: Material, by: int) -> Material:
    uses = {name: use for name, use in material if isinstance(use, TextureUse)}
    return material.model_copy(
        update={name: use.model_copy(update={"texture": use.texture + by}) for name, use in uses.items()}
    )


def _stood(part: Part, turned: np.ndarray) -> dict[str, Any]:
    """Matrices of a part in the space of another asset, to which `turned` (4, 4) leads."""

    def of(matrix: Sequence[float]) -> tuple[float, ...]:
        return tuple((turned @ affine(matrix))[:3].ravel().tolist())

    keys = tuple(key.model_copy(update={"matrix": of(key.matrix)}) for key in part.keys)
    return {"matrix": of(part.matrix), "keys": keys}


def with_added(before: AssetFile, added: AssetFile, target: Path) -> str:
    """Write the zip of one more asset than `before` is, or has; returns the folder of the new one."""
    entries = listed(before.path) or [Entry("1", before.path.name, before.name)]
    folder = str(max(int(entry.folder) for entry in entries) + 1)
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as archive:
        kept = _kept(archive, before, entries)
        _write_list(archive, [*kept, _put(archive, added, folder)])
    return folder


def with_newer(before: AssetFile, newer: AssetFile, target: Path) -> str | None:
    """Write the zip in which a newer file takes the place of the one of its name; returns its folder.

    None, with nothing written, when there is no asset of that name.
    """
    entries = listed(before.path) or []
    found = next((entry for entry in entries if entry.name.lower() == newer.name.lower()), None)
    if found is None:
        return None
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as archive:
        kept = _kept(archive, before, [entry for entry in entries if entry is not found])
        whole = [*kept, _put(archive, newer, found.folder)]
        _write_list(archive, sorted(whole, key=lambda entry: int(entry.folder)))
    return found.folder


def _write_list(archive: zipfile.ZipFile, entries: Sequence[Entry]) -> None:
    content = {"assets": [{"folder": e.folder, "path": e.path, "name": e.name} for e in entries]}
    archive.writestr(LIST, json.dumps(content, ensure_ascii=False))


def _kept(archive: zipfile.ZipFile, before: AssetFile, entries: Sequence[Entry]) -> list[Entry]:
    """The assets that stay, copied as they lie."""
    if listed(before.path) is None:
        return [_put(archive, before, entry.folder) for entry in entries]
    with zipfile.ZipFile(before.path) as old:
        for info in old.infolist():
            if any(info.filename.startswith(f"{entry.folder}/") for entry in entries) and not info.is_dir():
                _copy(old, info, archive, info.filename)
    return list(entries)


def _put(archive: zipfile.ZipFile, file: AssetFile, folder: str) -> Entry:
    """One asset into its folder: with the files of its own zip, if it is one."""
    if not is_zip(file.path):
        with file.path.open("rb") as source, archive.open(f"{folder}/{file.name}", "w", force_zip64=True) as target:
            shutil.copyfileobj(source, target)
        return Entry(folder, f"{folder}/{file.name}", file.name)
    with zipfile.ZipFile(file.path) as inner:
        for info in inner.infolist():
            if not info.is_dir() and not info.filename.startswith("__MACOSX/"):
                _copy(inner, info, archive, f"{folder}/{info.filename}")
    return Entry(folder, f"{folder}/", file.name)


def _copy(source: zipfile.ZipFile, info: zipfile.ZipInfo, target: zipfile.ZipFile, name: str) -> None:
    with source.open(info) as packed, target.open(name, "w", force_zip64=True) as file:
        shutil.copyfileobj(packed, file)
