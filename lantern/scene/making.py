"""New entries of a document: a light of a size and at a place that suit the asset, a set of parts.

In: the document, the box around the asset, what is wanted. Out: the key of the new entry, the patch that adds it and
what it is called. Called by the render host, which knows where the asset is.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from lantern.scene.document import PartSet, Scene
from lantern.scene.fields import Box
from lantern.scene.keys import free_key
from lantern.scene.lights import LIGHT_KINDS, LightBase, scaled_fields
from lantern.scene.look import MOST_LOCALS, LocalGrade
from lantern.scene.starts import size_of

_STANDARD_SIZE = 0.5
"""Diagonal [m] of an asset for which the lights' own defaults are made."""
GOLDEN_ANGLE = math.pi * (3 - 5**0.5)
"""Radians: multiples of it never come close to one another soon."""


@dataclass(frozen=True)
class Made:
    """A new entry and the patch that adds it."""

    key: str
    label: str
    patch: list[dict[str, Any]]


@dataclass(frozen=True)
class Spot:
    """A point of a surface [m], its unit normal, and its distance from the camera [m]."""

    position: Sequence[float]
    normal: Sequence[float]
    depth: float


def new_light(scene: Scene, kind: str, box: Box | None, over: Spot | None = None) -> Made:
    """A light that stands above the asset and aims at its middle; or `over` a spot.

    The first stands in front of it to its right, each later one elsewhere around it. Extents, distance and amount suit
    the asset's size: as much light arrives at an asset of any size.
    Raises KeyError for a kind that there is not.
    """
    key, number = free_key(scene.lights, "light")
    name = f"{kind.title()} {number}"
    # In a light group of its own, so that it can be balanced and its share be told.
    fresh = LIGHT_KINDS[kind](name=name, group=name)
    light = suited(fresh, box, (number - 1) * GOLDEN_ANGLE) if over is None else _over(fresh, over)
    value = light.model_dump(mode="json")
    return Made(key, f"Add {light.name}", [{"op": "add", "path": f"/lights/{key}", "value": value}])


def suited(light: LightBase, box: Box | None, turn: float = 0.0) -> LightBase:
    """A light of the defaults' proportions around an asset in a box, turned about it by `turn` radians.

    Unchanged without a box.
    """
    if box is None:
        return light
    low, high = box
    middle = [(a + b) / 2 for a, b in zip(low, high, strict=True)]
    x, y, z = (p - t for p, t in zip(light.position, light.target, strict=True))
    c, s = math.cos(turn), math.sin(turn)
    return _placed(light, middle, [c * x + s * z, y, c * z - s * x], size_of(box))


def _over(light: LightBase, spot: Spot) -> LightBase:
    """Half as far from a spot as the camera is, straight above its surface."""
    away = sum((p - t) ** 2 for p, t in zip(light.position, light.target, strict=True)) ** 0.5
    size = max(spot.depth, 1e-6) / 2 / away * _STANDARD_SIZE
    return _placed(light, spot.position, [n * away for n in spot.normal], size)


def _placed(light: LightBase, target: Sequence[float], away: Sequence[float], size: float) -> LightBase:
    """A light that aims at a point from `away` of it, as for an asset of the standard size, scaled to one of `size`."""
    scale = size / _STANDARD_SIZE
    changed: dict[str, Any] = {
        "target": tuple(_rounded(t, size) for t in target),
        "position": tuple(_rounded(t + a * scale, size) for t, a in zip(target, away, strict=True)),
    }
    changed |= {name: two_digits(value) for name, value in scaled_fields(light, scale).items()}
    return light.model_copy(update=changed)


def new_set(scene: Scene, parts: Sequence[str]) -> Made:
    """A named set of parts."""
    key, number = free_key(scene.part_sets, "set")
    value = PartSet(name=f"Set {number}", parts=tuple(parts)).model_dump(mode="json")
    return Made(key, f"New part set {number}", [{"op": "add", "path": f"/part_sets/{key}", "value": value}])


def new_local(scene: Scene, kind: str, parts: Sequence[str]) -> Made | None:
    """A grade of a place of the picture, or of parts; None when there are as many as there can be.

    It is half a stop brighter, so that it is seen where it works. Raises KeyError for a kind that there is not.
    """
    if len(scene.look.locals) >= MOST_LOCALS or (kind == "parts" and not parts):
        return None
    key, number = free_key(scene.look.locals, "place")
    mask = {"kind": kind, "parts": tuple(parts)} if kind == "parts" else {"kind": kind}
    place = LocalGrade.model_validate({"name": _named(scene, kind, parts, number), "mask": mask, "exposure": 0.5})
    value = place.model_dump(mode="json")
    return Made(key, f"Grade {place.name}", [{"op": "add", "path": f"/look/locals/{key}", "value": value}])


def _named(scene: Scene, kind: str, parts: Sequence[str], number: int) -> str:
    if kind != "parts":
        return f"{kind.title()} {number}"
    first = scene.parts[parts[0]].name if parts[0] in scene.parts else parts[0]
    return first if len(parts) == 1 else f"{first} and {len(parts) - 1} more"[:200]


def _rounded(value: float, size: float) -> float:
    """To a thousandth of the asset's size or finer, within what a document may hold."""
    step = 10.0 ** int(f"{size / 1000:e}".split("e")[1])
    return float(f"{max(min(round(value / step) * step, 1e6), -1e6):.9g}")


def two_digits(value: float) -> float:
    """A number rounded to two digits: a measure that a person might have chosen."""
    return float(f"{value:.2g}")
