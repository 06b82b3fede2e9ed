"""The grade: what is done to each pixel by itself, in the order of `GRADE`, coded as ACEScct.

In: linear light, the look. Out: linear light. Called by `pipeline`, strip by strip. What works on each channel alone
is one table (`channels`); what an effect that mixes channels is told is packed into a row of numbers; a kernel then
goes over the pixels. Every effect is mixed with what came into it by its amount.
"""

import math
from collections.abc import Sequence

import numpy as np
from numba import njit
from numpy import float32 as f32

from lantern.color import LUMINANCE_WEIGHTS
from lantern.kernel.elementary import arctan2, sincos_turn
from lantern.kernel.vectors import EXACT, SMALL
from lantern.picture.look.acescct import AP1_TO_LINEAR, LIGHT_TABLE, LINEAR_TO_AP1, STOPS, coded, decode, looked_up
from lantern.picture.look.channels import channel_tables
from lantern.picture.look.curves import HUE_ENTRIES, NEUTRAL, hue_tables
from lantern.scene.look import GRADE, LocalGrade, Look, effect_of

ROW = 8
"""Numbers of an effect; the first is its amount, at 0 it is passed over."""
DECISION, SATURATION, HUES, SPLIT, MONOCHROME = range(5)
_ROWS = ("decision", "saturation", "hues", "split", "monochrome")
TINT_RANGE = 3.0
"""Stops from the middle to where a split tint has all of one colour."""
HUE_REACH = 1 / 3
"""Share of the circle by which a curve at its end turns a hue."""
LIGHTNESS_REACH = 4.0
"""Stops by which a curve at its end lightens a pure colour."""
_W = LUMINANCE_WEIGHTS
_R, _G, _B = f32(_W[0]), f32(_W[1]), f32(_W[2])
_ZERO, _ONE, _TWO, _HALF, _THIRD = f32(0.0), f32(1.0), f32(2.0), f32(0.5), f32(1.0 / 3.0)
_ROOT3, _TURN = f32(math.sqrt(3.0)), f32(2.0 * math.pi)
_STOP = f32(1.0 / STOPS)
_IN, _OUT = LINEAR_TO_AP1.astype(np.float32), AP1_TO_LINEAR.astype(np.float32)
_GREY = f32(coded(math.log2(0.18)))


def is_graded(look: Look) -> bool:
    """Whether the grade changes anything."""
    places = any(local.strength > 0 for local in look.locals.values())
    return places or any(effect_of(look, name).strength > 0 for name in GRADE)


class Grade:
    """The grade of one look, packed."""

    def __init__(self, look: Look) -> None:
        self._rows = np.zeros((len(_ROWS), ROW), np.float32)
        for number, name in enumerate(_ROWS):
            self._rows[number, 0] = effect_of(look, name).strength
        self._told(DECISION, look.decision.saturation)
        self._told(SATURATION, look.saturation.saturation, look.saturation.vibrance)
        split = look.split
        self._told(SPLIT, *_tint(split.shadows), *_tint(split.highlights), float(_GREY) + split.balance / STOPS)
        total = max(sum(look.monochrome.filter), 1e-6)
        self._told(MONOCHROME, *(c / total for c in look.monochrome.filter), *_tint(look.monochrome.tone))
        self._channels, self._slopes = channel_tables(look)
        self._hues = hue_tables(look.hues)
        self._places = np.array([_local_row(one) for one in look.locals.values()], np.float32).reshape(-1, 8)

    def _told(self, number: int, *values: float) -> None:
        self._rows[number, 1 : 1 + len(values)] = values

    def apply(self, light: np.ndarray, masks: np.ndarray) -> None:
        """Grade (h, w, 3) float32 light in place; `masks` (places, h, w) float32 are shares of the look's places."""
        room = np.empty((light.shape[1], 3), np.float32)
        tables = self._channels, self._slopes, self._hues, LIGHT_TABLE
        _grade(light, room, room.view(np.int32), self._rows, *tables, self._places, masks)


def _tint(color: Sequence[float]) -> list[float]:
    """Offsets of the code that tint by a colour and keep the luminance of a grey; of black there are none."""
    luminance = float(np.dot(color, LUMINANCE_WEIGHTS))
    if luminance <= 0:
        return [0.0, 0.0, 0.0]
    return [math.log2(max(c / luminance, 2.0**-6)) / STOPS for c in color]


def _local_row(local: LocalGrade) -> list[float]:
    return [local.strength, local.exposure / STOPS, local.contrast, local.saturation, *_tint(local.tint), 0.0]


@njit(**SMALL)
def _luminance(r, g, b):
    return _R * r + _G * g + _B * b


@njit(**SMALL)
def _mixed(r, g, b, new, amount):
    return r + (new[0] - r) * amount, g + (new[1] - g) * amount, b + (new[2] - b) * amount


@njit(**SMALL)
def _saturated(r, g, b, factor):
    """ASC CDL 1.2: about the luminance of Rec. 709."""
    y = _luminance(r, g, b)
    return y + (r - y) * factor, y + (g - y) * factor, y + (b - y) * factor


@njit(**SMALL)
def _vivid(r, g, b, saturation, vibrance):
    spread = max(r, g, b) - min(r, g, b)
    weak = max(_ONE - spread * f32(3.0), _ZERO)
    return _saturated(r, g, b, saturation * (_ONE + vibrance * weak))


