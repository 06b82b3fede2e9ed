"""Variants and editions in the document: alternatives of what is shown, and named choices among them.

A group says one thing in several ways; its variants all have values for the same places of the document, told by JSON
Pointers. An edition has one variant of each of some groups. Values are taken over by an edit (`variants`).
"""

from typing import Annotated, Any

from pydantic import AfterValidator, Field

from lantern.scene.model import Key, Model, Name

MOST_PLACES = 4000
"""That a variant has values for."""
MOST_VARIANTS = 64
"""In a group."""
SECTIONS = (
    "parts", "part_groups", "materials", "decals", "environment", "sky", "lights", "balance", "haze",
    "backdrop", "ground", "camera", "look",
)  # fmt: skip
"""Of the document, that variants may change."""


def _of_sections(values: dict[str, Any]) -> dict[str, Any]:
    for path in values:
        if path.split("/")[1:2] and path.startswith("/") and path.split("/")[1] in SECTIONS and path.count("/") > 1:
            continue
        raise ValueError(f"a variant cannot change {path[:80]!r}: only what is in {', '.join(SECTIONS)}")
    return values


Values = Annotated[dict[str, Any], Field(max_length=MOST_PLACES), AfterValidator(_of_sections)]


class Variant(Model):
    """One alternative of a group: values of places of the document."""

    name: Name
    values: Values = Field(default_factory=dict, title="Values by places of the document")


class VariantGroup(Model):
    """Alternatives of one thing, of which one is on."""

    name: Name
    variants: dict[Key, Variant] = Field(default_factory=dict, max_length=MOST_VARIANTS)
    order: tuple[Key, ...] = Field((), title="Order of the variants; others follow")
    chosen: Key | None = Field(None, title="The variant that is on")
    default: Key | None = Field(None, title="The variant to go back to")


class Edition(Model):
    """A named choice among the groups."""

    name: Name
    choice: dict[Key, Key] = Field(default_factory=dict, title="Variants by their groups")


class Exclusion(Model):
    """Variants of different groups that do not go together."""

    together: dict[Key, Key] = Field(title="Variants by their groups", min_length=2)
