"""The operations of a material, one after the other: what each input makes of the parameter that it belongs to.

In: the tables, a POINT, a copy of the material's row in it. Out: that row, its parameters as they are at the point.
Called where a surface is looked up, and for its height, opacity and light. Compiled once: an edit rewrites rows.
"""

import math

from numba import njit
from numpy import float32 as f32
from numpy import uint32 as u32
from numpy import uint64 as u64

from lantern.kernel.memory import (
    load_f32,
    load_i32,
    load_u64,
    load_vector,
    peek_f32,
    peek_i32,
    peek_vector,
    store_f32,
    store_i32,
    store_vector,
)
from lantern.kernel.random import mix
from lantern.kernel.vectors import EXACT, SMALL, lerp, luminance, mul, scale
from lantern.pattern.cells import cells_pattern
from lantern.pattern.images import recolored, texels_at
from lantern.pattern.made import knit_pattern, knurl_pattern, leather_pattern
from lantern.pattern.material import BLENDED, MATERIAL, MATERIAL_WIDTH
from lantern.pattern.natural import brushed_pattern, marble_pattern, wood_pattern
from lantern.pattern.near import near_distance, occluded
from lantern.pattern.noise import noise_pattern, share_of
from lantern.pattern.placing import PLACEMENT_WIDTH, place_of, side_weights, within
from lantern.pattern.regular import (
    checks_pattern,
    dots_pattern,
    gradient_pattern,
    smooth_step,
    stripes_pattern,
    tiles_pattern,
)
from lantern.pattern.tables import (
    ADD,
    AVERAGE,
    BY_BOX,
    CHOOSE,
    DARKER,
    EVERYTHING,
    LIGHTER,
    MULTIPLY,
    OPERATION,
    OVERLAY,
    PLACEMENT,
    POINT,
    RAMP,
    SCALE_COLOR,
    SCREEN,
    SHADING,
    SMOOTH_RAMP,
    STEPS,
    STORE,
)
from lantern.pattern.wear import worn_pattern
from lantern.pattern.weave import weave_pattern
from lantern.pattern.worn import (
    dents_pattern,
    drops_pattern,
    fingerprints_pattern,
    flakes_pattern,
    scratches_pattern,
    smudges_pattern,
)

CODES = (
    "constant", "edges", "crevices", "vertex_color", "chance", "slope", "height", "occlusion", "distance",
    "lit_ball", "within",
    "noise", "cells", "gradient", "wood", "marble", "smudges", "dents",
    "drops", "flakes", "leather", "image", "checks", "stripes", "dots", "tiles", "weave", "brushed", "scratches",
    "fingerprints", "knurl", "knit",
)  # fmt: skip
"""Kinds of sources by their codes: those that know the place, those of space, those of a plane."""
LAYER = -1
"""Code of what is no source, but lays a material over what is there."""
(
    _CONSTANT, _EDGES, _CREVICES, _VERTEX_COLOR, _CHANCE, _SLOPE, _HEIGHT, _OCCLUSION, _DISTANCE, _LIT_BALL, _WITHIN,
    _NOISE, _CELLS, _GRADIENT, _WOOD, _MARBLE, _SMUDGES, _DENTS,
    _DROPS, _FLAKES, _LEATHER, _IMAGE, _CHECKS, _STRIPES, _DOTS, _TILES, _WEAVE, _BRUSHED, _SCRATCHES,
    _FINGERPRINTS, _KNURL, _KNIT,
) = range(len(CODES))  # fmt: skip

M, K, P, R, L, T = MATERIAL.slots, OPERATION.slots, POINT.slots, RAMP.slots, PLACEMENT.slots, SHADING.slots
OPERATION_WIDTH, RAMP_WIDTH = OPERATION.width, RAMP.width
RESULTS_AT = 4 * POINT.slot("results")
"""Byte offset of the results within a POINT."""
ABOVE_AT = 4 * POINT.slot("above")
_ZERO, _ONE, _HALF, _TWO = f32(0.0), f32(1.0), f32(0.5), f32(2.0)


@njit(**SMALL)
def _grey(value):
    return value, value, value


