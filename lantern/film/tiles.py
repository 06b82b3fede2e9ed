"""What a thread does in a pass: tiles of the frame from an atomic counter, every pixel brought to its samples.

The cancel flag is polled for each pixel. A film row remembers its own sample count, so a cancelled pass leaves a film
that can be resumed without a trace.
"""

import math

from numba import njit
from numpy import float32 as f32

from lantern.film.aovs import add_aovs, add_groups
from lantern.film.counting import count
from lantern.kernel.memory import (
    fetch_add_i32,
    load_f32,
    load_i32,
    load_u64,
    peek_f32,
    peek_i32,
    peek_vector,
    prefetch,
    store_f32,
    store_i32,
)
from lantern.kernel.points import DIMENSIONS
from lantern.kernel.vectors import EXACT, SMALL, luminance, scale
from lantern.rays.layout import (
    CONTROL_CANCEL,
    CONTROL_NEXT,
    FILM,
    LIMITED,
    NOT_FINITE,
    RESULT,
    RESULT_AT,
    SCENE,
    SETTINGS,
    TILE,
)

C, S, F, R = SCENE.slots, SETTINGS.slots, FILM.slots, RESULT.slots
_FILM_WIDTH = FILM.width
_ZERO, _ONE = f32(0.0), f32(1.0)


@njit(**SMALL)
def _plus(film, at, value):
    store_f32(film, at, peek_f32(film, at) + value)


@njit(**EXACT)
def _add_to_film(film, row, result, settings, scratch):
    """Add one sample, in order for each pixel, so that no split of a frame shows; returns the scale of its light."""
    radiance = peek_vector(result, R.radiance)
    brightness = luminance(radiance)
    kept = _ONE
    limit = load_f32(settings, S.limit)
    if limit > _ZERO and brightness > limit:
        kept = limit / brightness
        radiance = scale(radiance, kept)
        brightness = limit
        count(scratch, LIMITED)
    for c in range(3):
        _plus(film, row + F.radiance + c, radiance[c])
        _plus(film, row + F.albedo + c, peek_f32(result, R.albedo + c))
        _plus(film, row + F.normal + c, peek_f32(result, R.normal + c))
    _plus(film, row + F.alpha, peek_f32(result, R.alpha))
    depth = peek_f32(result, R.depth)
    if depth >= _ZERO:
        _plus(film, row + F.depth, depth)
        _plus(film, row + F.depth_hits, _ONE)
    _plus(film, row + F.squared_luminance, brightness * brightness)
    return kept


@njit(**SMALL)
def fill_tiles(follow, scene, tree, scratch):
    """Take tiles of the region until none is left or the pass is cancelled; `follow` makes a RESULT of one sample."""
    settings, film = load_u64(scene, C.settings), load_u64(scene, C.film)
    aovs, control, points = load_u64(scene, C.aovs), load_u64(scene, C.control), load_u64(scene, C.points)
    groups, group_count = load_u64(scene, C.groups), load_i32(settings, S.groups)
    result = scratch + RESULT_AT
    width = load_i32(settings, S.width)
    left, top = load_i32(settings, S.region_x), load_i32(settings, S.region_y)
    right, bottom = left + load_i32(settings, S.region_width), top + load_i32(settings, S.region_height)
    target, base = load_i32(settings, S.target_samples), load_i32(settings, S.first_sample)
    across = (right - left + TILE - 1) // TILE
    tiles = across * ((bottom - top + TILE - 1) // TILE)
    while peek_i32(control, CONTROL_CANCEL) == 0:
        tile = fetch_add_i32(control, CONTROL_NEXT, 1)
        if tile >= tiles:
            break
        y0 = top + tile // across * TILE
        x0 = left + tile % across * TILE
        for y in range(y0, min(y0 + TILE, bottom)):
            for x in range(x0, min(x0 + TILE, right)):
                row = (y * width + x) * _FILM_WIDTH
                prefetch(film, row + 2 * _FILM_WIDTH)
                first = peek_i32(film, row + F.samples)
                # A pixel of many samples takes long: the flag is looked at for each, so that an edit never waits.
                if peek_i32(film, row + F.settled) != 0 or peek_i32(control, CONTROL_CANCEL) != 0:
                    continue
                for index in range(first, target):
                    point = points + (index - base) * DIMENSIONS * 4
                    backdrop = follow(scene, tree, scratch, point, x, y, index)
                    if index == 0:
                        store_i32(film, row + F.part, peek_i32(result, R.part))
                    r = peek_vector(result, R.radiance)
                    if math.isfinite(r[0] + r[1] + r[2] + peek_f32(result, R.alpha)):
                        kept = _add_to_film(film, row, result, settings, scratch)
                        if aovs != 0:
                            add_aovs(aovs, y * width + x, result, scale(backdrop, kept))
                        if groups != 0:
                            add_groups(groups, group_count, y * width + x, result, scale(backdrop, kept))
                    else:
                        count(scratch, NOT_FINITE)
                store_i32(film, row + F.samples, max(target, first))
