"""A light of the document as a row of LIGHT: its axes, its strength in candela or cd/m², its colour.

In: lights of the document, profiles. Out: filled rows and what the light tree asks of them. Called by `emitters`.
Photometry: CIE S 017 (lm, cd, lx, cd/m²) with Lambertian surfaces.
"""

import math
from collections.abc import Iterable, Sequence

import numpy as np

from lantern.color import LUMINANCE
from lantern.kernel.spectrum import XYZ_TO_RGB, matching_functions
from lantern.light.profiles import Profile
from lantern.light.shapes import (
    CAMERA_SEES,
    DISK,
    DISTANT,
    POINT,
    RECTANGLE,
    REFLECTIONS_SEE,
    SPHERE,
    TUBE,
    spot_flux,
)
from lantern.scene.gels import GELS, GelName
from lantern.scene.lights import (
    DirectionalLight,
    DiskLight,
    Light,
    LightBase,
    ProfileLight,
    RectangleLight,
    SphereLight,
    SpotLight,
    SurfaceLight,
    TubeLight,
)

_LEAST_AREA = 1e-10
"""m²: a smaller shape shines as a point."""


def blackbody(kelvin: float) -> np.ndarray:
    """Linear Rec. 709 (3,) of luminance 1 of Planck's law; channels below 0 (deep red) are set to 0."""
    wavelengths = np.arange(380.0, 781.0, 2.0)
    metres = wavelengths * 1e-9
    spectrum = metres**-5 / np.expm1(0.014387769 / (metres * kelvin))
    rgb = np.maximum((matching_functions(wavelengths) * spectrum[:, None]).sum(axis=0) @ XYZ_TO_RGB.T, 0.0)
    return np.asarray(rgb / (rgb @ LUMINANCE))


def blackbody_table() -> list[list[float]]:
    """Rows of reciprocal temperature [1/MK] and linear Rec. 709 colour of luminance 1, for interpolation.

    From 50 to 2,000 per megakelvin, 20,000 to 500 K; equal steps are about equally visible (Judd 1933).
    """
    rows = []
    for mired in np.linspace(50.0, 2000.0, 131):
        rows.append([round(float(v), 5) for v in (mired, *blackbody(1e6 / mired))])
    return rows


def light_color(color: Sequence[float], kelvin: float | None) -> np.ndarray:
    """Linear Rec. 709 (3,) of luminance 1; black stays black."""
    rgb = np.array(color, np.float64) * (1.0 if kelvin is None else blackbody(kelvin))
    luminance = float(rgb @ LUMINANCE)
    return rgb / luminance if luminance > 0 else rgb


def gel_color(gel: GelName, color: np.ndarray, kelvin: float | None) -> np.ndarray:
    """Linear Rec. 709 (3,) of light of a colour behind a gel; of luminance 1 before it.

    A conversion gel shifts the reciprocal temperature of what is behind it, daylight where that has none.
    """
    found = GELS[gel]
    if found.mired == 0.0:
        return color * np.array(found.rgb)
    before = 1e6 / (kelvin or 6504.0)
    after = 1e6 / min(max(before + found.mired, 40.0), 2000.0)
    shifted = color * blackbody(after) / blackbody(1e6 / before) * np.array(found.rgb)
    return np.asarray(shifted * found.luminous / max(float(shifted @ LUMINANCE), 1e-9))


