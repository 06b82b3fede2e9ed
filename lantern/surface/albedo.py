"""Directional albedo tables of the microfacet lobes: what a lobe reflects in all, for each view angle.

Layers are scaled with these so that a closed white room stays white: a lobe over a base lets through
1 - E, a lossy lobe is divided by E (Turquin, "Practical multiple scattering compensation for
microfacet models", 2019). Axes: cos θ linear, roughness = √alpha linear, s = (η - 1) / (η + 1) linear.

An anisotropic lobe has two axes more: how narrow it is, 1 - √(αmin/αmax), and how wide it is in the azimuth of the
view, (αφ - αmin) / (αmax - αmin) with αφ² = αx²cos²φ + αy²sin²φ (Heitz 2014, equation 80), in which the albedo is
smooth where it is not in φ. They are measured for the perfect mirror; dielectrics take over their proportion.
"""

import math
import os
from typing import NamedTuple

import numpy as np
from numba import njit
from numpy import float32 as f32

from lantern.kernel.cache import folder
from lantern.kernel.memory import load_f32
from lantern.kernel.vectors import EXACT, SMALL, dot, scale, sub
from lantern.surface.fresnel import fresnel_dielectric
from lantern.surface.fuzz import fuzz_value, sample_uniform
from lantern.surface.ggx import SMALLEST_ALPHA, sample_visible_normal, smith_lambda
from lantern.surface.transmission import refract

COSINES, ROUGHNESSES, INDICES = 32, 24, 16
NARROWS, WIDTHS = 9, 6
LARGEST_S = 0.5  # η = 3
SAMPLES_A_SIDE = 64
_PLANE = COSINES * ROUGHNESSES
_VOLUME = _PLANE * INDICES

# One float32 block: E of a perfect mirror, E of white fuzz, three volumes, planes of anisotropic mirrors.
MIRROR = 0
FUZZ = _PLANE
REFLECTED = 2 * _PLANE
GLASS_ENTERING = REFLECTED + _VOLUME
GLASS_LEAVING = GLASS_ENTERING + _VOLUME
ANISOTROPIC = GLASS_LEAVING + _VOLUME
BLOCK_SIZE = ANISOTROPIC + NARROWS * WIDTHS * _PLANE


class Albedos(NamedTuple):
    """Albedos [0, 1] of one view angle: perfect mirror, dielectric reflection, reflection + refraction."""

    mirror: float
    reflected: float
    glass: float


@njit(**EXACT)
def measure_albedos(cosine, alpha, eta, side):
    """Albedos by side² stratified visible-normal samples (weights F·G2/G1)."""
    z = max(cosine, f32(1e-3))
    wo = (f32(np.sqrt(f32(1.0) - z * z)), f32(0.0), z)
    lambda_o = smith_lambda(wo, alpha, alpha)
    mirror, reflected, refracted = f32(0.0), f32(0.0), f32(0.0)
    for i in range(side):
        # Strata crowd towards u2 = 1: the lobe's long tail is where light goes below the horizon.
        rest = f32(1.0) - (f32(i) + f32(0.5)) / f32(side)
        cube = rest * rest * rest
        share = f32(4.0) * cube / f32(side * side)
        u2 = f32(1.0) - cube * rest
        for j in range(side):
            u1 = (f32(j) + f32(0.5)) / f32(side)
            h = sample_visible_normal(wo, alpha, alpha, u1, u2)
            c = dot(wo, h)
            fresnel = fresnel_dielectric(c, eta)
            wi = sub(scale(h, f32(2.0) * c), wo)
            if wi[2] > f32(0.0):
                weight = share * (f32(1.0) + lambda_o) / (f32(1.0) + lambda_o + smith_lambda(wi, alpha, alpha))
                mirror += weight
                reflected += weight * fresnel
            possible, wt = refract(wo, h, eta)
            if possible and wt[2] < f32(0.0):
                weight = share * (f32(1.0) + lambda_o) / (f32(1.0) + lambda_o + smith_lambda(wt, alpha, alpha))
                refracted += weight * (f32(1.0) - fresnel)
    return Albedos(mirror, reflected, reflected + refracted)


