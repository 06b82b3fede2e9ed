"""Sun and clear sky: where the sun stands, and how bright sky and sun are, in photometric units.

Position: Michalsky, "The Astronomical Almanac's Algorithm for Approximate Solar Position (1950-2050)", Solar
Energy 40(3), 1988; within 0.01°. Sky luminance and zenith: Preetham, Shirley & Smits, "A Practical Analytic Model for
Daylight", SIGGRAPH 1999, appendix A.2, whose shape and colour are kept while its level, known to be too high, is set
to the horizontal illuminance of a clear sky of RP-21. Direct light: IES RP-21 (DiLaura 1984): 128 klx outside the
atmosphere, exp(-c m) through air mass m (Kasten & Young, Applied Optics 28(22), 1989).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta, timezone

import numpy as np

from lantern.color import LUMINANCE
from lantern.kernel.spectrum import XYZ_TO_RGB
from lantern.light.cie_sky import STANDARD_SKIES, standard_radiance
from lantern.scene.compass import direction_of
from lantern.scene.surroundings import Sky, SunPlace

SUN_RADIUS = 0.2666
"""Mean angular radius [degrees] of the sun's disk."""
SOLAR_ILLUMINANCE = 128_000.0
"""lx outside the atmosphere."""
CLEAR = 2.5
"""Turbidity of the clear sky that RP-21 describes."""


@dataclass(frozen=True)
class SunPosition:
    """Angles in degrees: azimuth from north towards east, elevation above the horizon without refraction."""

    azimuth: float
    elevation: float

    def direction(self) -> np.ndarray:
        """Unit (3,) towards the sun with north along -Z, east along +X, up along +Y."""
        return np.array(direction_of(self.azimuth, self.elevation))


def sun_position(moment: datetime, latitude: float, longitude: float) -> SunPosition:
    """Sun at a moment with time zone; latitude north, longitude east in degrees. Raises ValueError without a zone."""
    if moment.tzinfo is None:
        raise ValueError("the moment needs a time zone")
    utc = moment.astimezone(UTC)
    days = (utc - datetime(2000, 1, 1, 12, tzinfo=UTC)).total_seconds() / 86400
    mean_longitude = math.radians((280.460 + 0.9856474 * days) % 360)
    anomaly = math.radians((357.528 + 0.9856003 * days) % 360)
    ecliptic = mean_longitude + math.radians(1.915 * math.sin(anomaly) + 0.020 * math.sin(2 * anomaly))
    tilt = math.radians(23.439 - 0.0000004 * days)
    ascension = math.atan2(math.cos(tilt) * math.sin(ecliptic), math.cos(ecliptic))
    declination = math.asin(math.sin(tilt) * math.sin(ecliptic))
    hours = utc.hour + utc.minute / 60 + (utc.second + utc.microsecond / 1e6) / 3600
    sidereal = math.radians((6.697375 + 0.0657098242 * days + hours) % 24 * 15 + longitude)
    hour_angle = sidereal - ascension
    phi = math.radians(latitude)
    elevation = math.asin(
        math.sin(declination) * math.sin(phi) + math.cos(declination) * math.cos(phi) * math.cos(hour_angle)
    )
    azimuth = math.atan2(
        -math.sin(hour_angle) * math.cos(declination),
        math.sin(declination) * math.cos(phi) - math.cos(declination) * math.sin(phi) * math.cos(hour_angle),
    )
    return SunPosition(math.degrees(azimuth) % 360, math.degrees(elevation))


def moment_of(place: SunPlace) -> datetime:
    """The moment of a place's date and hour; the hour 24 is the beginning of the next day."""
    zone = timezone(timedelta(hours=place.zone))
    day = date.fromisoformat(place.date)
    return datetime(day.year, day.month, day.day, tzinfo=zone) + timedelta(hours=place.hour)


def sun_of(sky: Sky) -> SunPosition:
    """Where the sun of a document stands: put there by hand, or looked up by place and time."""
    if sky.place is None:
        return SunPosition(sky.azimuth, sky.elevation)
    found = sun_position(moment_of(sky.place), sky.place.latitude, sky.place.longitude)
    return SunPosition((found.azimuth + sky.place.north) % 360, found.elevation)


