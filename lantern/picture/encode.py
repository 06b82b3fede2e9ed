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


def shrunk(rgb: np.ndarray, width: int, height: int) -> np.ndarray:
    """(height, width, 3) uint8 of (h, w, 3) uint8, each pixel the mean of what it covers."""
    return np.asarray(Image.fromarray(rgb).resize((width, height), Image.Resampling.BOX))
