"""Whether a material could be: what of it no real thing has, and the nearest that one could have.

In: a document and the keys of materials. Out: `Doubt`s, each with the patch that settles it. Called by the render host.

Reflectances between soot and fresh snow (Oke, "Boundary Layer Climates", 1987, table 1.1), metals from tungsten up
(Palik, "Handbook of Optical Constants of Solids", 1985), indices from ice to rutile.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from lantern.color import LUMINANCE
from lantern.preview.ways import BRIGHTEST, DARKEST, DULLEST_METAL
from lantern.scene.document import Material, Scene
from lantern.scene.inputs import Parameter

LEAST_INDEX, MOST_INDEX = 1.3, 2.65
MIXED = (0.05, 0.95)
"""Metalness between these is neither a metal nor none."""
_ROUNDING = 1e-4


@dataclass(frozen=True)
class Doubt:
    """What no real thing has."""

    material: str
    field: str
    text: str
    patch: list[dict[str, Any]]
    """The nearest that one could have."""


def doubts(scene: Scene, materials: Sequence[str]) -> list[Doubt]:
    """All of some materials; those that are not there are passed over. Inputs are judged by their brightest colour."""
    known = [(key, scene.materials[key]) for key in materials if key in scene.materials]
    return [doubt for key, material in known for doubt in _of(key, material)]


def _of(key: str, material: Material) -> Iterator[Doubt]:
    is_metal = material.base_metalness >= 0.5
    if MIXED[0] < material.base_metalness < MIXED[1] and "base_metalness" not in material.inputs:
        whole = 1.0 if is_metal else 0.0
        said = f"{material.base_metalness:.2g} of a metal: a thing is a metal or it is none, but where both meet"
        yield _doubt(key, material, "base_metalness", said, base_metalness=whole)
    yield from _of_metal(key, material) if is_metal else _of_others(key, material)
    if material.coat_weight > 0:
        yield from _of_index(key, material, "coat_ior", "the coat's index")


def _doubt(key: str, material: Material, field: str, said: str, **values: Any) -> Doubt:
    patch = [{"op": "replace", "path": f"/materials/{key}/{name}", "value": value} for name, value in values.items()]
    return Doubt(key, field, f"{material.name}: {said}.", patch)


def _brightest(material: Material) -> np.ndarray | None:
    """Linear base colour, weight applied; of a pattern its brightest; None where an image says it."""
    weight = np.float64(material.base_weight)
    one = material.inputs.get("base_color")
    if material.base_color_texture is not None or (one is not None and one.source.kind in ("image", "vertex_color")):
        return None
    if one is None or one.combine != "replace" or one.amount < 1:
        return np.asarray(weight * np.array(material.base_color))
    colors = [stop.color for stop in one.ramp.stops] if one.ramp else [(one.low,) * 3, (one.high,) * 3]
    return np.asarray(weight * np.array(max(colors, key=lambda color: float(np.dot(color, LUMINANCE)))))


def _changes(material: Material, color: np.ndarray) -> dict[str, Any]:
    """What sets the base colour, weight applied; nothing for one that a pattern says."""
    if "base_color" in material.inputs:
        return {}
    changes: dict[str, Any] = {"base_color": [round(float(c), 4) for c in np.clip(color, 0, 1)]}
    return changes if material.base_weight == 1 else changes | {"base_weight": 1.0}


def _of_metal(key: str, material: Material) -> Iterator[Doubt]:
    color = _brightest(material)
    if color is None:
        return
    reflected = float(color @ LUMINANCE)
    if reflected < DULLEST_METAL - _ROUNDING:
        nearest = color * (DULLEST_METAL / reflected) if reflected > 0 else np.full(3, DULLEST_METAL)
        said = (
            f"a metal that reflects {reflected:.2f}: bare metals reflect {DULLEST_METAL:.1f} or more, oxides are none"
        )
        yield _doubt(key, material, "base_color", said, **_changes(material, nearest))


def _of_others(key: str, material: Material) -> Iterator[Doubt]:
    yield from _of_index(key, material, "specular_ior", "the index")
    if min(material.specular_color) < 1 - _ROUNDING and _is_constant(material, "specular_color"):
        said = "coloured gloss: what is no metal reflects white, the colour comes from below"
        yield _doubt(key, material, "specular_color", said, specular_color=[1.0, 1.0, 1.0])
    color = _brightest(material)
    if color is None or material.transmission_weight >= 1 or material.emission_luminance > 0:
        return
    brightest = float(color.max())
    if brightest > BRIGHTEST + _ROUNDING:
        said = f"a base colour of {brightest:.2f}: fresh snow reflects {BRIGHTEST:.1f}, white paint 0.85"
        yield _doubt(key, material, "base_color", said, **_changes(material, color * (BRIGHTEST / brightest)))
    gloss = material.specular_weight * ((material.specular_ior - 1) / (material.specular_ior + 1)) ** 2
    darkest = float(color @ LUMINANCE) + gloss
    has_more = material.coat_weight > 0 or material.fuzz_weight > 0 or material.subsurface_weight > 0
    if darkest < DARKEST - _ROUNDING and not has_more:
        said = f"it reflects {darkest:.3f} in all: soot reflects {DARKEST:.2f}, charcoal 0.04"
        yield _doubt(key, material, "base_color", said, **_changes(material, color + (DARKEST - darkest)))


def _of_index(key: str, material: Material, field: str, what: str) -> Iterator[Doubt]:
    index = float(getattr(material, field))
    nearest = min(max(index, LEAST_INDEX), MOST_INDEX)
    if nearest != index:
        said = f"{what} is {index:.2f}: ice has 1.31, water 1.33, glass 1.5, diamond 2.42, rutile 2.61"
        yield _doubt(key, material, field, said, **{field: nearest})


def _is_constant(material: Material, name: Parameter) -> bool:
    return name not in material.inputs
