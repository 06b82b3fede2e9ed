"""Conditions: a named state of all lighting with its exposure and white, kept, taken, and shown.

In: a document. Out: patches, and documents under other conditions. Called by the render host.
"""

from typing import Any

from lantern.scene.document import Conditions, Scene
from lantern.scene.keys import free_key
from lantern.scene.making import Made

SECTIONS = ("environment", "sky", "lights", "light_order", "haze", "backdrop", "ground")
"""Sections of a document that conditions say whole."""
LOOK = ("exposure", "white_temperature", "white_tint")
"""Fields of the look that go with them."""


def conditions_of(scene: Scene, name: str) -> Conditions:
    """The state that a document is in."""
    sections = {section: getattr(scene, section) for section in SECTIONS}
    return Conditions(name=name, **sections, **{field: getattr(scene.look, field) for field in LOOK})


def kept(scene: Scene, key: str | None = None) -> Made:
    """The present state as new conditions, or in the place of those of a key. Raises KeyError."""
    if key is not None:
        name = scene.conditions[key].name
        value = conditions_of(scene, name).model_dump(mode="json")
        return Made(key, f"Keep as {name}", [{"op": "replace", "path": f"/conditions/{key}", "value": value}])
    key, number = free_key(scene.conditions, "conditions")
    value = conditions_of(scene, f"Conditions {number}").model_dump(mode="json")
    return Made(key, f"Keep conditions {number}", [{"op": "add", "path": f"/conditions/{key}", "value": value}])


def under(scene: Scene, conditions: Conditions) -> Scene:
    """A document under other conditions."""
    look = scene.look.model_copy(update={field: getattr(conditions, field) for field in LOOK})
    return scene.model_copy(update={"look": look} | {name: getattr(conditions, name) for name in SECTIONS})


def taken(scene: Scene, key: str) -> Made:
    """The patch to conditions; empty where nothing differs. Raises KeyError."""
    conditions = scene.conditions[key]
    return Made(key, f"Conditions: {conditions.name}", changed_sections(scene, under(scene, conditions)))


def changed_sections(before: Scene, after: Scene) -> list[dict[str, Any]]:
    """The patch from one state of lighting to another, section by section, and the look field by field."""
    found: list[dict[str, Any]] = []
    for section in SECTIONS:
        if getattr(before, section) != getattr(after, section):
            value = after.model_dump(mode="json", include={section})[section]
            found.append({"op": "replace", "path": f"/{section}", "value": value})
    for field in LOOK:
        if (value := getattr(after.look, field)) != getattr(before.look, field):
            found.append({"op": "replace", "path": f"/look/{field}", "value": value})
    return found
