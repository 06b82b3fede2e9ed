"""Variants made by doing, taken, and combined to editions.

In: a document, the document before the last variant. Out: patches, and what is on. Called by the render host and the
server. A place that one variant of a group changes has a value in all of them: what it was before, in the others.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import product
from math import prod
from typing import Any

from pydantic import BaseModel
from pydantic_core import to_jsonable_python

from lantern.scene.document import Scene
from lantern.scene.editions import MOST_PLACES, MOST_VARIANTS, SECTIONS, Edition, Exclusion, Variant, VariantGroup
from lantern.scene.keys import free_key, ordered
from lantern.scene.making import Made
from lantern.scene.patching import Patch, difference, replaced, steps_of
from lantern.scene.wording import difference_said

_SWITCHES = ("visible", "enabled")
"""Fields by which something that is new in one variant is left out of the others."""
_GONE = object()
GROUP = "Variants"
"""What a group is called until it changes something."""


class VariantError(ValueError):
    """Variants cannot be had as they are asked for; the message says why and what to do."""


def in_order(group: VariantGroup) -> list[str]:
    """Keys of the variants of a group as lists show them."""
    return ordered(group.variants, group.order)


def value_at(data: Any, path: str) -> Any:
    """The value at a JSON Pointer of a document or of its plain data, as plain data; `_GONE` where there is none.

    Of a document only what is there is made plain: it is asked at every edit, of assets of thousands of parts.
    """
    for step in steps_of(path):
        if isinstance(data, dict):
            data = data.get(step, _GONE)
        elif isinstance(data, BaseModel) and step in type(data).model_fields:
            data = getattr(data, step)
        else:
            return _GONE
    return data if data is _GONE else to_jsonable_python(data)


def is_there(data: Any, path: str) -> bool:
    """Whether a document, or its plain data, has a place."""
    return value_at(data, path) is not _GONE


def changes_between(before: Mapping[str, Any], now: Mapping[str, Any]) -> dict[str, tuple[Any, Any]]:
    """(value before, value now) by places, of what variants can change; of two documents as plain data.

    What is new is there in one and switched off in the other; what is gone is none of a variant's business.
    """
    found: dict[str, tuple[Any, Any]] = {}
    for section in SECTIONS:
        for operation in difference(before[section], now[section], f"/{section}"):
            path = operation["path"]
            if operation["op"] == "replace" and path.count("/") > 1:
                place, pair = whole_change(before, now, path)
                found[place] = pair
            elif operation["op"] == "add":
                for switch in _SWITCHES:
                    if is_there(now, f"{path}/{switch}"):
                        found[f"{path}/{switch}"] = (False, value_at(now, f"{path}/{switch}"))
    return found


def whole_change(before: Any, now: Any, path: str) -> tuple[str, tuple[Any, Any]]:
    """(place, values before and now) of a change of plain data, so large that it makes sense on its own.

    It is that of all around the place where something has become another kind of thing, or names another file.
    """
    *above, _ = path.split("/")
    outer = "/".join(above)
    first, second = value_at(before, outer), value_at(now, outer)
    both = isinstance(first, dict) and isinstance(second, dict)
    # Files are found in documents by their whole reference: half of one would be collected as used by nobody.
    if both and (first.get("kind") != second.get("kind") or "sha256" in first) and outer.count("/") > 1:
        return outer, (first, second)
    return path, (value_at(before, path), value_at(now, path))


def begun(scene: Scene) -> Made:
    """The patch to a new group whose first variant is what is there: what is changed from now on is of others."""
    key, number = free_key(scene.variant_groups, "group")
    first, name = {"variant-1": Variant(name="As it was")}, f"{GROUP} {number}"
    group = VariantGroup(name=name, variants=first, order=tuple(first), chosen="variant-1")
    patch = [{"op": "add", "path": f"/variant_groups/{key}", "value": group.model_dump(mode="json")}]
    return Made(key, f"New variants: {group.name}", patch)


def kept(before: Scene, scene: Scene, key: str, name: str | None = None) -> Made:
    """The patch that keeps what has changed since `before` as a variant of a group.

    A group that has no name of its own is called by what it changes. Raises VariantError where nothing has changed, or
    the group is gone.
    """
    group = scene.variant_groups.get(key)
    if group is None:
        raise VariantError("These variants are gone: begin others.")
    now = scene.plain()
    own = {path for one in group.variants.values() for path in one.values}
    found = changes_between(before.plain(), now)
    owners = {path: None if path in own else _owner(scene, path, key) for path in found}
    changes = {path: pair for path, pair in found.items() if owners[path] is None}
    others = sorted({scene.variant_groups[owner].name for owner in owners.values() if owner is not None})
    if not changes and others:
        raise VariantError(f"What has changed belongs to other variants already: keep it in {' and '.join(others)}.")
    if not changes:
        raise VariantError("Nothing has changed since the last variant: change what is to differ, then keep it.")
    if len(own | changes.keys()) > MOST_PLACES:
        raise VariantError(f"A variant can change {MOST_PLACES:,} things: this one has more.")
    if len(group.variants) >= MOST_VARIANTS:
        raise VariantError(f"There are {MOST_VARIANTS} variants already: remove one first.")
    return _one_more(scene, now, key, group, changes, own, name)


def _owner(scene: Scene, path: str, group: str) -> str | None:
    """The group that a place belongs to already, other than the one that is meant."""
    others = ((key, one) for key, one in scene.variant_groups.items() if key != group)
    return next((key for key, one in others if any(path in each.values for each in one.variants.values())), None)


def _one_more(
    scene: Scene,
    now: Any,
    key: str,
    group: VariantGroup,
    changes: Mapping[str, tuple[Any, Any]],
    own: set[str],
    name: str | None,
) -> Made:
    new, number = free_key(group.variants, "variant")
    widened = {path: old for path, (old, _) in changes.items() if path not in own}
    variants = {
        each: one.model_copy(update={"values": {**widened, **one.values}}) for each, one in group.variants.items()
    }
    values = {path: value_at(now, path) for path in (*own, *widened) if is_there(now, path)}
    variant = Variant(name=name or f"Variant {number}", values=values)
    called = group.name
    if called.startswith(GROUP) and not own:
        called = _subject(scene, changes) or called
    changed = group.model_copy(
        update={"name": called, "variants": {**variants, new: variant}, "order": (*in_order(group), new), "chosen": new}
    )
    patch = [replaced(f"/variant_groups/{key}", changed.model_dump(mode="json"))]
    return Made(key, f"Keep {variant.name} of {called}", patch)


def _subject(scene: Scene, changes: Mapping[str, Any]) -> str:
    """What a group is called: by the one thing that it changes."""
    named: dict[str, Any] = {"parts": scene.parts, "part_groups": scene.part_groups, "materials": scene.materials,
                             "decals": scene.decals, "lights": scene.lights}  # fmt: skip
    found = set()
    for path in changes:
        section, key, *_ = [*steps_of(path), ""]
        one = named.get(section, {}).get(key)
        found.add(one.name if one is not None else section.replace("_", " ").capitalize())
    return found.pop() if len(found) == 1 else ""


def differing(scene: Scene, group: str) -> list[str]:
    """Places at which the document is not as the variant that is on has it; none where none is on."""
    one = scene.variant_groups[group]
    if one.chosen is None or one.chosen not in one.variants:
        return []
    values = one.variants[one.chosen].values
    return [path for path, value in values.items() if value_at(scene, path) not in (_GONE, value)]


def taken(scene: Scene, choice: Mapping[str, str], label: str | None = None) -> Made:
    """The patch to a choice of variants by their groups; what is gone from the document is passed over.

    Raises VariantError for a group or a variant that is gone, and for variants that do not go together.
    """
    patch: Patch = []
    names = []
    for key, wanted in choice.items():
        group = scene.variant_groups.get(key)
        if group is None or wanted not in group.variants:
            raise VariantError("This variant is gone.")
        variant = group.variants[wanted]
        names.append(f"{group.name}: {variant.name}")
        patch += [
            replaced(path, value)
            for path, value in variant.values.items()
            if value_at(scene, path) not in (_GONE, value)
        ]
        if group.chosen != wanted:
            patch.append(replaced(f"/variant_groups/{key}/chosen", wanted))
    if against := forbidden(scene, {**present(scene), **choice}):
        raise VariantError(f"{said(scene, against)} do not go together: a rule says so.")
    return Made("", label or "; ".join(names)[:200], patch)


def defaults_taken(scene: Scene) -> Made:
    """The patch to the default of each group that has one. Raises VariantError where none has."""
    groups = scene.variant_groups.items()
    choice = {key: one.default for key, one in groups if one.default is not None and one.default in one.variants}
    if not choice:
        raise VariantError("No variant is a default: the menu of one makes it that of its group.")
    return taken(scene, choice, "All as by default")


def rewritten(scene: Scene, group: str, everywhere: bool) -> Made:
    """The patch that takes what was changed under a variant into it, or into all variants of its group."""
    one = scene.variant_groups[group]
    fresh = {path: value_at(scene, path) for path in differing(scene, group)}
    keys = one.variants if everywhere else [one.chosen] if one.chosen else []
    patch = [
        replaced(f"/variant_groups/{group}/variants/{key}/values", {**one.variants[key].values, **fresh})
        for key in keys
        if fresh
    ]
    name = one.variants[one.chosen].name if one.chosen in one.variants else one.name
    return Made(group, f"Keep in {'all of ' + one.name if everywhere else name}", patch)


def present(scene: Scene) -> dict[str, str]:
    """The variants that are on, by their groups."""
    groups = scene.variant_groups.items()
    return {key: one.chosen for key, one in groups if one.chosen is not None and one.chosen in one.variants}


def kept_edition(scene: Scene, name: str | None = None) -> Made:
    """The patch that keeps the variants that are on as an edition. Raises VariantError where none is."""
    choice = present(scene)
    if not choice:
        raise VariantError("No variant is on: keep variants first, an edition is a choice among them.")
    key, number = free_key(scene.editions, "edition")
    edition = Edition(name=name or f"Edition {number}", choice=choice)
    patch = [
        {"op": "add", "path": f"/editions/{key}", "value": edition.model_dump(mode="json")},
        replaced("/edition_order", [*edition_order(scene), key]),
    ]
    return Made(key, f"Keep {edition.name}", patch)


def edition_order(scene: Scene) -> list[str]:
    """Keys of the editions as lists show them."""
    return ordered(scene.editions, scene.edition_order)


def edition_taken(scene: Scene, key: str) -> Made:
    """The patch to an edition; variants that are gone are passed over. Raises VariantError."""
    edition = scene.editions.get(key)
    if edition is None:
        raise VariantError("This edition is gone.")
    return taken(scene, _still_there(scene, edition.choice), f"Edition: {edition.name}")


def _still_there(scene: Scene, choice: Mapping[str, str]) -> dict[str, str]:
    groups = scene.variant_groups
    return {key: one for key, one in choice.items() if key in groups and one in groups[key].variants}


def edition_on(scene: Scene) -> str | None:
    """The edition whose variants are on, with nothing changed under them; of several the one that says most."""
    now = present(scene)
    matching = [
        key
        for key in edition_order(scene)
        if (choice := scene.editions[key].choice)
        and all(now.get(group) == one for group, one in choice.items())
        and not any(differing(scene, group) for group in choice)
    ]
    return max(matching, key=lambda key: len(scene.editions[key].choice), default=None)


def forbidden(scene: Scene, choice: Mapping[str, str]) -> Exclusion | None:
    """The first rule that a choice breaks."""
    for rule in scene.exclusions:
        if all(choice.get(group) == one for group, one in rule.together.items()):
            return rule
    return None


def said(scene: Scene, rule: Exclusion) -> str:
    """A rule's variants by their names."""
    groups = scene.variant_groups
    names = [
        groups[key].variants[one].name
        for key, one in rule.together.items()
        if key in groups and one in groups[key].variants
    ]
    return " and ".join(names)


