"""Metals. Those of published constants have the reflectance that these give; alloys are set by eye.

n + ik of gold, silver, copper: Johnson & Christy, "Optical Constants of the Noble Metals", Phys. Rev. B 6, 1972,
table I; of aluminium: Rakić, "Algorithm for the determination of intrinsic optical constants", Appl. Opt. 34, 1995.
"""

from typing import Any

import numpy as np

from lantern.kernel.spectrum import reflectance_weights
from lantern.scene.document import Material
from lantern.scene.layers import Layer
from lantern.scene.sources import BrushedSource, DentsSource, EdgesSource, NoiseSource, ScratchesSource, SmudgesSource
from lantern.shelf.swatch import Rgb, Swatch, colors, laid, srgb, swatch, worn

FAMILY = "Metals"
_PHOTON = 1239.841984
"""nm times eV."""
CONSTANTS: dict[str, list[tuple[float, float, float]]] = {
    "gold": [
        (1.76, 0.13, 4.103), (1.88, 0.14, 3.697), (2.01, 0.21, 3.272), (2.14, 0.29, 2.863), (2.26, 0.43, 2.455),
        (2.38, 0.62, 2.081), (2.50, 1.04, 1.833), (2.63, 1.31, 1.849), (2.75, 1.38, 1.914), (2.88, 1.45, 1.948),
        (3.00, 1.46, 1.958), (3.12, 1.47, 1.952),
    ],
    "silver": [
        (1.76, 0.04, 4.838), (1.88, 0.05, 4.483), (2.01, 0.06, 4.152), (2.14, 0.05, 3.858), (2.26, 0.06, 3.586),
        (2.38, 0.05, 3.324), (2.50, 0.05, 3.093), (2.63, 0.05, 2.869), (2.75, 0.04, 2.657), (2.88, 0.04, 2.462),
        (3.00, 0.05, 2.275), (3.12, 0.05, 2.070),
    ],
    "copper": [
        (1.76, 0.21, 4.205), (1.88, 0.22, 3.747), (2.01, 0.30, 3.205), (2.14, 0.70, 2.704), (2.26, 1.02, 2.577),
        (2.38, 1.12, 2.609), (2.50, 1.13, 2.564), (2.63, 1.15, 2.500), (2.75, 1.17, 2.397), (2.88, 1.18, 2.298),
        (3.00, 1.18, 2.210), (3.12, 1.17, 2.130),
    ],
    "aluminium": [
        (1.771, 1.83, 8.31), (1.907, 1.47, 7.79), (2.066, 1.20, 7.26), (2.254, 0.96, 6.69), (2.480, 0.77, 6.08),
        (2.755, 0.62, 5.47), (3.100, 0.49, 4.86),
    ],
}  # fmt: skip
"""(eV, n, k) of metals, through the visible."""
_EDGE = 1 / 7
"""Cosine at which OpenPBR 1.1 (section 3.6.2) anchors the edge tint."""


def conductor(cosine: float, index: np.ndarray) -> np.ndarray:
    """Unpolarised reflectance of metals of a complex index (Born & Wolf, section 14.2)."""
    t = np.sqrt(index**2 - (1 - cosine**2))
    s = (cosine - t) / (cosine + t)
    p = (index**2 * cosine - t) / (index**2 * cosine + t)
    return np.asarray((np.abs(s) ** 2 + np.abs(p) ** 2) / 2)


def reflectances(name: str) -> tuple[Rgb, Rgb]:
    """(base colour, specular colour) of a metal of published constants: its reflectance at 0°, its tint at 82°."""
    energy, n, k = np.array(CONSTANTS[name]).T
    wavelengths = np.arange(400.0, 701.0, 5.0)
    index = np.interp(_PHOTON / wavelengths, energy, n) + 1j * np.interp(_PHOTON / wavelengths, energy, k)
    weights = reflectance_weights(wavelengths)
    f0, f82 = (np.clip(conductor(cosine, index) @ weights, 0.0, 1.0) for cosine in (1.0, _EDGE))
    tint = np.clip(f82 / (f0 + (1 - f0) * (1 - _EDGE) ** 5), 0.0, 1.0)
    return _rgb(f0), _rgb(tint)


def _rgb(values: np.ndarray) -> Rgb:
    r, g, b = (round(float(v), 4) for v in values)
    return r, g, b


def _metal(key: str, name: str, words: str, of: str | tuple[Rgb, Rgb], roughness: float, **fields: Any) -> Swatch:
    base, tint = reflectances(of) if isinstance(of, str) else of
    told: dict[str, Any] = {"base_color": base, "specular_color": tint, "base_metalness": 1.0}
    told["specular_roughness"] = roughness
    return swatch(f"metal-{key}", FAMILY, words, name, **told | fields)


def _brushed(low: float, high: float, *, radial: bool = False) -> dict[str, Any]:
    """Lines half a millimetre apart: across an upright thing, or around its axis as a lathe leaves them."""
    source, size = BrushedSource(radial=radial, length=80.0), 0.0006
    lie: dict[str, Any] = {"kind": "plane", "turn_x": 90.0} if radial else {"turn_z": 90.0}
    return {
        "specular_roughness_anisotropy": 0.0 if radial else 0.6,
        "inputs": {"specular_roughness": laid(source, size, low, high, **lie), "bump": laid(source, size, **lie)},
        "bump": 0.000003,
    }


