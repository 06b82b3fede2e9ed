"""Thin-film interference: the reflectance of a coated boundary as a table over the angle, summed over the spectrum.

In: film thickness and index, the material under it. Out: rows of RGB that kernels interpolate. The sum over
wavelengths is done here once for a material and not for each ray, so it can be the exact one.
Airy's sum for one layer: Born & Wolf, "Principles of Optics", section 1.6.4, equation 57. Interference colours
by the observer's matching functions, as in Belcour & Barla, "A Practical Extension to Microfacet Theory for
the Modeling of Varying Iridescence", SIGGRAPH 2017, whose Fourier-space fit this avoids.
"""

import math

import numpy as np
from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import load_f32
from lantern.kernel.spectrum import reflectance_weights
from lantern.kernel.vectors import SMALL
from lantern.surface.fresnel import fresnel_metal_exact

ANGLES, LEVELS = 64, 17
_PLANE = ANGLES * 3
METAL = _PLANE
"""Offset within a row of the planes over metals; before them is the plane over the dielectric base."""
FILM_WIDTH = _PLANE * (1 + LEVELS)
WAVELENGTHS = np.arange(380.0, 781.0, 4.0)
METAL_LEVELS = np.linspace(0.0, 1.0, LEVELS) ** 2
"""Reflectances at normal incidence of the bare metals that a plane each is for: a map's base colour differs from place
to place. Squares, because amplitudes are roots."""


def _amplitudes(cos_1: np.ndarray, cos_2: np.ndarray, n1: float, n2: float) -> tuple[np.ndarray, np.ndarray]:
    """Fresnel's amplitude coefficients (s, p) from medium 1 to 2; cosines may be complex beyond total reflection."""
    s = (n1 * cos_1 - n2 * cos_2) / (n1 * cos_1 + n2 * cos_2)
    p = (n2 * cos_1 - n1 * cos_2) / (n2 * cos_1 + n1 * cos_2)
    return s, p


def airy(first: np.ndarray, second: np.ndarray, turn: np.ndarray) -> np.ndarray:
    """Reflectance of two boundaries of amplitudes `first` and `second`; `turn` is exp(iφ) of a round trip between."""
    turned = second * turn
    return np.asarray(np.abs((first + turned) / (1 + first * turned)) ** 2)


def film_spectrum(
    cosine: float | np.ndarray, thickness: float, film: float, base: float, wavelengths: np.ndarray
) -> np.ndarray:
    """Unpolarised reflectance (n,) over a dielectric of index `base`; `thickness` and wavelengths in nm.

    A column (k, 1) of cosines gives (k, n).
    """
    cos_1 = np.asarray(cosine, complex)
    sine2 = 1 - cos_1**2
    cos_2, cos_3 = np.sqrt(1 - sine2 / film**2 + 0j), np.sqrt(1 - sine2 / base**2 + 0j)
    turn = np.exp(4j * np.pi * film * thickness * cos_2 / wavelengths)
    above, below = _amplitudes(cos_1, cos_2, 1.0, film), _amplitudes(cos_2, cos_3, film, base)
    return np.asarray(0.5 * sum(airy(a, b, turn) for a, b in zip(above, below, strict=True)))


def film_row(
    thickness: float, film: float, base: float, metal: np.ndarray | None, edge: np.ndarray, weight: float
) -> np.ndarray:
    """(FILM_WIDTH,) float32: reflectance over cos θ in [0, 1] for the dielectric base and for metals of METAL_LEVELS.

    `thickness` [nm], `film` and `base` indices relative to outside, `edge` RGB edge tint of the F82-tint metal.
    `metal` (3,) RGB is the one base colour that there is, for which all planes are made, or None when it differs from
    place to place. The lower boundary of a film on metal is the one that gives the bare metal's reflectance when the
    film's thickness goes to nothing, with the half-wave of a reflection at a denser medium. `weight` blends to bare.
    """
    cosines = np.maximum(np.linspace(0.0, 1.0, ANGLES), 1e-4)
    weights = reflectance_weights(WAVELENGTHS)
    wet = film_spectrum(cosines[:, None], thickness, film, base, WAVELENGTHS) @ weights
    bare = film_spectrum(cosines[:, None], 0.0, film, base, WAVELENGTHS[:1])
    over_glass = bare + (wet - bare) * weight
    cos_2 = np.sqrt(1 - (1 - cosines**2) / film**2 + 0j)
    turn = np.exp(4j * np.pi * film * thickness * cos_2[:, None] / WAVELENGTHS)
    above = _amplitudes(cosines.astype(complex), cos_2, 1.0, film)
    levels = np.broadcast_to(METAL_LEVELS[:, None], (LEVELS, 3)) if metal is None else np.asarray(metal)[None]
    over_metal = np.empty((LEVELS, ANGLES, 3))
    for c in range(3):
        dry = fresnel_metal_exact(cosines, levels[:, c, None], float(edge[c]))
        spectrum = np.zeros((len(levels), ANGLES, len(WAVELENGTHS)))
        for first, whole in zip(above, (-np.sqrt(dry), np.sqrt(dry)), strict=True):
            second = (whole - first) / (1 - whole * first)
            spectrum += 0.5 * airy(first[:, None], second[..., None], turn)
        over_metal[..., c] = dry + (spectrum @ weights[:, c] - dry) * weight
    return np.clip(np.concatenate([over_glass.ravel(), over_metal.ravel()]), 0.0, 1.0).astype(np.float32)


@njit(**SMALL)
def _place(cosine):
    """(lower angle, share of the upper) of |cos θ|."""
    x = min(max(cosine, f32(0.0)), f32(1.0)) * f32(ANGLES - 1)
    i = min(int(x), ANGLES - 2)
    return i, x - f32(i)


@njit(**SMALL)
def film_over_dielectric(films, row, cosine):
    """RGB reflectance of a film on the dielectric base at |cos θ| in the outer medium."""
    i, t = _place(cosine)
    at = row * FILM_WIDTH + i * 3
    s = f32(1.0) - t
    return (
        load_f32(films, at) * s + load_f32(films, at + 3) * t,
        load_f32(films, at + 1) * s + load_f32(films, at + 4) * t,
        load_f32(films, at + 2) * s + load_f32(films, at + 5) * t,
    )


@njit(**SMALL)
def _metal_channel(films, at, f0, t):
    level = math.sqrt(min(max(f0, f32(0.0)), f32(1.0))) * f32(LEVELS - 1)
    k = min(int(level), LEVELS - 2)
    low, high = at + k * _PLANE, at + (k + 1) * _PLANE
    near = load_f32(films, low) + (load_f32(films, low + 3) - load_f32(films, low)) * t
    far = load_f32(films, high) + (load_f32(films, high + 3) - load_f32(films, high)) * t
    # Linear in f0 itself: between two levels the reflectance is nearly so.
    a, b = f32(k) / f32(LEVELS - 1), f32(k + 1) / f32(LEVELS - 1)
    return near + (far - near) * (f0 - a * a) / (b * b - a * a)


@njit(**SMALL)
def film_over_metal(films, row, base, cosine):
    """RGB reflectance of a film on a metal of RGB `base` at normal incidence, at |cos θ| in the outer medium."""
    i, t = _place(cosine)
    at = row * FILM_WIDTH + METAL + i * 3
    return (
        _metal_channel(films, at, base[0], t),
        _metal_channel(films, at + 1, base[1], t),
        _metal_channel(films, at + 2, base[2], t),
    )
