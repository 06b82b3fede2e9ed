"""How two techniques share the light that both find (Veach, "Robust Monte Carlo Methods", 1997, section 9.2).

Called wherever light is aimed at or run into.
"""

from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import load_i32
from lantern.kernel.vectors import SMALL
from lantern.rays.layout import AIMING_ALONE, BOTH, SETTINGS

S = SETTINGS.slots
_ZERO, _ONE = f32(0.0), f32(1.0)


@njit(**SMALL)
def power_heuristic(a, b):
    """Weight of a technique of pdf a against one of pdf b, exponent 2; safe for huge pdfs."""
    if a <= _ZERO:
        return _ZERO
    r = b / a
    return _ONE / (_ONE + r * r)


@njit(**SMALL)
def weight_of_aimed(settings, aimed, scattered):
    """Weight of light that was aimed at with pdf `aimed`, where scattering would have found it with `scattered`."""
    return power_heuristic(aimed, scattered) if load_i32(settings, S.estimator) == BOTH else _ONE


@njit(**SMALL)
def weight_of_met(settings, scattered, aimed):
    """Weight of light that a scattered ray ran into; `scattered` is 0 where nothing was aimed at."""
    estimator = load_i32(settings, S.estimator)
    if estimator == BOTH:
        return power_heuristic(scattered, aimed) if scattered > _ZERO else _ONE
    return _ZERO if estimator == AIMING_ALONE and scattered > _ZERO and aimed > _ZERO else _ONE
