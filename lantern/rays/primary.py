"""The first ray of a path: which dimensions of its sample point decide about the camera."""

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import load_i32, load_u64
from lantern.kernel.points import draw
from lantern.kernel.random import path_key
from lantern.kernel.vectors import SMALL
from lantern.rays.embree import set_time
from lantern.rays.layout import SCENE, SETTINGS
from lantern.rays.lens import camera_ray

C, S = SCENE.slots, SETTINGS.slots
FILTER = 0
"""First of two dimensions that place a sample under the pixel filter."""
_LENS, _TIME = 2, 4
WAVELENGTH = 5
"""Dimension that a dispersing path takes its wavelength from."""
AFTER_CAMERA = 8
"""First dimension that belongs to no camera."""


@njit(**SMALL)
def primary_ray(scene, ray, point, x, y, index):
    """(origin, unit direction, sampler as `draw` wants it) of a sample; sets the time of the ray record."""
    settings, camera, mask = load_u64(scene, C.settings), load_u64(scene, C.camera), load_u64(scene, C.mask)
    pixel = y * load_i32(settings, S.width) + x
    seed = load_i32(settings, S.seed)
    sampler = (point, mask, x, y, path_key(pixel, 0, seed), path_key(pixel, index + 1, seed))
    time = draw(sampler, _TIME) if load_i32(settings, S.moves) != 0 else f32(0.0)
    set_time(ray, time)
    origin, direction = camera_ray(
        camera,
        load_u64(scene, C.aperture),
        x,
        y,
        draw(sampler, FILTER),
        draw(sampler, FILTER + 1),
        draw(sampler, _LENS),
        draw(sampler, _LENS + 1),
        time,
    )
    return origin, direction, sampler
