"""Gels before lights: the colours that the lighting trade orders by name, as the transmittance of each.

Conversion gels shift the reciprocal temperature by their mired value (1 MK⁻¹ is 1 mired): CTO makes daylight warm, CTB
makes tungsten cold. What each lets through of all light is its luminous transmittance. Colour gels are given by their
linear Rec. 709 transmittance.
"""

from dataclasses import dataclass
from typing import Literal


@dataclass(frozen=True)
class Gel:
    """What a gel does to light."""

    label: str
    mired: float = 0.0
    """Shift of the reciprocal temperature [1/MK], positive towards warm."""
    luminous: float = 1.0
    """Share of the luminance that it lets through, of a conversion gel."""
    rgb: tuple[float, float, float] = (1.0, 1.0, 1.0)
    """Linear Rec. 709 transmittance of a colour gel."""


GelName = Literal[
    "none", "cto", "cto_half", "cto_quarter", "cto_eighth", "ctb", "ctb_half", "ctb_quarter", "ctb_eighth", "cts",
    "plus_green", "plus_green_half", "minus_green", "minus_green_half", "straw", "amber", "red", "rose", "magenta",
    "lavender", "deep_blue", "cyan", "green", "nd_3", "nd_6", "nd_9",
]  # fmt: skip

GELS: dict[GelName, Gel] = {
    "none": Gel("No gel"),
    "cto": Gel("CTO, full", 159, 0.55),
    "cto_half": Gel("CTO, half", 109, 0.71),
    "cto_quarter": Gel("CTO, quarter", 64, 0.79),
    "cto_eighth": Gel("CTO, eighth", 26, 0.85),
    "ctb": Gel("CTB, full", -137, 0.34),
    "ctb_half": Gel("CTB, half", -78, 0.55),
    "ctb_quarter": Gel("CTB, quarter", -35, 0.69),
    "ctb_eighth": Gel("CTB, eighth", -18, 0.81),
    "cts": Gel("CTS, straw", 160, 0.56, (1.0, 1.0, 0.9)),
    "plus_green": Gel("Plus green", rgb=(0.62, 0.86, 0.58)),
    "plus_green_half": Gel("Plus green, half", rgb=(0.77, 0.9, 0.74)),
    "minus_green": Gel("Minus green", rgb=(0.84, 0.5, 0.76)),
    "minus_green_half": Gel("Minus green, half", rgb=(0.88, 0.68, 0.82)),
    "straw": Gel("Straw", rgb=(0.95, 0.75, 0.35)),
    "amber": Gel("Amber", rgb=(0.95, 0.45, 0.06)),
    "red": Gel("Red", rgb=(0.7, 0.03, 0.02)),
    "rose": Gel("Rose", rgb=(0.85, 0.3, 0.4)),
    "magenta": Gel("Magenta", rgb=(0.6, 0.06, 0.45)),
    "lavender": Gel("Lavender", rgb=(0.5, 0.33, 0.8)),
    "deep_blue": Gel("Deep blue", rgb=(0.03, 0.06, 0.55)),
    "cyan": Gel("Cyan", rgb=(0.08, 0.55, 0.62)),
    "green": Gel("Green", rgb=(0.05, 0.45, 0.1)),
    "nd_3": Gel("ND 0.3", rgb=(0.5, 0.5, 0.5)),
    "nd_6": Gel("ND 0.6", rgb=(0.25, 0.25, 0.25)),
    "nd_9": Gel("ND 0.9", rgb=(0.125, 0.125, 0.125)),
}
