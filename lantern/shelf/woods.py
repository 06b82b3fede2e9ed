"""Woods: rings a few millimetres wide, with pores, raw, oiled or lacquered."""

from typing import Any

from lantern.scene.sources import WoodSource
from lantern.shelf.swatch import Swatch, colors, laid, srgb, swatch

FAMILY = "Woods"


def _wood(
    key: str, name: str, words: str, dark: str, middle: str, light: str, *,
    rings: float = 0.006, pores: float = 0.35, waviness: float = 0.4, roughness: float = 0.45, seed: int = 1,
    **fields: Any,
) -> Swatch:  # fmt: skip
    source = WoodSource(waviness=waviness, pores=pores, seed=seed)
    # A board along x, from beside the heart of the trunk: rings are seen as lines and long arches.
    lie: dict[str, Any] = {"turn_x": 3.0, "turn_z": 87.0, "offset": (0.0, -0.012, -0.045)}
    told: dict[str, Any] = {
        "base_color": srgb(middle), "specular_roughness": roughness, "bump": 0.00006,
        "inputs": {
            "base_color": colors(source, rings, (0.0, dark), (0.45, middle), (1.0, light), **lie),
            "specular_roughness": laid(source, rings, min(roughness + 0.15, 1.0), roughness, **lie),
            "bump": laid(source, rings, **lie),
        },
    }  # fmt: skip
    return swatch(f"wood-{key}", FAMILY, words, name, **told | fields)


def swatches() -> list[Swatch]:
    """All of the family."""
    lacquer = {"coat_weight": 1.0, "coat_roughness": 0.04, "coat_ior": 1.5}
    return [
        _wood("oak", "Oiled oak", "brown light grain", "7a5530", "b08452", "c9a06c", pores=0.6),
        _wood("walnut", "Walnut", "dark brown grain", "2f1d12", "5b3a24", "7d5536", seed=2),
        _wood("ash", "Pale ash", "white light grain", "b39a74", "d8c4a0", "e8d8b8", seed=3, rings=0.009),
        _wood("cherry", "Lacquered cherry", "red brown glossy", "6e3018", "9c4f2b", "b86a40", pores=0.1, seed=4,
              **lacquer),
        _wood("ebony", "Ebony", "black dark fine", "0c0a09", "1d1714", "30261f", rings=0.0035, roughness=0.28, seed=5),
        _wood("maple", "Maple", "pale fine smooth", "c9a878", "dcc096", "ead2ac", pores=0.05, waviness=0.9, seed=6,
              rings=0.012),
        _wood("driftwood", "Weathered wood", "grey old rough", "5b554d", "8d867b", "aba498", pores=0.9, seed=7,
              roughness=0.75, bump=0.0003),
    ]  # fmt: skip
