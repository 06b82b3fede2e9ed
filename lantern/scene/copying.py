"""Copies of parts and groups, and of what lies on them, with keys and names that nothing else has.

In: the document, what is copied. Out: patches. Called by `arranging`
and `strewing`.
"""

import re
from collections.abc import Mapping, Sequence
from typing import Any

from lantern.scene.decal_places import decals_of
from lantern.scene.decals import Decal
from lantern.scene.document import Part, Scene
from lantern.scene.grouping import Patch, Top
from lantern.scene.keys import free_key
from lantern.scene.placed import Placed


class Copier:
    """Makes any number of copies; `materials` are the ones that they wear in place of others."""

    def __init__(self, scene: Scene, materials: Mapping[str, str]) -> None:
        self._scene, self._materials = scene, materials
        self._taken = {name: set(getattr(scene, name)) for name in ("parts", "part_groups", "decals")}
        self._names = {one.name for name in self._taken for one in getattr(scene, name).values()}

    def copies(self, changed: Sequence[tuple[Top, Mapping[str, Any]]]) -> tuple[Patch, str]:
        """The patch that adds one copy of parts, and of groups with all that is in them, each with changes of fields.

        Also the key of the first part. What is strewn over one of them lies on its copy, and so do decals.
        """
        patch: Patch = []
        fresh = {name: self._key("parts", name) for top, _ in changed for name in top.parts}
        for top, changes in changed:
            _, section, key = top.path.split("/")
            groups: dict[str | None, str] = {}
            for name in self._within(key) if section == "part_groups" else ():
                groups[name], group = self._key("part_groups", name), self._scene.part_groups[name]
                own = changes if name == key else {"group": groups[group.group]}
                patch.append(self._added("part_groups", groups[name], group, own))
            for name in top.parts:
                part = self._scene.parts[name]
                inside = section == "part_groups"
                mine: dict[str, Any] = {"group": groups[part.group]} if inside else dict(changes)
                if part.strewn is not None:
                    over = fresh.get(part.strewn.over, part.strewn.over)
                    mine["strewn"] = part.strewn.model_copy(update={"over": over})
                patch.append(self._added("parts", fresh[name], part, mine))
        return patch + self.decals(fresh), next(iter(fresh.values()))

    def decals(self, became: Mapping[str, str]) -> Patch:
        """The patch that adds copies of the decals that some parts carry, for their copies."""
        found = decals_of(self._scene.decals, became)
        return [self._added("decals", self._key("decals", key), decal, {}) for key, decal in found.items()]

    def _within(self, key: str) -> list[str]:
        """A group and those within it, from the outside in."""
        found = [key]
        for group in found:
            found += [name for name, each in self._scene.part_groups.items() if each.group == group]
        return found

    def _key(self, section: str, key: str) -> str:
        fresh, _ = free_key(self._taken[section], key)
        self._taken[section].add(fresh)
        return fresh

    def _added(self, section: str, key: str, one: Placed | Decal, changes: Mapping[str, Any]) -> dict[str, Any]:
        stem, count = numbered(one.name)
        while f"{stem} {count}" in self._names or count == 1:
            count += 1
        name = f"{stem} {count}"[:200]
        self._names.add(name)
        worn = {"material": self._materials.get(one.material, one.material)} if isinstance(one, Part) else {}
        value = one.model_copy(update={**changes, **worn, "name": name}).model_dump(mode="json")
        return {"op": "add", "path": f"/{section}/{key}", "value": value}


def numbered(name: str) -> tuple[str, int]:
    """("Bead", 3) of "Bead 3"."""
    found = re.fullmatch(r"(.*\S) (\d{1,6})", name)
    return (found[1], int(found[2])) if found else (name, 1)


def own_materials(scene: Scene, keys: Sequence[str]) -> tuple[Patch, dict[str, str]]:
    """The patch that adds a copy of each material that parts wear, and the keys of the copies by those of the first."""
    patch, fresh = list[dict[str, Any]](), {}
    taken = set(scene.materials)
    for worn in dict.fromkeys(scene.parts[key].material for key in keys):
        material = scene.materials[worn]
        key, number = free_key(taken, worn)
        taken.add(key)
        fresh[worn] = key
        value = material.model_copy(update={"name": f"{material.name[:190]} {number + 1}"}).model_dump(mode="json")
        patch.append({"op": "add", "path": f"/materials/{key}", "value": value})
    return patch, fresh
