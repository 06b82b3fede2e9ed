"""The three finishes of the lantern: what each of its parts wears, the lettering on it, its ground and its light.

In: the demo's document. Out: the same in a finish. Called by what fills the demo account.
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path

from demo.project import demo_scene
from lantern.scene.decals import Decal, TextContent
from lantern.scene.document import Material, Scene
from lantern.scene.layers import Layer
from lantern.scene.lights import RectangleLight
from lantern.scene.look import Look
from lantern.scene.model import FileRef
from lantern.scene.sources import CrevicesSource, EdgesSource
from lantern.scene.surroundings import Backdrop, Environment, Ground
from lantern.shelf.catalogue import catalogue
from lantern.shelf.swatch import Rgb, worn

LANTERN = "Wick No. 4"
GOLD: Rgb = (0.944, 0.776, 0.373)
SILVER: Rgb = (0.91, 0.91, 0.89)
_CAMERA_SIDE = math.radians(24.0)
"""Where lettering stands around the lantern: a little to the left of the camera, where the light comes from."""


@dataclass(frozen=True)
class Finish:
    """Swatches of the shelf by the part that wears them, changed where the lantern asks for it."""

    worn: Mapping[str, str]
    decals: Mapping[str, Decal]
    ground: Rgb
    environment: float
    key: float
    """Colour temperature [K] of the window beside it."""
    exposure: float


def _around(radius: float, height: float, lean: float) -> dict[str, object]:
    """Middle and facing of a decal at a height [m] of the lathe, whose surface leans back by so many degrees."""
    x, z, up = math.sin(_CAMERA_SIDE), math.cos(_CAMERA_SIDE), math.radians(lean)
    return {
        "middle": (radius * x, height, radius * z),
        "facing": (x * math.cos(up), math.sin(up), z * math.cos(up)),
    }


def _band(color: Rgb, metalness: float, raised: float) -> Decal:
    """The name of the maker, around the foot."""
    return Decal(
        name="Maker", content=TextContent(text="VELVET LANTERN", face="sans", weight=600, spacing=0.28),
        parts=("base",), width=0.062, depth=0.03, color=color, metalness=metalness, roughness=0.22, raised=raised,
        **_around(0.0600, 0.0062, 0.0),
    )  # fmt: skip


def _number(color: Rgb, metalness: float, roughness: float) -> Decal:
    """The number of the lantern on its chimney."""
    return Decal(
        name="Number", content=TextContent(text="No. 4", face="serif", weight=500), parts=("chimney",), width=0.034,
        depth=0.02, color=color, metalness=metalness, roughness=roughness, opacity=0.92, **_around(0.0434, 0.150, 0.0),
    )  # fmt: skip


FINISHES: dict[str, Finish] = {
    "Brass & Cognac": Finish(
        {
            "base": "metal-brass-brushed", "cap": "metal-brass-brushed", "strap-studs": "metal-brass",
            "chimney": "glass-frosted", "carry-strap": "leather-cognac", "wick-holder": "mineral-porcelain",
            "felt-foot": "textile-felt",
        },
        {"maker": _band((0.05, 0.03, 0.015), 0.0, -0.00012), "number": _number((0.05, 0.03, 0.015), 0.0, 0.5)},
        ground=(0.16, 0.125, 0.10), environment=0.55, key=4600, exposure=0.25,
    ),
    "Blackened Steel & Ink": Finish(
        {
            "base": "metal-steel-black", "cap": "metal-steel-black", "strap-studs": "metal-steel",
            "chimney": "glass-smoked", "carry-strap": "leather-ink", "wick-holder": "metal-steel-black",
            "felt-foot": "textile-felt",
        },
        {"maker": _band(SILVER, 1.0, 0.00008), "number": _number(SILVER, 0.0, 0.6)},
        ground=(0.055, 0.06, 0.07), environment=0.5, key=6800, exposure=0.75,
    ),
    "Porcelain & Moss": Finish(
        {
            "base": "mineral-porcelain", "cap": "mineral-porcelain", "strap-studs": "metal-gold-satin",
            "chimney": "glass-frosted", "carry-strap": "textile-velvet-green", "wick-holder": "mineral-bisque",
            "felt-foot": "textile-felt",
        },
        {"maker": _band(GOLD, 1.0, 0.00006), "number": _number(GOLD, 1.0, 0.3)},
        ground=(0.17, 0.185, 0.15), environment=0.6, key=5400, exposure=0.05,
    ),
}  # fmt: skip


_BARE_STEEL = Material(name="Bare steel", base_color=(0.53, 0.52, 0.50), base_metalness=1.0, specular_roughness=0.26)
"""Where the hand goes along an edge for years."""
_MOSS = {
    "base_color": (0.02, 0.045, 0.012), "base_diffuse_roughness": 1.0, "specular_weight": 0.2,
    "fuzz_weight": 1.0, "fuzz_color": (0.34, 0.5, 0.16), "fuzz_roughness": 0.5,
}  # fmt: skip


def _dressed(key: str) -> dict[str, Material]:
    """A swatch as the lantern wears it, with what lies over it; the lowest first."""
    material = catalogue()[key].material
    match key:
        case "metal-steel-black":
            mask = worn(EdgesSource(width=0.0011, contrast=0.55, breakup=0.75, grain=0.002, seed=8))
            layer = Layer(material="bare-steel", mask=mask, coverage=0.9)
            return {key: material.model_copy(update={"layers": (layer,)}), "bare-steel": _BARE_STEEL}
        case "metal-brass-brushed":
            aged = catalogue()["metal-brass-aged"].material.model_copy(update={"layers": ()})
            mask = worn(CrevicesSource(width=0.003, contrast=0.3, breakup=0.5, grain=0.003, seed=5))
            layer = Layer(material="tarnish", mask=mask, coverage=0.8)
            return {key: material.model_copy(update={"layers": (layer,)}), "tarnish": aged}
        case "textile-velvet-green":
            return {key: material.model_copy(update=_MOSS)}
    assert not material.layers, f"{key}: what lies over it is not known here"
    return {key: material}


def finished_demo(name: str) -> tuple[Scene, Callable[[FileRef], Path]]:
    """The demo's document in a finish, and a function that finds its files."""
    scene, resolve = demo_scene()
    return finished(scene, name), resolve