@dataclass(frozen=True)
class Combinations:
    """How many choices there are, and how many of them go together."""

    all: int
    allowed: int


COUNTED = 100_000
"""Combinations that are looked at one by one; of more the allowed ones are not counted."""


def combinations(scene: Scene) -> Combinations:
    """Of one variant of each group that has any; beyond COUNTED all are taken to be allowed."""
    groups = {key: in_order(one) for key, one in scene.variant_groups.items() if one.variants}
    total = prod(len(keys) for keys in groups.values()) if groups else 0
    if total > COUNTED or not scene.exclusions:
        return Combinations(total, total)
    return Combinations(total, sum(1 for _ in allowed(scene, groups)))


def allowed(scene: Scene, groups: Mapping[str, Sequence[str]]) -> Iterator[dict[str, str]]:
    """Choices that go together, in the order of the lists."""
    for choice in product(*groups.values()):
        named = dict(zip(groups, choice, strict=True))
        if forbidden(scene, named) is None:
            yield named


def tells(group: VariantGroup) -> bool:
    """Whether variants say what parts wear, and nothing else."""
    paths = [path.split("/")[1:] for one in group.variants.values() for path in one.values]
    return bool(paths) and all(len(steps) == 3 and (steps[0], steps[2]) == ("parts", "material") for steps in paths)


