"""Groups of parts: made, nested, dissolved, and taken as wholes by what is done to all of their parts.

In: the document, keys of parts. Out: patches under which everything stays where it stands. Called by `arranging`.
"""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from lantern.scene.document import Scene
from lantern.scene.keys import free_key
from lantern.scene.making import Made
from lantern.scene.placed import PartGroup, Placed
from lantern.scene.placing import REST, Places, into_space

Patch = list[dict[str, Any]]


@dataclass(frozen=True)
class Top:
    """What is taken as a whole: a part, or a group with all that is in it; its path in the document."""

    path: str
    one: Placed
    parts: tuple[str, ...]


def replaced(path: str, one: Placed, changes: Mapping[str, Any]) -> Patch:
    """The operations that give something at a path other values, where they are others."""
    return [
        {"op": "replace", "path": f"{path}/{name}", "value": value}
        for name, value in changes.items()
        if getattr(one, name) != value
    ]


def parts_in(scene: Scene) -> dict[str, list[str]]:
    """Keys of all parts in each group and in the groups within it."""
    found: dict[str, list[str]] = {key: [] for key in scene.part_groups}
    for key, part in scene.parts.items():
        for group in above(scene, part):
            found[group].append(key)
    return found


def above(scene: Scene, one: Placed) -> list[str]:
    """Keys of the groups that something belongs to, from the inside out."""
    found, key = [], one.group
    while key is not None and key in scene.part_groups:
        found.append(key)
        key = scene.part_groups[key].group
    return found


def tops_of(scene: Scene, keys: Sequence[str]) -> list[Top]:
    """The parts with some keys as the fewest wholes: a group of which every part is among them is one."""
    chosen = set(keys)
    whole = {group for group, parts in parts_in(scene).items() if parts and chosen.issuperset(parts)}
    tops: dict[str, Top] = {}
    for key in keys:
        part = scene.parts[key]
        outermost = [group for group in above(scene, part) if group in whole]
        if not outermost:
            tops[f"/parts/{key}"] = Top(f"/parts/{key}", part, (key,))
            continue
        path = f"/part_groups/{outermost[-1]}"
        held = tops[path].parts if path in tops else ()
        tops[path] = Top(path, scene.part_groups[outermost[-1]], (*held, key))
    return list(tops.values())


def gathered(scene: Scene, keys: Sequence[str], middle: Sequence[float]) -> Made:
    """The patch that makes a group of parts, which turns about a point of the scene. Groups that are whole nest."""
    tops, places = tops_of(scene, keys), Places.of(scene)
    parents = {top.one.group for top in tops}
    parent = parents.pop() if len(parents) == 1 else None
    key, number = free_key(scene.part_groups, "group")
    space = places.group(parent)
    pivot = middle if space is REST else (np.linalg.inv(space) @ [*middle, 1.0])[:3]
    group = PartGroup(name=f"Group {number}", group=parent, pivot=tuple(float(f"{v:.6g}") for v in pivot))
    patch: Patch = [{"op": "add", "path": f"/part_groups/{key}", "value": group.model_dump(mode="json")}]
    for top in tops:
        # The new group moves nothing yet: its space is that of its parent.
        kept = into_space(top.one, places.group(top.one.group), space)
        patch += replaced(top.path, top.one, {"group": key, **kept})
    return Made(key, f"Group {len(tops)} things" if len(tops) != 1 else "Group", patch)


def moved_into(scene: Scene, keys: Sequence[str], into: str | None) -> Made | None:
    """The patch that puts parts, or whole groups of them, into a group or into none; None when it lies within them."""
    places = Places.of(scene)
    if into is not None and into not in scene.part_groups:
        return None
    around = [into, *above(scene, scene.part_groups[into])] if into is not None else []
    patch: Patch = []
    for top in tops_of(scene, keys):
        if top.path.removeprefix("/part_groups/") in around and top.path.startswith("/part_groups/"):
            return None
        kept = into_space(top.one, places.group(top.one.group), places.group(into))
        patch += replaced(top.path, top.one, {"group": into, **kept})
    name = "no group" if into is None else scene.part_groups[into].name
    return Made("", f"Move into {name}", patch)


def dissolved(scene: Scene, key: str) -> Made | None:
    """The patch that takes a group away, but nothing of what is in it; None when it is not there."""
    group = scene.part_groups.get(key)
    if group is None:
        return None
    places = Places.of(scene)
    was, now = places.group(key), places.group(group.group)
    patch: Patch = []
    for path, one in (
        *((f"/parts/{name}", part) for name, part in scene.parts.items()),
        *((f"/part_groups/{name}", each) for name, each in scene.part_groups.items()),
    ):
        if one.group == key:
            patch += replaced(path, one, {"group": group.group, **into_space(one, was, now)})
    return Made("", f"Dissolve {group.name}", [*patch, {"op": "remove", "path": f"/part_groups/{key}"}])


def emptied(scene: Scene, gone: Collection[str]) -> list[str]:
    """Keys of groups that have parts, but none any more once some are gone."""
    return [key for key, parts in parts_in(scene).items() if parts and set(gone).issuperset(parts)]
