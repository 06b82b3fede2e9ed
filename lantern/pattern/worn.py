"""What use and work leave on a surface: scratches, smudges, prints of fingers, dents, drops, flakes in a paint.

Scratches are line segments scattered over a lattice as the points of cellular noise are (Worley 1996); dents and drops
are caps of balls scattered so; smudges are noise in a domain that noise has bent (Quilez, "Domain Warping", 2002); a
finger's ridges follow the distance from a core, bent likewise. A flake is a cell that is tilted as a whole: taken as a
bump it gives each its own normal.
"""

import math

import numpy as np
from numba import njit
from numpy import float32 as f32
from numpy import uint32 as u32

from lantern.kernel.random import mix
from lantern.kernel.vectors import EXACT, SMALL
from lantern.pattern.cells import nearest_point
from lantern.pattern.noise import fractal_noise, gradient_noise, hashed, share_of, with_step
from lantern.pattern.regular import smooth_step

_ZERO, _ONE, _HALF, _TWO = f32(0.0), f32(1.0), f32(0.5), f32(2.0)
_PI, _TWO_PI = f32(math.pi), f32(2.0 * math.pi)
_A_CELL = 2
"""Scratches that begin in each cell."""


@njit(**SMALL)
def _to_segment(x, y, dx, dy):
    """Distance of a place from the segment from the origin to (dx, dy)."""
    share = min(max((x * dx + y * dy) / max(dx * dx + dy * dy, f32(1e-12)), _ZERO), _ONE)
    a, b = x - dx * share, y - dy * share
    return math.sqrt(a * a + b * b)


@njit(**EXACT)
def scratches_pattern(x, y, seed, width, chance, spread):
    """1 where nothing is, down to 0 in the deepest; they lie within `spread` [0, 1] of all directions from along y."""
    i, j = np.floor(x), np.floor(y)
    deepest = _ZERO
    for dj in range(-1, 2):
        for di in range(-1, 2):
            a, b = i + f32(di), j + f32(dj)
            number = hashed(a, b, _ZERO, seed)
            for _ in range(_A_CELL):
                place, other = mix(number), mix(number ^ u32(0x68E31DA4))
                number = mix(place ^ u32(0xB5297A4D))
                if share_of(number) >= chance:
                    continue
                px, py = a + share_of(place) - x, b + share_of(other) - y
                angle = _PI * spread * (share_of(mix(other)) - _HALF)
                length = f32(0.3) + f32(0.7) * share_of(mix(place))
                away = _to_segment(-px, -py, math.sin(angle) * length, math.cos(angle) * length)
                depth = f32(0.2) + f32(0.8) * share_of(mix(number))
                deepest = max(deepest, depth * (_ONE - smooth_step(away / max(width * depth, f32(1e-5)))))
    return _ONE - deepest


@njit(**EXACT)
def smudges_pattern(x, y, z, seed, coverage, streaks):
    """[0, 1]: 0 where it is clean, up to 1 where it is smeared; `streaks` draws them out along y."""
    y = y / (_ONE + f32(6.0) * streaks)
    bend = fractal_noise(x, y, z, seed, 3, _HALF) * f32(1.5)
    value = fractal_noise(x + bend, y + bend, z - bend, u32(seed) + u32(77), 4, f32(0.6))
    return smooth_step(value * f32(1.6) + coverage)


@njit(**EXACT)
def fingerprints_pattern(x, y, seed, chance, ridges):
    """[0, 1]: ridges of prints, one at most a repeat, turned and set by chance; 0 elsewhere."""
    i, j = np.floor(x), np.floor(y)
    number = hashed(i, j, _ZERO, seed)
    if share_of(number) >= chance:
        return _ZERO
    one, two = mix(number), mix(number ^ u32(0x1B56C4E9))
    angle = _TWO_PI * share_of(one)
    px = x - i - _HALF - f32(0.2) * (share_of(two) - _HALF)
    py = y - j - _HALF - f32(0.2) * (share_of(mix(two)) - _HALF)
    u, v = px * math.cos(angle) + py * math.sin(angle), py * math.cos(angle) - px * math.sin(angle)
    reach = math.sqrt(u * u * f32(11.0) + v * v * f32(6.5))
    if reach >= _ONE:
        return _ZERO
    bend = f32(0.06) * gradient_noise(u * f32(5.0), v * f32(5.0), share_of(one) * f32(50.0), seed)
    core = math.sqrt(u * u + (v + f32(0.08)) * (v + f32(0.08)) * f32(0.6)) + bend
    ridge = _HALF + _HALF * math.cos(_TWO_PI * ridges * core)
    pressed = _HALF + _HALF * gradient_noise(u * f32(12.0), v * f32(12.0), share_of(two) * f32(50.0), seed)
    return smooth_step((_ONE - reach) * f32(3.0)) * ridge * (f32(0.5) + _HALF * pressed)


@njit(**EXACT)
def _caps(x, y, z, seed, chance, least, most):
    """The highest of 1 - (d / r)² of balls scattered by chance, their radii within `least` and `most`; 0 beside all."""
    i, j, k = np.floor(x), np.floor(y), np.floor(z)
    highest = _ZERO
    start = mix(u32(seed))
    for dk in range(-1, 2):
        c = k + f32(dk)
        layer = with_step(start, c)
        for dj in range(-1, 2):
            b = j + f32(dj)
            row = with_step(layer, b)
            for di in range(-1, 2):
                a = i + f32(di)
                one = with_step(row, a)
                if share_of(one) >= chance:
                    continue
                two, three = mix(one), mix(one ^ u32(0x27D4EB2F))
                px, py, pz = a + share_of(two) - x, b + share_of(three) - y, c + share_of(mix(three)) - z
                radius = least + (most - least) * share_of(mix(two))
                highest = max(highest, _ONE - (px * px + py * py + pz * pz) / max(radius * radius, f32(1e-9)))
    return highest


@njit(**EXACT)
def dents_pattern(x, y, z, seed, chance, size):
    """1 where nothing is, down to 0 in the middle of the deepest dent; with chance 1 and size 1 it is hammered."""
    return _ONE - min(_caps(x, y, z, seed, chance, f32(0.4) * size, size), _ONE)


@njit(**EXACT)
def drops_pattern(x, y, z, seed, chance, size):
    """0 where nothing is, up to 1 on top of a drop, steep at its rim."""
    return math.sqrt(min(_caps(x, y, z, seed, chance, f32(0.2) * size, size), _ONE))


@njit(**EXACT)
def flakes_pattern(x, y, z, seed, tilt):
    """[0, 1]: planes, one a cell, each tilted its own way by up to `tilt` [0, 1]."""
    _, _, number, (ox, oy, oz) = nearest_point(x, y, z, seed, _ONE)
    up = share_of(number) * _TWO - _ONE
    angle, around = _TWO_PI * share_of(mix(number)), math.sqrt(max(_ONE - up * up, _ZERO))
    height = ox * around * math.cos(angle) + oy * around * math.sin(angle) + oz * up
    return min(max(_HALF + _HALF * tilt * height, _ZERO), _ONE)