def twilight(elevation: float) -> float:
    """Share of the light of a sky whose sun is at the horizon that is left when it is below, in degrees.

    Log-linear from sunset (800 lx of a clear sky) to the end of civil twilight at -6° (3.4 lx, U.S. Naval Observatory,
    "Illumination from the Sun and Moon").
    """
    return 1.0 if elevation >= 0 else float((3.4 / 800) ** (min(-elevation, 18.0) / 6))


def sunlight(sky: Sky) -> tuple[float, np.ndarray]:
    """(lx on a surface that faces the sun, linear Rec. 709 (3,) of luminance 1) of the direct light of a sky."""
    sun = sun_of(sky)
    if sky.kind == "clear":
        return direct_illuminance(sun.elevation, sky.turbidity), sun_color(sun.elevation, sky.turbidity)
    extinction = STANDARD_SKIES[sky.kind].sun
    if sun.elevation <= -SUN_RADIUS or math.isinf(extinction):
        return 0.0, sun_color(sun.elevation, CLEAR)
    return SOLAR_ILLUMINANCE * math.exp(-extinction * air_mass(sun.elevation)), sun_color(sun.elevation, CLEAR)


def air_mass(elevation: float) -> float:
    """Relative optical air mass [-] at a true elevation in degrees (Kasten & Young 1989)."""
    e = max(elevation, 0.0)
    return 1 / (math.sin(math.radians(e)) + 0.50572 * (e + 6.07995) ** -1.6364)


def direct_illuminance(elevation: float, turbidity: float) -> float:
    """Illuminance [lx] on a surface that faces the sun; 0 when it is below the horizon.

    The extinction of the clear sky of RP-21, 0.21 per air mass, belongs to turbidity 2.5 and grows in proportion
    to the haze above pure air (turbidity 1: 0.10).
    """
    if elevation <= -SUN_RADIUS:
        return 0.0
    extinction = 0.10 + (turbidity - 1) * (0.21 - 0.10) / (CLEAR - 1)
    return SOLAR_ILLUMINANCE * math.exp(-extinction * air_mass(elevation))


def sky_illuminance(elevation: float) -> float:
    """Horizontal illuminance [lx] of a clear sky without the sun (IES RP-21, clear sky: A = 0.8, B = 15.5, C = 0.5)."""
    return 1000 * (0.8 + 15.5 * math.sqrt(max(math.sin(math.radians(elevation)), 0.0)))


# Perez coefficients A to E, linear in turbidity: rows (slope, offset), for Y, x, y.
_PEREZ_LUMINANCE = [(0.1787, -1.4630), (-0.3554, 0.4275), (-0.0227, 5.3251), (0.1206, -2.5771), (-0.0670, 0.3703)]
_PEREZ_X = [(-0.0193, -0.2592), (-0.0665, 0.0008), (-0.0004, 0.2125), (-0.0641, -0.8989), (-0.0033, 0.0452)]
_PEREZ_Y = [(-0.0167, -0.2608), (-0.0950, 0.0092), (-0.0079, 0.2102), (-0.0441, -1.6537), (-0.0109, 0.0529)]
_ZENITH_X = [
    (0.00166, -0.00375, 0.00209, 0.0),
    (-0.02903, 0.06377, -0.03202, 0.00394),
    (0.11693, -0.21196, 0.06052, 0.25886),
]
_ZENITH_Y = [
    (0.00275, -0.00610, 0.00317, 0.0),
    (-0.04214, 0.08970, -0.04153, 0.00516),
    (0.15346, -0.26756, 0.06670, 0.26688),
]


def zenith_luminance(sun_zenith: float, turbidity: float) -> float:
    """cd/m² straight up; `sun_zenith` in radians (Preetham et al., equation for Y_z)."""
    chi = (4 / 9 - turbidity / 120) * (math.pi - 2 * sun_zenith)
    return max(1000 * ((4.0453 * turbidity - 4.9710) * math.tan(chi) - 0.2155 * turbidity + 2.4192), 0.0)


def _perez(rows: list[tuple[float, float]], turbidity: float, cos_theta: np.ndarray, gamma: np.ndarray) -> np.ndarray:
    a, b, c, d, e = (slope * turbidity + offset for slope, offset in rows)
    return np.asarray((1 + a * np.exp(b / cos_theta)) * (1 + c * np.exp(d * gamma) + e * np.cos(gamma) ** 2))


