"""Which colours of a picture a press cannot print, by its ICC profile.

In: display values, a profile. Out: a mask. Called by the marks of the live view. Colours are compared by the profile's
own tables, relatively colorimetric, as a proof on paper is (ISO 15076-1, section 6.2).
"""

import struct
from functools import lru_cache
from pathlib import Path

import numpy as np
from PIL import Image, ImageCms

from lantern.color import encode_srgb
from lantern.picture.display import TransformError, light_of_display

_SPACES = {"RGB", "CMYK", "GRAY"}
_CLASSES = {b"prtr", b"mntr", b"spac"}
_HEADER_BYTES = 128
_FLAGS, _RELATIVE = ImageCms.Flags, ImageCms.Intent.RELATIVE_COLORIMETRIC
BEYOND = 0.01
"""Of white: how far a colour of another display may lie beyond sRGB."""


def check_profile(path: Path) -> None:
    """Raises TransformError when a file is no profile by which something can be printed."""
    _proofs(path)


def beyond_press(picture: np.ndarray, encoding: str, path: Path) -> np.ndarray:
    """(h, w) whether a press has no ink for a pixel of (h, w, 3) uint8 display values. Raises TransformError."""
    # What is beyond sRGB already is taken for beyond the press: no paper reflects it.
    image, outside = picture, np.zeros(picture.shape[:2], bool)
    if encoding == "p3":
        image, outside = _as_srgb(picture)
    checked, plain = (np.asarray(ImageCms.applyTransform(Image.fromarray(image), proof)) for proof in _proofs(path))
    return np.asarray((checked != plain).any(axis=-1) | outside)


def _as_srgb(picture: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(sRGB bytes of Display P3 ones, which of them are beyond it)."""
    srgb = light_of_display(picture, "p3")
    outside = (srgb.min(axis=-1) < -BEYOND) | (srgb.max(axis=-1) > 1 + BEYOND)
    return (encode_srgb(np.clip(srgb, 0, 1)) * 255 + 0.5).astype(np.uint8), outside


@lru_cache(maxsize=4)
def _proofs(path: Path) -> tuple[ImageCms.ImageCmsTransform, ImageCms.ImageCmsTransform]:
    """Two proofs of sRGB, of which the first has another colour where the press has none."""
    head = path.open("rb").read(_HEADER_BYTES)
    if len(head) < _HEADER_BYTES or head[36:40] != b"acsp":
        raise TransformError("is no ICC profile")
    kind, space = head[12:16], head[16:20].decode("latin-1").strip()
    if kind not in _CLASSES or space not in _SPACES:
        raise TransformError(f"is a profile of {space or 'nothing'} by which nothing is printed")
    if struct.unpack(">I", head[:4])[0] > path.stat().st_size:
        raise TransformError("is a profile that ends too early")
    try:
        screen, press = ImageCms.createProfile("sRGB"), ImageCms.getOpenProfile(str(path))
        flags = (_FLAGS.SOFTPROOFING | _FLAGS.GAMUTCHECK, _FLAGS.SOFTPROOFING)
        checked, plain = (
            ImageCms.buildProofTransform(screen, screen, press, "RGB", "RGB", _RELATIVE, _RELATIVE, flag)
            for flag in flags
        )
    except (ImageCms.PyCMSError, OSError) as error:
        raise TransformError(f"is a profile that cannot be used: {error}") from error
    return checked, plain