def _smudged(low: float, high: float) -> dict[str, Any]:
    """Polished, and then handled."""
    return {"inputs": {"specular_roughness": laid(SmudgesSource(coverage=0.5), 0.03, low, high)}}


BRASS = (srgb("e8c77a"), (1.0, 0.97, 0.9))
BRONZE = (srgb("d6a277"), (1.0, 0.95, 0.88))
STEEL = (srgb("c4c1bc"), (0.97, 0.97, 0.98))
CHROME = (srgb("c9cbcd"), (0.98, 0.99, 1.0))
TITANIUM = (srgb("b3aaa1"), (0.96, 0.96, 0.97))
NICKEL = (srgb("cfc3b1"), (0.98, 0.97, 0.95))
_OXIDE: dict[str, Any] = {"base_metalness": 0.0, "specular_color": (1.0, 1.0, 1.0), "specular_ior": 2.42}
"""Magnetite: what black iron is covered by reflects as a glass of a high index does, not as a metal."""


def swatches() -> list[Swatch]:
    """All of the family."""
    bare = Material(name="Worn brass", base_color=BRASS[0], base_metalness=1.0, specular_roughness=0.22)
    hammered = {"inputs": {"bump": laid(DentsSource(chance=1.0, radius=1.0), 0.007)}, "bump": 0.0006}
    return [
        _metal("gold", "Polished gold", "yellow precious mirror", "gold", 0.06, **_smudged(0.04, 0.16)),
        _metal("gold-satin", "Satin gold", "yellow precious matt", "gold", 0.38),
        _metal("silver", "Polished silver", "precious mirror white", "silver", 0.05, **_smudged(0.03, 0.14)),
        _metal("silver-brushed", "Brushed silver", "lines", "silver", 0.3, **_brushed(0.2, 0.4)),
        _metal("copper", "Polished copper", "red mirror", "copper", 0.1, **_smudged(0.07, 0.22)),
        _metal("copper-hammered", "Hammered copper", "dents red craft", "copper", 0.18, **hammered),
        _metal("aluminium-blasted", "Blasted aluminium", "matt fine grain", "aluminium", 0.5, bump=0.000012,
               inputs={"bump": laid(NoiseSource(octaves=2), 0.00025)}),
        _metal("aluminium-brushed", "Brushed aluminium", "lines", "aluminium", 0.32, **_brushed(0.22, 0.42)),
        _metal("aluminium-spun", "Spun aluminium", "turned lathe circles radial", "aluminium", 0.25,
               **_brushed(0.18, 0.34, radial=True)),
        _metal("aluminium-anodised", "Anodised blue aluminium", "colour dyed", "aluminium", 0.34, bump=0.000008,
               coat_weight=1.0, coat_color=srgb("123f9a"), coat_roughness=0.22, coat_ior=1.6,
               inputs={"bump": laid(NoiseSource(octaves=2), 0.0003)}),
        _metal("brass", "Polished brass", "yellow mirror", BRASS, 0.1, **_smudged(0.07, 0.2)),
        _metal("brass-brushed", "Brushed brass alloy", "yellow lines", BRASS, 0.3, **_brushed(0.2, 0.38)),
        _metal("brass-aged", "Aged brass", "patina old yellow brown", BRASS, 0.35, inputs={
            "base_color": colors(NoiseSource(octaves=5), 0.02, (0.3, "5a4426"), (0.5, "a88444"), (0.75, "d8b56a")),
            "specular_roughness": laid(NoiseSource(octaves=5, seed=2), 0.02, 0.2, 0.5)}),
        _metal("bronze", "Satin bronze", "brown red", BRONZE, 0.34, **_smudged(0.28, 0.42)),
        _metal("steel", "Satin steel", "grey stainless", STEEL, 0.3),
        _metal("steel-brushed", "Brushed steel", "grey stainless lines", STEEL, 0.3, **_brushed(0.22, 0.4)),
        _metal("steel-scratched", "Scratched steel", "grey used", STEEL, 0.22, bump=0.00001, inputs={
            "bump": laid(ScratchesSource(width=0.01, chance=0.8), 0.012),
            "specular_roughness": laid(ScratchesSource(width=0.02, chance=0.8), 0.012, 0.45, 0.2)}),
        _metal("steel-black", "Blackened steel", "dark burnished worn edges brass",
               (srgb("1a1b1d"), (1.0, 1.0, 1.0)), 0.3, **_OXIDE,
               over={"bare": bare}, layers=(Layer(material="bare", coverage=0.85, mask=worn(
                   EdgesSource(width=0.0014, contrast=0.5, breakup=0.7, grain=0.0011))),),
               inputs={"specular_roughness": laid(SmudgesSource(coverage=0.5), 0.02, 0.3, 0.46)}),
        _metal("chrome", "Chrome", "mirror plated bright", CHROME, 0.02),
        _metal("nickel", "Satin nickel", "warm grey plated", NICKEL, 0.28),
        _metal("titanium", "Titanium", "grey warm matt", TITANIUM, 0.4, **_smudged(0.34, 0.48)),
        _metal("iron-cast", "Cast iron", "dark rough black", (srgb("2b2927"), (1.0, 1.0, 1.0)), 0.55,
               **_OXIDE, bump=0.00018,
               inputs={"bump": laid(NoiseSource(octaves=6, gain=0.6), 0.003),
                       "specular_roughness": laid(NoiseSource(octaves=4), 0.004, 0.42, 0.7)}),
    ]  # fmt: skip