def _zenith_chroma(rows: Sequence[tuple[float, ...]], sun_zenith: float, turbidity: float) -> float:
    powers = np.array([sun_zenith**3, sun_zenith**2, sun_zenith, 1.0])
    return float(np.array([turbidity**2, turbidity, 1.0]) @ (np.array(rows) @ powers))


def sky_radiance(directions: np.ndarray, sun: np.ndarray, turbidity: float) -> np.ndarray:
    """Linear Rec. 709 cd/m² (..., 3) of the sky without the sun's disk; black below the horizon.

    `directions` (..., 3) unit, `sun` (3,) unit. Turbidity 2 (clear) to 10 (hazy); the sun is taken to be at the
    horizon at least, the model has no night.
    """
    sun_zenith = math.acos(min(max(float(sun[1]), 0.0), 1.0))
    cos_theta = np.maximum(directions[..., 1], 1e-3)
    gamma = np.arccos(np.clip(directions @ sun, -1.0, 1.0))
    at_zenith = (np.array(1.0), np.array(sun_zenith))
    values = []
    for rows, zenith in (
        (_PEREZ_LUMINANCE, zenith_luminance(sun_zenith, turbidity)),
        (_PEREZ_X, _zenith_chroma(_ZENITH_X, sun_zenith, turbidity)),
        (_PEREZ_Y, _zenith_chroma(_ZENITH_Y, sun_zenith, turbidity)),
    ):
        values.append(zenith * _perez(rows, turbidity, cos_theta, gamma) / _perez(rows, turbidity, *at_zenith))
    luminance, x, y = values
    xyz = np.stack([x / y, np.ones_like(x), (1 - x - y) / y], axis=-1) * luminance[..., None]
    rgb = np.maximum(xyz @ XYZ_TO_RGB.T, 0.0)
    return np.where(directions[..., 1:2] > 0, rgb, 0.0)


def sun_color(elevation: float, turbidity: float) -> np.ndarray:
    """Linear Rec. 709 (3,) of luminance 1: sunlight reddened by air (Rayleigh) and haze (Ångström).

    Preetham et al., appendix A.1: three wavelengths, optical depths 0.008735 λ^-4.08 and β λ^-1.3 a unit of
    air mass, λ in µm.
    """
    wavelengths = np.array([0.61, 0.55, 0.465])
    mass = air_mass(elevation)
    beta = 0.04608 * turbidity - 0.04586
    depth = mass * (0.008735 * wavelengths**-4.08 + beta * wavelengths**-1.3)
    rgb = np.array([1.0, 0.98, 0.93]) * np.exp(-(depth - depth[1]))
    return np.asarray(rgb / (rgb @ LUMINANCE))


def sky_map(sky: Sky, rows: int = 256) -> np.ndarray:
    """(rows, 2·rows, 3) float32 map of a sky in cd/m² over its ground, lit by sky and sun."""
    sun = sun_of(sky)
    v = (np.arange(rows) + 0.5) / rows * math.pi
    u = ((np.arange(2 * rows) + 0.5) / (2 * rows) - 0.5) * 2 * math.pi
    phi, theta = np.meshgrid(u, v)
    directions = np.stack([np.sin(theta) * np.sin(phi), np.cos(theta), -np.sin(theta) * np.cos(phi)], -1)
    towards = SunPosition(sun.azimuth, max(sun.elevation, 0.0)).direction()
    weight = np.sin(theta) * np.maximum(np.cos(theta), 0) * (math.pi / rows) ** 2
    if sky.kind == "clear":
        clear = (sky_radiance(directions, towards, CLEAR) @ LUMINANCE * weight).sum()
        pixels = sky_radiance(directions, towards, sky.turbidity) * (sky_illuminance(sun.elevation) / clear)
    else:
        pixels = standard_radiance(sky.kind, directions, towards, sun.elevation)
    pixels = pixels * twilight(sun.elevation)
    from_sky = (pixels * weight[..., None]).sum(axis=(0, 1))
    illuminance, color = sunlight(sky) if sky.sun else (0.0, np.ones(3))
    from_sun = illuminance * max(sun.direction()[1], 0.0) * color
    below = np.array(sky.ground_albedo) * (from_sky + from_sun) / math.pi
    return np.where(directions[..., 1:2] > 0, pixels, below).astype(np.float32)
