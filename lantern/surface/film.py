"""Thin-film interference: the reflectance of a coated boundary as a table over the angle, summed over the spectrum.

In: film thickness and index, the material under it. Out: rows of RGB that kernels interpolate. The sum over
wavelengths is done here once for a material and not for each ray, so it can be the exact one.
Airy's sum for one layer: Born & Wolf, "Principles of Optics", section 1.6.4, equation 57. Interference colours
by the observer's matching functions, as in Belcour & Barla, "A Practical Extension to Microfacet Theory for
the Modeling of Varying Iridescence", SIGGRAPH 2017, whose Fourier-space fit this avoids.
"""

import numpy as np
from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import load_f32
from lantern.kernel.spectrum import reflectance_weights
from lantern.kernel.vectors import SMALL

ANGLES = 64
DIELECTRIC, METAL = 0, ANGLES * 3
"""Offsets of the two halves of a row: over the dielectric base, over the metal base."""
FILM_WIDTH = 2 * ANGLES * 3
WAVELENGTHS = np.arange(380.0, 781.0, 2.0)


def _amplitudes(cos_1: np.ndarray, cos_2: np.ndarray, n1: float, n2: float) -> tuple[np.ndarray, np.ndarray]:
    """Fresnel's amplitude coefficients (s, p) from medium 1 to 2; cosines may be complex beyond total reflection."""
    s = (n1 * cos_1 - n2 * cos_2) / (n1 * cos_1 + n2 * cos_2)
    p = (n2 * cos_1 - n1 * cos_2) / (n2 * cos_1 + n1 * cos_2)
    return s, p


def airy(first: np.ndarray, second: np.ndarray, phase: np.ndarray) -> np.ndarray:
    """Reflectance of two boundaries of amplitudes `first` and `second` with a round-trip `phase` [rad] between."""
    turned = second * np.exp(1j * phase)
    return np.asarray(np.abs((first + turned) / (1 + first * turned)) ** 2)


def film_spectrum(cosine: float, thickness: float, film: float, base: float, wavelengths: np.ndarray) -> np.ndarray:
    """Unpolarised reflectance (n,) over a dielectric of index `base`; `thickness` and wavelengths in nm."""
    cos_1 = np.array(complex(cosine))
    sine2 = 1 - cos_1**2
    cos_2, cos_3 = np.sqrt(1 - sine2 / film**2 + 0j), np.sqrt(1 - sine2 / base**2 + 0j)
    phase = 4 * np.pi * film * thickness * cos_2 / wavelengths
    above, below = _amplitudes(cos_1, cos_2, 1.0, film), _amplitudes(cos_2, cos_3, film, base)
    return np.asarray(0.5 * sum(airy(a, b, phase) for a, b in zip(above, below, strict=True)))


def film_row(
    thickness: float, film: float, base: float, metal: np.ndarray, edge: np.ndarray, weight: float
) -> np.ndarray:
    """(FILM_WIDTH,) float32: reflectance over cos θ in [0, 1] for the dielectric base and for the metal base.

    `thickness` [nm], `film` and `base` indices relative to outside, `metal` and `edge` RGB of the F82-tint metal.
    The lower boundary of a film on metal is the one that gives the bare metal's reflectance when the film's
    thickness goes to nothing, with the half-wave of a reflection at a denser medium. `weight` blends to bare.
    """
    cosines = np.linspace(0.0, 1.0, ANGLES)
    weights = reflectance_weights(WAVELENGTHS)
    over_glass, over_metal = np.empty((ANGLES, 3)), np.empty((ANGLES, 3))
    for i, cosine in enumerate(np.maximum(cosines, 1e-4)):
        wet = film_spectrum(cosine, thickness, film, base, WAVELENGTHS) @ weights
        bare = film_spectrum(cosine, 0.0, film, base, WAVELENGTHS[:1])
        over_glass[i] = bare + (wet - bare) * weight
        cos_2 = np.sqrt(complex(1 - (1 - cosine**2) / film**2))
        above = _amplitudes(np.array(complex(cosine)), np.array(cos_2), 1.0, film)
        phase = 4 * np.pi * film * thickness * cos_2 / WAVELENGTHS
        for c in range(3):
            dry = _metal(cosine, metal[c], edge[c])
            whole = (-np.sqrt(dry), np.sqrt(dry))
            below = [(w - a) / (1 - w * a) for w, a in zip(whole, above, strict=True)]
            spectrum = 0.5 * sum(airy(a, b, phase) for a, b in zip(above, below, strict=True))
            over_metal[i, c] = dry + (spectrum @ weights[:, c] - dry) * weight
    row = np.clip(np.concatenate([over_glass.ravel(), over_metal.ravel()]), 0.0, 1.0)
    return row.astype(np.float32)


def _metal(cosine: float, f0: float, edge: float) -> float:
    """F82-tint reflectance of one channel in double precision (OpenPBR 1.1, section 3.6.2)."""
    c82 = 1 / 7
    schlick = f0 + (1 - f0) * (1 - cosine) ** 5
    dip = (f0 + (1 - f0) * (1 - c82) ** 5) * (1 - edge) / (c82 * (1 - c82) ** 6)
    return float(min(max(schlick - dip * cosine * (1 - cosine) ** 6, 0.0), 1.0))


@njit(**SMALL)
def film_reflectance(films, row, half, cosine):
    """RGB reflectance of a film row at |cos θ| in the outer medium; `half` is DIELECTRIC or METAL."""
    x = min(max(cosine, f32(0.0)), f32(1.0)) * f32(ANGLES - 1)
    i = min(int(x), ANGLES - 2)
    t = x - f32(i)
    at = row * FILM_WIDTH + half + i * 3
    s = f32(1.0) - t
    return (
        load_f32(films, at) * s + load_f32(films, at + 3) * t,
        load_f32(films, at + 1) * s + load_f32(films, at + 4) * t,
        load_f32(films, at + 2) * s + load_f32(films, at + 5) * t,
    )
