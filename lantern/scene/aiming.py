"""Where a light goes so that its shadow, or its highlight, falls where the hand wants it.

In: lights, cards and skies of the document, points of the scene that rays have found. Out: patches. Called by the
engine, which traces the rays. Lengths in metres, directions unit vectors.
"""

import math
from collections.abc import Sequence
from typing import Any

from lantern.scene.compass import angles_of
from lantern.scene.document import Scene
from lantern.scene.lights import DirectionalLight, Light
from lantern.scene.patching import replaced

Point = Sequence[float]
Patch = list[dict[str, Any]]


def _minus(a: Point, b: Point) -> tuple[float, ...]:
    return tuple(p - q for p, q in zip(a, b, strict=True))


def _length(a: Point) -> float:
    return math.sqrt(sum(v * v for v in a))


def _along(start: Point, direction: Point, distance: float) -> tuple[float, ...]:
    return tuple(p + d * distance for p, d in zip(start, direction, strict=True))


def unit(a: Point) -> tuple[float, ...]:
    """The direction of a vector; straight up for one without length."""
    length = _length(a)
    return tuple(v / length for v in a) if length > 1e-12 else (0.0, 1.0, 0.0)


def distance_of(light: Light) -> float:
    """How far a light stands from what it aims at [m]."""
    return max(_length(_minus(light.position, light.target)), 1e-6)


def _replaced(key: str, **fields: Point) -> Patch:
    return [replaced(f"/lights/{key}/{name}", [rounded(v) for v in value]) for name, value in fields.items()]


def rounded(value: float) -> float:
    """To seven digits, within what a document may hold."""
    return float(f"{min(max(value, -1e6), 1e6):.7g}")


def towards_caster(caster: Point, shadow: Point) -> tuple[float, ...]:
    """Direction in which a light must lie for the shadow of `caster` to fall at `shadow`."""
    return unit(_minus(caster, shadow))


def thrown(scene: Scene, key: str, caster: Point, shadow: Point) -> Patch:
    """The light as far from the caster as it is, where it throws that point's shadow; it aims at what it aimed at.

    One that is far away turns about the caster.
    """
    light = scene.lights[key]
    direction = towards_caster(caster, shadow)
    if isinstance(light, DirectionalLight):
        return _replaced(key, position=_along(caster, direction, distance_of(light)), target=caster)
    away = max(_length(_minus(light.position, caster)), 1e-6)
    return _replaced(key, position=_along(caster, direction, away))


def mirrored_view(point: Point, normal: Point, eye: Point) -> tuple[float, ...]:
    """Direction from a point of a mirror in which the eye sees what it shows."""
    view = unit(_minus(eye, point))
    facing = sum(v * n for v, n in zip(view, normal, strict=True))
    return unit(tuple(2 * facing * n - v for v, n in zip(view, normal, strict=True)))


def glinted(scene: Scene, key: str, point: Point, normal: Point, eye: Point) -> Patch:
    """The light where the eye sees it mirrored at a point, as far away as it is from its aim; it aims at that point."""
    light = scene.lights[key]
    position = _along(point, mirrored_view(point, normal, eye), distance_of(light))
    return _replaced(key, position=position, target=point)


def aimed(key: str, point: Point) -> Patch:
    """The light turned to aim at a point."""
    return _replaced(key, target=point)


def mirrored(light: Light, middle: float) -> Light:
    """The same light on the other side of the upright plane x = `middle` [m]."""

    def flipped(point: Point) -> tuple[float, float, float]:
        return (rounded(2 * middle - point[0]), point[1], point[2])

    changed: dict[str, Any] = {"position": flipped(light.position), "target": flipped(light.target)}
    if "roll" in type(light).model_fields:
        changed["roll"] = -light.model_dump()["roll"]
    return light.model_copy(update=changed)


def placed_card(scene: Scene, key: str, direction: Point) -> Patch:
    """A card where a direction of the scene sees it, whichever way the environment is turned."""
    azimuth, elevation = card_angles(scene, direction)
    at = f"/environment/cards/{key}"
    return [
        replaced(f"{at}/azimuth", round(azimuth, 2)),
        replaced(f"{at}/elevation", round(min(max(elevation, -90.0), 90.0), 2)),
    ]


def card_angles(scene: Scene, direction: Point) -> tuple[float, float]:
    """(azimuth, elevation) in degrees on the map of a direction of the scene."""
    x, y, z = direction
    if not scene.sky.enabled:
        environment = scene.environment
        s, c = _turn(environment.rotation)
        x, z = c * x - s * z, s * x + c * z
        s, c = _turn(environment.tilt)
        y, z = c * y + s * z, c * z - s * y
        x = -x if environment.mirrored else x
    return angles_of((x, y, z))


def _turn(degrees: float) -> tuple[float, float]:
    return math.sin(math.radians(degrees)), math.cos(math.radians(degrees))
