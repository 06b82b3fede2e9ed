"""Invented environments as latitude-longitude HDR maps: a studio, a court, a low sun, and those of `rooms`."""

import math
from pathlib import Path

import numpy as np

from demo.patterns import layered_noise
from demo.rooms import ROOMS
from lantern.picture.files import write_radiance_hdr

WIDTH, HEIGHT = 1024, 512


def _directions() -> np.ndarray:
    """(HEIGHT, WIDTH, 3) unit directions of the map's pixels; the middle column looks along -Z."""
    v = (np.arange(HEIGHT) + 0.5) / HEIGHT * math.pi
    u = ((np.arange(WIDTH) + 0.5) / WIDTH - 0.5) * 2 * math.pi
    phi, theta = np.meshgrid(u, v)
    return np.stack([np.sin(theta) * np.sin(phi), np.cos(theta), -np.sin(theta) * np.cos(phi)], -1)


def _towards(azimuth: float, elevation: float) -> np.ndarray:
    """Unit direction: azimuth [degrees] from -Z towards +X, elevation [degrees] above level."""
    a, e = math.radians(azimuth), math.radians(elevation)
    return np.array([math.cos(e) * math.sin(a), math.sin(e), -math.cos(e) * math.cos(a)])


def _smooth(low: float, high: float, x: np.ndarray) -> np.ndarray:
    t = np.clip((x - low) / (high - low), 0, 1)
    return t * t * (3 - 2 * t)


def _soft_box(
    directions: np.ndarray,
    azimuth: float,
    elevation: float,
    width: float,
    height: float,
    light: tuple[float, float, float],
) -> np.ndarray:
    """A rectangular diffuser seen from the middle; sizes are tangents of half angles, brightest in its centre."""
    towards = _towards(azimuth, elevation)
    right = np.cross(towards, [0.0, 1.0, 0.0])
    right /= np.linalg.norm(right)
    up = np.cross(right, towards)
    facing = directions @ towards
    ahead = np.maximum(facing, 1e-6)
    x, y = directions @ right / ahead / width, directions @ up / ahead / height
    edge = 0.06
    inside = (
        (1 - _smooth(1 - edge, 1 + edge, np.abs(x))) * (1 - _smooth(1 - edge, 1 + edge, np.abs(y))) * (facing > 0.05)
    )
    falloff = 0.55 + 0.45 * np.exp(-1.2 * (x * x + y * y))
    return (inside * falloff)[..., None] * np.array(light)


def studio() -> np.ndarray:
    """A dark room with a big overhead-left box, a tall strip on the right and a low fill."""
    d = _directions()
    up = d[..., 1]
    room = 0.055 + 0.05 * _smooth(-0.2, 0.9, up)
    pixels = room[..., None] * np.array([1.0, 0.985, 0.96])
    pixels += _soft_box(d, 128, 46, 0.62, 0.46, (9.5, 9.2, 8.7))
    pixels += _soft_box(d, -98, 18, 0.16, 0.95, (6.4, 6.6, 7.0))
    pixels += _soft_box(d, 22, 30, 0.55, 0.30, (2.6, 2.6, 2.75))
    pixels += _soft_box(d, -165, 10, 0.50, 0.42, (0.75, 0.72, 0.68))
    return pixels.astype(np.float32)


def overcast_court() -> np.ndarray:
    """An enclosed court under cloud: pale walls with dark openings, paving, a bright soft sky."""
    d = _directions()
    up = d[..., 1]
    clouds = np.tile(layered_noise(HEIGHT, 6, 5, 41), (1, 2))
    sky = (0.75 + 0.75 * np.clip(up, 0, 1))[..., None] * np.array([0.93, 0.97, 1.04])
    sky = sky * (0.82 + 0.36 * clouds[..., None])
    azimuth = np.arctan2(d[..., 0], -d[..., 2])
    wall_top = 0.34 + 0.07 * np.cos(2 * azimuth)
    grain = np.tile(layered_noise(HEIGHT, 24, 4, 42), (1, 2))
    wall = (0.30 + 0.10 * grain)[..., None] * np.array([1.0, 0.95, 0.87])
    bays = np.abs(np.mod(azimuth * 11 / math.pi, 1) - 0.5) < 0.21
    opening = bays & (up > 0.03) & (up < 0.22 + 0.04 * np.cos(azimuth * 22) ** 2)
    wall = np.where(opening[..., None], 0.05 * np.array([0.9, 0.95, 1.0]), wall)
    paving = (0.22 + 0.10 * grain)[..., None] * np.array([1.0, 0.98, 0.94])
    above = _smooth(-0.004, 0.004, up - wall_top)[..., None]
    pixels = wall * (1 - above) + sky * above
    ground = _smooth(-0.004, 0.004, -up - 0.02)[..., None]
    return (pixels * (1 - ground) + paving * ground).astype(np.float32)


def low_sun() -> np.ndarray:
    """Half an hour before sunset over open land: a warm sun 11° up, blue above, dark ground."""
    d = _directions()
    up = d[..., 1]
    height = np.clip(up, 0, 1)
    sun = _towards(118, 11)
    toward = np.clip(d @ sun, -1, 1)
    zenith, horizon = np.array([0.16, 0.27, 0.52]), np.array([0.95, 0.66, 0.42])
    mix = np.exp(-height * 5.0)[..., None]
    sky = zenith * (1 - mix) + horizon * mix
    sky = sky * (0.55 + 0.45 * (0.5 + 0.5 * toward[..., None]))
    sky += (np.exp((toward - 1) * 26)[..., None]) * np.array([1.5, 0.85, 0.40])
    sky += (np.exp((toward - 1) * 260)[..., None]) * np.array([4.0, 2.5, 1.3])
    disk = 1 - _smooth(math.radians(0.9), math.radians(1.25), np.arccos(toward))
    sky += disk[..., None] * np.array([900.0, 560.0, 270.0])
    grain = np.tile(layered_noise(HEIGHT, 16, 5, 43), (1, 2))
    land = (0.055 + 0.05 * grain)[..., None] * np.array([1.0, 0.82, 0.58])
    ground = _smooth(-0.006, 0.006, -up)[..., None]
    return (sky * (1 - ground) + land * ground).astype(np.float32)


ENVIRONMENTS = {
    "softbox-studio": ("Softbox Studio", studio),
    "overcast-court": ("Overcast Court", overcast_court),
    "low-sun": ("Low Sun", low_sun),
    **ROOMS,
}


def write_environment(key: str, path: Path) -> None:
    """Write one of ENVIRONMENTS as Radiance HDR."""
    write_radiance_hdr(path, ENVIRONMENTS[key][1]())
