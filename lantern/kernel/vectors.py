"""3-vectors as tuples of float32: an array would cost an allocation for every operation."""

import math
from typing import Any

from numba import njit
from numpy import float32 as f32

from lantern.color import LUMINANCE_WEIGHTS

_RED, _GREEN, _BLUE = (f32(weight) for weight in LUMINANCE_WEIGHTS)

EXACT: dict[str, Any] = {
    "nogil": True,
    "error_model": "numpy",
    "fastmath": {"contract", "nsz"},
    "forceinline": False,
}
"""How every kernel function is compiled: fused multiply-add allowed, NaN and infinity respected.

Inlining is said, because it is otherwise inherited from whichever caller is compiled first: the whole surface model
would be in the kernel twice.
"""
SMALL: dict[str, Any] = EXACT | {"forceinline": True}
"""For helpers of a few lines: a call would pass tuples through memory and check for an exception."""


@njit(**SMALL)
def add(a, b):
    return a[0] + b[0], a[1] + b[1], a[2] + b[2]


@njit(**SMALL)
def sub(a, b):
    return a[0] - b[0], a[1] - b[1], a[2] - b[2]


@njit(**SMALL)
def mul(a, b):
    return a[0] * b[0], a[1] * b[1], a[2] * b[2]


@njit(**SMALL)
def scale(a, s):
    return a[0] * s, a[1] * s, a[2] * s


@njit(**SMALL)
def neg(a):
    return -a[0], -a[1], -a[2]


@njit(**SMALL)
def dot(a, b):
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


@njit(**SMALL)
def cross(a, b):
    return a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]


@njit(**SMALL)
def normalize(a):
    """Unit vector along a; a zero vector stays zero rather than turning into NaN."""
    square = dot(a, a)
    return scale(a, f32(1.0) / math.sqrt(square)) if square > f32(0.0) else a


@njit(**SMALL)
def lerp(a, b, t):
    return (
        a[0] + (b[0] - a[0]) * t,
        a[1] + (b[1] - a[1]) * t,
        a[2] + (b[2] - a[2]) * t,
    )


@njit(**SMALL)
def luminance(c):
    """Relative luminance of linear Rec. 709 RGB."""
    return _RED * c[0] + _GREEN * c[1] + _BLUE * c[2]


@njit(**SMALL)
def max_component(c):
    return max(c[0], max(c[1], c[2]))


@njit(**SMALL)
def frame_around(n):
    """Two unit vectors that complete unit n to a right-handed frame.

    Duff et al., "Building an Orthonormal Basis, Revisited", JCGT 6(1), 2017, listing 3.
    """
    sign = math.copysign(f32(1.0), n[2])
    a = f32(-1.0) / (sign + n[2])
    b = n[0] * n[1] * a
    return (
        (f32(1.0) + sign * n[0] * n[0] * a, sign * b, -sign * n[0]),
        (b, sign + n[1] * n[1] * a, -n[1]),
    )


@njit(**SMALL)
def to_local(v, t, b, n):
    return dot(v, t), dot(v, b), dot(v, n)


@njit(**SMALL)
def to_world(v, t, b, n):
    return (
        v[0] * t[0] + v[1] * b[0] + v[2] * n[0],
        v[0] * t[1] + v[1] * b[1] + v[2] * n[1],
        v[0] * t[2] + v[1] * b[2] + v[2] * n[2],
    )
