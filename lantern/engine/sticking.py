"""Decals put on parts by hand: where the picture is pressed, there they lie.

In: the engine, what was picked in the picture, which decal. Out: the patch that adds it, or brings it there. Called by
the render host, which knows where parts stand.
"""

import math
from collections.abc import Sequence
from typing import Any

import numpy as np

from lantern.compile.sticking import unit_of
from lantern.engine.engine import Engine
from lantern.engine.picking import Picked
from lantern.engine.press import Press
from lantern.scene.decals import Content, Decal, DecalKind, PictureContent, TextContent
from lantern.scene.framing import width_at
from lantern.scene.keys import free_key
from lantern.scene.making import Made
from lantern.scene.placing import Places

NEW_OF_EXTENT, REACH_OF_WIDTH = 0.4, 0.75
"""Width of a new decal, of the part that it lies on; how deep it reaches."""
AROUND, LOOKED_AT = 6, 0.3
"""Directions in which the surface around a place is looked at, and how far, of the width of what is to lie there."""
GOLD = (0.944, 0.776, 0.373)
"""Linear Rec. 709 reflectance of gold at normal incidence (Johnson and Christy 1972, as in `shelf.metals`)."""


def new_decal(engine: Engine, kind: DecalKind, press: Press) -> Made | None:
    """A decal where a part is pressed; None over the ground."""
    picked = press.pick(engine)
    if picked is None or picked.part is None:
        return None
    low, high = engine.compiled.part_boxes([picked.part])[picked.part]
    width = min(max(float(f"{NEW_OF_EXTENT * float(np.max(high - low)):.2g}"), 1e-6), 1e4)
    place = _place(engine, press, picked, width)
    if place is None:
        return None
    width = max(float(f"{width / _grown(engine, picked.part):.3g}"), 1e-6)
    key, number = free_key(engine.scene.decals, "decal")
    content: Content = PictureContent() if kind == "picture" else TextContent()
    finish: dict[str, Any] = {"color": (0.02, 0.02, 0.02)} if kind == "text" else {}
    if kind == "foil":
        finish = {"color": GOLD, "metalness": 1.0, "roughness": 0.2}
    name = f"{'Picture' if kind == 'picture' else 'Lettering'} {number}"
    depth = min(width * REACH_OF_WIDTH, 1e4)
    order = 1 + max((decal.order for decal in engine.scene.decals.values()), default=-1)
    decal = Decal(
        name=name, order=order, content=content, parts=(picked.part,), width=width, depth=depth, **place, **finish
    )
    value = decal.model_dump(mode="json")
    return Made(key, f"Add {name}", [{"op": "add", "path": f"/decals/{key}", "value": value}])


def moved_decal(engine: Engine, key: str, press: Press) -> Made | None:
    """A decal brought to where a part is pressed; None over the ground, or when there is no such decal.

    A part that it did not lie on carries it from then on; of several parts the one that is pressed does.
    """
    decal, picked = engine.scene.decals.get(key), press.pick(engine)
    if decal is None or picked is None or picked.part is None:
        return None
    carrier = next((part for part in decal.parts if part in engine.scene.parts), picked.part)
    place = _place(engine, press, picked, decal.width * _grown(engine, carrier))
    if place is None:
        return None
    others = tuple(part for part in decal.parts if part != picked.part)
    parts = (picked.part, *others) if picked.part in decal.parts else (picked.part,)
    # All of it: what is shown already of an edit in hand is no part of the document yet.
    values = {"parts": parts, **place}
    patch = [{"op": "replace", "path": f"/decals/{key}/{name}", "value": list(value)} for name, value in values.items()]
    return Made(key, f"Move {decal.name}", patch)


def _place(engine: Engine, press: Press, picked: Picked, width: float) -> dict[str, Sequence[float]] | None:
    """Middle, facing and upright of a decal at a picked place, in the space of its part, if that has a size."""
    assert picked.part is not None
    pose = engine.compiled.pose_of(picked.part)
    if unit_of(pose) < 1e-12:
        return None
    unit = Places.of(engine.scene).unit(engine.scene.parts[picked.part])
    linear = pose[:, :3]
    middle = np.linalg.solve(linear, np.array(picked.position) - pose[:, 3]) * unit
    # What a mesh calls its outside is seen from within where its faces are turned round.
    side = -1.0 if engine.scene.parts[picked.part].inside_out else 1.0
    facing, upright = (
        (linear.T @ _normal_around(engine, press, picked, width)) * side,
        linear.T @ np.array([0.0, 1.0, 0.0]),
    )
    return {
        "middle": tuple(round(float(v), 9) for v in middle),
        "facing": _rounded(facing),
        "upright": _rounded(upright),
    }


def _grown(engine: Engine, part: str) -> float:
    """How many times as large a part, and what lies on it, is by hand."""
    unit = Places.of(engine.scene).unit(engine.scene.parts[part])
    return unit_of(engine.compiled.pose_of(part)) / max(unit, 1e-12)


def _normal_around(engine: Engine, press: Press, picked: Picked, width: float) -> np.ndarray:
    """The mean normal where a decal is to lie: what is fine on the surface, as flutes are, must not tilt it."""
    reach = LOOKED_AT * width / width_at(press.camera, picked.depth)
    total = np.array(picked.normal)
    for number in range(AROUND):
        angle = 2 * math.pi * number / AROUND
        other = press.beside(reach * math.cos(angle), reach * math.sin(angle)).pick(engine)
        if other is not None and other.part == picked.part and np.dot(other.normal, picked.normal) > 0:
            total = total + np.array(other.normal)
    return total


def _rounded(direction: np.ndarray) -> tuple[float, ...]:
    return tuple(round(float(v), 6) for v in direction / np.linalg.norm(direction))
