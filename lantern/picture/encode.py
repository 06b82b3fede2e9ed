"""Pictures as bytes for the wire: JPEG while refining, PNG when every value counts."""

import io

import numpy as np
from PIL import Image

JPEG_QUALITY = 88


def encode_jpeg(rgb: np.ndarray) -> bytes:
    """JPEG of (h, w, 3) uint8 with full colour resolution."""
    target = io.BytesIO()
    Image.fromarray(rgb).save(target, "JPEG", quality=JPEG_QUALITY, subsampling=0)
    return target.getvalue()


def encode_png(rgb: np.ndarray) -> bytes:
    """Lossless PNG of (h, w, 3 or 4) uint8, fast rather than small."""
    target = io.BytesIO()
    Image.fromarray(rgb).save(target, "PNG", compress_level=1)
    return target.getvalue()


def encode_drawing(texels: np.ndarray, most: int) -> bytes:
    """PNG, clear where the drawing is, of (h, w, 1 to 4) texels of any depth, at most so many pixels a side."""
    if texels.dtype != np.uint8:
        whole = np.iinfo(texels.dtype).max if np.issubdtype(texels.dtype, np.integer) else 1
        texels = (np.clip(texels.astype(np.float32) / whole, 0, 1) * 255 + 0.5).astype(np.uint8)
    channels = texels.shape[2]
    color = np.repeat(texels[..., :1], 3, axis=2) if channels < 3 else texels[..., :3]
    clear = texels[..., -1:] if channels in (2, 4) else np.full_like(texels[..., :1], 255)
    image = Image.fromarray(np.ascontiguousarray(np.concatenate([color, clear], axis=2)))
    image.thumbnail((most, most), Image.Resampling.LANCZOS)
    target = io.BytesIO()
    image.save(target, "PNG", compress_level=1)
    return target.getvalue()


def shrunk(rgb: np.ndarray, width: int, height: int) -> np.ndarray:
    """(height, width, 3) uint8 of (h, w, 3) uint8, each pixel the mean of what it covers."""
    return np.asarray(Image.fromarray(rgb).resize((width, height), Image.Resampling.BOX))


def block_means(values: np.ndarray, side: int) -> np.ndarray:
    """(h // side, w // side, 3) float32 means of square blocks of scene-linear (h, w, 3) float32; rests are left out.

    Light is averaged before the look is applied, as a lens would.
    """
    height, width = values.shape[0] // side, values.shape[1] // side
    cropped = values[: height * side, : width * side]
    # Whole rows first: they lie side by side in memory.
    bands = cropped[::side].copy()
    for row in range(1, side):
        bands += cropped[row::side]
    total = bands[:, ::side].copy()
    for column in range(1, side):
        total += bands[:, column::side]
    total /= np.float32(side * side)
    return total
