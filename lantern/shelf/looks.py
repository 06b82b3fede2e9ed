"""Looks of our own, by what they are for. Each keeps exposure and white of the light that it is laid on.

Called by the library, which shows each on the picture that is there.
"""

from typing import Any

from lantern.scene.look import Look
from lantern.scene.looks import NamedLook


def _look(name: str, **fields: Any) -> NamedLook:
    on = {key: value | {"enabled": True} if isinstance(value, dict) else value for key, value in fields.items()}
    return NamedLook(name=name, look=Look.model_validate(on))


_VIGNETTE = {"edge": -0.55, "begins": 0.35, "roundness": 0.7}
_SHARP = {"amount": 0.25, "radius": 0.1}

LOOKS: dict[str, NamedLook] = {
    "clean": _look("Clean catalogue", contrast={"contrast": 1.06}, sharpening=_SHARP),
    "white-page": _look(
        "White page",
        levels={"white": -0.35},
        contrast={"contrast": 1.1, "pivot": -1.6},
        saturation={"saturation": 1.04, "vibrance": 0.12},
        sharpening=_SHARP,
    ),
    "soft-daylight": _look(
        "Soft daylight",
        bloom={"amount": 0.16, "size": 7.0, "above": -0.6},
        contrast={"contrast": 0.94},
        split={"amount": 0.16, "shadows": (0.72, 0.85, 1.0), "highlights": (1.0, 0.94, 0.82)},
        vignette={"edge": -0.25, "begins": 0.4},
    ),
    "evening": _look(
        "Evening",
        bloom={"amount": 0.22, "size": 6.0, "above": -0.3},
        halo={"amount": 0.03, "radius": 12.0, "above": -0.3},
        contrast={"contrast": 1.12},
        split={"amount": 0.34, "shadows": (0.5, 0.68, 1.0), "highlights": (1.0, 0.8, 0.52)},
        vignette={**_VIGNETTE, "edge": -0.45},
    ),
    "brass": _look(
        "Warm metal",
        contrast={"contrast": 1.18},
        hues={"saturation": ((0.02, 0.46), (0.12, 0.58), (0.2, 0.52), (0.6, 0.4))},
        split={"amount": 0.2, "shadows": (0.9, 0.82, 0.78), "highlights": (1.0, 0.88, 0.66)},
        glare={"amount": 0.2, "ring": 0.3, "blades": 8, "above": 1.0},
        vignette=_VIGNETTE,
    ),
    "cool-steel": _look(
        "Cool steel",
        contrast={"contrast": 1.16},
        saturation={"saturation": 0.78},
        split={"amount": 0.3, "shadows": (0.62, 0.8, 1.0), "highlights": (0.9, 0.97, 1.0)},
        sharpening={"amount": 0.4, "radius": 0.1},
        vignette=_VIGNETTE,
    ),
    "glass": _look(
        "Clear glass",
        contrast={"contrast": 1.1},
        levels={"black": -0.004, "white": -0.2},
        fringe={"red": 0.05, "blue": -0.05},
        glare={"amount": 0.25, "ring": 0.35, "above": 0.8, "blades": 6},
        saturation={"saturation": 1.08},
    ),
    "velvet": _look(
        "Velvet",
        contrast={"contrast": 1.22, "pivot": -3.0},
        curve={"master": ((0.2, 0.19), (0.42, 0.41), (0.56, 0.57))},
        hues={"saturation": ((0.3, 0.44), (0.85, 0.62))},
        bloom={"amount": 0.1, "size": 4.0},
        vignette={**_VIGNETTE, "edge": -1.1, "begins": 0.2},
    ),
    "faded": _look(
        "Faded print",
        levels={"black": -0.018},
        contrast={"contrast": 0.84},
        saturation={"saturation": 0.72},
        split={"amount": 0.3, "shadows": (0.7, 0.86, 0.9), "highlights": (1.0, 0.92, 0.76)},
        grain={"amount": 0.16, "size": 0.16},
    ),
    "slide": _look(
        "Saturated slide",
        contrast={"contrast": 1.28},
        saturation={"saturation": 1.2, "vibrance": 0.2},
        grain={"amount": 0.08, "size": 0.1},
        vignette={"edge": -0.35, "begins": 0.45},
    ),
    "cross": _look(
        "Crossed development",
        curve={
            "red": ((0.25, 0.22), (0.5, 0.52)), "green": ((0.3, 0.3), (0.5, 0.515)), "blue": ((0.2, 0.25), (0.52, 0.5)),
        },
        contrast={"contrast": 1.16},
        saturation={"saturation": 1.1},
        vignette=_VIGNETTE,
        grain={"amount": 0.1},
    ),
    "silver": _look(
        "Silver",
        monochrome={"filter": (0.3, 0.5, 0.2)},
        contrast={"contrast": 1.2},
        grain={"amount": 0.2, "size": 0.18, "color": 0.0},
        vignette=_VIGNETTE,
    ),
    "sepia": _look(
        "Sepia",
        monochrome={"filter": (0.35, 0.5, 0.15), "tone": (1.0, 0.8, 0.56)},
        contrast={"contrast": 1.04},
        levels={"black": -0.008},
        bloom={"amount": 0.1, "size": 5.0},
        vignette={**_VIGNETTE, "edge": -0.9},
        grain={"amount": 0.18, "color": 0.0},
    ),
    "red-filter": _look(
        "Behind a red filter",
        monochrome={"filter": (0.85, 0.12, 0.03)},
        contrast={"contrast": 1.36},
        sharpening=_SHARP,
        grain={"amount": 0.14, "color": 0.0},
    ),
    "long-lines": _look(
        "Long lines",
        streaks={"amount": 0.16, "arms": 2, "length": 60.0, "spread": 0.5, "above": 0.4},
        bloom={"amount": 0.08, "size": 3.0, "above": 0.4},
        contrast={"contrast": 1.14},
        split={"amount": 0.24, "shadows": (0.5, 0.72, 1.0), "highlights": (1.0, 0.93, 0.85)},
        vignette={**_VIGNETTE, "edge": -0.7},
    ),
    "star": _look(
        "Stars",
        glare={"amount": 0.5, "ring": 0.6, "blades": 6, "turn": 15.0, "above": 0.6},
        streaks={"amount": 0.06, "arms": 6, "angle": 30.0, "length": 14.0, "above": 0.6},
        contrast={"contrast": 1.1},
    ),
    "old-lens": _look(
        "Old lens",
        softness={"blur": 0.7, "begins": 0.3},
        fringe={"red": 0.3, "blue": -0.3},
        distortion={"bend": 0.03},
        veil={"amount": 0.05},
        ghosts={"amount": 0.03, "number": 5, "above": 0.0},
        vignette={"edge": -1.0, "begins": 0.25, "natural": 0.5},
        bloom={"amount": 0.12, "size": 5.0},
        saturation={"saturation": 0.9},
    ),
    "mist": _look(
        "Mist",
        bloom={"amount": 0.4, "size": 14.0, "above": -2.5},
        halo={"amount": 0.05, "radius": 20.0, "width": 8.0, "above": -2.5},
        veil={"amount": 0.06},
        contrast={"contrast": 0.9},
        saturation={"saturation": 0.86},
    ),
}  # fmt: skip
"""By their keys on the shelf."""
