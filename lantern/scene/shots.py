"""Shots: cameras that are kept, each with the size of its frame; and with a look and conditions of its own, if wanted.

In: a document. Out: patches, and documents seen from a shot. Called by the render host.
"""

from typing import Any

from lantern.scene.conditions import changed_sections, under
from lantern.scene.document import Camera, Scene, Shot
from lantern.scene.keys import free_key, ordered
from lantern.scene.making import Made
from lantern.scene.patching import replaced


def shot_order(scene: Scene) -> list[str]:
    """Keys of the shots as lists show them."""
    return ordered(scene.shots, scene.shot_order)


def kept(scene: Scene, camera: Camera, key: str | None = None) -> Made | None:
    """What a camera sees as a new shot, or in the place of one; None for one that is locked. Raises KeyError."""
    size = {"width": scene.print.width, "height": scene.print.height}
    if key is not None:
        shot = scene.shots[key]
        if shot.locked:
            return None
        own = {"look": scene.look} if shot.look is not None else {}
        changed = shot.model_copy(update={"camera": camera, **size, **own})
        value = changed.model_dump(mode="json")
        return Made(key, f"Keep as {shot.name}", [{"op": "replace", "path": f"/shots/{key}", "value": value}])
    key, number = free_key(scene.shots, "shot")
    shot = Shot.model_validate({"name": f"Shot {number}", "camera": camera, **size})
    value = shot.model_dump(mode="json")
    return Made(key, f"Keep shot {number}", [{"op": "add", "path": f"/shots/{key}", "value": value}])


def copied(scene: Scene, key: str) -> Made:
    """A copy of a shot, behind it. Raises KeyError."""
    shot, order = scene.shots[key], shot_order(scene)
    new, _ = free_key(scene.shots, "shot")
    copy = shot.model_copy(update={"name": f"{shot.name} copy"[:200], "locked": False})
    order.insert(order.index(key) + 1, new)
    patch = [
        {"op": "add", "path": f"/shots/{new}", "value": copy.model_dump(mode="json")},
        replaced("/shot_order", order),
    ]
    return Made(new, f"Copy {shot.name}", patch)


def seen_from(scene: Scene, shot: Shot) -> Scene:
    """A document as a shot shows it; conditions that are gone change nothing."""
    if shot.conditions is not None and shot.conditions in scene.conditions:
        scene = under(scene, scene.conditions[shot.conditions])
    frame = {
        "width": scene.print.width if shot.width is None else shot.width,
        "height": scene.print.height if shot.height is None else shot.height,
    }
    changed: dict[str, Any] = {"camera": shot.camera, "print": scene.print.model_copy(update=frame)}
    if shot.look is not None:
        changed["look"] = shot.look
    return scene.model_copy(update=changed)


def taken(scene: Scene, key: str) -> Made:
    """The patch to a shot; empty where nothing differs. Raises KeyError."""
    shot = scene.shots[key]
    after = seen_from(scene, shot)
    patch = [] if shot.look is not None else changed_sections(scene, after)
    if shot.look is not None:
        patch = changed_sections(scene, after.model_copy(update={"look": scene.look}))
        if after.look != scene.look:
            patch.append(replaced("/look", after.look.model_dump(mode="json")))
    for section in ("camera", "print"):
        if getattr(after, section) != getattr(scene, section):
            patch.append(replaced(f"/{section}", after.model_dump(mode="json", include={section})[section]))
    return Made(key, f"Shot: {shot.name}", patch)