def aim(position: Iterable[float], target: Iterable[float], roll: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(across, along, forward) unit vectors of something that looks from `position` to `target`; roll in degrees."""
    # In plain numbers: there may be hundreds of lights, and arrays of three cost ten times as much.
    x, y, z = (float(b) - float(a) for a, b in zip(position, target, strict=True))
    length = math.sqrt(x * x + y * y + z * z)
    x, y, z = (x / length, y / length, z / length) if length > 1e-9 else (0.0, -1.0, 0.0)
    # Across is forward x up, where up is +Y, or -Z for what looks up or down.
    a = (-z, 0.0, x) if abs(y) < 0.999 else (-y, x, 0.0)
    width = math.sqrt(sum(v * v for v in a))
    a = (a[0] / width, a[1] / width, a[2] / width)
    along = np.array((a[1] * z - a[2] * y, a[2] * x - a[0] * z, a[0] * y - a[1] * x))
    across = np.array(a)
    c, s = math.cos(math.radians(roll)), math.sin(math.radians(roll))
    return c * across + s * along, c * along - s * across, np.array((x, y, z))


def lumens(light: LightBase) -> float:
    """What the amount of a light in lm or W is in lm."""
    return light.amount * (
        light.efficacy if isinstance(light, SurfaceLight | ProfileLight) and light.unit == "W" else 1.0
    )


def _candela(light: LightBase, unit: str, flux_of_candela: float) -> float:
    """Intensity [cd] of a light of no size that gives `flux_of_candela` lm a candela; a luminance gives none."""
    distance2 = float(np.sum((np.array(light.position) - np.array(light.target)) ** 2))
    candela = {
        "lm": lumens(light) / flux_of_candela,
        "W": lumens(light) / flux_of_candela,
        "cd": light.amount,
        "lx": light.amount * distance2,
    }
    return candela.get(unit, 0.0)


def _profile_strength(light: ProfileLight, profile: Profile) -> float:
    """Factor on a profile [cd]."""
    if light.unit in ("lm", "W"):
        return lumens(light) / max(profile.lumens(), 1e-9)
    return _candela(light, light.unit, 1.0) / max(float(profile.candela.max()), 1e-9)


def _luminance(light: SurfaceLight, area: float, across: float) -> float:
    """cd/m² of a surface of `area` m², of which the target sees `across`."""
    distance2 = float(np.sum((np.array(light.position) - np.array(light.target)) ** 2))
    return {
        "lm": lumens(light) / (math.pi * area),
        "W": lumens(light) / (math.pi * area),
        "cd": light.amount / across,
        "lx": light.amount * distance2 / across,
        "cd/m²": light.amount,
    }[light.unit]


def luminance_of(light: SurfaceLight) -> float:
    """Luminance [cd/m²] of a light that shines from a surface, in whatever unit it is said; 0 of one without area."""
    kind, area, across = _shape_of(light)
    return 0.0 if kind == POINT else _luminance(light, area, across)


def _shape_of(light: LightBase) -> tuple[int, float, float]:
    """(kind, emitting area, area seen from the target) in m²; kind POINT when there is hardly any area."""
    kind, area, across = POINT, 0.0, 0.0
    if isinstance(light, RectangleLight):
        kind, area, across = RECTANGLE, light.width * light.height, light.width * light.height
    elif isinstance(light, DiskLight):
        kind, area, across = DISK, math.pi * light.radius**2, math.pi * light.radius**2
    elif isinstance(light, SphereLight):
        kind, area, across = SPHERE, 4 * math.pi * light.radius**2, math.pi * light.radius**2
    elif isinstance(light, TubeLight):
        kind, area, across = TUBE, 2 * math.pi * light.radius * light.length, 2 * light.radius * light.length
    return (kind, area, across) if area > _LEAST_AREA else (POINT, 0.0, 0.0)


def emitted_color(light: LightBase) -> np.ndarray:
    """Linear Rec. 709 (3,) of a light behind its gel; of luminance 1 without one."""
    return gel_color(light.gel, light_color(light.color, light.temperature), light.temperature)


TreeFacts = tuple[float, float, float]
"""(power, cos_spread, cos_reach) of a light for the tree."""


def write_local(row: np.ndarray, light: Light, profile: Profile | None, number: int, shaping: int) -> TreeFacts:
    """Fill a LIGHT row; `number` is that of its profile, `shaping` the row of what shapes it, or -1."""
    kind, area, seen = _shape_of(light)
    roll = 0.0 if isinstance(light, DiskLight | SphereLight | DirectionalLight) else light.roll
    across, along, forward = aim(light.position, light.target, roll)
    row["kind"], row["position"], row["normal"], row["area"] = kind, light.position, forward, area
    row["across"], row["along"] = across, along
    row["profile"], row["cos_inner"], row["cos_outer"], row["shaping"] = -1, -1.0, -1.0, shaping
    if isinstance(light, SurfaceLight) and kind != POINT:
        strength = _luminance(light, area, seen)
        facts = _write_surface(row, light, strength, area, seen)
    else:
        strength, facts = _write_point(row, light, profile, number)
    row["radiance"] = emitted_color(light) * strength
    return facts


def _write_surface(row: np.ndarray, light: SurfaceLight, luminance: float, area: float, seen: float) -> TreeFacts:
    """Fill in the shape of a light whose axes are in the row."""
    if isinstance(light, RectangleLight):
        row["across"] *= light.width / 2
        row["along"] *= light.height / 2
    elif isinstance(light, DiskLight | SphereLight | TubeLight):
        row["radius"] = light.radius
    if isinstance(light, TubeLight):
        # The tube lies across the aim.
        row["half_length"] = light.length / 2
        row["normal"], row["across"], row["along"] = row["across"].copy(), row["along"].copy(), -row["normal"]
    if isinstance(light, SphereLight | TubeLight):
        return luminance * seen, -1.0, 0.0
    return luminance * area, 1.0, 0.0


def _write_point(row: np.ndarray, light: Light, profile: Profile | None, number: int) -> tuple[float, TreeFacts]:
    """Fill in a light of no size; returns its strength [cd, or a factor on its profile] before what the tree asks."""
    flux = 4 * math.pi
    if isinstance(light, SpotLight):
        outer = math.cos(math.radians(light.cone / 2))
        inner = math.cos(math.radians(light.cone / 2 * (1 - light.softness)))
        row["cos_outer"], row["cos_inner"] = outer, inner
        flux = spot_flux(inner, outer)
    if isinstance(light, ProfileLight) and profile is not None:
        row["profile"] = number
        strength = _profile_strength(light, profile)
        peak = strength * float(profile.candela.max())
    else:
        # A shape shrunk to nothing keeps its unit; a surface without area gives no light.
        strength = peak = _candela(light, light.unit, flux)
    return strength, ((peak, float(row["cos_outer"]), 0.9999) if isinstance(light, SpotLight) else (peak, -1.0, 0.0))


def extent(row: np.ndarray) -> np.ndarray:
    """Half size (3,) of a local light's bounds [m]."""
    kind = int(row["kind"])
    if kind == RECTANGLE:
        return np.abs(row["across"]) + np.abs(row["along"])
    if kind == TUBE:
        return np.abs(row["normal"]) * row["half_length"] + row["radius"]
    return np.full(3, 0.0 if kind == POINT else float(row["radius"]))


def visibility(light: Light) -> int:
    """Bits of LIGHT.seen: who sees a light of its own accord."""
    by_camera = not isinstance(light, ProfileLight) and light.seen_by_camera
    return CAMERA_SEES * by_camera | REFLECTIONS_SEE * light.seen_in_reflections


def distant_row(row: np.ndarray, direction: np.ndarray, radius: float, illuminance: float, color: np.ndarray) -> None:
    """Fill a LIGHT row with light from far away: `direction` (3,) towards it, `radius` in degrees, lx facing it."""
    across, along, _ = aim((0, 0, 0), direction, 0.0)
    row["kind"], row["normal"], row["across"], row["along"] = DISTANT, direction, across, along
    row["profile"] = -1
    half = math.sin(math.radians(radius) / 2) if radius > 1e-4 else 0.0
    row["area"] = 2 * half * half
    # E = π L sin² of the radius for a uniform disk.
    size = math.pi * math.sin(math.radians(radius)) ** 2
    row["radiance"] = color * (illuminance / size if half > 0 else illuminance)