@dataclass(frozen=True)
class Dressing:
    """A group that says what parts wear: names of its variants, the one that is on, materials of parts by variant."""

    name: str
    variants: tuple[str, ...]
    chosen: int | None
    worn: Mapping[str, Mapping[int, str]]


def dressings(scene: Scene) -> list[Dressing]:
    """The groups that say what parts wear and nothing else; of parts and materials that are there."""
    found = []
    for group in scene.variant_groups.values():
        keys = in_order(group) if tells(group) else []
        worn: dict[str, dict[int, str]] = {}
        for number, key in enumerate(keys):
            for path, material in group.variants[key].values.items():
                part = steps_of(path)[1]
                if part in scene.parts and material in scene.materials:
                    worn.setdefault(part, {})[number] = material
        if worn:
            chosen = keys.index(group.chosen) if group.chosen in keys else None
            found.append(Dressing(group.name, tuple(group.variants[key].name for key in keys), chosen, worn))
    return found


def words_of(scene: Scene, group: str, variant: str) -> list[str]:
    """What a variant changes against the first of its group, a sentence each; of the first against the second."""
    one = scene.variant_groups[group]
    keys = in_order(one)
    other = next((key for key in keys if key != variant), None)
    if other is None:
        return []
    against, values = one.variants[keys[0] if variant != keys[0] else other].values, one.variants[variant].values
    return [
        difference_said(scene, path, against[path], value)
        for path, value in values.items()
        if path in against and against[path] != value
    ]
