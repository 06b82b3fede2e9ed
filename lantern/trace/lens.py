"""The camera's lens: pinhole or thin lens, and the pixel filter."""

import math

from numba import njit
from numpy import float32 as f32

from lantern.kernel.elementary import sincos_turn
from lantern.kernel.memory import load_f32
from lantern.kernel.vectors import SMALL, normalize
from lantern.trace.layout import CAMERA

_POSITION, _RIGHT, _UP, _FORWARD = (CAMERA.slot(n) for n in ("position", "right", "up", "forward"))
_HALF_WIDTH, _HALF_HEIGHT = CAMERA.slot("half_width"), CAMERA.slot("half_height")
_PIXEL = CAMERA.slot("pixel")
_LENS_RADIUS, _FOCUS = CAMERA.slot("lens_radius"), CAMERA.slot("focus_distance")


@njit(**SMALL)
def _tent(u):
    """Offset in (-1, 1) pixel with triangular density, by inversion."""
    if u < f32(0.5):
        return math.sqrt(f32(2.0) * u) - f32(1.0)
    return f32(1.0) - math.sqrt(max(f32(2.0) - f32(2.0) * u, f32(0.0)))


@njit(**SMALL)
def _vector(camera, slot):
    return load_f32(camera, slot), load_f32(camera, slot + 1), load_f32(camera, slot + 2)


@njit(**SMALL)
def forward_axis(camera):
    """Unit direction the camera looks along."""
    return _vector(camera, _FORWARD)


@njit(**SMALL)
def camera_ray(camera, x, y, u1, u2, u3, u4):
    """(origin, unit direction) through pixel (x, y), row 0 on top; u1, u2 pick the filter, u3, u4 the lens point."""
    half_width, half_height = load_f32(camera, _HALF_WIDTH), load_f32(camera, _HALF_HEIGHT)
    pixel = load_f32(camera, _PIXEL)
    sx = (f32(x) + f32(0.5) + _tent(u1)) * pixel - half_width
    sy = half_height - (f32(y) + f32(0.5) + _tent(u2)) * pixel
    right, up, forward = _vector(camera, _RIGHT), _vector(camera, _UP), _vector(camera, _FORWARD)
    origin = _vector(camera, _POSITION)
    radius = load_f32(camera, _LENS_RADIUS)
    if radius > f32(0.0):
        # Uniform on the disk; every lens point aims at the same point of the plane of focus.
        sine, cosine = sincos_turn(u4)
        r = radius * math.sqrt(u3)
        lx, ly = r * cosine, r * sine
        inverse = f32(1.0) / load_f32(camera, _FOCUS)
        sx, sy = sx - lx * inverse, sy - ly * inverse
        origin = (
            origin[0] + lx * right[0] + ly * up[0],
            origin[1] + lx * right[1] + ly * up[1],
            origin[2] + lx * right[2] + ly * up[2],
        )
    direction = normalize(
        (
            forward[0] + sx * right[0] + sy * up[0],
            forward[1] + sx * right[1] + sy * up[1],
            forward[2] + sx * right[2] + sy * up[2],
        )
    )
    return origin, direction
