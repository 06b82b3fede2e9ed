"""Starting a project with the set-up of another: its light, ground, backdrop, camera and look around a new asset.

In: a document, and the boxes around the two assets. Out: documents. Called by the server when a set-up is kept, and by
the reading of a new asset.

What has a place is moved and scaled as the assets differ, so that a lamp a hand above a cup stands an arm above a
chair, and as much light arrives as before.
"""

from collections.abc import Sequence
from typing import Any

from lantern.scene.decal_places import kept_decals, scaled_decal
from lantern.scene.document import Material, Part, Scene
from lantern.scene.fields import Box
from lantern.scene.forms import scaled_form
from lantern.scene.layers import worn_with
from lantern.scene.lights import Light
from lantern.scene.movements import placed_move, without_parts
from lantern.scene.placing import REST, Places, into_space
from lantern.scene.scaled_light import scaled_light


def setup_of(scene: Scene) -> Scene:
    """A document without its asset and without what is about single parts of it; pieces of a set belong to it."""
    places = Places.of(scene)
    parts = {
        key: part.model_copy(update={**into_space(part, places.group(part.group), REST), "group": None})
        for key, part in scene.parts.items()
        if part.form is not None and part.strewn is None
    }
    worn = worn_with((part.material for part in parts.values()), scene.materials)
    materials = {key: material for key, material in scene.materials.items() if key in worn}
    lights = _lit_everywhere(scene.lights)
    conditions = {
        key: one.model_copy(update={"lights": _lit_everywhere(one.lights)}) for key, one in scene.conditions.items()
    }
    kept: dict[str, Any] = {
        "asset": None,
        "parts": parts,
        "part_groups": {},
        "part_sets": {},
        "materials": materials,
        "lights": lights,
        "variant_groups": {},
        "editions": {},
        "edition_order": (),
        "exclusions": (),
        "brand_colors": {},
        "motion": scene.motion.model_copy(update={"moves": without_parts(scene.motion.moves)}),
    }
    kept |= {"conditions": conditions}
    own = {"decals": kept_decals(scene.decals, parts), "camera": scene.camera.model_copy(update={"keys": ()})}
    return scene.model_copy(update=kept | own)


def _lit_everywhere(lights: dict[str, Light]) -> dict[str, Light]:
    """Lights that are linked to no single parts."""
    return {key: light.model_copy(update={"unlit_parts": ()}) for key, light in lights.items()}


def fitted(setup: Scene, old: Box | None, new: Box) -> Scene:
    """A set-up made around an asset in the box `old`, moved and scaled to one in the box `new`; its camera stays.

    Without `old` only the ground follows.
    """
    level = _limited(new[0][1], 1000.0)
    if old is None:
        ground = setup.ground.model_copy(update={"height": level})
        return setup.model_copy(update={"ground": ground})
    scale = size_of(new) / size_of(old)
    here, there = _standing_point(old), _standing_point(new)

    def place(point: Sequence[float]) -> tuple[float, ...]:
        return tuple(_limited(t + (p - h) * scale, 1e6) for p, h, t in zip(point, here, there, strict=True))

    parts = {key: _piece(part, place, scale) for key, part in setup.parts.items()}
    decals = {key: scaled_decal(decal, scale) for key, decal in setup.decals.items()}
    materials = {key: as_bright(material, scale) for key, material in setup.materials.items()}
    sized = {"parts": parts, "decals": decals, "materials": materials}
    moves = {key: placed_move(move, place, scale) for key, move in setup.motion.moves.items()}
    motion = {"motion": setup.motion.model_copy(update={"moves": moves})}
    return setup.model_copy(update=scaled_light(setup, place, scale, level) | sized | motion)


def as_bright(material: Material, scale: float) -> Material:
    """The same on a part so many times as large: what gives lumens gives as many for each of its area as before."""
    if material.emission_lumens is None:
        return material
    return material.model_copy(update={"emission_lumens": min(material.emission_lumens * scale * scale, 1e9)})


def _piece(part: Part, place: Any, scale: float) -> Part:
    """A piece of a set that stands about the new asset as it stood about the old one."""
    assert part.form is not None
    pivot = tuple(_limited(p * scale, 1e6) for p in part.pivot)
    at = place([p + o for p, o in zip(part.pivot, part.offset, strict=True)])
    offset = tuple(_limited(a - p, 1e6) for a, p in zip(at, pivot, strict=True))
    return part.model_copy(update={"form": scaled_form(part.form, scale), "pivot": pivot, "offset": offset})


def size_of(box: Box) -> float:
    """Diagonal of a box [m]."""
    return max(sum((b - a) ** 2 for a, b in zip(*box, strict=True)) ** 0.5, 1e-6)


def _standing_point(box: Box) -> tuple[float, float, float]:
    """Where the middle of the box stands on the ground [m]."""
    (x0, y0, z0), (x1, _, z1) = box
    return (x0 + x1) / 2, y0, (z0 + z1) / 2


def _limited(value: float, most: float) -> float:
    return round(min(max(value, -most), most), 6)
