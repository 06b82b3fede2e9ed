"""Textiles by their threads: linen, cotton, denim, silk, wool, velvet, knit, felt."""

from typing import Any, Literal

from lantern.scene.sources import ChecksSource, KnitSource, NoiseSource, StripesSource, WeaveSource
from lantern.shelf.swatch import Swatch, colors, laid, srgb, swatch

FAMILY = "Textiles"


def _woven(
    key: str, name: str, words: str, gap: str, thread: str, *,
    binding: Literal["plain", "twill", "satin"] = "plain", pitch: float = 0.0007, depth: float = 0.0001,
    roughness: float = 0.7, **fields: Any,
) -> Swatch:  # fmt: skip
    source = WeaveSource(binding=binding)
    inputs = {
        "base_color": colors(source, pitch, (0.0, gap), (0.55, thread), (1.0, thread)),
        "bump": laid(source, pitch),
    }
    told: dict[str, Any] = {
        "base_color": srgb(thread), "base_diffuse_roughness": 0.8, "specular_roughness": roughness,
        "specular_weight": 0.5, "bump": depth, "fuzz_weight": 0.15, "fuzz_color": srgb(thread),
    }  # fmt: skip
    inputs |= fields.pop("inputs", {})
    return swatch(f"textile-{key}", FAMILY, words, name, **told | fields | {"inputs": inputs})


def swatches() -> list[Swatch]:
    """All of the family."""
    slubs = colors(NoiseSource(octaves=4), 0.006, (0.2, "b7a98e"), (0.8, "d8ccb4"), ratio=12.0, combine="multiply")
    return [
        _woven("linen", "Natural linen", "beige plain cloth", "6b6250", "c4b79c", pitch=0.0009,
               inputs={"fuzz_color": slubs}),
        _woven("cotton", "White cotton", "shirt plain cloth", "b9b8b4", "ebeae6", pitch=0.0004, depth=0.00005),
        _woven("canvas", "Canvas", "heavy tent bag khaki", "4b4632", "877d5c", pitch=0.0014, depth=0.0003),
        _woven("denim", "Denim", "blue jeans twill", "aab2c0", "26395c", binding="twill", pitch=0.0008),
        _woven("herring", "Wool twill", "grey suit coat", "2e2e31", "6d6b69", binding="twill", pitch=0.0012,
               fuzz_weight=0.5, depth=0.0002),
        _woven("silk", "Silk satin", "shiny smooth red", "5d0f1c", "9c1f33", binding="satin", pitch=0.00025,
               depth=0.00002, roughness=0.28, specular_weight=1.0, specular_roughness_anisotropy=0.7, fuzz_weight=0.0),
        _woven("checked", "Checked cotton", "squares table cloth", "c8c4bc", "e6e2da", pitch=0.0005,
               inputs={"base_color": colors(ChecksSource(), 0.016, (0.0, "e8e4dc"), (1.0, "355c8a"), blend=0.05)}),
        _woven("striped", "Striped canvas", "lines awning blue white", "c8c4bc", "e6e2da", pitch=0.001, inputs={
            "base_color": colors(StripesSource(width=0.45, softness=0.02), 0.02, (0.0, "ece7dd"), (1.0, "22456b"),
                                 blend=0.05)}),
        swatch("textile-velvet", FAMILY, "pile soft deep plum", "Plum velvet", base_color=srgb("2c0f24"),
               base_diffuse_roughness=1.0, specular_weight=0.2, specular_roughness=0.9, fuzz_weight=1.0,
               fuzz_color=srgb("a8608f"), fuzz_roughness=0.35,
               inputs={"fuzz_weight": laid(NoiseSource(octaves=4), 0.03, 0.75, 1.0)}),
        swatch("textile-velvet-green", FAMILY, "pile soft deep moss", "Moss velvet", base_color=srgb("10210f"),
               base_diffuse_roughness=1.0, specular_weight=0.2, specular_roughness=0.9, fuzz_weight=1.0,
               fuzz_color=srgb("6f9a5c"), fuzz_roughness=0.35,
               inputs={"fuzz_weight": laid(NoiseSource(octaves=4, seed=2), 0.03, 0.75, 1.0)}),
        swatch("textile-knit", FAMILY, "wool jersey stitches warm", "Wool knit", base_color=srgb("b98a5a"),
               base_diffuse_roughness=1.0, specular_weight=0.2, specular_roughness=0.9, fuzz_weight=0.5,
               fuzz_color=srgb("d8b48a"), bump=0.0009,
               inputs={"base_color": colors(KnitSource(), 0.004, (0.0, "5a3d22"), (0.6, "b98a5a"), (1.0, "c89a6a")),
                       "bump": laid(KnitSource(), 0.004)}),
        swatch("textile-knit-fine", FAMILY, "jersey cotton shirt", "Fine jersey", base_color=srgb("8d97a6"),
               base_diffuse_roughness=0.9, specular_weight=0.3, specular_roughness=0.8, fuzz_weight=0.2,
               fuzz_color=srgb("b4bcc8"), bump=0.00015,
               inputs={"base_color": colors(KnitSource(), 0.0011, (0.0, "5d6675"), (0.6, "8d97a6"), (1.0, "98a2b0")),
                       "bump": laid(KnitSource(), 0.0011)}),
        swatch("textile-felt", FAMILY, "wool matt grey", "Grey felt", base_color=srgb("6f6e6b"),
               base_diffuse_roughness=1.0, specular_weight=0.1, specular_roughness=1.0, fuzz_weight=0.7,
               fuzz_color=srgb("a3a19c"), bump=0.0002,
               inputs={"base_color": colors(NoiseSource(octaves=6, gain=0.7), 0.005, (0.2, "565552"), (0.8, "86847f")),
                       "bump": laid(NoiseSource(octaves=5, gain=0.7), 0.002)}),
    ]  # fmt: skip
