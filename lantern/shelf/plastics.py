"""Plastics, rubbers and composites."""

from typing import Any

from lantern.scene.sources import CellsSource, NoiseSource, WeaveSource
from lantern.shelf.swatch import Swatch, colors, laid, srgb, swatch

FAMILY = "Plastics and rubbers"


def _molded(key: str, name: str, words: str, color: str, roughness: float, **fields: Any) -> Swatch:
    told: dict[str, Any] = {"base_color": srgb(color), "specular_roughness": roughness, "specular_ior": 1.5}
    return swatch(f"plastic-{key}", FAMILY, words, name, **told | fields)


def swatches() -> list[Swatch]:
    """All of the family."""
    spark = {"bump": 0.00002, "inputs": {"bump": laid(CellsSource(shows="middles"), 0.0004)}}
    carbon = WeaveSource(binding="twill", gap=0.0, roundness=0.3)
    return [
        _molded("white", "Glossy white plastic", "shiny abs", "eceae6", 0.12),
        _molded("black", "Glossy black plastic", "piano shiny dark", "0d0d0e", 0.06),
        _molded("orange", "Glossy orange plastic", "shiny toy", "e0561b", 0.14),
        _molded("grained", "Grained black plastic", "matt spark eroded texture", "1b1b1c", 0.5, **spark),
        _molded("grained-grey", "Grained grey plastic", "matt spark eroded texture", "8d8e90", 0.5, **spark),
        _molded("soft", "Satin red plastic", "matt smooth", "a3262a", 0.36),
        _molded("nylon", "Nylon", "white translucent matt sintered", "e9e5dc", 0.6, subsurface_weight=0.6,
                subsurface_color=srgb("efe9dd"), subsurface_radius=0.002, bump=0.00003,
                inputs={"bump": laid(NoiseSource(octaves=3), 0.0005)}),
        _molded("clear", "Clear acrylic", "transparent plexi", "ffffff", 0.02, specular_ior=1.49,
                transmission_weight=1.0, transmission_color=srgb("f6fbfb"), transmission_depth=0.1),
        _molded("smoke", "Tinted polycarbonate", "transparent grey brown", "ffffff", 0.04, specular_ior=1.58,
                transmission_weight=1.0, transmission_color=srgb("6a5a50"), transmission_depth=0.03),
        _molded("silicone", "Milky silicone", "translucent soft rubber white", "eeece8", 0.4, subsurface_weight=0.9,
                subsurface_color=srgb("f2efe9"), subsurface_radius=0.006, specular_ior=1.41),
        _molded("rubber", "Black rubber", "matt dark soft tyre", "161616", 0.68, bump=0.00002,
                inputs={"bump": laid(NoiseSource(octaves=4), 0.001)}),
        _molded("rubber-natural", "Natural rubber", "amber translucent brown", "b07c3c", 0.45, subsurface_weight=0.7,
                subsurface_color=srgb("c08a44"), subsurface_radius=0.003),
        _molded("foam", "Foam", "sponge soft cells porous", "d9c067", 0.85, base_diffuse_roughness=1.0,
                specular_weight=0.3, bump=0.0008,
                inputs={"base_color": colors(CellsSource(shows="borders"), 0.0025, (0.0, "8f7832"), (0.6, "e6cf7c")),
                        "bump": laid(CellsSource(shows="borders"), 0.0025)}),
        _molded("carbon", "Carbon fibre", "composite twill lacquered black", "101012", 0.3, base_metalness=0.5,
                coat_weight=1.0, coat_roughness=0.02,
                inputs={"base_color": colors(carbon, 0.004, (0.0, "050506"), (0.5, "1a1b1e"), (1.0, "3a3c41")),
                        "specular_roughness": laid(carbon, 0.004, 0.45, 0.25)}),
    ]  # fmt: skip
