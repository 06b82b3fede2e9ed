"""Another asset in the place of the one that is there, as variants of presence: both are loaded, one is seen.

In: the document before and after the other was added beside. Out: the document with a group of two variants. Called by
the server's intake.
"""

from lantern.scene.document import Scene
from lantern.scene.editions import Variant, VariantGroup
from lantern.scene.grouping import gathered
from lantern.scene.keys import free_key
from lantern.scene.patching import apply_operations, pointer
from lantern.scene.reading import read_scene


def assets_as_variants(before: Scene, added: Scene, name: str) -> Scene:
    """The document with the added asset, called `name`, where the others were, and those left out in its variant.

    They are told apart by groups, so that variants may still say of any part whether it is there. Bodies that were made
    here stay as they are.
    """
    called = before.asset.name if before.asset else "As it was"
    earlier, grouped = _as_group(before, added, called)
    brought = [key for key in added.part_groups if key not in before.part_groups]
    tops = [key for key in brought if added.part_groups[key].group not in brought]
    shown = {pointer("part_groups", key, "visible"): key == earlier for key in (earlier, *tops)}
    first = Variant(name=called, values=shown)
    second = Variant(name=name[:200], values={path: not seen for path, seen in shown.items()})
    variants = {"variant-1": first, "variant-2": second}
    group = VariantGroup(name="Asset", variants=variants, order=tuple(variants), chosen="variant-2")
    key, _ = free_key(added.variant_groups, "group")
    stands = {each: grouped.part_groups[each].model_copy(update={"offset": (0.0, 0.0, 0.0)}) for each in tops}
    hidden = {earlier: grouped.part_groups[earlier].model_copy(update={"visible": False})}
    changes = {
        "part_groups": grouped.part_groups | stands | hidden,
        "variant_groups": grouped.variant_groups | {key: group},
    }
    return grouped.model_copy(update=changes)


def _as_group(before: Scene, added: Scene, name: str) -> tuple[str, Scene]:
    """(key of the group that holds all parts of the assets before, the document with it)."""
    earlier = [key for key, part in before.parts.items() if part.form is None and key in added.parts]
    made = gathered(added, earlier, (0.0, 0.0, 0.0))
    scene = read_scene(apply_operations(added.plain(), made.patch)[0])
    named = scene.part_groups[made.key].model_copy(update={"name": name})
    return made.key, scene.model_copy(update={"part_groups": scene.part_groups | {made.key: named}})
