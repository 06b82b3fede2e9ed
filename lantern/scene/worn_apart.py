"""An edition worn by copies alone, while what they are copies of goes on wearing that of the project.

In: the document, an edition, the copies. Out: a patch. Called by the render host. Variants say what is so of the
originals; a copy has their shape and their name but for its number. A material that variants change is copied for them
first, so that no other edition changes it later.
"""

from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from typing import Any

from lantern.scene.copying import numbered
from lantern.scene.document import Part, Scene
from lantern.scene.editions import Edition
from lantern.scene.keys import free_key
from lantern.scene.making import Made
from lantern.scene.patching import Patch, apply_operations, pointer, replaced, steps_of
from lantern.scene.placed import Placed
from lantern.scene.variants import VariantError, value_at

PLACES = frozenset(Placed.model_fields) | {"matrix", "keys"}
"""Fields by which a part stands where it does: a copy that is in no group of its own stands elsewhere."""


def edition_worn(scene: Scene, key: str, copies: Sequence[str]) -> Made:
    """The patch that dresses copies as an edition says of what they are copies of.

    Raises VariantError where the edition is gone, or says nothing of them.
    """
    edition = scene.editions.get(key)
    if edition is None:
        raise VariantError("This edition is gone.")
    values = _values(scene, edition)
    told = _by_part(values)
    if any(part in told for part in copies):
        raise VariantError("These wear the edition of the project itself: choose copies of them.")
    originals = _originals(scene, told, copies)
    patch: Patch = []
    worn: dict[str, list[str]] = defaultdict(list)
    for copy in copies:
        part, original = scene.parts[copy], originals.get(copy)
        said = told[original] if original is not None else {}
        if original is not None and scene.parts[original].group == part.group:
            said = {field: value for field, value in said.items() if field[0] not in PLACES}
        worn[str(said.get(("material",), part.material))].append(copy)
        for field, value in said.items():
            path = pointer("parts", copy, *field)
            if field != ("material",) and value_at(scene, path) != value:
                patch.append(replaced(path, value))
    patch += _materials(scene, edition, values, worn)
    if not patch:
        raise VariantError(f"{edition.name} says nothing of these, or they wear it already.")
    return Made(copies[0], f"{edition.name} on {len(copies)} parts"[:200], patch)


def _values(scene: Scene, edition: Edition) -> dict[str, Any]:
    groups = scene.variant_groups
    chosen = [
        groups[key].variants[one]
        for key, one in edition.choice.items()
        if key in groups and one in groups[key].variants
    ]
    return {path: value for variant in chosen for path, value in variant.values.items()}


def _by_part(values: Mapping[str, Any]) -> dict[str, dict[tuple[str, ...], Any]]:
    """Values by their fields, the outer first, by parts."""
    found: dict[str, dict[tuple[str, ...], Any]] = defaultdict(dict)
    for path, value in values.items():
        section, key, *field = steps_of(path)
        if section == "parts":
            found[key][tuple(field)] = value
    return found


def _originals(scene: Scene, told: Collection[str], copies: Sequence[str]) -> dict[str, str]:
    """What each copy is a copy of, among parts that something is told of; of several alike, one after the other."""
    alike: dict[Any, list[str]] = defaultdict(list)
    for key in told:
        if key in scene.parts:
            alike[_kind(scene.parts[key])].append(key)
    found, count = {}, dict[Any, int]()
    for copy in copies:
        kind = _kind(scene.parts[copy])
        if kind in alike:
            turn = count[kind] = count.get(kind, -1) + 1
            found[copy] = alike[kind][turn % len(alike[kind])]
    return found


def _kind(part: Part) -> tuple[Any, ...]:
    """Equal for a part and its copies."""
    return numbered(part.name)[0], part.mesh, part.pieces, part.form


def _materials(scene: Scene, edition: Edition, values: Mapping[str, Any], worn: Mapping[str, list[str]]) -> Patch:
    """The patch that puts on what copies wear, by material; of one that variants change a copy as it is in this."""
    plain = scene.plain()
    changed = {
        steps_of(path)[1]
        for group in scene.variant_groups.values()
        for variant in group.variants.values()
        for path in variant.values
        if path.startswith("/materials/")
    }
    patch, taken = list[dict[str, Any]](), set(scene.materials)
    for material, parts in worn.items():
        put_on = material
        if material in changed and material in scene.materials:
            put_on, _ = free_key(taken, material)
            taken.add(put_on)
            root = pointer("materials", material)
            own = [replaced(path, value) for path, value in values.items() if path.startswith(f"{root}/")]
            value = apply_operations(plain, own)[0]["materials"][material]
            name = f"{scene.materials[material].name[:150]}, {edition.name}"[:200]
            patch.append({"op": "add", "path": pointer("materials", put_on), "value": {**value, "name": name}})
        patch += [
            replaced(pointer("parts", part, "material"), put_on)
            for part in parts
            if scene.parts[part].material != put_on
        ]
    return patch
