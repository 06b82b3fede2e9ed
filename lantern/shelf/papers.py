"""Papers and card, waxes and soaps, and what glows."""

from typing import Any

from lantern.scene.sources import DotsSource, MarbleSource, NoiseSource, StripesSource
from lantern.shelf.swatch import Swatch, colors, laid, srgb, swatch

PAPERS, WAXES, LIGHTS = "Papers and card", "Waxes and soaps", "Lights"


def _paper(key: str, name: str, words: str, color: str, **fields: Any) -> Swatch:
    fibers = NoiseSource(octaves=6, gain=0.7)
    told: dict[str, Any] = {
        "base_color": srgb(color), "base_diffuse_roughness": 0.7, "specular_roughness": 0.8, "specular_weight": 0.5,
        "bump": 0.00002, "inputs": {"bump": laid(fibers, 0.0012)},
    }  # fmt: skip
    return swatch(f"paper-{key}", PAPERS, words, name, **told | fields)


def _wax(key: str, name: str, words: str, color: str, radius: float, **fields: Any) -> Swatch:
    told: dict[str, Any] = {
        "base_color": srgb(color), "subsurface_weight": 1.0, "subsurface_color": srgb(color),
        "subsurface_radius": radius, "specular_roughness": 0.4, "specular_ior": 1.44,
    }  # fmt: skip
    return swatch(f"wax-{key}", WAXES, words, name, **told | fields)


def _lamp(key: str, name: str, words: str, color: str, luminance: float, **fields: Any) -> Swatch:
    told: dict[str, Any] = {
        "base_color": srgb("e8e6e2"), "specular_roughness": 0.4, "emission_color": srgb(color),
        "emission_luminance": luminance,
    }  # fmt: skip
    return swatch(f"light-{key}", LIGHTS, words, name, **told | fields)


def swatches() -> list[Swatch]:
    """All of these families."""
    flutes = StripesSource(width=0.5, softness=1.0)
    return [
        _paper("white", "Uncoated white paper", "office matt", "efede8"),
        _paper("cream", "Laid cream paper", "letter lines stationery", "e6dcc4",
               inputs={"bump": laid(StripesSource(width=0.6, softness=0.8), 0.0012)}, bump=0.00003),
        _paper("coated", "Coated card", "glossy print packaging", "f1f0ee", specular_roughness=0.14,
               specular_weight=1.0, bump=0.000004),
        _paper("kraft", "Kraft paper", "brown parcel bag", "b08a5e", inputs={
            "base_color": colors(NoiseSource(octaves=6, gain=0.7), 0.004, (0.2, "9c7648"), (0.8, "bd986c"), ratio=4.0),
            "bump": laid(NoiseSource(octaves=6, gain=0.7), 0.0012)}),
        _paper("corrugated", "Corrugated card", "brown box flutes packaging", "a8814f", bump=0.0012,
               inputs={"bump": laid(flutes, 0.006)}),
        _paper("tracing", "Translucent paper", "tracing thin lampshade", "f2efe6", geometry_thin_walled=True,
               subsurface_weight=1.0, subsurface_color=srgb("f2ede0"), specular_roughness=0.5),
        _wax("bees", "Beeswax", "yellow candle honey", "d9a441", 0.004),
        _wax("candle", "White candle", "paraffin pale", "efe9dc", 0.008),
        _wax("soap", "White soap", "bar smooth bath", "ece6da", 0.004, specular_roughness=0.3, coat_weight=0.3,
             coat_roughness=0.25),
        _wax("olive", "Marbled olive soap", "green bath bar", "9aa05a", 0.003, subsurface_weight=0.5, inputs={
            "base_color": colors(MarbleSource(), 0.03, (0.0, "8a9448"), (0.6, "a8ac6c"), (1.0, "d8d6a8"))}),
        _wax("jade", "Jade", "green stone translucent polished", "5f9a72", 0.003, specular_roughness=0.12,
             specular_ior=1.62),
        _wax("skin", "Peach marzipan", "pink sweet food", "e8b48c", 0.003, specular_roughness=0.5,
             subsurface_radius_scale=(1.0, 0.45, 0.25)),
        _lamp("warm", "Warm diffuser", "lamp led 2700 k white", "ffb46b", 400.0),
        _lamp("cool", "Cool panel", "lamp led 6500 k daylight white", "f2f6ff", 600.0),
        _lamp("neon", "Red neon", "tube sign glow", "ff2a18", 300.0, base_color=srgb("3a1410")),
        _lamp("grid", "Lamp of many dots", "led matrix screen pixels", "bfe0ff", 900.0, inputs={
            "emission_luminance": laid(DotsSource(radius=0.32, softness=0.3, staggered=False), 0.004, 0.0, 900.0)}),
        _lamp("ember", "Embers", "coal fire glow hot", "ff6a1a", 120.0, base_color=srgb("1a1512"), inputs={
            "emission_luminance": laid(NoiseSource(octaves=6, contrast=2.5), 0.02, 0.0, 260.0)}),
    ]  # fmt: skip
