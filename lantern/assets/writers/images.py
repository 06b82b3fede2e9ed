"""Images of an asset as PNG.

In: texels as they are kept. Out: the bytes of a file, and what it could not say. Called by the writers of formats.
"""

import io

import numpy as np
from PIL import Image

from lantern.assets.packing import as_bytes

_MODES = {1: "L", 2: "LA", 3: "RGB", 4: "RGBA"}


def png_of(texels: np.ndarray, lost: list[str]) -> bytes:
    """A PNG of (h, w, channels); what is lost of it is added to `lost`."""
    said = f"an image of {texels.dtype} is written with 8 bits a channel"
    if texels.dtype != np.uint8 and said not in lost:
        lost.append(said)
    stored = as_bytes(texels)
    packed = io.BytesIO()
    plain = stored[..., 0] if stored.shape[2] == 1 else stored
    Image.fromarray(plain, _MODES[stored.shape[2]]).save(packed, "PNG")
    return packed.getvalue()
