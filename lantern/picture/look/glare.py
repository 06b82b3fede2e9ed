"""Glare: what an aperture makes of a point of light, its Fraunhofer diffraction in all wavelengths.

The picture of a distant point is the squared magnitude of the Fourier transform of the aperture, larger in proportion
to the wavelength (Goodman, "Introduction to Fourier Optics", 2017, 4.4). For a round one it is Airy's: the first dark
ring lies where the reduced angle is 3.8317. How large that ring is in the picture is told, since most lenses' rings
are too small to be seen.
"""

from functools import lru_cache, partial

import numpy as np
from numba import njit
from numpy import float32 as f32
from scipy import fft, ndimage

from lantern.kernel.vectors import EXACT
from lantern.picture.look.aperture import ACROSS, Aperture, from_image, transmittance
from lantern.picture.look.colours import GREEN, wavelengths, weights
from lantern.picture.strips import in_strips

PADDED = 4 * ACROSS
AIRY = 1.21967
"""First zero of J1, over π: the first dark ring in units of wavelength × f-number."""
RING = AIRY * PADDED / ACROSS
"""Pixels from the middle to the first dark ring of a round opening, in `diffraction`."""


def diffraction(opening: np.ndarray) -> np.ndarray:
    """(PADDED, PADDED) float32 of one wavelength about its pixel (PADDED/2, PADDED/2), of sum 1.

    `opening` is the (ACROSS, ACROSS) transmittance of an aperture.
    """
    padded = np.zeros((PADDED, PADDED), np.float32)
    padded[:ACROSS, :ACROSS] = opening
    field = fft.fftshift(fft.fft2(padded, workers=-1))
    spread = field.real**2 + field.imag**2
    return np.asarray(spread / spread.sum(dtype=np.float64), np.float32)


class Pattern:
    """The diffraction of one aperture, in ever coarser means for when many of its pixels fall on one of the picture."""

    def __init__(self, opening: np.ndarray) -> None:
        self._levels = [diffraction(opening)]
        while self._levels[-1].shape[0] > 64:
            fine = self._levels[-1]
            # The middle stays the middle of a pixel: a mean over three with weights 1, 2, 1.
            soft = ndimage.convolve1d(ndimage.convolve1d(fine, [0.25, 0.5, 0.25], axis=0), [0.25, 0.5, 0.25], axis=1)
            self._levels.append(soft[::2, ::2])

    def kernel(self, ring: float, size: tuple[int, int]) -> np.ndarray:
        """(h, w, 3) float32 about pixel (0, 0), each channel of sum 1; green's first dark ring is at `ring` pixels."""
        kernel = np.zeros((*size, 3), np.float32)
        for nanometres, color in zip(wavelengths(), weights(), strict=True):
            seen = self._of(RING / max(ring, 1e-3) * GREEN / nanometres, size)
            share = color / max(float(seen.sum(dtype=np.float64)), 1e-30)
            in_strips(*size, partial(_add_colored, seen, share.astype(np.float32), kernel))
        return np.asarray(kernel / kernel.sum(axis=(0, 1), dtype=np.float64), np.float32)

    def _of(self, step: float, size: tuple[int, int]) -> np.ndarray:
        """(h, w) of the pattern, of which `step` pixels go to one of the picture."""
        level = min(max(int(np.log2(max(step, 1.0)) + 0.5), 0), len(self._levels) - 1)
        seen = np.empty(size, np.float32)
        in_strips(*size, partial(_read, self._levels[level], np.float32(step / 2**level), seen))
        return seen


@njit(**EXACT, cache=True)
def _read(pattern, step, seen, begin, end):
    """Fill rows [begin, end) of `seen` (h, w) about pixel (0, 0) from a pattern about its middle, black outside."""
    height, width = seen.shape
    side = pattern.shape[0]
    middle = f32(side // 2)
    for row in range(begin, end):
        y = middle + f32(row if row < (height + 1) // 2 else row - height) * step
        for column in range(width):
            x = middle + f32(column if column < (width + 1) // 2 else column - width) * step
            if y < f32(0.0) or x < f32(0.0) or y >= f32(side - 1) or x >= f32(side - 1):
                seen[row, column] = f32(0.0)
                continue
            above, left = int(y), int(x)
            v, u = y - f32(above), x - f32(left)
            upper = pattern[above, left] * (f32(1.0) - u) + pattern[above, left + 1] * u
            lower = pattern[above + 1, left] * (f32(1.0) - u) + pattern[above + 1, left + 1] * u
            seen[row, column] = upper * (f32(1.0) - v) + lower * v


@njit(**EXACT, cache=True)
def _add_colored(seen, color, kernel, begin, end):
    """Add rows [begin, end) of a plane (h, w) in a colour to `kernel` (h, w, 3)."""
    for row in range(begin, end):
        for column in range(seen.shape[1]):
            for channel in range(3):
                kernel[row, column, channel] += seen[row, column] * color[channel]


@lru_cache(maxsize=4)
def pattern_of(aperture: Aperture) -> Pattern:
    """The pattern of blades, scratches and dust."""
    return Pattern(transmittance(aperture))


@lru_cache(maxsize=2)
def _pattern_of_bytes(opening: bytes) -> Pattern:
    return Pattern(np.frombuffer(opening, np.float32).reshape(ACROSS, ACROSS))


def pattern_of_image(pixels: np.ndarray) -> Pattern:
    """The pattern of an image of an aperture. Raises ValueError as `from_image`."""
    return _pattern_of_bytes(from_image(pixels).tobytes())
