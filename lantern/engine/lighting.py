"""Light put by hand in the picture: a shadow dragged, a highlight dragged, a place to aim at, a light from here.

In: an open engine, a point of the picture, which light. Out: patches; the point whose shadow was taken. Called by the
render host, which knows where parts stand. The geometry is `scene.aiming`'s.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from lantern.compile.environment_tables import EnvironmentTables
from lantern.engine.engine import Engine
from lantern.engine.picking import Picked
from lantern.engine.press import Press
from lantern.light.daylight import SunPosition, sun_of, sunlight
from lantern.scene.aiming import (
    aimed,
    card_angles,
    glinted,
    mirrored,
    mirrored_view,
    placed_card,
    rounded,
    thrown,
    towards_caster,
    unit,
)
from lantern.scene.compass import angles_of
from lantern.scene.document import Camera, Scene
from lantern.scene.fields import Box
from lantern.scene.keys import free_key
from lantern.scene.lights import LIGHT_KINDS, DirectionalLight, Light
from lantern.scene.lit import lit_lights
from lantern.scene.making import Made, suited
from lantern.scene.patching import replaced
from lantern.scene.surroundings import Box as HazeBox
from lantern.scene.surroundings import Card, Sky, SunPlace

SUN = "sun"
"""What the sun of the sky is called among lights."""
MOST_TRIED = 16
"""Lights, the brightest first, whose shadow is looked for where none is chosen: of so many more, none is seen."""
_CLEAR_OF = 2e-4
"""How far a ray starts above a surface, in shares of the asset's size."""
_FAR = 1e4
"""How far the sun is taken to be, in sizes of the asset."""
HAZE_ROOM = 0.1
"""How far a box of haze begins beyond the asset, in shares of its largest side."""
Point = tuple[float, float, float]


@dataclass(frozen=True)
class Grip:
    """A shadow that was taken: of which light, and the point that throws it there."""

    light: str
    caster: Point


def grip(engine: Engine, press: Press, key: str | None) -> Grip | None:
    """The shadow under a point of the picture: of a light, or of the brightest that is kept away from there.

    None where nothing keeps any of them away.
    """
    picked, scene = press.pick(engine), engine.scene
    if picked is None:
        return None
    lights = lit_lights(scene)
    brightest = sorted(lights, key=lambda k: -_brightness(lights[k], picked.position))[:MOST_TRIED]
    keys = brightest if key is None else [key]
    if key is None and scene.sky.enabled and scene.sky.sun:
        keys.insert(0, SUN)
    for name in keys:
        found = _caster(engine, name, picked)
        if found is not None:
            return Grip(name, found)
    return None


def _brightness(light: Light, point: Sequence[float]) -> float:
    """About how much light arrives at a point; only good for an order."""
    if isinstance(light, DirectionalLight):
        return light.amount
    away = sum((p - q) ** 2 for p, q in zip(light.position, point, strict=True))
    aim = sum((p - q) ** 2 for p, q in zip(light.position, light.target, strict=True))
    return light.amount / max(away, 1e-12) * (aim if light.unit == "lx" else 1.0)


def _caster(engine: Engine, key: str, picked: Picked) -> Point | None:
    """The first place on the way from a point to a light; None when the way is free, or there is no such light."""
    scene = engine.scene
    low, high = engine.compiled.rough_bounds()
    size = float(np.linalg.norm(high - low)) if low[0] <= high[0] else 1.0
    start = np.array(picked.position) + np.array(picked.normal) * size * _CLEAR_OF
    if key == SUN:
        towards = sun_of(scene.sky).direction()
        end = start + towards * size * _FAR
    elif key in scene.lights:
        light = scene.lights[key]
        end = np.array(light.position)
        if isinstance(light, DirectionalLight):
            end = start + np.array(unit(np.subtract(light.position, light.target).tolist())) * size * _FAR
    else:
        return None
    eye = Camera(position=_point(start), target=_point(start + (end - start) / np.linalg.norm(end - start)))
    found = engine.pick(eye, 1.0, 0.5, 0.5)
    if found is None or found.part is None or found.depth >= float(np.linalg.norm(end - start)):
        return None
    return found.position


def _point(values: Any) -> Point:
    x, y, z = (float(min(max(v, -1e6), 1e6)) for v in values)
    return x, y, z


