"""Looks that are kept: taken into a document, mixed by amount, carried from one to another.

In: a look, a document. Out: patches. Called by the render host and the library. A look that is taken brings its effects
and its display transform; exposure and white balance are of the light that is there, and stay.
"""

from typing import Any

from lantern.scene.document import Scene
from lantern.scene.look import DISPLAY, EFFECTS, Effect, Look, Toned
from lantern.scene.making import Made
from lantern.scene.model import Model, Name
from lantern.scene.patching import replaced

BROUGHT = (*EFFECTS, "locals", *DISPLAY)
"""Fields of a look that are taken; the others belong to the light, and to the press."""


class NamedLook(Model):
    """A look as a shelf has it."""

    name: Name
    look: Look


def weakened(look: Look, amount: float) -> Look:
    """A look of which each effect has a share [0, 1] of its amount; of all or none it is itself, or none."""
    changed: dict[str, Any] = {}
    for name in EFFECTS:
        effect: Effect = getattr(look, name)
        if effect.enabled:
            changed[name] = effect.model_copy(update={"amount": round(effect.amount * amount, 4)})
    places = {
        key: place.model_copy(update={"amount": round(place.amount * amount, 4)}) for key, place in look.locals.items()
    }
    return look.model_copy(update={**changed, "locals": places})


def with_look(scene: Scene, look: Look, amount: float = 1.0) -> Look:
    """The look of a document after one was taken: its light stays as bright and as white as it is."""
    own = {name: getattr(scene.look, name) for name in (*Toned.model_fields, "press_profile")}
    return weakened(look, amount).model_copy(update=own)


def taken(scene: Scene, name: str, look: Look, amount: float = 1.0) -> Made:
    """The patch that takes a look; empty where nothing differs."""
    after = with_look(scene, look, amount)
    patch = [
        replaced(f"/look/{field}", after.model_dump(mode="json", include={field})[field])
        for field in BROUGHT
        if getattr(after, field) != getattr(scene.look, field)
    ]
    return Made("", f"Look: {name}", patch)


def kept_look(scene: Scene) -> Look:
    """The look of a document without what belongs to its light, or to its parts."""
    places = {key: place for key, place in scene.look.locals.items() if place.mask.kind != "parts"}
    plain = {name: field.get_default() for name, field in Toned.model_fields.items()}
    return scene.look.model_copy(update={**plain, "locals": places, "press_profile": None})
