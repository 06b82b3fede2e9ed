"""Another asset in the place of the one that is there, as variants of presence: both are loaded, one is seen.

In: the document before and after the other was added beside. Out: the document with a group of two variants. Called by
the server's intake.
"""

from lantern.scene.document import Scene
from lantern.scene.editions import MOST_PLACES, Variant, VariantGroup
from lantern.scene.keys import free_key
from lantern.scene.patching import pointer
from lantern.scene.variants import VariantError


def assets_as_variants(before: Scene, added: Scene, name: str) -> Scene:
    """The document with the added asset, called `name`, where the others were, and those left out in its variant.

    What of them was hidden stays so, and so do bodies made here. Raises VariantError for more parts than a variant has.
    """
    fresh = [key for key in added.parts if key not in before.parts]
    earlier = [key for key, part in before.parts.items() if part.visible and part.form is None]
    if len(fresh) + len(earlier) > MOST_PLACES:
        raise VariantError(f"A variant can change {MOST_PLACES:,} things: these assets have more parts together.")
    parts = {pointer("parts", key, "visible"): key in before.parts for key in (*earlier, *fresh)}
    first = Variant(name=before.asset.name if before.asset else "As it was", values=parts)
    second = Variant(name=name[:200], values={path: not seen for path, seen in parts.items()})
    variants = {"variant-1": first, "variant-2": second}
    group = VariantGroup(name="Asset", variants=variants, order=tuple(variants), chosen="variant-2")
    key, _ = free_key(added.variant_groups, "group")
    hidden = {each: added.parts[each].model_copy(update={"visible": False}) for each in earlier}
    brought = {each: one for each, one in added.part_groups.items() if each not in before.part_groups}
    stands = {
        each: one.model_copy(update={"offset": (0.0, 0.0, 0.0)})
        for each, one in brought.items()
        if one.group not in brought
    }
    changes = {
        "parts": added.parts | hidden,
        "part_groups": added.part_groups | stands,
        "variant_groups": added.variant_groups | {key: group},
    }
    return added.model_copy(update=changes)