@njit(**EXACT)
def _solid(operations, row, code, place):
    """[0, 1] of a pattern of space at a place in repeats."""
    x, y, z = place
    seed, n = load_i32(operations, row + K.seed), row + K.numbers
    a, b, c = load_f32(operations, n), load_f32(operations, n + 1), load_f32(operations, n + 2)
    if code == _NOISE:
        return noise_pattern(x, y, z, seed, int(a), b, c)
    if code == _CELLS:
        return cells_pattern(x, y, z, seed, int(a), b)
    if code == _WOOD:
        return wood_pattern(x, y, z, seed, a, b)
    if code == _MARBLE:
        return marble_pattern(x, y, z, seed, a, b)
    if code == _SMUDGES:
        return smudges_pattern(x, y, z, seed, a, b)
    if code == _DENTS:
        return dents_pattern(x, y, z, seed, a, b)
    if code == _DROPS:
        return drops_pattern(x, y, z, seed, a, b)
    if code == _FLAKES:
        return flakes_pattern(x, y, z, seed, a)
    if code == _LEATHER:
        return leather_pattern(x, y, z, seed, a, b)
    return gradient_pattern(x, int(a))


@njit(**EXACT)
def _flat(tables, operations, row, code, x, y):
    """RGB of an image or a pattern of a plane at a place in repeats."""
    n = row + K.numbers
    a, b, c = load_f32(operations, n), load_f32(operations, n + 1), load_f32(operations, n + 2)
    if code == _IMAGE:
        image, decoding = load_i32(operations, row + K.image), load_i32(operations, row + K.decoding)
        # Images have their first row on top.
        texel = recolored(texels_at(tables, image, decoding, x, _ONE - y), a, b)
        channel = load_i32(operations, row + K.channel)
        if channel < 0:
            return texel[0], texel[1], texel[2]
        return _grey(texel[0] if channel == 0 else texel[1] if channel == 1 else texel[2] if channel == 2 else texel[3])
    seed = load_i32(operations, row + K.seed)
    if code == _CHECKS:
        return _grey(checks_pattern(x, y))
    if code == _STRIPES:
        return _grey(stripes_pattern(x, a, b))
    if code == _DOTS:
        return _grey(dots_pattern(x, y, a, b, int(c)))
    if code == _TILES:
        return _grey(tiles_pattern(x, y, seed, (a, b, c, load_f32(operations, n + 3))))
    if code == _WEAVE:
        return _grey(weave_pattern(x, y, int(a), b, c))
    if code == _SCRATCHES:
        return _grey(scratches_pattern(x, y, seed, a, b, c))
    if code == _FINGERPRINTS:
        return _grey(fingerprints_pattern(x, y, seed, a, b))
    if code == _KNURL:
        return _grey(knurl_pattern(x, y, int(a), b))
    if code == _KNIT:
        return _grey(knit_pattern(x, y, a, b))
    return _grey(brushed_pattern(x, y, seed, a, int(b)))


@njit(**EXACT)
def _worn(operations, row, sticks_out, point):
    """[0, 1] near the edges that stick out, or lead inwards."""
    n, width = row + K.numbers, load_f32(operations, row + K.numbers)
    distance = peek_f32(point, P.edge if sticks_out else P.crevice)
    bend = peek_f32(point, P.curvature) * width
    near = max(_ONE - distance / width, bend if sticks_out else -bend)
    return worn_pattern(
        near,
        peek_vector(point, P.own),
        load_i32(operations, row + K.seed),
        (load_f32(operations, n + 1), load_f32(operations, n + 2), load_f32(operations, n + 3)),
    )


@njit(**SMALL)
def _of_place(operations, row, code, point):
    """RGB of what the mesh knows of a place."""
    n = row + K.numbers
    whole, none = load_f32(operations, n), load_f32(operations, n + 1)
    if code == _CONSTANT:
        return _ONE, _ONE, _ONE
    if code <= _CREVICES:
        return _grey(_worn(operations, row, code == _EDGES, point))
    if code == _VERTEX_COLOR:
        return peek_vector(point, P.color)
    if code == _CHANCE:
        number = u32(peek_i32(point, P.chance))
        if whole != _ZERO:
            number ^= u32(peek_i32(point, P.copy)) * u32(0x9E3779B1)
        return _grey(share_of(mix(number ^ mix(u32(load_i32(operations, row + K.seed))))))
    # Of a slope the numbers are cosines.
    value = peek_f32(point, P.rest_normal + 1) if code == _SLOPE else peek_f32(point, P.rest + 1)
    return _grey(smooth_step((value - none) / (whole - none)))


