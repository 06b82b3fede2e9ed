"""Lights of a stage (UsdLux: RectLight, DiskLight, SphereLight, CylinderLight, DistantLight and their shaping).

In: a prim with where it stands. Out: a light of the document. Called by `stage`. A light of UsdLux has a luminance,
whose unit is cd/m² times two to its exposure ("UsdLux overview", Quantities and Units).
"""

import math
from typing import Any

import numpy as np
from pxr import Usd, UsdLux

from lantern.color import LUMINANCE
from lantern.scene.fields import FAR
from lantern.scene.framing import picture_axes
from lantern.scene.lights import DirectionalLight, DiskLight, Light, RectangleLight, SphereLight, TubeLight


def light_of(prim: Usd.Prim, matrix: np.ndarray, unit: float, start: Usd.TimeCode) -> Light | None:
    """The light that a prim is, with its matrix (4, 4) to the world; None for a kind that is not read.

    `unit` is how many metres one of the stage's is.
    """

    def number(name: str, default: float) -> float:
        attribute = prim.GetAttribute(f"inputs:{name}")
        value = attribute.Get(start) if attribute else None
        return float(value) if isinstance(value, int | float) and math.isfinite(value) else default

    reach = [float(np.linalg.norm(matrix[:3, i])) for i in range(3)]
    luminance = number("intensity", 1.0) * 2 ** min(max(number("exposure", 0.0), -64.0), 64.0)
    common = _common(prim, matrix, start)
    luminance *= float(LUMINANCE @ common["color"])  # the schema's colour dims; ours does not
    kind = prim.GetTypeName()
    if kind == "DistantLight":
        return _distant(common, luminance, number("angle", 0.53), bool(number("normalize", 0.0)))
    sizes = {
        "RectLight": {"width": number("width", 1.0) * reach[0], "height": number("height", 1.0) * reach[1]},
        "DiskLight": {"radius": number("radius", 0.5) * reach[0]},
        "SphereLight": {"radius": number("radius", 0.5) * reach[0]},
        "CylinderLight": {"length": number("length", 1.0) * reach[0], "radius": number("radius", 0.5) * reach[1]},
    }.get(kind)
    if sizes is None:
        return None
    flag = prim.GetAttribute("inputs:normalize")
    if flag and flag.Get(start):
        luminance /= max(_area(kind, sizes) / unit**2, 1e-12)
    made: dict[str, type] = {
        "RectLight": RectangleLight, "DiskLight": DiskLight, "SphereLight": SphereLight, "CylinderLight": TubeLight,
    }  # fmt: skip
    common |= {name: min(max(size, 0.0), 1000.0) for name, size in sizes.items()}
    if kind in ("RectLight", "CylinderLight"):
        common["roll"] = _roll(matrix)
    amount = min(max(luminance, 0.0), 1e9)
    light: Light = made[kind](**common, amount=amount, unit="cd/m²", seen_by_camera=kind != "CylinderLight")
    return light


def _common(prim: Usd.Prim, matrix: np.ndarray, start: Usd.TimeCode) -> dict[str, Any]:
    place, ahead = matrix[:3, 3], -matrix[:3, 2]
    length = float(np.linalg.norm(ahead))
    ahead = ahead / length if length > 0 else np.array([0.0, 0.0, -1.0])
    api = UsdLux.LightAPI(prim)
    color = [max(float(c), 0.0) for c in (api.GetColorAttr().Get(start) or (1.0, 1.0, 1.0))]
    warm = bool(api.GetEnableColorTemperatureAttr().Get(start))
    kelvin = float(api.GetColorTemperatureAttr().Get(start) or 6500.0)
    return {
        "name": prim.GetName()[:200],
        "position": tuple(np.clip(place, -FAR, FAR).tolist()),
        "target": tuple(np.clip(place + ahead, -FAR, FAR).tolist()),
        "color": tuple(color),
        "temperature": min(max(kelvin, 500.0), 20_000.0) if warm else None,
    }


def _distant(common: dict[str, Any], luminance: float, angle: float, normalized: bool) -> Light:
    half = math.radians(min(max(angle, 0.0), 90.0)) / 2
    # Of a disk of even luminance, seen head on.
    falling = luminance if normalized or half == 0 else luminance * math.pi * math.sin(half) ** 2
    return DirectionalLight(**common, amount=min(max(falling, 0.0), 1e9), unit="lx", spread=min(max(angle, 0.0), 90.0))


def _area(kind: str, sizes: dict[str, float]) -> float:
    """Of what shines [m²]."""
    if kind == "RectLight":
        return sizes["width"] * sizes["height"]
    if kind == "DiskLight":
        return math.pi * sizes["radius"] ** 2
    if kind == "SphereLight":
        return 4 * math.pi * sizes["radius"] ** 2
    return 2 * math.pi * sizes["radius"] * sizes["length"]


def _roll(matrix: np.ndarray) -> float:
    """Degrees by which the light's own X is turned from level, about its aim."""
    backwards = matrix[:3, 2] / max(float(np.linalg.norm(matrix[:3, 2])), 1e-30)
    right, up = picture_axes(backwards)
    return math.degrees(math.atan2(float(matrix[:3, 0] @ up), float(matrix[:3, 0] @ right)))
