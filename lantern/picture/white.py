"""White balance: the light that is to look white, by adaptation to the white of the display.

CIECAM16's CAT16 with complete adaptation (Li, Li, Wang et al., "Comprehensive color solutions: CAM16, CAT16, and
CAM16-UCS", Color Research & Application 42(6), 2017, equation 8). In: a temperature and a tint, or a neutral colour.
Out: a matrix of linear Rec. 709, a temperature and a tint. Called by the display transform and the render host.
"""

from functools import lru_cache

import numpy as np

from lantern.color import LUMINANCE, RGB_TO_XYZ

_CAT16 = np.array([[0.401288, 0.650173, -0.051461], [-0.250268, 1.204414, 0.045854], [-0.002079, 0.048952, 0.953127]])
_WHITE = RGB_TO_XYZ @ np.ones(3)
TINT_STEP = 0.0005
"""Distance from the Planckian locus in CIE 1960 (u, v) of one step of tint, positive towards green."""
_COOLEST, _HOTTEST = 1500.0, 40000.0


def planckian_uv(kelvin: float) -> tuple[float, float]:
    """CIE 1960 (u, v) of a black body (Krystek, Color Research & Application 10(1), 1985; 1,000 to 15,000 K to 8e-5).

    Above 15,000 K it is continued by the same formula, which stays within 2e-3.
    """
    t = kelvin
    u = (0.860117757 + 1.54118254e-4 * t + 1.28641212e-7 * t * t) / (1 + 8.42420235e-4 * t + 7.08145163e-7 * t * t)
    v = (0.317398726 + 4.22806245e-5 * t + 4.20481691e-8 * t * t) / (1 - 2.89741816e-5 * t + 1.61456053e-7 * t * t)
    return u, v


def _white_of(kelvin: float, tint: float) -> np.ndarray:
    """XYZ of luminance 1 of light of a temperature, off the locus by its tint, at a right angle to it."""
    u, v = planckian_uv(kelvin)
    further = planckian_uv(kelvin * 1.01)
    along = np.array([further[0] - u, further[1] - v])
    across = np.array([along[1], -along[0]]) / np.linalg.norm(along)
    across = across if across[1] > 0 else -across
    u, v = np.array([u, v]) + across * tint * TINT_STEP
    x, y = 3 * u / (2 * u - 8 * v + 4), 2 * v / (2 * u - 8 * v + 4)
    return np.array([x / y, 1.0, (1 - x - y) / y])


@lru_cache(maxsize=64)
def white_matrix(kelvin: float | None, tint: float) -> np.ndarray | None:
    """(3, 3) of linear Rec. 709 that makes light of a temperature and tint white; None where nothing is to be done."""
    if kelvin is None and tint == 0.0:
        return None
    source = _white_of(6504.0 if kelvin is None else kelvin, tint)
    if kelvin is None:
        # Without a temperature the tint alone counts: what is white now stays so but for it.
        source = source * _WHITE / _white_of(6504.0, 0.0)
    gains = (_CAT16 @ _WHITE) / (_CAT16 @ source)
    adapted = np.linalg.inv(_CAT16) @ np.diag(gains) @ _CAT16
    matrix = np.linalg.inv(RGB_TO_XYZ) @ adapted @ RGB_TO_XYZ
    matrix.setflags(write=False)
    return np.asarray(matrix)


def white_for(neutral: np.ndarray) -> tuple[float, float]:
    """(temperature [K], tint) by which a linear Rec. 709 colour becomes neutral; the nearest within reach."""
    best = (np.inf, 6504.0, 0.0)
    kelvins = np.geomspace(_COOLEST, _HOTTEST, 60)
    tints = np.linspace(-100.0, 100.0, 41)
    for _ in range(5):
        for kelvin in kelvins:
            for tint in tints:
                off = _cast(neutral, float(kelvin), float(tint))
                if off < best[0]:
                    best = (off, float(kelvin), float(tint))
        _, kelvin, tint = best
        span, step = (kelvins[1] / kelvins[0]), tints[1] - tints[0]
        kelvins = np.clip(np.geomspace(kelvin / span, kelvin * span, 9), _COOLEST, _HOTTEST)
        tints = np.clip(np.linspace(tint - step, tint + step, 9), -100.0, 100.0)
        if len(np.unique(kelvins)) < 2 or len(np.unique(tints)) < 2:
            break
    return round(best[1], 1), round(best[2], 2)


def _cast(neutral: np.ndarray, kelvin: float, tint: float) -> float:
    """How far a colour is from neutral under a white, as its largest channel's difference from its luminance."""
    matrix = white_matrix(kelvin, tint)
    assert matrix is not None
    shown = matrix @ neutral
    luminance = float(shown @ LUMINANCE)
    return float(np.abs(shown / luminance - 1).max()) if luminance > 0 else np.inf