@njit(**EXACT)
def _near(tables, operations, row, code, point):
    """[0, 1] of what is hidden before a place, or of how near it is to a part."""
    n, grid = row + K.numbers, load_i32(operations, row + K.image)
    a, b = load_f32(operations, n), load_f32(operations, n + 1)
    place = peek_vector(point, P.rest)
    if code == _OCCLUSION:
        return min(occluded(tables, grid, place, peek_vector(point, P.rest_normal), a) * b, _ONE)
    return smooth_step((near_distance(tables, grid, place) - b) / (a - b))


@njit(**EXACT)
def _lit_ball(tables, operations, row, point):
    """RGB that the picture of a lit ball has where its normal is that of the place, as the camera sees it."""
    n = row + K.numbers
    turn = load_f32(operations, n + 2)
    x, y, _ = peek_vector(point, P.eye)
    s, c = math.sin(turn), math.cos(turn)
    # The ball fills its image; what looks away is seen as its rim.
    x, y = c * x + s * y, c * y - s * x
    reach = _HALF * f32(0.985) / max(math.sqrt(x * x + y * y), _ONE)
    image, decoding = load_i32(operations, row + K.image), load_i32(operations, row + K.decoding)
    texel = texels_at(tables, image, decoding, _HALF + x * reach, _HALF - y * reach)
    texel = recolored(texel, load_f32(operations, n), load_f32(operations, n + 1))
    return texel[0], texel[1], texel[2]


@njit(**EXACT)
def source_value(tables, operations, row, point):
    """RGB that the source of an operation has at a POINT."""
    code = load_i32(operations, row + K.code)
    if _OCCLUSION <= code <= _DISTANCE:
        return _grey(_near(tables, operations, row, code, point))
    if code == _LIT_BALL:
        return _lit_ball(tables, operations, row, point)
    if code < _OCCLUSION:
        return _of_place(operations, row, code, point)
    placements, at = load_u64(tables, T.placements), load_i32(operations, row + K.placement) * PLACEMENT_WIDTH
    x, y, z = place_of(placements, at, point)
    if code == _WITHIN:
        n = row + K.numbers
        reach, both_sides = load_f32(operations, n), load_f32(operations, n + 1) != _ZERO
        return _grey(within(placements, at, point, (x, y, z), reach, both_sides))
    if code < _IMAGE:
        return _grey(_solid(operations, row, code, (x, y, z)))
    if load_i32(placements, at + L.kind) != BY_BOX:
        return _flat(tables, operations, row, code, x, y)
    a, b, c = side_weights(placements, at, point)
    value = (_ZERO, _ZERO, _ZERO)
    if a > _ZERO:
        value = scale(_flat(tables, operations, row, code, z, y), a)
    if b > _ZERO:
        v = _flat(tables, operations, row, code, x, z)
        value = value[0] + v[0] * b, value[1] + v[1] * b, value[2] + v[2] * b
    if c > _ZERO:
        v = _flat(tables, operations, row, code, x, y)
        value = value[0] + v[0] * c, value[1] + v[1] * c, value[2] + v[2] * c
    return value


@njit(**EXACT)
def ramp_color(ramps, row, t):
    """The colour that a ramp has for a value."""
    last = load_i32(ramps, row + R.count) - 1
    k = 0
    while k < last and t >= load_f32(ramps, row + R.at + k + 1):
        k += 1
    here = load_vector(ramps, row + R.color + 3 * k)
    blend = load_i32(ramps, row + R.blend)
    if k == last or blend == STEPS:
        return here
    begin, end = load_f32(ramps, row + R.at + k), load_f32(ramps, row + R.at + k + 1)
    share = min(max((t - begin) / max(end - begin, f32(1e-9)), _ZERO), _ONE)
    if blend == SMOOTH_RAMP:
        share = smooth_step(share)
    return lerp(here, load_vector(ramps, row + R.color + 3 * (k + 1)), share)


@njit(**SMALL)
def _combined(mode, constant, value):
    """One channel of a constant and a value; the modes of separable blending (W3C Compositing Level 1, section 5)."""
    if mode == MULTIPLY:
        return constant * value
    if mode == ADD:
        return constant + value
    if mode == SCREEN:
        return constant + value - constant * value
    if mode == OVERLAY:
        if constant <= _HALF:
            return _TWO * constant * value
        return _ONE - _TWO * (_ONE - constant) * (_ONE - value)
    if mode == DARKER:
        return min(constant, value)
    if mode == LIGHTER:
        return max(constant, value)
    if mode == AVERAGE:
        return _HALF * (constant + value)
    return value


