"""ACEScct, in which the grade works: a stop is as long in the shadows as in the lights.

Academy S-2016-001, "ACEScct, A Quasi-Logarithmic Encoding of ACES Data for use within Color Grading Systems", 4.4;
primaries AP1 of S-2014-004, adapted from D65 to the ACES white by CAT02 as OpenColorIO does.
"""

import numpy as np
from numba import njit
from numpy import float32 as f32

from lantern.kernel.vectors import SMALL

STOPS = 17.52
"""Stops in the range [0, 1] of the code."""
OFFSET = 9.72
LINEAR_TO_AP1 = np.array(
    [
        [0.6130974, 0.3395231, 0.0473795],
        [0.0701937, 0.9163539, 0.0134524],
        [0.0206156, 0.1095698, 0.8698147],
    ]
)
"""From linear Rec. 709, D65."""
AP1_TO_LINEAR = np.linalg.inv(LINEAR_TO_AP1)


def coded(stops: float) -> float:
    """The code of light so many stops about 1.0."""
    return (stops + OFFSET) / STOPS


STEPS = 4096
_OCTAVE = 7
"""Bits of a number's fraction that choose an entry: 128 entries to a stop."""
_DARKEST, _BRIGHTEST = -14, 18
_FIRST = np.int32((127 + _DARKEST) << 23)
_LEAST = f32(2.0**_DARKEST)
_LAST = np.int32(((_BRIGHTEST - _DARKEST) << 23) - (1 << (23 - _OCTAVE)) - 1)
_REST = np.int32((1 << (23 - _OCTAVE)) - 1)
_TO_SHARE = f32(2.0 ** -(23 - _OCTAVE))
LEAST_CODE, MOST_CODE = -0.5, 1.6
_TO_STEP = f32((STEPS - 1) / (MOST_CODE - LEAST_CODE))


def encoded(light: np.ndarray) -> np.ndarray:
    """The code of linear values, exactly as the specification says."""
    bright = np.log2(np.maximum(light, 1e-10)) + OFFSET
    return np.where(light <= 0.0078125, 10.5402377416545 * light + 0.0729055341958355, bright / STOPS)


def decoded(code: np.ndarray) -> np.ndarray:
    """The linear values of codes, exactly as the specification says."""
    dark = (code - 0.0729055341958355) / 10.5402377416545
    return np.where(code <= 0.155251141552511, dark, np.exp2(code * STOPS - OFFSET))


def _code_table() -> np.ndarray:
    """Codes at numbers whose bits differ by a step: 128 to a stop, evenly within it."""
    entries = np.arange((_BRIGHTEST - _DARKEST) << _OCTAVE, dtype=np.float64)
    octave, share = entries // (1 << _OCTAVE), entries % (1 << _OCTAVE) / (1 << _OCTAVE)
    return np.asarray(encoded(2.0 ** (octave + _DARKEST) * (1 + share)), np.float32)


CODE_TABLE = _code_table()
LEAST_LIGHT = 2.0**_DARKEST
LIGHT_TABLE = decoded(np.linspace(LEAST_CODE, MOST_CODE, STEPS)).astype(np.float32)


@njit(**SMALL)
def looked_up(light, bits, tables, slopes, channel):
    """What one of several tables over CODE_TABLE's numbers says of a linear value, of which `bits` are the bits.

    Below the first entry it goes on straight, by the slope against light.
    """
    if light <= _LEAST:
        return tables[channel, 0] + (light - _LEAST) * slopes[channel]
    over = min(bits - _FIRST, _LAST)
    entry = over >> np.int32(23 - _OCTAVE)
    share = f32(over & _REST) * _TO_SHARE
    before = tables[channel, entry]
    return before + (tables[channel, entry + 1] - before) * share


@njit(**SMALL)
def decode(code, table):
    """The linear value of a code, by LIGHT_TABLE: to 1e-5 of it."""
    place = min(max((code - f32(LEAST_CODE)) * _TO_STEP, f32(0.0)), f32(STEPS - 1.001))
    entry = int(place)
    return table[entry] + (table[entry + 1] - table[entry]) * (place - f32(entry))
