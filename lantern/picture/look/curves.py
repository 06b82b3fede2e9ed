"""Curves: through dragged points, monotone between them, as tables that kernels read.

Fritsch and Butland's cubic (SIAM Journal on Scientific and Statistical Computing 5(2), 1984), as `PchipInterpolator`
has it: where points never fall, the curve never does.
"""

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from scipy.interpolate import PchipInterpolator

from lantern.scene.look import CurvePoint, HueCurves, ToneCurve

TONE_ENTRIES, HUE_ENTRIES = 1024, 360
NEUTRAL = 0.5
"""Height at which a curve by hue changes nothing."""


def tone_table(points: Sequence[CurvePoint]) -> np.ndarray:
    """(TONE_ENTRIES,) of a curve over [0, 1]; without a point at an end it goes to (0, 0) or (1, 1)."""
    at = np.linspace(0.0, 1.0, TONE_ENTRIES)
    if not points:
        return at
    known = [*points]
    if known[0][0] > 0:
        known.insert(0, (0.0, min(0.0, known[0][1])))
    if known[-1][0] < 1:
        known.append((1.0, max(1.0, known[-1][1])))
    x, y = np.array(known).T
    with np.errstate(over="ignore"):  # of points all but on a level
        return np.asarray(PchipInterpolator(x, y)(at)) if len(known) > 1 else np.full(TONE_ENTRIES, y[0])


def hue_table(points: Sequence[CurvePoint]) -> np.ndarray:
    """(HUE_ENTRIES,) of a curve around the hues; without points it is neutral all around."""
    if not points:
        return np.full(HUE_ENTRIES, NEUTRAL)
    x, y = np.array(points).T
    if x[-1] - x[0] >= 1:  # both ends are the same hue
        x, y = x[:-1], y[:-1]
    around = PchipInterpolator(np.concatenate([x - 1, x, x + 1]), np.tile(y, 3)) if len(x) > 1 else None
    at = np.arange(HUE_ENTRIES) / HUE_ENTRIES
    return np.asarray(around(at)) if around is not None else np.full(HUE_ENTRIES, y[0])


@lru_cache(maxsize=16)
def tone_tables(curve: ToneCurve) -> np.ndarray:
    """(3, TONE_ENTRIES) float32: the master, and then that of each channel."""
    master = tone_table(curve.master)
    at = np.linspace(0.0, 1.0, TONE_ENTRIES)
    channels = (curve.red, curve.green, curve.blue)
    return np.stack([np.interp(master, at, tone_table(one)) for one in channels]).astype(np.float32)


@lru_cache(maxsize=16)
def hue_tables(curves: HueCurves) -> np.ndarray:
    """(3, HUE_ENTRIES) float32 of hue, saturation and lightness."""
    return np.stack([hue_table(one) for one in (curves.hue, curves.saturation, curves.lightness)]).astype(np.float32)
