"""What the camera sees behind everything: the environment, a plain colour, or a picture by direction or in the frame.

Called by `emitted`, `path` and the draft. A map may be projected on the ground, so that what stands there stands in it;
then the ground sends back as much as its picture shows.
"""

from numba import njit
from numpy import float32 as f32

from lantern.kernel.elementary import PI
from lantern.kernel.memory import load_f32, load_i32, load_u64, load_vector, peek_f32, store_f32
from lantern.kernel.points import draw
from lantern.kernel.vectors import EXACT, SMALL
from lantern.light.environment_kernels import ENVIRONMENT, grounded_direction, map_coordinates, radiance_at
from lantern.rays.layout import BY_DIRECTION, IN_THE_FRAME, NO_PICTURE, PATH, PATH_AT, SCENE, SETTINGS
from lantern.rays.lens import tent
from lantern.rays.primary import FILTER

C, S, P, E = SCENE.slots, SETTINGS.slots, PATH.slots, ENVIRONMENT.slots
_ZERO, _ONE, _HALF = f32(0.0), f32(1.0), f32(0.5)
_MOST_REFLECTANCE = f32(0.98)


@njit(**EXACT)
def note_frame(scene, scratch, sampler, x, y):
    """Keep where in the frame a sample lies, (0, 0) upper left, for a picture that is looked up there."""
    settings, path = load_u64(scene, C.settings), scratch + PATH_AT
    if load_i32(settings, S.backdrop_lookup) == IN_THE_FRAME:
        across = f32(x) + _HALF + tent(draw(sampler, FILTER))
        down = f32(y) + _HALF + tent(draw(sampler, FILTER + 1))
        store_f32(path, P.frame_x, across / f32(load_i32(settings, S.width)))
        store_f32(path, P.frame_y, down / f32(load_i32(settings, S.height)))


@njit(**SMALL)
def _in_the_frame(scene, scratch):
    """RGB of the picture in the frame at the sample's place; the plain backdrop beside it."""
    settings, row, path = load_u64(scene, C.settings), load_u64(scene, C.backdrop), scratch + PATH_AT
    u = (peek_f32(path, P.frame_x) - _HALF) * load_f32(settings, S.backdrop_span) + _HALF
    v = (peek_f32(path, P.frame_y) - _HALF) * load_f32(settings, S.backdrop_span + 1) + _HALF
    if u < f32(-1e-4) or u > f32(1.0001) or v < f32(-1e-4) or v > f32(1.0001):
        return load_vector(settings, S.backdrop)
    edge = _HALF / f32(load_i32(row, E.width))
    return radiance_at(
        row, load_u64(scene, C.backdrop_pixels), min(max(u, edge), _ONE - edge), min(max(v, _ZERO), _ONE)
    )


@njit(**EXACT)
def backdrop_behind(scene, scratch, origin, direction):
    """RGB [cd/m²] that the camera sees behind everything along a ray, without the sun's disk."""
    settings = load_u64(scene, C.settings)
    lookup = load_i32(settings, S.backdrop_lookup)
    if lookup == IN_THE_FRAME:
        return _in_the_frame(scene, scratch)
    if lookup == NO_PICTURE and load_i32(settings, S.camera_sees_environment) == 0:
        return load_vector(settings, S.backdrop)
    height = load_f32(settings, S.grounded)
    if height > _ZERO and load_i32(settings, S.camera_sees_environment) != 0:
        direction = grounded_direction(origin, direction, load_f32(settings, S.ground_height), height)
    if lookup == BY_DIRECTION:
        u, v = map_coordinates(load_u64(scene, C.backdrop), direction)
        return radiance_at(load_u64(scene, C.backdrop), load_u64(scene, C.backdrop_pixels), u, v)
    u, v = map_coordinates(load_u64(scene, C.environment), direction)
    return radiance_at(load_u64(scene, C.environment), load_u64(scene, C.environment_pixels), u, v)


@njit(**EXACT)
def reflectance_of_ground(scene, here):
    """RGB share of light that the ground sends back at a place, when it is not the camera that sees it.

    Under a map projected on it that is what makes open ground as bright as the map, so that mirrors show the map too.
    """
    settings = load_u64(scene, C.settings)
    own, height = load_vector(settings, S.ground_reflectance), load_f32(settings, S.grounded)
    if height <= _ZERO:
        return own
    light = load_vector(settings, S.open_irradiance)
    if min(light[0], min(light[1], light[2])) <= f32(1e-6):
        return own
    ground = load_f32(settings, S.ground_height)
    direction = grounded_direction((here[0], ground + height, here[2]), (_ZERO, -_ONE, _ZERO), ground, height)
    u, v = map_coordinates(load_u64(scene, C.environment), direction)
    seen = radiance_at(load_u64(scene, C.environment), load_u64(scene, C.environment_pixels), u, v)
    return (
        min(seen[0] * PI / light[0], _MOST_REFLECTANCE),
        min(seen[1] * PI / light[1], _MOST_REFLECTANCE),
        min(seen[2] * PI / light[2], _MOST_REFLECTANCE),
    )
