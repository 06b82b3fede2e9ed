"""Variants that a file brings, as a group of the document.

In: what each variant of a file says of places, and what is there without any. Out: a group of which what is there is
on. Called by the readers of formats that have variants.
"""

from collections.abc import Mapping, Sequence
from typing import Any

from lantern.scene.editions import MOST_PLACES, MOST_VARIANTS, Variant, VariantGroup

AS_IT_CAME = "As it came"


def group_of(
    name: str, variants: Sequence[tuple[str, Mapping[str, Any]]], plain: Mapping[str, Any], problems: list[str]
) -> VariantGroup | None:
    """The group; one more variant where none is as the file shows itself. None, with a problem, for too many.

    `plain` is what is there, by places; a variant that says nothing of one leaves it so.
    """
    if len(plain) > MOST_PLACES or len(variants) >= MOST_VARIANTS:
        problems.append(
            f"not used: {name}, {len(variants)} variants of {len(plain):,} things; "
            f"there may be {MOST_VARIANTS - 1} of {MOST_PLACES:,}"
        )
        return None
    said = [(called, {**plain, **values}) for called, values in variants]
    if all(values != plain for _, values in said):
        said.insert(0, (AS_IT_CAME, dict(plain)))
    made = {
        f"variant-{number}": Variant(name=called[:200], values=values)
        for number, (called, values) in enumerate(said, 1)
    }
    chosen = next(key for key, one in made.items() if one.values == plain)
    return VariantGroup(name=name[:200], variants=made, order=tuple(made), chosen=chosen)
