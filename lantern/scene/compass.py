"""Directions by compass: azimuth from north (−Z) over east (+X), elevation above the horizon, both in degrees."""

import math
from collections.abc import Sequence


def direction_of(azimuth: float, elevation: float) -> tuple[float, float, float]:
    """The unit vector of a direction."""
    a, e = math.radians(azimuth), math.radians(elevation)
    return math.cos(e) * math.sin(a), math.sin(e), -math.cos(e) * math.cos(a)


def angles_of(direction: Sequence[float]) -> tuple[float, float]:
    """(azimuth, elevation) of a vector that is not 0, of any length; azimuth within ±180."""
    x, y, z = (float(v) for v in direction)
    return math.degrees(math.atan2(x, -z)), math.degrees(math.atan2(y, math.hypot(x, z)))
