"""Textures of a glTF file (glTF 2.0, section 3.8; `EXT_texture_webp`, `KHR_texture_basisu`).

In: an opened file. Out: its textures in their order. Called by `asset`.
"""

from functools import partial
from typing import Any

import numpy as np
import opengl_basisu

from lantern.assets.images import ImageProblem, ImageStore, Room, decode_image
from lantern.assets.readers.gltf.accessors import AccessorReader
from lantern.assets.readers.gltf.container import Container
from lantern.assets.readers.gltf.document import Entry
from lantern.assets.textures import CLAMP, MIRROR, REPEAT, Texture

_WRAPS = {10497: REPEAT, 33071: CLAMP, 33648: MIRROR}
_NEAREST = (9728, 9984, 9986)
"""`magFilter` or, where that is not said, `minFilter` of a sampler that does not blend texels."""
_OTHER_IMAGES = ("KHR_texture_basisu", "EXT_texture_webp")
"""Extensions of a texture that name an image, which counts before its own."""


def decode_textures(container: Container, reader: AccessorReader) -> list[Texture]:
    """Every texture of the file, in its order; an image used twice is decoded once. Raises AssetError."""
    document, decode = container.document, partial(_decode, container, reader)
    sources = [_image_of(texture) for texture in document.textures or []]
    for number, source in enumerate(sources):
        if not isinstance(source, int) or not 0 <= source < len(document.images or []):
            raise reader.fail(f"texture {number} has no image that can be read")
    store = ImageStore()
    store.fill(sources, decode)
    pairs = zip(sources, document.textures or [], strict=True)
    return [_sampled(container, reader, store[source], texture.sampler) for source, texture in pairs]


def _image_of(texture: Entry) -> Any:
    for name in _OTHER_IMAGES:
        values = (texture.extensions or {}).get(name)
        if isinstance(values, dict) and "source" in values:
            return values["source"]
    return texture.source


def _sampled(container: Container, reader: AccessorReader, texels: np.ndarray, number: int | None) -> Texture:
    """An image as a sampler of the file reads it."""
    if number is None:
        return Texture(texels, REPEAT, REPEAT)
    if not 0 <= number < len(container.document.samplers or []):
        raise reader.fail(f"sampler {number} is missing")
    sampler = container.document.samplers[number]
    nearest = (sampler.magFilter or sampler.minFilter) in _NEAREST
    return Texture(texels, _WRAPS.get(sampler.wrapS, REPEAT), _WRAPS.get(sampler.wrapT, REPEAT), nearest)


def _decode(container: Container, reader: AccessorReader, number: int, room: Room) -> np.ndarray:
    image = container.document.images[number]
    data = reader.view(image.bufferView) if image.bufferView is not None else container.read(image.uri or "")
    try:
        if opengl_basisu.container_of(data) == "ktx2":
            return _transcoded(bytes(data), room)
        return decode_image(bytes(data), room)
    except ImageProblem as problem:
        raise reader.fail(f"image {number} {problem}") from problem


def _transcoded(data: bytes, room: Room) -> np.ndarray:
    """(h, w, 4) uint8 of a KTX 2 file in a universal texture format (KTX 2.0; `KHR_texture_basisu`)."""
    try:
        texture = opengl_basisu.open(data)
        room.take(texture.width, texture.height)
        return np.ascontiguousarray(texture.transcode("rgba8").data)
    except ImageProblem:
        raise
    except (ValueError, RuntimeError) as error:
        raise ImageProblem(f"cannot be transcoded ({error})") from error
