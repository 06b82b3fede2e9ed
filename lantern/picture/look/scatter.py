"""Light that the lens spreads: bloom, glare, streaks and halo as point spread functions, and ghosts, on the grid.

In: an exposed picture, the look. Out: the picture with part of its bright light elsewhere; the sum stays but for what
leaves the frame. Called by `pipeline`. The light that spreads is convolved by its Fourier transform over twice the
frame, so that nothing comes back on the other side.
"""

from collections.abc import Callable, Sequence
from functools import lru_cache

import numpy as np
from scipy import fft

from lantern.picture.look.aperture import Aperture
from lantern.picture.look.bloom import bloom_kernel
from lantern.picture.look.bright import add_enlarged, calm, columns_of, take_bright
from lantern.picture.look.ghosts import ghosts_of
from lantern.picture.look.glare import pattern_of, pattern_of_image
from lantern.picture.look.grid import grid_size, shrunk
from lantern.picture.look.halo import halo_kernel
from lantern.picture.look.streaks import streak_kernel
from lantern.picture.look.surround import Surround
from lantern.picture.strips import in_strips
from lantern.scene.look import SCATTERING, Bloom, Ghosts, Glare, Halo, Look, Scattering, Streaks, effect_of

LONE = 2.0
"""How many times as bright as all around it a pixel of a noisy picture may be when its light spreads."""
Spectrum = tuple[np.ndarray, ...]
"""Fourier transform of each channel of a kernel; of one channel where all are alike."""


def scattered(picture: np.ndarray, look: Look, around: Surround) -> np.ndarray:
    """(h, w, 3) float32 with the light of bright places spread; the same array where nothing spreads any."""
    shares = _shares(look)
    if not shares:
        return picture
    height, width, _ = picture.shape
    size = grid_size(height, width)
    spread = np.zeros((3, *size), np.float32)
    bright, left = np.empty((3, height, width), np.float32), picture.copy()
    for above in sorted({effect.above for effect, _ in shares}):
        of_this = [(effect, share) for effect, share in shares if effect.above == above]
        told = np.float32(2.0**above), np.float32(sum(share for _, share in of_this))
        in_strips(height, width, lambda begin, end: take_bright(picture, *told, begin, end, left, bright))  # noqa: B023
        spread += _spread(shrunk(bright if around.clean else _calmed(bright), size), of_this, around)
    columns = columns_of(width, size[1])
    in_strips(height, width, lambda begin, end: add_enlarged(spread, *columns, begin, end, left))
    return left


def _calmed(bright: np.ndarray) -> np.ndarray:
    """Bright light without lone pixels: while there is noise they are lucky samples, and would become stars."""
    result = np.empty_like(bright)
    _, height, width = bright.shape
    in_strips(height, width, lambda begin, end: calm(bright, np.float32(LONE), begin, end, result))
    return result


def _shares(look: Look) -> list[tuple[Scattering, float]]:
    """What spreads light, and how much of it; together never more than there is."""
    names = (*SCATTERING, "ghosts")
    effects = [effect for name in names if isinstance(effect := effect_of(look, name), Scattering)]
    found = [(effect, effect.strength) for effect in effects if effect.strength > 0]
    total = sum(share for _, share in found)
    return [(effect, share / max(total, 1.0)) for effect, share in found]


def _spread(bright: np.ndarray, shares: Sequence[tuple[Scattering, float]], around: Surround) -> np.ndarray:
    """(3, h, w) on the grid of what spreads of the bright light."""
    _, height, width = bright.shape
    padded = fft.next_fast_len(2 * height, real=True), fft.next_fast_len(2 * width, real=True)
    kernels = [
        (_spectrum(effect, padded, height, around), share) for effect, share in shares if not isinstance(effect, Ghosts)
    ]
    found = np.zeros_like(bright)
    for c in range(3 if kernels else 0):
        transform = fft.rfft2(bright[c], padded, workers=-1)
        total = sum(spectrum[c % len(spectrum)] * np.float32(share) for spectrum, share in kernels)
        found[c] = fft.irfft2(transform * total, padded, workers=-1)[:height, :width]
    # Rounding of the transform leaves a millionth of the brightest light, of either sign, where there is none.
    np.maximum(found, 0, out=found)
    for effect, share in shares:
        if isinstance(effect, Ghosts):
            found += ghosts_of(bright, effect) * np.float32(share)
    return found


_KERNELS: dict[type[Scattering], Callable[..., np.ndarray]] = {
    Bloom: bloom_kernel,
    Streaks: streak_kernel,
    Halo: halo_kernel,
}


def _spectrum(effect: Scattering, size: tuple[int, int], height: int, around: Surround) -> Spectrum:
    shape = effect.model_copy(update={"enabled": True, "amount": 1.0, "above": 0.0})
    if not isinstance(shape, Glare):
        return _plain_spectrum(shape, size, height)
    if shape.image is not None and (image := around.images.get(shape.image.sha256)) is not None:
        return _transformed(pattern_of_image(image).kernel(shape.ring / 100 * height, size))
    return _glare_spectrum(_aperture(shape, around), shape.ring, size, height)


@lru_cache(maxsize=6)
def _plain_spectrum(effect: Scattering, size: tuple[int, int], height: int) -> Spectrum:
    return _transformed(_KERNELS[type(effect)](effect, size, height))


@lru_cache(maxsize=3)
def _glare_spectrum(aperture: Aperture, ring: float, size: tuple[int, int], height: int) -> Spectrum:
    return _transformed(pattern_of(aperture).kernel(ring / 100 * height, size))


def _transformed(kernel: np.ndarray) -> Spectrum:
    return tuple(fft.rfft2(kernel[..., c], workers=-1) for c in range(kernel.shape[-1]))


def _aperture(glare: Glare, around: Surround) -> Aperture:
    lens = around.aperture
    if glare.blades is not None:
        lens = Aperture(glare.blades, glare.roundness, glare.turn)
    return Aperture(lens.blades, lens.roundness, lens.turn, glare.scratches, glare.dust, glare.seed)
