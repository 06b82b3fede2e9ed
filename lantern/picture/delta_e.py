"""Colour differences as people see them.

In: CIE L*a*b* colours. Out: CIEDE2000. Called by `differing`. CIE 142-2001, ISO/CIE 11664-6:2014; the order of the hue
terms after Sharma, Wu and Dalal, "The CIEDE2000 color-difference formula" (2005), whose table of pairs tests it.
"""

import numpy as np

_25_TO_7 = 25.0**7


def delta_e_2000(first: np.ndarray, second: np.ndarray) -> np.ndarray:
    """(...) differences of (..., 3) L*a*b* colours; one is about what is just seen side by side."""
    lightness_1, a_1, b_1 = np.moveaxis(np.asarray(first, np.float64), -1, 0)
    lightness_2, a_2, b_2 = np.moveaxis(np.asarray(second, np.float64), -1, 0)
    mean = (np.hypot(a_1, b_1) + np.hypot(a_2, b_2)) / 2
    stretch = 1.5 - 0.5 * np.sqrt(mean**7 / (mean**7 + _25_TO_7))
    chroma_1, chroma_2 = np.hypot(stretch * a_1, b_1), np.hypot(stretch * a_2, b_2)
    hue_1, hue_2 = _hue(stretch * a_1, b_1), _hue(stretch * a_2, b_2)
    is_grey = chroma_1 * chroma_2 == 0
    turn = hue_2 - hue_1
    turn = np.where(is_grey, 0.0, turn - 360 * np.round(turn / 360))
    by_hue = 2 * np.sqrt(chroma_1 * chroma_2) * np.sin(np.radians(turn) / 2)
    hue = _mean_hue(hue_1, hue_2, is_grey)
    lightness, chroma = (lightness_1 + lightness_2) / 2, (chroma_1 + chroma_2) / 2
    of_lightness = 1 + 0.015 * (lightness - 50) ** 2 / np.sqrt(20 + (lightness - 50) ** 2)
    of_chroma, of_hue = 1 + 0.045 * chroma, 1 + 0.015 * chroma * _hue_weight(hue)
    l_term, c_term, h_term = (
        (lightness_2 - lightness_1) / of_lightness,
        (chroma_2 - chroma_1) / of_chroma,
        by_hue / of_hue,
    )
    turned = (
        -2 * np.sqrt(chroma**7 / (chroma**7 + _25_TO_7)) * np.sin(np.radians(60 * np.exp(-(((hue - 275) / 25) ** 2))))
    )
    return np.asarray(np.sqrt(l_term**2 + c_term**2 + h_term**2 + turned * c_term * h_term))


def _hue(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    return np.degrees(np.arctan2(b, a)) % 360


def _mean_hue(first: np.ndarray, second: np.ndarray, is_grey: np.ndarray) -> np.ndarray:
    total = first + second
    far = np.abs(first - second) > 180
    return np.where(is_grey, total, np.where(far, np.where(total < 360, total + 360, total - 360), total) / 2)


def _hue_weight(hue: np.ndarray) -> np.ndarray:
    def cosine(times: float, shift: float) -> np.ndarray:
        return np.cos(np.radians(times * hue + shift))

    return 1 - 0.17 * cosine(1, -30) + 0.24 * cosine(2, 0) + 0.32 * cosine(3, 6) - 0.20 * cosine(4, -63)