@njit(**EXACT)
def _operate(tables, operations, row, point, results):
    """Bring one parameter in the results to what its input makes of it."""
    value = source_value(tables, operations, row, point)
    ramp = load_i32(operations, row + K.ramp)
    if ramp >= 0:
        value = ramp_color(load_u64(tables, T.ramps), ramp * RAMP_WIDTH, luminance(value))
    else:
        low = load_f32(operations, row + K.low)
        span = load_f32(operations, row + K.high) - low
        value = low + span * value[0], low + span * value[1], low + span * value[2]
    into = load_i32(operations, row + K.into)
    mode, amount = load_i32(operations, row + K.combine), load_f32(operations, row + K.amount)
    target, factor = load_i32(operations, row + K.target), load_vector(operations, row + K.scale)
    constant = load_vector(operations, row + K.constant)
    least, most = load_f32(operations, row + K.least), load_f32(operations, row + K.most)
    if load_i32(operations, row + K.width) == 1:
        if load_i32(operations, row + K.goes_on) != 0:
            constant = _grey(peek_f32(results, target))
        made = _combined(mode, constant[0], luminance(value))
        made = min(max(constant[0] + (made - constant[0]) * amount, least), most) * factor[0]
        if into == CHOOSE:
            rows = load_i32(operations, row + K.run) - 1
            share = (made - least) / max(most - least, f32(1e-9))
            store_i32(results, target, load_i32(operations, row + K.first) + int(share * f32(rows) + _HALF))
            return
        if into == SCALE_COLOR:
            store_vector(results, target, scale(peek_vector(results, target), made))
        else:
            store_f32(results, target, made if into == STORE else made * peek_f32(results, target))
        return
    made = (
        _combined(mode, constant[0], value[0]),
        _combined(mode, constant[1], value[1]),
        _combined(mode, constant[2], value[2]),
    )
    made = lerp(constant, made, amount)
    made = min(max(made[0], least), most), min(max(made[1], least), most), min(max(made[2], least), most)
    made = mul(made, factor)
    store_vector(results, target, made if into == STORE else mul(made, peek_vector(results, target)))


@njit(**EXACT)
def _lay(tables, operations, row, point, results):
    """Lay a material over what is in the results, as much of it as their mask says and its own opacity lets."""
    share = peek_f32(results, M.mask)
    if share <= _ZERO:
        return
    above, materials = u64(point + ABOVE_AT), load_u64(tables, T.materials)
    copy_row(above, materials, load_i32(operations, row + K.row) * MATERIAL_WIDTH)
    first = load_i32(operations, row + K.first)
    for number in range(first, first + load_i32(operations, row + K.run)):
        _operate(tables, operations, number * OPERATION_WIDTH, point, above)
    share *= min(max(peek_f32(above, M.opacity), _ZERO), _ONE)
    low, high = load_i32(operations, row + K.target), load_i32(operations, row + K.width)
    if low == EVERYTHING:
        low, high = 0, BLENDED
        if share > _HALF:
            store_f32(results, M.film, peek_f32(above, M.film))
    for slot in range(low, low + high):
        below = peek_f32(results, slot)
        store_f32(results, slot, below + (peek_f32(above, slot) - below) * share)
    if low == M.bump:
        store_f32(results, M.bump, peek_f32(results, M.bump) + share * load_f32(operations, row + K.numbers))


@njit(**EXACT)
def run_program(tables, first, count, point):
    """Run operations of a material at a POINT, into its results."""
    operations = load_u64(tables, T.operations)
    for number in range(first, first + count):
        row = number * OPERATION_WIDTH
        if load_i32(operations, row) == LAYER:
            _lay(tables, operations, row, point, results_of(point))
        else:
            _operate(tables, operations, row, point, results_of(point))


@njit(**SMALL)
def results_of(point):
    """Where a program writes. What is there changes: it is to be read by `peek`."""
    return u64(point + RESULTS_AT)


@njit(**SMALL)
def copy_row(results, materials, row):
    """Begin results with a material's constants."""
    for slot in range(MATERIAL_WIDTH):
        # Whole numbers pass through unchanged: nothing is done to the bits.
        store_f32(results, slot, load_f32(materials, row + slot))
