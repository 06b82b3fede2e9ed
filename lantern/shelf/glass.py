"""Glass, crystal and liquids: indices of refraction as measured, colours by the depth at which they are reached."""

from typing import Any

from lantern.scene.sources import DropsSource, NoiseSource, SmudgesSource, StripesSource
from lantern.shelf.swatch import Swatch, colors, laid, srgb, swatch

FAMILY = "Glass and liquids"


def _clear(key: str, name: str, words: str, color: str, depth: float, ior: float = 1.52, **fields: Any) -> Swatch:
    told: dict[str, Any] = {
        "transmission_weight": 1.0, "transmission_color": srgb(color), "transmission_depth": depth,
        "specular_ior": ior, "specular_roughness": 0.0,
    }  # fmt: skip
    return swatch(f"glass-{key}", FAMILY, words, name, **told | fields)


def swatches() -> list[Swatch]:
    """All of the family."""
    bands = laid(StripesSource(width=0.5, softness=0.1), 0.012, 0.0, 0.45, turn_z=90.0)
    return [
        _clear("clear", "Clear glass", "window bottle transparent", "e4f2ea", 0.03),
        _clear("green", "Bottle glass", "green wine", "4f8a4a", 0.03),
        _clear("amber", "Amber glass", "brown pharmacy bottle", "b8651e", 0.03),
        _clear("smoked", "Smoked glass", "grey dark", "6b6764", 0.036),
        _clear("blue", "Cobalt glass", "blue", "2a4bb0", 0.026),
        _clear("crystal", "Cut crystal", "lead dispersion sparkle", "fbfcff", 0.1, 1.56,
               transmission_dispersion_scale=1.0, transmission_dispersion_abbe_number=42.0),
        _clear("frosted", "Frosted glass", "satin matt etched", "eef5f2", 0.03, specular_roughness=0.42),
        _clear("bands", "Glass etched in bands", "frosted stripes pattern clear", "eef5f2", 0.03,
               inputs={"specular_roughness": bands}),
        _clear("cast", "Cast glass", "wavy hand made old", "dfeee8", 0.02, bump=0.0005,
               inputs={"bump": laid(NoiseSource(octaves=2), 0.014)}),
        _clear("fingerprinted", "Handled glass", "smudges dirty used", "e8f2ee", 0.03,
               inputs={"specular_roughness": laid(SmudgesSource(coverage=0.45, streaks=0.5), 0.03, 0.0, 0.28)}),
        _clear("wet", "Glass with drops", "condensation rain water", "e8f2ee", 0.03, bump=0.0009,
               inputs={"bump": laid(DropsSource(chance=0.8, radius=0.5), 0.006)}),
        _clear("milk", "Opal glass", "white milk lamp diffuser", "fffdf9", 0.004,
               transmission_scatter=srgb("fffefc"), specular_roughness=0.05),
        _clear("water", "Water", "liquid clear", "eaf6fa", 0.5, 1.333),
        _clear("oil", "Olive oil", "liquid yellow green", "c9b03a", 0.035, 1.467),
        _clear("tea", "Tea", "liquid brown red", "8a3d12", 0.045, 1.333),
        _clear("perfume", "Eau de parfum", "liquid rose pale cosmetics", "f2c4b4", 0.06, 1.36),
        swatch("glass-pane", FAMILY, "thin window coated", "Coated pane", transmission_weight=1.0,
               geometry_thin_walled=True, specular_roughness=0.0, thin_film_weight=1.0, thin_film_thickness=0.32,
               thin_film_ior=1.7, inputs={"transmission_tint": colors(
                   NoiseSource(octaves=1), 0.2, (0.0, "f6fbff"), (1.0, "fffaf6"))}),
    ]  # fmt: skip