def throw(engine: Engine, press: Press, key: str, caster: Point) -> Made | None:
    """Put a light where it throws the shadow of `caster` to the point of the picture; None over nothing."""
    picked = press.pick(engine)
    if picked is None or not _is_there(engine.scene, key):
        return None
    if key == SUN:
        return _made(engine.scene, key, "Throw", sun_patch(engine.scene.sky, towards_caster(caster, picked.position)))
    return _made(engine.scene, key, "Throw", thrown(engine.scene, key, caster, picked.position))


def glint(engine: Engine, press: Press, key: str) -> Made | None:
    """Put a light, a card or the sun where its highlight is seen at the point of the picture; None over nothing."""
    picked, scene = press.pick(engine), engine.scene
    if picked is None or not _is_there(scene, key):
        return None
    eye = press.camera.position
    direction = mirrored_view(picked.position, picked.normal, eye)
    if key == SUN:
        return _made(scene, key, "Glint", sun_patch(scene.sky, direction))
    if key in scene.environment.cards:
        return _made(scene, key, "Glint", placed_card(scene, key, direction))
    return _made(scene, key, "Glint", glinted(scene, key, picked.position, picked.normal, eye))


def aim_at(engine: Engine, press: Press, key: str) -> Made | None:
    """Turn a light to aim at the point of the picture; None over nothing."""
    picked = press.pick(engine)
    if picked is None or key not in engine.scene.lights:
        return None
    return _made(engine.scene, key, "Aim", aimed(key, picked.position))


def _is_there(scene: Scene, key: str) -> bool:
    return key in scene.lights or key in scene.environment.cards or (key == SUN and scene.sky.enabled)


def _made(scene: Scene, key: str, verb: str, patch: list[dict[str, Any]]) -> Made | None:
    """The patch of a gesture; None for what is locked."""
    if key in scene.lights and scene.lights[key].locked:
        return None
    cards = scene.environment.cards
    name = scene.lights[key].name if key in scene.lights else cards[key].name if key in cards else "the sun"
    return Made(key, f"{verb} {name}", patch)


def light_from_here(engine: Engine, kind: str, camera: Camera, box: Box | None) -> Made:
    """A light where the camera is, aimed at what it looks at. Raises KeyError for a kind that there is not."""
    key, number = free_key(engine.scene.lights, "light")
    name = f"{kind.title()} {number}"
    light = suited(LIGHT_KINDS[kind](name=name, group=name), box)
    light = light.model_copy(update={"position": camera.position, "target": camera.target})
    return Made(
        key, f"Add {light.name}", [{"op": "add", "path": f"/lights/{key}", "value": light.model_dump(mode="json")}]
    )


def copied_light(scene: Scene, key: str, box: Box | None, *, mirrors: bool) -> Made | None:
    """A copy of a light, where it is or on the other side of the asset; None when there is no such light."""
    if key not in scene.lights:
        return None
    own = scene.lights[key]
    middle = 0.0 if box is None else (box[0][0] + box[1][0]) / 2
    light = mirrored(own, middle) if mirrors else own
    new, _ = free_key(scene.lights, "light")
    light = light.model_copy(update={"name": f"{own.name} {'mirrored' if mirrors else 'copy'}"[-200:]})
    patch = [{"op": "add", "path": f"/lights/{new}", "value": light.model_dump(mode="json")}]
    return Made(new, f"{'Mirror' if mirrors else 'Duplicate'} {own.name}", patch)


def new_card(engine: Engine, press: Press | None, shape: str) -> Made | None:
    """A card whose reflection is seen at the point of the picture, or before the camera; None over nothing."""
    scene = engine.scene
    direction: Sequence[float] = (0.3, 0.6, 0.7)
    if press is not None:
        picked = press.pick(engine)
        if picked is None:
            return None
        direction = mirrored_view(picked.position, picked.normal, press.camera.position)
    azimuth, elevation = card_angles(scene, unit(direction))
    key, number = free_key(scene.environment.cards, "card")
    mean = engine.compiled.environment.mean_luminance
    card = Card.model_validate(
        {
            "name": f"Card {number}", "shape": shape, "azimuth": round(azimuth, 2), "elevation": round(elevation, 2),
            "width": 12.0 if shape == "strip" else 30.0, "height": 70.0 if shape == "strip" else 30.0,
            "luminance": float(f"{min(max(20.0 * mean, 0.01), 1e5):.2g}"),
        }
    )  # fmt: skip
    patch = [{"op": "add", "path": f"/environment/cards/{key}", "value": card.model_dump(mode="json")}]
    return Made(key, f"Add {card.name}", patch)


