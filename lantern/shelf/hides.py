"""Leathers and suede: grains of a millimetre or two."""

from typing import Any

from lantern.scene.sources import LeatherSource, NoiseSource
from lantern.shelf.swatch import Swatch, colors, laid, srgb, swatch

FAMILY = "Leathers"


def _leather(
    key: str, name: str, words: str, crease: str, top: str, *,
    grain: float = 0.0018, depth: float = 0.00022, roughness: float = 0.42, seed: int = 1, fine: float = 0.3,
    **fields: Any,
) -> Swatch:  # fmt: skip
    source = LeatherSource(seed=seed, fine=fine)
    told: dict[str, Any] = {
        "base_color": srgb(top), "specular_roughness": roughness, "bump": depth,
        "inputs": {
            "base_color": colors(source, grain, (0.0, crease), (0.35, top), (1.0, top)),
            "specular_roughness": laid(source, grain, min(roughness + 0.2, 1.0), roughness),
            "bump": laid(source, grain),
        },
    }  # fmt: skip
    return swatch(f"leather-{key}", FAMILY, words, name, **told | fields)


def swatches() -> list[Swatch]:
    """All of the family."""
    return [
        _leather("cognac", "Cognac leather", "brown strap bag", "5e2f16", "9c5429"),
        _leather("black", "Black leather", "dark bag shoe", "0c0b0b", "1f1d1c", seed=2),
        _leather("ink", "Ink-blue leather", "dark blue", "0d1524", "1d2e4c", seed=3, grain=0.0014),
        _leather("cream", "Cream leather", "white beige pale", "a8967c", "d9c8ab", seed=4, roughness=0.36),
        _leather("pebbled", "Pebbled leather", "coarse grain red", "3a0d0d", "7a1f1c", seed=5, grain=0.0035,
                 depth=0.0005, fine=0.1),
        _leather("smooth", "Smooth calf", "fine tan polished", "8a5a34", "b8824f", seed=6, grain=0.0007, depth=0.00004,
                 roughness=0.3),
        _leather("patent", "Patent leather", "glossy lacquer black", "070707", "101011", seed=7, depth=0.00005,
                 coat_weight=1.0, coat_roughness=0.02),
        swatch("leather-suede", FAMILY, "soft nap brown nubuck", "Suede", base_color=srgb("7d5f44"),
               base_diffuse_roughness=1.0, specular_roughness=0.9, specular_weight=0.3, fuzz_weight=0.6,
               fuzz_color=srgb("b09272"), fuzz_roughness=0.6, bump=0.00006,
               inputs={"base_color": colors(NoiseSource(octaves=6, gain=0.65), 0.012, (0.2, "66492f"), (0.8, "93734f")),
                       "bump": laid(NoiseSource(octaves=5, gain=0.7), 0.0012)}),
    ]  # fmt: skip
