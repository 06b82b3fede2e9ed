"""How two pictures differ: by value, by colour as seen, and as somebody sees who looks from one to the other.

In: two sRGB pictures of the same size. Out: a map of differences with its scale, its mean and its worst. Called by the
server for takes. The perceptual map is that of Andersson, Nilsson, Akenine-Möller, Oskarsson, Åström and Fairchild,
"A Difference Evaluator for Alternating Images" (Proc. ACM Comput. Graph. Interact. Tech. 3, 2020).
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.ndimage import correlate1d

from lantern.color import RGB_TO_XYZ, decode_srgb, lab_of
from lantern.picture.delta_e import delta_e_2000
from lantern.picture.false_colour import colours_of

Kind = Literal["absolute", "colour", "perceptual"]
TOPS: dict[Kind, float] = {"absolute": 64.0, "colour": 10.0, "perceptual": 1.0}
"""Where the scale ends: 8-bit values, ΔE2000, and the share of the greatest difference that can be perceived."""
UNITS: dict[Kind, str] = {"absolute": "of 255", "colour": "ΔE2000", "perceptual": ""}
STEPS = 5
"""Marks on a scale."""
DOTS_A_DEGREE = 67.0
"""Of a screen 0.7 m wide with 3,840 pixels, seen from 0.7 m: what the paper takes (section 4.1)."""

_WHITE = RGB_TO_XYZ.sum(axis=1)
# Contrast sensitivity: (a1, b1, a2, b2) of the luminance, red-green and blue-yellow channels (table 1).
_SENSITIVITY = ((1.0, 0.0047, 0.0, 1e-5), (1.0, 0.0053, 0.0, 1e-5), (34.1, 0.04, 13.5, 0.025))
_COLOUR_EXPONENT, _SHARE_OF_MOST, _SHARE_OF_RANGE = 0.7, 0.4, 0.95
"""q_c, p_c and p_t of section 4.1.3."""
_FEATURE_WIDTH, _FEATURE_EXPONENT = 0.082, 0.5
"""Width of a feature [degrees] and q_f of section 4.2."""


@dataclass(frozen=True)
class Difference:
    """(h, w) differences, in the unit of their kind."""

    kind: Kind
    values: np.ndarray

    @property
    def mean(self) -> float:
        return float(self.values.mean())

    @property
    def worst(self) -> float:
        return float(self.values.max())

    def picture(self) -> np.ndarray:
        """(h, w, 3) uint8 in the colours of the scale."""
        return colours_of(self.values / TOPS[self.kind])

    def ticks(self) -> list[tuple[float, str]]:
        """(value, colour as #rrggbb) of the marks of the scale."""
        shares = np.linspace(0.0, 1.0, STEPS + 1)
        colors = colours_of(shares)
        return [
            (round(float(share) * TOPS[self.kind], 2), "#{:02x}{:02x}{:02x}".format(*color))
            for share, color in zip(shares, colors, strict=True)
        ]


def difference_of(first: np.ndarray, second: np.ndarray, kind: Kind) -> Difference:
    """How two (h, w, 3) uint8 sRGB pictures differ. Raises ValueError when their sizes do."""
    if first.shape != second.shape:
        raise ValueError(f"pictures of {first.shape[1]} x {first.shape[0]} and {second.shape[1]} x {second.shape[0]}")
    if kind == "absolute":
        return Difference(kind, np.abs(first.astype(np.float32) - second).mean(axis=2))
    linear = [decode_srgb(each.astype(np.float64) / 255) for each in (first, second)]
    if kind == "colour":
        return Difference(kind, delta_e_2000(*(lab_of(each) for each in linear)))
    colour, feature = _colour_difference(*linear), _feature_difference(*linear)
    return Difference(kind, colour ** (1 - feature))


def _ratios(linear: np.ndarray) -> np.ndarray:
    return linear @ RGB_TO_XYZ.T / _WHITE


def _opponent(linear: np.ndarray) -> np.ndarray:
    """(..., 3) YyCxCz: L*a*b* without its roots."""
    x, y, z = np.moveaxis(_ratios(linear), -1, 0)
    return np.stack([116 * y - 16, 500 * (x - y), 200 * (y - z)], -1)


def _linear_of_opponent(opponent: np.ndarray) -> np.ndarray:
    y = (opponent[..., 0] + 16) / 116
    ratio = np.stack([y + opponent[..., 1] / 500, y, y - opponent[..., 2] / 200], -1)
    return np.asarray(ratio * _WHITE @ np.linalg.inv(RGB_TO_XYZ).T)


def _as_seen(linear: np.ndarray) -> np.ndarray:
    """What is left of a picture at the distance of the screen: L*a*b* with less colour where it is dark (Hunt)."""
    opponent = _opponent(linear)
    radius = int(np.ceil(3 * np.sqrt(0.04 / (2 * np.pi**2)) * DOTS_A_DEGREE))
    place = np.arange(-radius, radius + 1) / DOTS_A_DEGREE
    seen = np.empty_like(opponent)
    for channel, (a1, b1, a2, b2) in enumerate(_SENSITIVITY):
        total, weight = np.zeros(opponent.shape[:2]), 0.0
        for a, b in ((a1, b1), (a2, b2)):
            kernel = np.exp(-(np.pi**2) * place**2 / b)
            height = a * np.sqrt(np.pi / b)
            weight += height * kernel.sum() ** 2
            total += height * _filtered(opponent[..., channel], kernel, kernel)
        seen[..., channel] = total / weight
    lab = lab_of(np.clip(_linear_of_opponent(seen), 0, 1))
    lab[..., 1:] *= 0.01 * lab[..., :1]
    return lab


def _filtered(values: np.ndarray, down: np.ndarray, across: np.ndarray) -> np.ndarray:
    return np.asarray(correlate1d(correlate1d(values, down, 0, mode="nearest"), across, 1, mode="nearest"))


def _hybrid(first: np.ndarray, second: np.ndarray) -> np.ndarray:
    """HyAB distance: as far in lightness, then in colour."""
    apart = first - second
    return np.asarray(np.abs(apart[..., 0]) + np.hypot(apart[..., 1], apart[..., 2]))


def _colour_difference(first: np.ndarray, second: np.ndarray) -> np.ndarray:
    green, blue = (lab_of(np.array(corner)) for corner in ((0.0, 1.0, 0.0), (0.0, 0.0, 1.0)))
    for corner in (green, blue):
        corner[1:] *= 0.01 * corner[0]
    most = _hybrid(green, blue) ** _COLOUR_EXPONENT
    apart = _hybrid(_as_seen(first), _as_seen(second)) ** _COLOUR_EXPONENT
    knee = _SHARE_OF_MOST * most
    beyond = _SHARE_OF_RANGE + (apart - knee) / (most - knee) * (1 - _SHARE_OF_RANGE)
    return np.where(apart < knee, _SHARE_OF_RANGE / knee * apart, np.minimum(beyond, 1.0))


def _feature_difference(first: np.ndarray, second: np.ndarray) -> np.ndarray:
    """By edges and points that one has and the other has not."""
    deviation = 0.5 * _FEATURE_WIDTH * DOTS_A_DEGREE
    place = np.arange(-int(np.ceil(3 * deviation)), int(np.ceil(3 * deviation)) + 1)
    bell = np.exp(-(place**2) / (2 * deviation**2))
    edge, point = -place * bell, (place**2 / deviation**2 - 1) * bell
    grey = [_ratios(each)[..., 1] for each in (first, second)]
    found = [
        np.abs(np.subtract(*(_strength(each, bell / bell.sum(), _even(kernel)) for each in grey)))
        for kernel in (edge, point)
    ]
    return np.asarray((np.maximum(*found) / np.sqrt(2)) ** _FEATURE_EXPONENT)


def _even(kernel: np.ndarray) -> np.ndarray:
    """Its positive weights sum to one, its negative ones to minus one."""
    return np.where(kernel > 0, kernel / kernel[kernel > 0].sum(), kernel / -kernel[kernel < 0].sum())


def _strength(grey: np.ndarray, bell: np.ndarray, kernel: np.ndarray) -> np.ndarray:
    return np.hypot(_filtered(grey, bell, kernel), _filtered(grey, kernel, bell))