def lit_by(engine: Engine, file: dict[str, Any] | None, luminance: float | None) -> list[dict[str, Any]]:
    """The patch to a map, or to even light without one; a sky and graded light go.

    With the mean `luminance` [cd/m²] of what comes, the exposure is moved so that the picture stays as bright.
    """
    scene = engine.scene
    patch = [replaced("/environment/map", file)]
    if scene.environment.graded is not None:
        patch.append(replaced("/environment/graded", None))
    if scene.sky.enabled:
        patch.append(replaced("/sky/enabled", False))
    return patch + (_as_bright(engine, luminance) if luminance is not None else [])


def sky_switched(engine: Engine, *, on: bool, keeps: bool) -> list[dict[str, Any]]:
    """The patch to the sky of the document, or back to what was there before, as bright if it `keeps` that."""
    scene = engine.scene
    lit = scene.model_copy(update={"sky": scene.sky.model_copy(update={"enabled": on})})
    patch = [replaced("/sky/enabled", on)]
    return patch + (_as_bright(engine, brightness_of(lit, engine.compiled.environment_under(lit))) if keeps else [])


def _as_bright(engine: Engine, luminance: float) -> list[dict[str, Any]]:
    """The patch of the exposure for light of another mean luminance; none where that says nothing.

    The colours of the backdrop go with it: they are seen as they were.
    """
    scene = engine.scene
    before = brightness_of(scene, engine.compiled.environment)
    if before <= 0 or luminance <= 0:
        return []
    exposure = round(min(max(scene.look.exposure + math.log2(before / luminance), -30.0), 30.0), 3)
    if exposure == scene.look.exposure:
        return []
    colors = scene.backdrop.color_exposure + scene.look.exposure - exposure
    return [
        replaced("/look/exposure", exposure),
        replaced("/backdrop/color_exposure", round(min(max(colors, -30.0), 30.0), 3)),
    ]


def haze_boxed(box: Box | None, *, on: bool) -> Made:
    """Haze held in a box around what is there, with some room to all sides; or everywhere again."""
    value = None
    if on:
        low, high = box or (HazeBox().low, HazeBox().high)
        room = HAZE_ROOM * max(b - a for a, b in zip(low, high, strict=True))
        value = {"low": [rounded(v - room) for v in low], "high": [rounded(v + room) for v in high]}
    return Made("", "Haze in a box" if on else "Haze everywhere", [replaced("/haze/box", value)])


def brightness_of(scene: Scene, around: EnvironmentTables) -> float:
    """Mean luminance [cd/m²] over all directions of what is all around at intensity 1, the sun's disk included."""
    direct = sunlight(scene.sky)[0] if scene.sky.enabled and scene.sky.sun else 0.0
    return around.mean_luminance + direct / (4 * math.pi)


def sun_patch(sky: Sky, direction: Sequence[float]) -> list[dict[str, Any]]:
    """The sun brought towards a direction: by its angles, or by the hour at which it comes nearest on its day."""
    if sky.place is not None:
        place = sky.place
        hours = np.linspace(0.0, 24.0, 24 * 30 + 1)
        nearness = [float(_at_hour(place, float(hour)).direction() @ np.array(direction)) for hour in hours]
        return [replaced("/sky/place/hour", round(float(hours[int(np.argmax(nearness))]), 3))]
    azimuth, elevation = angles_of(direction)
    return [
        replaced("/sky/azimuth", round(azimuth % 360, 2)),
        replaced("/sky/elevation", round(max(elevation, 0.0), 2)),
    ]


def _at_hour(place: SunPlace, hour: float) -> SunPosition:
    return sun_of(Sky(place=place.model_copy(update={"hour": hour})))


def day_of(sky: Sky, step: float = 0.25) -> list[tuple[float, Point]]:
    """(hour, unit direction) of the sun along the day of its place; empty when it is put by hand."""
    if sky.place is None:
        return []
    hours = np.arange(0.0, 24.0 + step / 2, step)
    return [(float(hour), _point(_at_hour(sky.place, float(hour)).direction())) for hour in hours]
