"""What the grade does to each channel by itself, as one table: contrast, levels, tone curve, and slope, offset, power.

In: the look. Out: codes by the numbers of `acescct.CODE_TABLE`. Called by `grade`. All four are functions of one
value, so that one table holds them exactly as far as it is fine: 128 entries to a stop.
"""

import numpy as np

from lantern.picture.look.acescct import CODE_TABLE, LEAST_LIGHT, coded, decoded, encoded
from lantern.picture.look.curves import TONE_ENTRIES, tone_tables
from lantern.scene.look import Look


def channel_tables(look: Look) -> tuple[np.ndarray, np.ndarray]:
    """((3, entries) float32 codes, (3,) float32 their slopes against light below the first entry)."""
    below = LEAST_LIGHT / 2
    lights = np.concatenate([[float(encoded(np.array(below)))], CODE_TABLE])
    codes = np.stack([_channel(lights.astype(np.float64), look, channel) for channel in range(3)])
    slopes = (codes[:, 1] - codes[:, 0]) / (LEAST_LIGHT - below)
    return codes[:, 1:].astype(np.float32), slopes.astype(np.float32)


def _channel(codes: np.ndarray, look: Look, channel: int) -> np.ndarray:
    for effect, change in (
        (look.contrast, _contrasted),
        (look.levels, _levelled),
        (look.curve, _on_curve),
        (look.decision, _decided),
    ):
        if effect.strength > 0:
            codes = codes + (change(codes, look, channel) - codes) * effect.strength
    return codes


def _contrasted(codes: np.ndarray, look: Look, channel: int) -> np.ndarray:
    pivot = coded(look.contrast.pivot)
    return np.asarray(pivot + (codes - pivot) * look.contrast.contrast)


def _levelled(codes: np.ndarray, look: Look, channel: int) -> np.ndarray:
    """Black and white points work on the light itself."""
    black, gain = look.levels.black, 2.0**-look.levels.white
    return encoded((decoded(codes) - black) / (1 - black) * gain)


def _on_curve(codes: np.ndarray, look: Look, channel: int) -> np.ndarray:
    """Beyond its ends the curve goes on in parallel to the line that changes nothing."""
    inside = np.clip(codes, 0, 1)
    table = tone_tables(look.curve)[channel]
    return np.asarray(np.interp(inside, np.linspace(0, 1, TONE_ENTRIES), table) + codes - inside)


def _decided(codes: np.ndarray, look: Look, channel: int) -> np.ndarray:
    """ASC CDL 1.2, without its clamps: the code of bright light lies within 1, and below 0 there is no power."""
    decision = look.decision
    values = codes * decision.slope[channel] + decision.offset[channel]
    return np.where(values > 0, np.maximum(values, 1e-12) ** decision.power[channel], values)
