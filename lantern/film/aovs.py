"""What a sample brings to the AOVs: by kind of path, by light group, by identity.

Cryptomatte coverage follows its specification 1.2.0 (Friedman & Jones, "Fully automatic ID mattes with support for
motion blur and transparency", SIGGRAPH 2015): for each pixel a list of (identity, coverage), ranked when written.
"""

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import peek_f32, peek_i32, peek_vector, store_f32, store_i32, store_vector
from lantern.kernel.vectors import EXACT, SMALL, add, luminance, mul
from lantern.rays.layout import AOVS, IDENTITIES, MOST_GROUPS, RESULT, SUMMED

Y, R = AOVS.slots, RESULT.slots
AOVS_WIDTH, POSITION = AOVS.width, AOVS.slot("position")

DIFFUSE, SPECULAR, TRANSMISSION = 0, 1, 2
"""Kind of a path by what its first surface did."""


@njit(**SMALL)
def _plus(base, slot, c):
    store_vector(base, slot, add(peek_vector(base, slot), c))


@njit(**SMALL)
def clear_sums(result, groups):
    """Forget what the last sample brought to the AOVs and to so many light groups."""
    for i in range(SUMMED):
        store_f32(result, R.sums + i, f32(0.0))
    for i in range(3 * groups):
        store_f32(result, R.groups + i, f32(0.0))


@njit(**EXACT)
def deposit_seen(result, color, group, is_background):
    """Light that the camera sees without any surface between: emission or what is behind the scene."""
    _plus(result, R.sums + (Y.background if is_background else Y.emission), color)
    _plus(result, R.groups + 3 * min(group, MOST_GROUPS - 1), color)


@njit(**EXACT)
def deposit(result, color, group, is_direct, share, kind):
    """Light that came by way of a surface: `share` rgb of it is diffuse there, the rest of `kind`."""
    _plus(result, R.sums + (Y.direct if is_direct else Y.indirect), color)
    diffuse = mul(color, share)
    rest = (color[0] - diffuse[0], color[1] - diffuse[1], color[2] - diffuse[2])
    _plus(result, R.sums + Y.diffuse, diffuse)
    _plus(result, R.sums + (Y.transmission if kind == TRANSMISSION else Y.specular), rest)
    _plus(result, R.groups + 3 * min(group, MOST_GROUPS - 1), color)


@njit(**EXACT)
def deposit_shadow(result, unlit, lit):
    """Direct light at the first surface, without and with what is in its way."""
    at = R.sums + Y.unlit
    store_f32(result, at, peek_f32(result, at) + luminance(unlit))
    at = R.sums + Y.lit
    store_f32(result, at, peek_f32(result, at) + luminance(lit))


@njit(**SMALL)
def _cover(aovs, ids, cover, identity):
    for i in range(IDENTITIES):
        count = peek_f32(aovs, cover + i)
        if count == f32(0.0) or peek_i32(aovs, ids + i) == identity:
            store_i32(aovs, ids + i, identity)
            store_f32(aovs, cover + i, count + f32(1.0))
            return


@njit(**EXACT)
def add_groups(groups, count, pixel, result, scale):
    """Add a finished sample to the light groups of its pixel; those beyond `count` are in the last."""
    row = pixel * 3 * count
    for i in range(3 * count):
        at = row + i
        store_f32(groups, at, peek_f32(groups, at) + peek_f32(result, R.groups + i) * scale[i % 3])


@njit(**EXACT)
def add_aovs(aovs, pixel, result, scale):
    """Add a finished sample to its pixel's row; `scale` rgb is what the light was multiplied by at the end."""
    row = pixel * AOVS_WIDTH
    for i in range(Y.position):
        at = row + i
        store_f32(aovs, at, peek_f32(aovs, at) + peek_f32(result, R.sums + i) * scale[i % 3])
    for i in range(Y.position, SUMMED):
        store_f32(aovs, row + i, peek_f32(aovs, row + i) + peek_f32(result, R.sums + i))
    part = peek_i32(result, R.part)
    if part >= 0:
        _cover(aovs, row + Y.part_ids, row + Y.part_cover, part)
        _cover(aovs, row + Y.material_ids, row + Y.material_cover, peek_i32(result, R.material))
