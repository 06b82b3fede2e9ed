"""What is all around an asset as one map of latitude and longitude: to be kept as a file, and to be looked at.

In: a document, where its files are. Out: pixels, an OpenEXR file, a small picture. Called by packages and
by the render host. Rows go from straight up to straight down, the middle column looks along -Z.
"""

import math
from pathlib import Path

import numpy as np

from lantern.compile.environment_tables import EnvironmentTables, turn_of
from lantern.engine.light_images import LightImages
from lantern.engine.map_layouts import directions
from lantern.engine.own_images import Resolver
from lantern.light.daylight import SUN_RADIUS, sun_of, sunlight
from lantern.picture.develop import Developed, display_rgb
from lantern.picture.files import ImageError, write_map
from lantern.picture.thumbnails import small_map
from lantern.scene.document import Scene
from lantern.scene.exposing import camera_stops
from lantern.scene.lit import environment_intensity
from lantern.scene.look import Look

SUN_ROWS = 1024
"""Rows that a map with a sun has at least: its disk spans three of them."""
_BAND = 64


def looked_up(pixels: np.ndarray, towards: np.ndarray) -> np.ndarray:
    """(..., 3) radiance of a map in unit directions (..., 3), bilinear as kernels look it up."""
    height, width = pixels.shape[:2]
    u = 0.5 + np.arctan2(towards[..., 0], -towards[..., 2]) / (2 * math.pi)
    v = np.arccos(np.clip(towards[..., 1], -1.0, 1.0)) / math.pi
    x, y = u * width - 0.5, np.clip(v * height - 0.5, 0.0, height - 1.0)
    i, j = np.floor(x).astype(int), np.floor(y).astype(int)
    fx, fy = (x - i)[..., None].astype(np.float32), (y - j)[..., None].astype(np.float32)
    below = np.minimum(j + 1, height - 1)
    upper = pixels[j, i % width] * (1 - fx) + pixels[j, (i + 1) % width] * fx
    lower = pixels[below, i % width] * (1 - fx) + pixels[below, (i + 1) % width] * fx
    return np.asarray(upper * (1 - fy) + lower * fy, np.float32)


def unrolled(scene: Scene, tables: EnvironmentTables, rows: int | None = None) -> np.ndarray:
    """(rows, 2 rows, 3) float32 [cd/m²] of all that is around as it lights: turned, at its intensity, with the sun."""
    height = rows or max(tables.pixels.shape[0], 2)
    has_sun = scene.sky.enabled and scene.sky.sun and sunlight(scene.sky)[0] > 0
    height = max(height, SUN_ROWS) if has_sun else height
    found = turned(scene, tables, height)
    if has_sun:
        _add_sun(scene, found)
    return found


def turned(scene: Scene, tables: EnvironmentTables, height: int) -> np.ndarray:
    """(height, 2 height, 3) float32 [cd/m²] of the map as it lights: turned, at its intensity."""
    turn, found = turn_of(scene), np.empty((height, 2 * height, 3), np.float32)
    for first in range(0, height, _BAND):
        last = min(first + _BAND, height)
        # One band after the other: the directions of a large map take six times its memory.
        found[first:last] = looked_up(tables.pixels, directions(height, 2 * height, first, last) @ turn.T)
    return found * np.float32(environment_intensity(scene))


def _add_sun(scene: Scene, pixels: np.ndarray) -> None:
    """The sun's disk as bright as it lights: what its pixels span times their radiance is its illuminance."""
    height, width = pixels.shape[:2]
    illuminance, color = sunlight(scene.sky)
    towards = sun_of(scene.sky).direction()
    zenith = math.degrees(math.acos(min(max(float(towards[1]), -1.0), 1.0)))
    first = max(int((zenith - 1.0) / 180 * height), 0)
    last = min(int((zenith + 1.0) / 180 * height) + 1, height)
    near = directions(height, width, first, last) @ towards >= math.cos(math.radians(SUN_RADIUS))
    spans = np.sin((np.arange(first, last) + 0.5) / height * math.pi) * (math.pi / height) * (2 * math.pi / width)
    total = float((near * spans[:, None]).sum())
    if total > 0:
        light = illuminance * environment_intensity(scene) * color * np.array(scene.environment.tint)
        pixels[first:last] += (near[..., None] * (light / total)).astype(np.float32)


def write_environment(scene: Scene, resolve: Resolver, path: Path) -> list[str]:
    """Write all that is around as an OpenEXR file, `path` ends so; returns what could not be had.

    Raises ImageError without its map.
    """
    images = LightImages()
    _, lost = images.bring(scene, resolve)
    try:
        pixels, problems = (None, []) if scene.sky.enabled else images.map_of(scene, resolve)
    except OSError as error:
        raise ImageError(str(error)) from error
    write_map(path, unrolled(scene, EnvironmentTables(scene, pixels, images.shown)))
    return lost + problems


def map_picture(scene: Scene, tables: EnvironmentTables) -> np.ndarray:
    """(h, w, 3) uint8 of the map unturned, as bright as the picture shows it."""
    # The mean of each block: of a large map hardly a lamp would lie at the middle of one.
    pixels = small_map(tables.pixels) * np.float32(environment_intensity(scene))
    look = Look(exposure=scene.look.exposure + camera_stops(scene.camera), view=scene.look.view)
    return display_rgb(Developed(pixels, np.ones(pixels.shape[:2], np.float32)), look)