@njit(**SMALL)
def _around(tables, number, hue):
    """A table around the circle of hues, hue in [0, 1)."""
    place = hue * f32(HUE_ENTRIES)
    entry = int(place) % HUE_ENTRIES
    following = (entry + 1) % HUE_ENTRIES
    before = tables[number, entry]
    return before + (tables[number, following] - before) * (place - f32(int(place)))


@njit(**EXACT, cache=True)
def _by_hue(r, g, b, tables):
    y = _luminance(r, g, b)
    a, c = r - (g + b) * _HALF, (g - b) * _ROOT3 * _HALF
    chroma = math.sqrt(a * a + c * c)
    if chroma < f32(1e-6):
        return r, g, b
    hue = arctan2(c, a) / _TURN
    hue = hue + _ONE if hue < _ZERO else hue
    turn = (_around(tables, 0, hue) - f32(NEUTRAL)) * f32(2.0 * HUE_REACH)
    factor = _TWO * _around(tables, 1, hue)
    s, k = sincos_turn(turn + _ONE if turn < _ZERO else turn)
    s, k = s * factor, k * factor
    a, c = a * k - c * s, a * s + c * k
    r, g, b = _TWO * _THIRD * a, -_THIRD * a + c / _ROOT3, -_THIRD * a - c / _ROOT3
    lighter = (_around(tables, 2, hue) - f32(NEUTRAL)) * f32(2.0 * LIGHTNESS_REACH) * _STOP
    y += lighter * chroma / (chroma + f32(0.06)) - _luminance(r, g, b)
    return r + y, g + y, b + y


@njit(**SMALL)
def _split(r, g, b, rows):
    t = min(max((_luminance(r, g, b) - rows[SPLIT, 7]) / f32(TINT_RANGE * 2.0) * f32(STOPS) + _HALF, _ZERO), _ONE)
    t = t * t * (f32(3.0) - _TWO * t)
    d = _ONE - t
    dark = rows[SPLIT, 1] * d, rows[SPLIT, 2] * d, rows[SPLIT, 3] * d
    return r + dark[0] + rows[SPLIT, 4] * t, g + dark[1] + rows[SPLIT, 5] * t, b + dark[2] + rows[SPLIT, 6] * t


@njit(**EXACT, cache=True)
def _pixel(r, g, b, rows, hues):
    """Code of a pixel after the effects that mix channels.

    Numbers are read one by one: a view of a row would be counted in and out for each pixel.
    """
    if rows[DECISION, 0] > _ZERO:
        r, g, b = _saturated(r, g, b, _ONE + (rows[DECISION, 1] - _ONE) * rows[DECISION, 0])
    amount = rows[SATURATION, 0]
    if amount > _ZERO:
        r, g, b = _mixed(r, g, b, _vivid(r, g, b, rows[SATURATION, 1], rows[SATURATION, 2]), amount)
    amount = rows[HUES, 0]
    if amount > _ZERO:
        r, g, b = _mixed(r, g, b, _by_hue(r, g, b, hues), amount)
    amount = rows[SPLIT, 0]
    if amount > _ZERO:
        r, g, b = _mixed(r, g, b, _split(r, g, b, rows), amount)
    amount = rows[MONOCHROME, 0]
    if amount > _ZERO:
        grey = rows[MONOCHROME, 1] * r + rows[MONOCHROME, 2] * g + rows[MONOCHROME, 3] * b
        toned = grey + rows[MONOCHROME, 4], grey + rows[MONOCHROME, 5], grey + rows[MONOCHROME, 6]
        r, g, b = _mixed(r, g, b, toned, amount)
    return r, g, b


@njit(**EXACT, cache=True)
def _in_places(r, g, b, places, masks, y, x):
    """Code of a pixel after the grades of the places that it lies in."""
    for number in range(places.shape[0]):
        share = masks[number, y, x] * places[number, 0]
        if share <= _ZERO:
            continue
        more, k = places[number, 1], places[number, 2]
        new = _GREY + (r - _GREY) * k + more, _GREY + (g - _GREY) * k + more, _GREY + (b - _GREY) * k + more
        new = _saturated(new[0], new[1], new[2], places[number, 3])
        new = new[0] + places[number, 4], new[1] + places[number, 5], new[2] + places[number, 6]
        r, g, b = _mixed(r, g, b, new, share)
    return r, g, b


@njit(**EXACT, cache=True)
def _grade(light, coded, bits, rows, channels, slopes, hues, lights, places, masks):
    """Grade (h, w, 3) light; overwritten. `coded` (w, 3) and its `bits` are room for a row in AP1."""
    for y in range(light.shape[0]):
        for x in range(light.shape[1]):
            red, green, blue = light[y, x, 0], light[y, x, 1], light[y, x, 2]
            for c in range(3):
                coded[x, c] = _IN[c, 0] * red + _IN[c, 1] * green + _IN[c, 2] * blue
        for x in range(light.shape[1]):
            r = looked_up(coded[x, 0], bits[x, 0], channels, slopes, 0)
            g = looked_up(coded[x, 1], bits[x, 1], channels, slopes, 1)
            b = looked_up(coded[x, 2], bits[x, 2], channels, slopes, 2)
            r, g, b = _pixel(r, g, b, rows, hues)
            if places.shape[0] > 0:
                r, g, b = _in_places(r, g, b, places, masks, y, x)
            red, green, blue = decode(r, lights), decode(g, lights), decode(b, lights)
            for c in range(3):
                light[y, x, c] = _OUT[c, 0] * red + _OUT[c, 1] * green + _OUT[c, 2] * blue