def finished(scene: Scene, name: str) -> Scene:
    """The demo's document in a finish. Raises KeyError for one that there is not."""
    finish = FINISHES[name]
    materials = {"led-wick": scene.materials["led-wick"].model_copy(update={"emission_luminance": 90.0})}
    for swatch in dict.fromkeys(finish.worn.values()):
        materials |= _dressed(swatch)
    parts = {
        key: part.model_copy(update={"material": finish.worn.get(key, part.material)})
        for key, part in scene.parts.items()
    }
    return scene.model_copy(
        update={
            "parts": parts,
            "materials": materials,
            "decals": dict(finish.decals),
            "backdrop": Backdrop(kind="color", color=finish.ground),
            "ground": Ground(height=scene.ground.height, reflectance=finish.ground, reflection=0.03),
            "environment": Environment(map=scene.environment.map, rotation=-20.0, intensity=finish.environment),
            "lights": {
                "window": RectangleLight(
                    name="Window", position=(-0.75, 0.62, 0.55), target=(0, 0.13, 0), width=0.45, height=0.75,
                    unit="cd/m²", amount=9.0, temperature=finish.key,
                ),
                "rim": RectangleLight(
                    name="Rim", position=(0.62, 0.42, -0.62), target=(0, 0.15, 0), width=0.16, height=0.7,
                    unit="cd/m²", amount=16.0, temperature=3400,
                ),
            },
            "look": Look(exposure=finish.exposure),
        }
    )  # fmt: skip
