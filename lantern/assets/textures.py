"""Decoding the images of an asset: values as they are stored, neither premultiplied nor cut to fewer bits."""

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
_NEAREST = (9728, 9984, 9986)
"""`magFilter` or, where that is not said, `minFilter` of a sampler that does not blend texels."""
_SUFFIXES = {b"\x89PNG": ".png", b"\xff\xd8\xff": ".jpg", b"RIFF": ".webp"}
_KEPT = {"uint8": oiio.UINT8, "uint16": oiio.UINT16, "half": oiio.HALF, "float": oiio.FLOAT}


@dataclass(frozen=True, eq=False)
class Texture:
    """One texture as stored: values are not decoded from sRGB, alpha is not multiplied in."""

    texels: np.ndarray  # (h, w, channels) uint8, uint16, float16 or float32, C-contiguous; 1 to 4 channels
    wrap_u: int  # 0 repeat, 1 clamp, 2 mirror
    wrap_v: int
    nearest: bool = False  # texels are not blended


def decode_textures(container: Container, reader: AccessorReader) -> list[Texture]:
    """Every texture of the file, in its order; an image used twice is decoded once."""
    document = container.document
    images: dict[int, np.ndarray] = {}
    textures, total = [], 0
    for number, texture in enumerate(document.textures or []):
        source = texture.source
        if not isinstance(source, int) or not 0 <= source < len(document.images or []):
            raise AssetError(container.name, f"texture {number} has no image that can be read")
        if source not in images:
            images[source] = _decode(container, reader, source, MOST_TEXELS - total)
            total += images[source].shape[0] * images[source].shape[1]
        textures.append(_sampled(container, images[source], texture.sampler))
    return textures


def _sampled(container: Container, texels: np.ndarray, number: int | None) -> Texture:
    """An image as a sampler of the file reads it."""
    if number is None:
        return Texture(texels, 0, 0)
    if not 0 <= number < len(container.document.samplers or []):
        raise AssetError(container.name, f"sampler {number} is missing")
    sampler = container.document.samplers[number]
    nearest = (sampler.magFilter or sampler.minFilter) in _NEAREST
    return Texture(texels, _WRAPS.get(sampler.wrapS, 0), _WRAPS.get(sampler.wrapT, 0), nearest)


def _decode(container: Container, reader: AccessorReader, number: int, room: int) -> np.ndarray:
    image = container.document.images[number]
    data = reader.view(image.bufferView) if image.bufferView is not None else container.read(image.uri or "")
    suffix = next((s for magic, s in _SUFFIXES.items() if data.startswith(magic)), None)
    if suffix is None:
        raise AssetError(container.name, f"image {number} is neither PNG, JPEG nor WebP")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"image{suffix}"
        path.write_bytes(data)
        return _read(container.name, path, number, room)


def _read(name: str, path: Path, number: int, room: int) -> np.ndarray:
    """(h, w, 1 to 4) of an image file with at most `room` texels; bytes with colour always have four channels."""
    wanted = oiio.ImageSpec()
    wanted.attribute("oiio:UnassociatedAlpha", 1)
    source = oiio.ImageInput.open(str(path), wanted)
    if source is None:
        raise AssetError(name, f"image {number} cannot be decoded ({oiio.geterror().strip()})")
    try:
        spec = source.spec()
        if spec.width * spec.height > room:
            raise AssetError(
                name,
                f"image {number} has {spec.width}x{spec.height} texels; all images may have {MOST_TEXELS / 1e6:.0f} M",
            )
        pixels = source.read_image(0, 0, 0, min(spec.nchannels, 4), _KEPT.get(str(spec.format), oiio.FLOAT))
        if pixels is None or pixels.size == 0:
            raise AssetError(name, f"image {number} cannot be decoded ({source.geterror().strip()})")
    finally:
        source.close()
    if pixels.dtype == np.uint8 and pixels.shape[2] == 3:
        # Four bytes are read at once.
        pixels = np.concatenate([pixels, np.full((*pixels.shape[:2], 1), 255, np.uint8)], axis=2)
    return np.ascontiguousarray(pixels)
