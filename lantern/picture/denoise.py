"""Removing noise with Open Image Denoise, guided by albedo and normals."""

from typing import Literal

import numpy as np
import pyoidn

Quality = Literal["fast", "balanced", "high"]


def denoise_radiance(radiance: np.ndarray, albedo: np.ndarray, normal: np.ndarray, quality: Quality) -> np.ndarray:
    """Denoised copy of scene-linear (h, w, 3) float32 radiance; the guides have the same shape."""
    guide = np.clip(albedo, 0.0, 1.0).astype(np.float32)
    return np.asarray(
        pyoidn.denoise(radiance, guide, np.ascontiguousarray(normal, np.float32), hdr=True, quality=quality)
    )


def denoise_alpha(alpha: np.ndarray, quality: Quality) -> np.ndarray:
    """Denoised copy of (h, w) float32 coverage: shadows on the ground are noisy in alpha too."""
    stacked = np.repeat(alpha[..., None], 3, axis=2).astype(np.float32)
    return np.clip(np.asarray(pyoidn.denoise(stacked, hdr=False, quality=quality))[..., 0], 0.0, 1.0)
