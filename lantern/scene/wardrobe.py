"""Materials of a project as a whole: one for some parts alone, those that nothing wears.

In: a document, parts. Out: a patch. Called by the render host, which is asked by the window.
"""

from collections.abc import Sequence
from typing import Any

from lantern.scene.copying import own_materials
from lantern.scene.document import Scene
from lantern.scene.making import Made


def of_their_own(scene: Scene, parts: Sequence[str]) -> Made:
    """The patch that gives parts copies of the materials that others wear as well; empty where none does."""
    some = [key for key in parts if key in scene.parts]
    others = {part.material for key, part in scene.parts.items() if key not in set(some)}
    shared = [key for key in some if scene.parts[key].material in others]
    patch, fresh = own_materials(scene, shared)
    patch += [
        {"op": "replace", "path": f"/parts/{key}/material", "value": fresh[scene.parts[key].material]} for key in shared
    ]
    return Made(next(iter(fresh.values()), ""), "Material of its own", patch)


def _worn_in_variants(scene: Scene) -> list[str]:
    """Materials that parts wear when another variant is on."""
    variants = [one for group in scene.variant_groups.values() for one in group.variants.values()]
    values = [value for one in variants for path, value in one.values.items() if path.endswith("/material")]
    return [value for value in values if isinstance(value, str) and value in scene.materials]


def without_unworn(scene: Scene) -> Made:
    """The patch that removes the materials which no part wears, in no variant, and none that is worn has over it."""
    needed = list(dict.fromkeys([part.material for part in scene.parts.values()] + _worn_in_variants(scene)))
    for key in needed:
        # Also a layer of a layer, which is not shown: nothing may refer to what is gone.
        needed += [layer.material for layer in scene.materials[key].layers if layer.material not in needed]
    patch: list[dict[str, Any]] = [
        {"op": "remove", "path": f"/materials/{key}"} for key in scene.materials if key not in set(needed)
    ]
    noun = "material" if len(patch) == 1 else "materials"
    return Made("", f"Remove {len(patch)} {noun} that nothing wears", patch)
