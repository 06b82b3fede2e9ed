"""Decoding the images of an asset to 8-bit RGBA."""

import tempfile
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import OpenImageIO as oiio

from lantern.assets.accessors import AccessorReader
from lantern.assets.container import Container
from lantern.assets.errors import AssetError

MOST_TEXELS = 1 << 28
_WRAPS = {10497: 0, 33071: 1, 33648: 2}
_SUFFIXES = {b"\x89PNG": ".png", b"\xff\xd8\xff": ".jpg", b"RIFF": ".webp"}


@dataclass(frozen=True, eq=False)
class Texture:
    """One texture as stored: values are not decoded from sRGB."""

    texels: np.ndarray  # (h, w, 4) uint8
    wrap_u: int  # 0 repeat, 1 clamp, 2 mirror
    wrap_v: int


def decode_textures(container: Container, reader: AccessorReader) -> list[Texture]:
    """Every texture of the file, in its order; an image used twice is decoded once."""
    document = container.document
    images: dict[int, np.ndarray] = {}
    textures = []
    for number, texture in enumerate(document.textures or []):
        source = texture.source
        if not isinstance(source, int) or not 0 <= source < len(document.images or []):
            raise AssetError(container.name, f"texture {number} has no image that can be read")
        if source not in images:
            images[source] = _decode(container, reader, source)
        wraps = (10497, 10497)
        if texture.sampler is not None:
            if not 0 <= texture.sampler < len(document.samplers or []):
                raise AssetError(container.name, f"sampler {texture.sampler} is missing")
            sampler = document.samplers[texture.sampler]
            wraps = (sampler.wrapS or 10497, sampler.wrapT or 10497)
        textures.append(Texture(images[source], _WRAPS.get(wraps[0], 0), _WRAPS.get(wraps[1], 0)))
    total = sum(image.size // 4 for image in images.values())
    if total > MOST_TEXELS:
        raise AssetError(
            container.name, f"its textures have {total / 1e6:.0f} M texels; the limit is {MOST_TEXELS / 1e6:.0f} M"
        )
    return textures


def _decode(container: Container, reader: AccessorReader, number: int) -> np.ndarray:
    image = container.document.images[number]
    data = reader.view(image.bufferView) if image.bufferView is not None else container.read(image.uri or "")
    suffix = next((s for magic, s in _SUFFIXES.items() if data.startswith(magic)), None)
    if suffix is None:
        raise AssetError(container.name, f"image {number} is neither PNG, JPEG nor WebP")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"image{suffix}"
        path.write_bytes(data)
        buffer = oiio.ImageBuf(str(path))
        pixels = buffer.get_pixels(oiio.UINT8)
        if buffer.has_error or pixels is None or pixels.size == 0:
            raise AssetError(container.name, f"image {number} cannot be decoded ({buffer.geterror().strip()})")
    channels = pixels.shape[2]
    rgba = np.full((*pixels.shape[:2], 4), 255, np.uint8)
    if channels <= 2:
        rgba[..., :3] = pixels[..., :1]
    else:
        rgba[..., :3] = pixels[..., :3]
    if channels in (2, 4):
        rgba[..., 3] = pixels[..., -1]
    return rgba
