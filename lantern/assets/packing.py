"""Images put together as the renderer wants them: opacity beside colour, roughness beside metalness, normals.

In: images as they were decoded. Out: texels of one texture. Called by readers of formats that keep them apart.
"""

import numpy as np
from PIL import Image

_BLUE, _SPREAD = 0.62, 0.02
"""A picture of normals is bluer than the first on average, and its channels differ by more than the second."""


def lightness(image: np.ndarray) -> np.ndarray:
    """(h, w) of an image (h, w, 1 to 4) in its own numbers: its grey, or the luma of Rec. 709 of its stored values."""
    if image.shape[2] < 3:
        return np.asarray(image[..., 0])
    luma = image[..., :3].astype(np.float32) @ np.array([0.2126, 0.7152, 0.0722], np.float32)
    return np.asarray(luma.round() if image.dtype.kind == "u" else luma).astype(image.dtype)


def as_bytes(image: np.ndarray) -> np.ndarray:
    """An image of any depth as uint8."""
    if image.dtype == np.uint8:
        return image
    if image.dtype == np.uint16:
        return (image >> 8).astype(np.uint8)
    return (np.clip(np.nan_to_num(image.astype(np.float32)), 0, 1) * 255).round().astype(np.uint8)


def _fitted(channel: np.ndarray, shape: tuple[int, int]) -> np.ndarray:
    """(h, w) uint8 of another size, as `shape`."""
    channel = as_bytes(channel)
    if channel.shape == shape:
        return channel
    return np.asarray(Image.fromarray(channel).resize(shape[::-1], Image.Resampling.BILINEAR))


def stacked(
    first: np.ndarray | None, second: np.ndarray | None, rest: tuple[int, int, int, int], kind: str
) -> np.ndarray:
    """(h, w, 4) uint8 of two images, either of which may be missing; it is as large as the larger.

    For "color" the second, (h, w), is the alpha of the first; for "surface" the first is the roughness, kept in the
    green, the second the metalness, in the blue (glTF 2.0, section 3.9.2). `rest` fills what no image says.
    """
    if kind == "color" and second is None and first is not None:
        return first
    shapes = [image.shape[:2] for image in (first, second) if image is not None]
    shape = max(shapes, key=lambda s: s[0] * s[1])
    texels = np.empty((*shape, 4), np.uint8)
    texels[:] = rest
    if kind == "color":
        if first is not None:
            for i in range(3):
                texels[..., i] = _fitted(first[..., min(i, first.shape[2] - 1) if first.shape[2] > 2 else 0], shape)
        if second is not None:
            texels[..., 3] = _fitted(second, shape)
        return texels
    for i, image in ((1, first), (2, second)):
        if image is not None:
            texels[..., i] = _fitted(lightness(image), shape)
    return texels


def is_normal_map(image: np.ndarray) -> bool:
    """Whether an image shows directions and not heights, which are grey."""
    if image.shape[2] < 3:
        return False
    means = as_bytes(image[..., :3]).reshape(-1, 3).mean(axis=0) / 255
    return bool(means[2] > _BLUE and np.ptp(means) > _SPREAD)


def height_to_normals(image: np.ndarray, strength: float) -> np.ndarray:
    """(h, w, 4) uint8 normals of a surface whose height, in texels, is the lightness of an image times `strength`.

    Central differences, across the edges as the image repeats; +Y is up.
    """
    heights = as_bytes(lightness(image)).astype(np.float32) / 255 * strength
    across = (np.roll(heights, -1, axis=1) - np.roll(heights, 1, axis=1)) / 2
    up = (np.roll(heights, 1, axis=0) - np.roll(heights, -1, axis=0)) / 2
    normals = np.stack([-across, -up, np.ones_like(heights)], axis=2)
    normals /= np.linalg.norm(normals, axis=2, keepdims=True)
    packed = ((normals + 1) * 127.5).round().astype(np.uint8)
    return np.dstack([packed, np.full(heights.shape, 255, np.uint8)])
