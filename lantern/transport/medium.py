"""What a ray travels through: the volumes it is inside of, absorption and scattering on the way.

Volumes may overlap: the one with the highest priority counts, and a boundary hidden inside it is no boundary
(Schmidt & Budge, "Simple Nested Dielectrics in Ray Traced Images", JGT 7(2), 2002). Distances are sampled with one
colour channel chosen by what the path still carries, weighted over all three (Wilkie et al., "Hero Wavelength
Spectral Sampling", EGSR 2014, equation 3, for three channels). Phase function: Henyey & Greenstein, ApJ 93, 1941.
"""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.elementary import sincos_turn
from lantern.kernel.memory import (
    load_f32,
    load_i32,
    load_vector,
    peek_i32,
    peek_vector,
    store_f32,
    store_i32,
    store_vector,
)
from lantern.kernel.vectors import EXACT, SMALL, frame_around, max_component, mul, to_world
from lantern.pattern.material import MATERIAL, MATERIAL_WIDTH
from lantern.rays.embree import FAR
from lantern.rays.layout import MEDIUM, MOST_MEDIA, SETTINGS

M, S, T = MEDIUM.slots, SETTINGS.slots, MATERIAL.slots
_MEDIUM_WIDTH = MEDIUM.width
CLEAR, INTERIOR, HAZE = 0, 1, 2
"""`kind` of the medium that counts."""
_ZERO, _ONE = f32(0.0), f32(1.0)
_QUARTER_INV_PI = f32(0.25 / math.pi)


@njit(**SMALL)
def _is_inside(medium, i, material, body):
    return peek_i32(medium, M.materials + i) == material and peek_i32(medium, M.bodies + i) == body


@njit(**SMALL)
def ior_at(materials, material, wavelength):
    """Index of refraction of a material; `wavelength` in nm, 0 for the sodium line."""
    row = material * MATERIAL_WIDTH
    b = load_f32(materials, row + T.cauchy_b)
    if b == _ZERO or wavelength == _ZERO:
        return load_f32(materials, row + T.ior)
    return load_f32(materials, row + T.cauchy_a) + b / (wavelength * wavelength)


@njit(**EXACT)
def choose_medium(medium, materials, settings):
    """Find the volume that counts, after the set of volumes has changed; haze counts where there is none."""
    best, best_priority = -1, 0
    for i in range(peek_i32(medium, M.count)):
        material = peek_i32(medium, M.materials + i)
        priority = load_i32(materials, material * MATERIAL_WIDTH + T.priority)
        # Of equals the one entered last.
        if best < 0 or priority >= best_priority:
            best, best_priority = material, priority
    if best >= 0:
        row = best * MATERIAL_WIDTH
        extinction = load_vector(materials, row + T.extinction)
        store_i32(medium, M.kind, INTERIOR if max_component(extinction) > _ZERO else CLEAR)
        store_vector(medium, M.extinction, extinction)
        store_vector(medium, M.albedo, load_vector(materials, row + T.albedo))
        store_f32(medium, M.forward, load_f32(materials, row + T.forward))
    elif load_i32(settings, S.haze) != 0:
        sigma = load_f32(settings, S.haze_extinction)
        store_i32(medium, M.kind, HAZE)
        store_vector(medium, M.extinction, (sigma, sigma, sigma))
        store_vector(medium, M.albedo, load_vector(settings, S.haze_albedo))
        store_f32(medium, M.forward, load_f32(settings, S.haze_forward))
    else:
        store_i32(medium, M.kind, CLEAR)


@njit(**EXACT)
def copy_medium(medium, source):
    """Make one MEDIUM record like another."""
    if peek_i32(source, M.count) == 0 and peek_i32(source, M.kind) == CLEAR:
        store_i32(medium, M.count, 0)
        store_i32(medium, M.kind, CLEAR)
        return
    for i in range(_MEDIUM_WIDTH):
        store_i32(medium, i, peek_i32(source, i))


@njit(**EXACT)
def enter_volume(medium, material, body):
    """Add a volume; one too many for the list is not entered."""
    count = peek_i32(medium, M.count)
    if count < MOST_MEDIA:
        store_i32(medium, M.materials + count, material)
        store_i32(medium, M.bodies + count, body)
        store_i32(medium, M.count, count + 1)


@njit(**EXACT)
def leave_volume(medium, material, body):
    """Take a volume out, if it is in."""
    count = peek_i32(medium, M.count)
    for i in range(count - 1, -1, -1):
        if _is_inside(medium, i, material, body):
            for j in range(i, count - 1):
                store_i32(medium, M.materials + j, peek_i32(medium, M.materials + j + 1))
                store_i32(medium, M.bodies + j, peek_i32(medium, M.bodies + j + 1))
            store_i32(medium, M.count, count - 1)
            return


@njit(**EXACT)
def around(medium, materials, material, body, wavelength):
    """(index of refraction outside a volume, whether a volume of higher priority hides its boundary)."""
    own = load_i32(materials, material * MATERIAL_WIDTH + T.priority)
    best, best_priority = -1, 0
    for i in range(peek_i32(medium, M.count)):
        if not _is_inside(medium, i, material, body):
            other = peek_i32(medium, M.materials + i)
            priority = load_i32(materials, other * MATERIAL_WIDTH + T.priority)
            if best < 0 or priority >= best_priority:
                best, best_priority = other, priority
    if best < 0:
        return _ONE, False
    return ior_at(materials, best, wavelength), best_priority > own


