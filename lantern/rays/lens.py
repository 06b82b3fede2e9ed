"""The camera's lens: pixel filter, shift, distortion, aperture with blades, plane of focus."""

import math

import numpy as np
from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import load_f32, load_i32, load_vector
from lantern.kernel.vectors import EXACT, SMALL, cross, dot, lerp, normalize, scale, sub
from lantern.light.shapes import concentric_disk
from lantern.rays.layout import CAMERA
from lantern.rays.placement import between

C, _WIDTH = CAMERA.slots, CAMERA.width
APERTURE_STEPS = 256


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
        a, b = lens_point(camera, aperture, u3, u4)
        lx, ly = radius * a, radius * b
        inverse = f32(1.0) / load_f32(camera, C.focus_distance)
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
