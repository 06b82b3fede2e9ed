"""atan2, acos and sincos as polynomials: libm took 6 % of a path tracer's time.

Minimax coefficients; the error bounds stated here are asserted in `tests/core/test_elementary.py`.
"""

import math

import numpy as np
from numba import njit
from numpy import float32 as f32

from lantern.kernel.vectors import SMALL

PI = f32(math.pi)
HALF_PI = f32(math.pi / 2)
TWO_PI = f32(2 * math.pi)
INV_PI = f32(1 / math.pi)
INV_TWO_PI = f32(1 / (2 * math.pi))


@njit(**SMALL)
def arctan2(y, x):
    """Angle of (x, y) in radians, -π to π; absolute error below 4e-6. (0, 0) gives 0.

    Odd polynomial of degree 11 on [0, 1]: Hastings, "Approximations for Digital Computers", 1955, sheet 12.
    """
    ax, ay = abs(x), abs(y)
    high, low = max(ax, ay), min(ax, ay)
    if high == f32(0.0):
        return f32(0.0)
    q = low / high
    s = q * q
    p = f32(-0.0117212)
    p = p * s + f32(0.05265332)
    p = p * s + f32(-0.11643287)
    p = p * s + f32(0.19354346)
    p = p * s + f32(-0.33262347)
    p = p * s + f32(0.99997726)
    angle = p * q
    if ay > ax:
        angle = HALF_PI - angle
    if x < f32(0.0):
        angle = PI - angle
    return -angle if y < f32(0.0) else angle


@njit(**SMALL)
def arccos(x):
    """Arc cosine in radians of x clamped to [-1, 1]; absolute error below 1e-6.

    Abramowitz & Stegun, "Handbook of Mathematical Functions", 4.4.46.
    """
    a = min(abs(x), f32(1.0))
    p = f32(-0.0012624911)
    p = p * a + f32(0.0066700901)
    p = p * a + f32(-0.0170881256)
    p = p * a + f32(0.0308918810)
    p = p * a + f32(-0.0501743046)
    p = p * a + f32(0.0889789874)
    p = p * a + f32(-0.2145988016)
    p = p * a + f32(1.5707963050)
    angle = p * math.sqrt(max(f32(1.0) - a, f32(0.0)))
    return PI - angle if x < f32(0.0) else angle


@njit(**SMALL)
def sincos_turn(u):
    """(sin 2πu, cos 2πu) for u in [-1, 2]; absolute error below 4e-7."""
    # Fold to the nearest quarter turn, then Taylor-like minimax on [-π/4, π/4] (Cephes sinf and cosf).
    quarter = np.floor(u * f32(4.0) + f32(0.5))
    x = (u - quarter * f32(0.25)) * TWO_PI
    z = x * x
    sine = x + x * z * (f32(-1.6666654611e-1) + z * (f32(8.3321608736e-3) - z * f32(1.9515295891e-4)))
    cosine = (
        f32(1.0)
        - f32(0.5) * z
        + z * z * (f32(4.166664568298827e-2) + z * (f32(-1.388731625493765e-3) + z * f32(2.443315711809948e-5)))
    )
    turn = int(quarter) & 3
    if turn == 0:
        return sine, cosine
    if turn == 1:
        return cosine, -sine
    if turn == 2:
        return -sine, -cosine
    return -cosine, sine