@njit(**SMALL)
def haze_span(settings, origin, direction, begin, end):
    """(begin, end) [m] of what lies in the haze between two distances along a ray; begin > end for nothing."""
    low, high = load_vector(settings, S.haze_low), load_vector(settings, S.haze_high)
    if high[0] > low[0] and high[1] > low[1] and high[2] > low[2]:
        for k in range(3):
            o, d = origin[k], direction[k]
            if abs(d) < f32(1e-12):
                if o < low[k] or o > high[k]:
                    return _ONE, _ZERO
            else:
                a, b = (low[k] - o) / d, (high[k] - o) / d
                begin, end = max(begin, min(a, b)), min(end, max(a, b))
    return begin, end


@njit(**EXACT)
def air_length(settings, origin, direction, begin, end):
    """Length [m] of air as dense as the document says that dims as much as the haze between two distances."""
    thins, span = load_f32(settings, S.haze_thins), end - begin
    if thins <= _ZERO:
        return span
    density = math.exp(-(origin[1] + direction[1] * begin - load_f32(settings, S.haze_from)) * thins)
    rise = direction[1] * thins
    if abs(rise * span) < f32(1e-4):
        return density * span
    return density * (_ONE - math.exp(-rise * span)) / rise


@njit(**EXACT)
def air_distance(settings, origin, direction, begin, length):
    """Distance [m] from `begin` within which there is an `air_length`, which lies before the end of the haze."""
    thins = load_f32(settings, S.haze_thins)
    if thins <= _ZERO:
        return length
    density = math.exp(-(origin[1] + direction[1] * begin - load_f32(settings, S.haze_from)) * thins)
    rise = direction[1] * thins
    part = rise * length / max(density, f32(1e-30))
    if abs(part) < f32(1e-4):
        return length / max(density, f32(1e-30))
    return -math.log(max(_ONE - part, f32(1e-30))) / rise


@njit(**SMALL)
def fading(extinction, length):
    """RGB share that comes through `length` [m] of a medium (Beer's law)."""
    return (
        math.exp(-extinction[0] * length),
        math.exp(-extinction[1] * length),
        math.exp(-extinction[2] * length),
    )


@njit(**EXACT)
def transmittance(medium, settings, origin, direction, begin, end):
    """RGB share that the medium lets through between two distances [m] along a ray.

    A ray that goes on for ever inside a volume has found a hole in its boundary: nothing dims it.
    """
    kind = peek_i32(medium, M.kind)
    if kind == INTERIOR and end >= FAR:
        return _ONE, _ONE, _ONE
    if kind == HAZE:
        begin, end = haze_span(settings, origin, direction, begin, end)
    if kind == CLEAR or end <= begin:
        return _ONE, _ONE, _ONE
    length = air_length(settings, origin, direction, begin, end) if kind == HAZE else end - begin
    return fading(peek_vector(medium, M.extinction), length)


@njit(**EXACT)
def sample_free_path(extinction, beta, length, u_channel, u_distance):
    """(distance, weight rgb): how far light goes; the distance is `length` when it comes through.

    The weight includes the extinction at a scattering place, so that times the albedo it is what the path carries on.
    """
    total = beta[0] + beta[1] + beta[2]
    if total <= _ZERO:
        return length, (_ZERO, _ZERO, _ZERO)
    p = (beta[0] / total, beta[1] / total, beta[2] / total)
    sigma = extinction[0] if u_channel < p[0] else (extinction[1] if u_channel < p[0] + p[1] else extinction[2])
    distance = length
    if sigma > _ZERO:
        distance = -math.log(_ONE - u_distance) / sigma
    if distance < length:
        faded = mul(fading(extinction, distance), extinction)
        pdf = p[0] * faded[0] + p[1] * faded[1] + p[2] * faded[2]
        norm = _ONE / pdf if pdf > _ZERO else _ZERO
        return distance, (faded[0] * norm, faded[1] * norm, faded[2] * norm)
    faded = fading(extinction, length)
    chance = p[0] * faded[0] + p[1] * faded[1] + p[2] * faded[2]
    norm = _ONE / chance if chance > _ZERO else _ZERO
    return length, (faded[0] * norm, faded[1] * norm, faded[2] * norm)


@njit(**SMALL)
def phase(g, cosine):
    """Henyey-Greenstein pdf [1/sr] for the cosine between the old and the new direction of travel."""
    d = _ONE + g * g - f32(2.0) * g * cosine
    return _QUARTER_INV_PI * (_ONE - g * g) / (d * math.sqrt(max(d, f32(1e-12))))


@njit(**EXACT)
def sample_phase(direction, g, u1, u2):
    """(new direction, pdf) by inversion."""
    cosine = _ONE - f32(2.0) * u1
    if abs(g) > f32(1e-3):
        k = (_ONE - g * g) / (_ONE + g - f32(2.0) * g * u1)
        cosine = (_ONE + g * g - k * k) / (f32(2.0) * g)
    cosine = min(max(cosine, f32(-1.0)), _ONE)
    sine = math.sqrt(max(_ONE - cosine * cosine, _ZERO))
    s, c = sincos_turn(u2)
    t, b = frame_around(direction)
    return to_world((sine * c, sine * s, cosine), t, b, direction), phase(g, cosine)