@njit(**EXACT)
def measure_mirror(cosine, tangent_x, tangent_y, alpha_x, alpha_y, side):
    """Albedo of a perfect anisotropic mirror towards (tangent_x, tangent_y, 0) sin θ + z cos θ."""
    z = max(cosine, f32(1e-3))
    sine = f32(np.sqrt(f32(1.0) - z * z))
    wo = (tangent_x * sine, tangent_y * sine, z)
    lambda_o = smith_lambda(wo, alpha_x, alpha_y)
    total = f32(0.0)
    for i in range(side):
        rest = f32(1.0) - (f32(i) + f32(0.5)) / f32(side)
        cube = rest * rest * rest
        share = f32(4.0) * cube / f32(side * side)
        u2 = f32(1.0) - cube * rest
        for j in range(side):
            h = sample_visible_normal(wo, alpha_x, alpha_y, (f32(j) + f32(0.5)) / f32(side), u2)
            wi = sub(scale(h, f32(2.0) * dot(wo, h)), wo)
            if wi[2] > f32(0.0):
                total += share * (f32(1.0) + lambda_o) / (f32(1.0) + lambda_o + smith_lambda(wi, alpha_x, alpha_y))
    return total


@njit(**EXACT)
def measure_fuzz(cosine, roughness, side):
    """Albedo of white fuzz by side² stratified directions, uniform over the hemisphere."""
    z = max(cosine, f32(1e-3))
    wo = (f32(np.sqrt(f32(1.0) - z * z)), f32(0.0), z)
    total = f32(0.0)
    for i in range(side):
        for j in range(side):
            u1, u2 = (f32(i) + f32(0.5)) / f32(side), (f32(j) + f32(0.5)) / f32(side)
            total += fuzz_value(roughness, wo, sample_uniform(u1, u2))
    return total * f32(2.0 * math.pi) / f32(side * side)


@njit(cache=True, **EXACT)
def _fill(block, side):
    for k in range(INDICES):
        s = f32(LARGEST_S) * f32(k) / f32(INDICES - 1)
        # The boundary vanishes at η = 1; stay off it as the material table does.
        eta = max((f32(1.0) + s) / (f32(1.0) - s), f32(1.001))
        for j in range(ROUGHNESSES):
            roughness = f32(j) / f32(ROUGHNESSES - 1)
            alpha = max(roughness * roughness, f32(SMALLEST_ALPHA))
            for i in range(COSINES):
                cosine = f32(i) / f32(COSINES - 1)
                entry = (k * ROUGHNESSES + j) * COSINES + i
                entering = measure_albedos(cosine, alpha, eta, side)
                leaving = measure_albedos(cosine, alpha, f32(1.0) / eta, side)
                if k == 0:
                    block[MIRROR + entry] = entering.mirror
                    block[FUZZ + entry] = measure_fuzz(cosine, roughness, side)
                block[REFLECTED + entry] = entering.reflected
                block[GLASS_ENTERING + entry] = entering.glass
                block[GLASS_LEAVING + entry] = leaving.glass


@njit(cache=True, **EXACT)
def _fill_anisotropic(block, side):
    for n in range(NARROWS):
        root = f32(1.0) - f32(n) / f32(NARROWS - 1)
        ratio = root * root
        for w in range(WIDTHS):
            for j in range(ROUGHNESSES):
                roughness = f32(j) / f32(ROUGHNESSES - 1)
                wide = roughness * roughness * f32(np.sqrt(f32(2.0) / (f32(1.0) + ratio * ratio)))
                alpha_x = max(wide, f32(SMALLEST_ALPHA))
                alpha_y = max(wide * ratio, f32(SMALLEST_ALPHA))
                across = alpha_y + (alpha_x - alpha_y) * f32(w) / f32(WIDTHS - 1)
                apart = alpha_x * alpha_x - alpha_y * alpha_y
                share = (across * across - alpha_y * alpha_y) / apart if apart > f32(0.0) else f32(0.0)
                share = min(max(share, f32(0.0)), f32(1.0))
                x, y = f32(np.sqrt(share)), f32(np.sqrt(f32(1.0) - share))
                for i in range(COSINES):
                    cosine = f32(i) / f32(COSINES - 1)
                    entry = (n * WIDTHS + w) * _PLANE + j * COSINES + i
                    block[ANISOTROPIC + entry] = measure_mirror(cosine, x, y, alpha_x, alpha_y, side)


