"""What a path meets first: where the camera ray ends, and what guides the denoiser.

Called by `transport.path`; all of it goes to the RESULT record.
"""

from numba import njit
from numpy import float32 as f32

from lantern.film.aovs import POSITION
from lantern.kernel.memory import load_i32, load_u64, peek_f32, peek_i32, peek_vector, store_f32, store_vector
from lantern.kernel.vectors import SMALL, dot, lerp, mul
from lantern.rays.layout import PATH, PATH_AT, RESULT, RESULT_AT, SCENE, SETTINGS
from lantern.rays.lens import forward_axis
from lantern.surface.record import SURFACE

C, S, R, P, U = SCENE.slots, SETTINGS.slots, RESULT.slots, PATH.slots, SURFACE.slots
_ZERO, _ONE = f32(0.0), f32(1.0)
_WHITE = (_ONE, _ONE, _ONE)


@njit(**SMALL)
def see(scene, result, here, distance, direction):
    """Write where the camera ray has met something."""
    store_f32(result, R.depth, distance * dot(direction, forward_axis(load_u64(scene, C.camera))))
    if load_i32(load_u64(scene, C.settings), S.keeps) != 0:
        store_vector(result, R.sums + POSITION, here)


@njit(**SMALL)
def feature_albedo(s):
    """Colour of the surface as the denoiser wants it: glass counts as white, as it shows what is behind."""
    clear = peek_f32(s, U.transmission) * (_ONE - peek_f32(s, U.metalness))
    base = peek_vector(s, U.base_color)
    share = peek_f32(s, U.subsurface)
    if share > _ZERO:
        base = lerp(base, peek_vector(s, U.subsurface_color), share)
    return lerp(base, _WHITE, clear)


@njit(**SMALL)
def guide(scratch, beta, albedo, normal):
    """Write what the denoiser is guided by where a path meets something that it is to see.

    In a mirror, and behind clear glass, that is what is seen there, in the colour that it is seen in.
    """
    if peek_i32(scratch + PATH_AT, P.guides) == 0:
        return
    seen = mul(beta, albedo)
    result = scratch + RESULT_AT
    store_vector(result, R.albedo, (min(seen[0], _ONE), min(seen[1], _ONE), min(seen[2], _ONE)))
    store_vector(result, R.normal, normal)
