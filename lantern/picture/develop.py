"""Developing a film: which pixels a picture has once noise, background and look are decided.

In: means of a film as arrays. Out: scene-linear `Developed`, then display bytes. Called by the engine for the
proof and the print alike, so that they cannot differ.
"""

from dataclasses import dataclass

import numpy as np

from lantern.picture.denoise import GiveWay, Guides, Quality, denoise_alpha, denoise_radiance
from lantern.picture.look.pipeline import Finisher
from lantern.picture.look.surround import Surround
from lantern.scene.look import Look

_PLAIN_SURROUND = Surround()


@dataclass(frozen=True)
class Developed:
    """A picture before its look: scene-linear, alpha not premultiplied into light that shines through."""

    radiance: np.ndarray  # (h, w, 3) float32 cd/m², premultiplied when transparent
    alpha: np.ndarray  # (h, w) float32 [0, 1]


def develop(
    radiance: np.ndarray,
    alpha: np.ndarray,
    guides: Guides,
    *,
    denoise: Quality | None,
    transparent: bool,
    give_way: GiveWay | None = None,
    urgent: bool = False,
) -> Developed | None:
    """Denoise where asked. An opaque picture has alpha 1; a transparent film already holds no backdrop.

    None when `give_way` stopped the denoiser. `urgent` is a picture that somebody waits for.
    """
    if denoise is not None:
        clean = denoise_radiance(radiance, guides, denoise, give_way, urgent=urgent)
        if clean is None:
            return None
        radiance = clean
    if not transparent:
        return Developed(radiance, np.ones_like(alpha))
    return Developed(radiance, alpha if denoise is None else denoise_alpha(alpha, denoise))


def display_rgb(
    picture: Developed, look: Look, around: Surround = _PLAIN_SURROUND, finisher: Finisher | None = None
) -> np.ndarray:
    """(h, w, 3) uint8 of an opaque picture. A `finisher` remembers what can be used again. Raises TransformError."""
    return (finisher or Finisher()).bytes_of(picture.radiance, look, around)


def hdr_rgb(picture: Developed, look: Look, around: Surround = _PLAIN_SURROUND) -> np.ndarray:
    """(h, w, 3) uint16 of a picture in Rec. 2100 PQ; one without a backdrop stands before black."""
    return Finisher().hdr_of(picture.radiance, look, around)


def display_rgba(
    picture: Developed, look: Look, around: Surround = _PLAIN_SURROUND, *, deep: bool = False
) -> np.ndarray:
    """(h, w, 4) uint8, uint16 if `deep`; alpha not premultiplied as PNG wants it.

    The light is divided by the coverage first.
    """
    coverage = picture.alpha[..., None]
    straight = np.where(coverage > 1e-4, picture.radiance / np.maximum(coverage, 1e-4), 0.0).astype(np.float32)
    rgb = Finisher().deep_of(straight, look, around) if deep else Finisher().bytes_of(straight, look, around)
    white = np.iinfo(rgb.dtype).max
    return np.concatenate([rgb, (coverage * white + 0.5).astype(rgb.dtype)], axis=2)


def display_deep(picture: Developed, look: Look, around: Surround = _PLAIN_SURROUND) -> np.ndarray:
    """(h, w, 3) uint16 of an opaque picture."""
    return Finisher().deep_of(picture.radiance, look, around)