def albedo_block() -> np.ndarray:
    """The tables as one (BLOCK_SIZE,) float32 block, kept beside the compiled kernels: measuring takes seconds."""
    kept = folder() / "albedos.npy"
    if kept.is_file():
        return np.ascontiguousarray(np.load(kept))
    block = np.empty(BLOCK_SIZE, np.float32)
    _fill(block, SAMPLES_A_SIDE)
    _fill_anisotropic(block, SAMPLES_A_SIDE)
    partial = kept.with_name(f"{os.getpid()}-{kept.name}")
    np.save(partial, block)
    partial.replace(kept)
    return block


@njit(**SMALL)
def _plane_at(block, base, row, column):
    i = min(int(row), COSINES - 2)
    j = min(int(column), ROUGHNESSES - 2)
    x, y = row - f32(i), column - f32(j)
    corner = base + j * COSINES + i
    low = load_f32(block, corner) * (f32(1.0) - x) + load_f32(block, corner + 1) * x
    high = load_f32(block, corner + COSINES) * (f32(1.0) - x) + load_f32(block, corner + COSINES + 1) * x
    return low * (f32(1.0) - y) + high * y


@njit(**SMALL)
def look_up_mirror(block, cosine, roughness):
    """Albedo of a perfect mirror of this roughness."""
    return _plane_at(block, MIRROR, cosine * f32(COSINES - 1), roughness * f32(ROUGHNESSES - 1))


@njit(**EXACT)
def width_towards(v, alpha_x, alpha_y):
    """Alpha [-] of an anisotropic lobe in the azimuth of `v` (Heitz 2014, equation 80)."""
    level = max(v[0] * v[0] + v[1] * v[1], f32(1e-12))
    x, y = v[0] * alpha_x, v[1] * alpha_y
    return f32(np.sqrt((x * x + y * y) / level))


@njit(**EXACT)
def look_up_anisotropic(block, across, cosine, roughness, alpha_x, alpha_y):
    """Albedo of a perfect anisotropic mirror that is `across` wide towards the view; roughness as in `SURFACE`."""
    most, least = max(alpha_x, alpha_y), min(alpha_x, alpha_y)
    width = min(max((across - least) / (most - least), f32(0.0)), f32(1.0)) * f32(WIDTHS - 1)
    narrow = (f32(1.0) - f32(np.sqrt(least / most))) * f32(NARROWS - 1)
    n, w = min(int(narrow), NARROWS - 2), min(int(width), WIDTHS - 2)
    s, t = narrow - f32(n), width - f32(w)
    row, column = cosine * f32(COSINES - 1), min(roughness, f32(1.0)) * f32(ROUGHNESSES - 1)
    base = ANISOTROPIC + (n * WIDTHS + w) * _PLANE
    near = _plane_at(block, base, row, column)
    near += (_plane_at(block, base + _PLANE, row, column) - near) * t
    far = _plane_at(block, base + WIDTHS * _PLANE, row, column)
    far += (_plane_at(block, base + (WIDTHS + 1) * _PLANE, row, column) - far) * t
    return near + (far - near) * s


@njit(**SMALL)
def look_up_fuzz(block, cosine, roughness):
    """Albedo of white fuzz of this roughness."""
    return _plane_at(block, FUZZ, cosine * f32(COSINES - 1), roughness * f32(ROUGHNESSES - 1))


@njit(**SMALL)
def look_up_volume(block, base, cosine, roughness, eta):
    """Interpolate one of the three volumes; eta > 1 is n_dense / n_thin, whichever side wo is on."""
    s = (eta - f32(1.0)) / (eta + f32(1.0))
    depth = min(max(s, f32(0.0)) * f32((INDICES - 1) / LARGEST_S), f32(INDICES - 1))
    k = min(int(depth), INDICES - 2)
    t = depth - f32(k)
    row, column = cosine * f32(COSINES - 1), roughness * f32(ROUGHNESSES - 1)
    near = _plane_at(block, base + k * _PLANE, row, column)
    far = _plane_at(block, base + (k + 1) * _PLANE, row, column)
    return near + (far - near) * t
