"""The camera's lens: pixel filter, shift, distortion, aperture with blades, plane of focus."""

import math

import numpy as np
from numba import njit
from numpy import float32 as f32
from numpy import uint32 as u32

from lantern.kernel.memory import load_f32, load_i32, load_vector
from lantern.kernel.random import TWO_TO_MINUS_24, mix
from lantern.kernel.vectors import EXACT, SMALL, cross, dot, lerp, normalize, scale, sub
from lantern.light.shapes import concentric_disk
from lantern.rays.layout import CAMERA
from lantern.rays.placement import between

C, _WIDTH = CAMERA.slots, CAMERA.width
APERTURE_STEPS = 256
TWO_TO_24 = f32(2.0**24)
_TRIES = 16
"""To draw a point that the barrel does not hide: of a round aperture it hides three fifths at the most."""


def aperture_table(blades: int, rotation: float, roundness: float) -> np.ndarray:
    """(APERTURE_STEPS + 1, 2) float32 (cos·r, sin·r) of the rim of an aperture of unit radius, in steps of equal area.

    A regular polygon of `blades` sides, 3 or more, that bulge by `roundness` [0, 1] towards the circle; rotation in
    degrees. Kernels pick a triangle between the centre and two neighbouring rim points, so any rim is sampled
    uniformly by area.
    """
    fine = np.linspace(0.0, 2 * math.pi, 4096 * blades + 1)
    half = math.pi / blades
    polygon = math.cos(half) / np.cos(np.mod(fine, 2 * half) - half)
    rim = polygon + (1 - polygon) * roundness
    area = np.concatenate([[0.0], np.cumsum(0.5 * (rim[:-1] * rim[1:]) * np.diff(fine))])
    angle = np.interp(np.linspace(0.0, area[-1], APERTURE_STEPS + 1), area, fine)
    radius = np.interp(angle, fine, rim)
    angle += math.radians(rotation)
    return np.stack([radius * np.cos(angle), radius * np.sin(angle)], axis=1).astype(np.float32)


@njit(**SMALL)
def tent(u):
    """Offset in (-1, 1) pixel with triangular density, by inversion."""
    if u < f32(0.5):
        return math.sqrt(f32(2.0) * u) - f32(1.0)
    return f32(1.0) - math.sqrt(max(f32(2.0) - f32(2.0) * u, f32(0.0)))


@njit(**SMALL)
def lens_point(camera, aperture, u1, u2):
    """A point of the aperture, uniform by area, for a lens of unit radius."""
    if load_i32(camera, C.bladed) == 0:
        return concentric_disk(u1, u2)
    place = u1 * f32(APERTURE_STEPS)
    i = min(int(place), APERTURE_STEPS - 1)
    t = place - f32(i)
    r = math.sqrt(u2)
    x0, y0 = load_f32(aperture, 2 * i), load_f32(aperture, 2 * i + 1)
    x1, y1 = load_f32(aperture, 2 * i + 2), load_f32(aperture, 2 * i + 3)
    return r * (x0 + (x1 - x0) * t), r * (y0 + (y1 - y0) * t)


@njit(**EXACT)
def seen_lens_point(camera, aperture, u1, u2, off_x, off_y):
    """As `lens_point`, of what of the aperture is seen from a place of the picture: within its rim and the barrel's.

    The barrel's rim is a circle of the same size, shifted by (off_x, off_y) radii: cat's eyes towards the corners.
    Points that it hides are drawn anew, independently, so that what is seen of the aperture is filled evenly.
    """
    a, b = lens_point(camera, aperture, u1, u2)
    number = mix(u32(u1 * TWO_TO_24) + mix(u32(u2 * TWO_TO_24)))
    for _ in range(_TRIES):
        x, y = a - off_x, b - off_y
        if x * x + y * y <= f32(1.0):
            break
        number = mix(number + u32(1))
        first = f32(number >> u32(8)) * TWO_TO_MINUS_24
        number = mix(number + u32(1))
        a, b = lens_point(camera, aperture, first, f32(number >> u32(8)) * TWO_TO_MINUS_24)
    return a, b


@njit(**SMALL)
def forward_axis(camera):
    """Unit direction the camera looks along."""
    return load_vector(camera, C.forward)


@njit(**EXACT)
def camera_ray(camera, aperture, x, y, u1, u2, u3, u4, time):
    """(origin, unit direction) through pixel (x, y), row 0 on top, at `time` [0, 1] of the shutter.

    u1, u2 pick the place under the pixel filter, u3, u4 the lens point.
    """
    half_width, half_height = load_f32(camera, C.half_width), load_f32(camera, C.half_height)
    pixel = load_f32(camera, C.pixel)
    sx = (f32(x) + f32(0.5) + tent(u1)) * pixel - half_width
    sy = half_height - (f32(y) + f32(0.5) + tent(u2)) * pixel
    bend = load_f32(camera, C.distortion)
    if bend != f32(0.0):
        # Brown, "Close-Range Camera Calibration", 1971, first radial term: where the ideal picture has this point.
        k = f32(1.0) + bend * (sx * sx + sy * sy) / (half_width * half_width)
        sx, sy = sx * k, sy * k
    sx, sy = sx + load_f32(camera, C.shift_x), sy + load_f32(camera, C.shift_y)
    right, up, forward = load_vector(camera, C.right), load_vector(camera, C.up), load_vector(camera, C.forward)
    origin = load_vector(camera, C.position)
    steps = load_i32(camera, C.steps)
    if steps > 1:
        i, t = between(time, steps)
        a, b = i * _WIDTH, (i + 1) * _WIDTH
        origin = lerp(load_vector(camera, a + C.position), load_vector(camera, b + C.position), t)
        forward = normalize(lerp(load_vector(camera, a + C.forward), load_vector(camera, b + C.forward), t))
        right = lerp(load_vector(camera, a + C.right), load_vector(camera, b + C.right), t)
        right = normalize(sub(right, scale(forward, dot(right, forward))))
        up = cross(right, forward)
    if load_i32(camera, C.orthographic) != 0:
        return (
            origin[0] + sx * right[0] + sy * up[0],
            origin[1] + sx * right[1] + sy * up[1],
            origin[2] + sx * right[2] + sy * up[2],
        ), forward
    radius = load_f32(camera, C.lens_radius)
    if radius > f32(0.0):
        # Every lens point aims at the same point of the plane of focus.
        cats_eye = load_f32(camera, C.cats_eye)
        if cats_eye > f32(0.0):
            # The barrel hides more of the aperture towards the corners, on the side away from the middle.
            corner = math.sqrt(half_width * half_width + half_height * half_height)
            a, b = seen_lens_point(camera, aperture, u3, u4, -cats_eye * sx / corner, -cats_eye * sy / corner)
        else:
            a, b = lens_point(camera, aperture, u3, u4)
        lx, ly = radius * a * load_f32(camera, C.narrowed), radius * b
        inverse = f32(1.0) / load_f32(camera, C.focus_distance)
        # A tilted plane of focus: its inverse depth is linear over the picture (Scheimpflug).
        inverse *= f32(1.0) + load_f32(camera, C.tilt_x) * sx + load_f32(camera, C.tilt_y) * sy
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
