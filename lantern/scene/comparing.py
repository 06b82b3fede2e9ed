"""What differs between two documents in a person's words, each difference to be taken over alone.

In: two documents. Out: sentences by areas, with the patches from one to the other and back; the patch that makes one as
the other, in whole or in some areas. Called by the server for takes.
"""

from collections.abc import Collection, Iterator
from dataclasses import dataclass
from typing import Any, Literal

from pydantic import BaseModel

from lantern.scene.document import Scene
from lantern.scene.patching import Patch, difference, replaced, steps_of
from lantern.scene.variants import whole_change
from lantern.scene.wording import difference_said

Area = Literal["asset", "materials", "light", "camera", "look", "print"]
AREAS: dict[Area, tuple[str, ...]] = {
    "asset": (
        "asset", "parts", "part_groups", "part_sets", "ground",
        "variant_groups", "editions", "edition_order", "exclusions",
    ),
    "materials": ("materials", "decals", "brand_colors"),
    "light": ("environment", "sky", "lights", "light_order", "balance", "conditions", "haze", "backdrop"),
    "camera": ("camera", "shots", "shot_order", "layout", "shutter", "motion"),
    "look": ("look",),
    "print": ("rendering", "proof", "print"),
}  # fmt: skip
"""Sections of the document by what a person would take back on its own."""
AREA_OF = {section: area for area, sections in AREAS.items() for section in sections}
_UNSAID = {"light_order", "shot_order", "edition_order"}
"""Sections that differ by nothing that anybody sees."""
_STANDS = {"/camera/position", "/camera/target", "/camera/roll"}


@dataclass(frozen=True)
class Difference:
    """One thing that differs, in words, with the patches that make it as in the second and as in the first."""

    area: Area
    said: str
    to_second: Patch
    to_first: Patch


def differences(first: Scene, second: Scene) -> list[Difference]:
    """What differs, in the order of the areas."""
    before, after = first.plain(), second.plain()
    found = []
    for area, sections in AREAS.items():
        for section in sections:
            if section in _UNSAID:
                continue
            operations = difference(before[section], after[section], f"/{section}")
            found += [
                _told(area, said, patch, before, after)
                for said, patch in _sentences(first, second, operations, before, after)
            ]
    return found


def _sentences(first: Scene, second: Scene, operations: Patch, before: Any, after: Any) -> Iterator[tuple[str, Patch]]:
    stands = [one for one in operations if one["path"] in _STANDS]
    if stands:
        yield "Camera: stands elsewhere", stands
    seen: set[str] = set()
    for one in operations:
        path = one["path"]
        if path in _STANDS:
            continue
        place, (old, new) = whole_change(before, after, path)
        if one["op"] != "replace" and place == path:
            there = second if one["op"] == "add" else first
            yield f"{_name_of(there, path)}: {'new' if one['op'] == 'add' else 'gone'}", [one]
            continue
        if place not in seen:
            seen.add(place)
            yield _said(first, second, place, old, new), [replaced(place, new)]


def _said(first: Scene, second: Scene, place: str, old: Any, new: Any) -> str:
    steps = steps_of(place)
    if steps[0] == "variant_groups" and steps[2:] == ["chosen"]:
        names = [_variant_on(scene, steps[1]) for scene in (first, second)]
        return f"{second.variant_groups[steps[1]].name}: {' → '.join(names)}"
    named = first if _is_worn(first, old) else second
    return difference_said(named, place, _called(first, old), _called(second, new))


def _variant_on(scene: Scene, key: str) -> str:
    group = scene.variant_groups[key]
    return group.variants[group.chosen].name if group.chosen in group.variants else "none"


def _is_worn(scene: Scene, value: Any) -> bool:
    return isinstance(value, str) and value in scene.materials


def _called(scene: Scene, value: Any) -> Any:
    """A material by its name: each document knows those of its own alone."""
    return scene.materials[value].name if isinstance(value, str) and value in scene.materials else value


def _name_of(scene: Scene, path: str) -> str:
    """What is new or gone: by its name where it has one."""
    here: Any = scene
    name = ""
    for step in steps_of(path):
        here = here.get(step) if isinstance(here, dict) else getattr(here, step, None)
        called = getattr(here, "name", None) if isinstance(here, BaseModel) else None
        name = called if isinstance(called, str) else name
    section = steps_of(path)[0].replace("_", " ").removesuffix("s").capitalize()
    return f"{section} {name}".strip()


def _told(area: Area, said: str, patch: Patch, before: Any, after: Any) -> Difference:
    """A difference that can be taken over alone: materials that it puts on come with it."""
    back = [_reverse(one, before) for one in reversed(patch)]
    return Difference(area, said, _with_materials(patch, after), _with_materials(back, before))


def _reverse(operation: dict[str, Any], before: Any) -> dict[str, Any]:
    if operation["op"] == "add":
        return {"op": "remove", "path": operation["path"]}
    value = before
    for step in steps_of(operation["path"]):
        value = value[step]
    return {"op": "add" if operation["op"] == "remove" else "replace", "path": operation["path"], "value": value}


def _with_materials(patch: Patch, document: Any) -> Patch:
    worn = [one["value"] for one in patch if one["path"].startswith("/parts/") and one["path"].endswith("/material")]
    return [{"op": "add", "path": f"/materials/{key}", "value": document["materials"][key]} for key in worn] + patch


def fitting(patch: Patch, scene: Scene) -> Patch:
    """A patch of `differences` for a document of today: materials that it has stay as they are."""
    return [one for one in patch if not (one["op"] == "add" and one["path"].startswith("/materials/")
            and one["path"].removeprefix("/materials/") in scene.materials)]  # fmt: skip


def restored(scene: Scene, kept: Scene, areas: Collection[Area]) -> Patch:
    """The patch that makes a document as another one, in some areas; materials that it would miss come with them."""
    now, then = scene.plain(), kept.plain()
    patch: Patch = []
    for area in AREAS:
        for section in AREAS[area] if area in areas else ():
            patch += difference(now[section], then[section], f"/{section}")
    if "asset" in areas and "materials" not in areas:
        missing = [key for key in then["materials"] if key not in now["materials"]]
        patch = [{"op": "add", "path": f"/materials/{key}", "value": then["materials"][key]} for key in missing] + patch
    return patch
