"""The environment map blurred by the lobes of rough mirrors, for the draft.

In: (h, w, 3) float32 linear radiance. Out: levels of growing roughness, each what a mirror of that roughness would
reflect if it were looked at along its normal. Called by `compile.compiled` when a draft is first wanted.
Heidrich & Seidel, "Realistic, Hardware-Accelerated Shading and Lighting", SIGGRAPH 1999, section 4.
"""

import math
from functools import cache

import numpy as np

ROWS, COLUMNS = 64, 128
ROUGHNESSES = (0.2, 0.4, 0.6, 0.8, 1.0)
"""Of the levels; smoother mirrors read the map itself."""


@cache
def _spectra(roughness: float) -> np.ndarray:
    """(ROWS, ROWS, COLUMNS // 2 + 1) Fourier transform over the azimuth of the weights of row j for row i."""
    alpha2 = roughness**4
    theta = (np.arange(ROWS) + 0.5) / ROWS * math.pi
    turn = np.arange(COLUMNS) / COLUMNS * 2 * math.pi
    sine, cosine = np.sin(theta), np.cos(theta)
    between = sine[:, None, None] * sine[None, :, None] * np.cos(turn) + (cosine[:, None] * cosine)[..., None]
    half = np.sqrt(np.clip((1 + between) / 2, 0.0, 1.0))  # cosine of the half vector: n = v
    density = alpha2 / (math.pi * (half**2 * (alpha2 - 1) + 1) ** 2)
    weights = density * np.maximum(between, 0.0) * sine[None, :, None]
    weights /= weights.sum(axis=(1, 2), keepdims=True)
    return np.fft.rfft(weights, axis=2)


def _shrunk(pixels: np.ndarray) -> np.ndarray:
    """Mean radiance over the cells of a (ROWS, COLUMNS) grid."""
    height, width = pixels.shape[:2]
    rows = np.minimum((np.arange(max(height, ROWS)) + 0.5) / max(height, ROWS) * height, height - 1).astype(int)
    columns = np.minimum((np.arange(max(width, COLUMNS)) + 0.5) / max(width, COLUMNS) * width, width - 1).astype(int)
    full = pixels[rows][:, columns].astype(np.float64)
    row_edges = np.arange(ROWS) * full.shape[0] // ROWS
    column_edges = np.arange(COLUMNS) * full.shape[1] // COLUMNS
    sums = np.add.reduceat(np.add.reduceat(full, row_edges, 0), column_edges, 1)
    counts = np.outer(np.diff(np.append(row_edges, full.shape[0])), np.diff(np.append(column_edges, full.shape[1])))
    return np.asarray(sums / counts[..., None])


def prefiltered(pixels: np.ndarray) -> np.ndarray:
    """(len(ROUGHNESSES), ROWS, COLUMNS, 3) float32 of a latitude-longitude map."""
    spectrum = np.fft.rfft(_shrunk(pixels), axis=1)
    levels = []
    for roughness in ROUGHNESSES:
        # Weights are even in the azimuth, so the correlation is a convolution.
        blurred = np.einsum("ijk,jkc->ikc", _spectra(roughness), spectrum)
        levels.append(np.fft.irfft(blurred, COLUMNS, axis=1))
    return np.ascontiguousarray(np.maximum(np.stack(levels), 0.0), np.float32)
