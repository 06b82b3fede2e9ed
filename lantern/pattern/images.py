"""Images: a row for each with the address of its texels, and a row for each use of one by a material.

A binding is a use: which image, which UV set, the affine map from it to the image (`KHR_texture_transform`), and how
stored values are decoded. glTF's UV origin is the upper left texel corner. Texels are decoded before they are blended,
because light adds up in linear values only; alpha is never encoded.
"""

import numpy as np
from numba import njit
from numpy import float32 as f32
from numpy import int32 as i32
from numpy import uint32 as u32

from lantern.color import decode_srgb
from lantern.kernel.memory import (
    Addresses,
    Table,
    load_f16,
    load_f32,
    load_i32,
    load_i64,
    load_u8,
    load_u16,
    load_u32,
    load_u64,
    peek_f32,
)
from lantern.kernel.vectors import EXACT, SMALL
from lantern.pattern.tables import POINT, SHADING

IMAGE = Addresses("image", ["texels", "width", "height", "channels", "format", "wrap_u", "wrap_v", "nearest"])
"""All but `texels` are numbers. `texels` is (height, width, channels), row 0 on top."""
BINDING = Table("binding", [("image", "i", 1), ("uv_set", "i", 1), ("decoding", "i", 1), ("matrix", "f", 6)])
REPEAT, CLAMP, MIRROR = 0, 1, 2
U8, U16, F16, F32 = range(4)
"""`format` of an image."""
FORMATS = {np.dtype(np.uint8): U8, np.dtype(np.uint16): U16, np.dtype(np.float16): F16, np.dtype(np.float32): F32}
LINEAR, SRGB = 0, 1
"""`decoding` of a binding."""

G, B, P, T = IMAGE.slots, BINDING.slots, POINT.slots, SHADING.slots
_IMAGE_WIDTH, _BINDING_WIDTH = IMAGE.width, BINDING.width
_ZERO, _ONE = f32(0.0), f32(1.0)
_INV_65535 = f32(1.0 / 65535.0)


def decodings() -> np.ndarray:
    """(2, 256) float32: what each byte stands for, LINEAR and SRGB."""
    steps = np.arange(256) / 255.0
    return np.stack([steps, decode_srgb(steps)]).astype(np.float32)


def folded(t: np.ndarray, wrap: int) -> np.ndarray:
    """Coordinates brought into [0, 1] by a wrap mode."""
    if wrap == CLAMP:
        return np.clip(t, 0, 1)
    if wrap == MIRROR:
        t = np.mod(t, 2)
        return np.where(t > 1, 2 - t, t)
    return np.mod(t, 1)


@njit(**SMALL)
def srgb_to_linear(c):
    """IEC 61966-2-1 decoding of a value in [0, 1], relative error below 5e-5 (minimax fit of degree 7)."""
    if c <= f32(0.04045):
        return c * f32(1.0 / 12.92)
    p = f32(0.15237522714721402)
    p = p * c + f32(-0.5723516391881942)
    p = p * c + f32(0.9209812164613523)
    p = p * c + f32(-0.9020979958441889)
    p = p * c + f32(0.8835167718421627)
    p = p * c + f32(0.48112562847586754)
    p = p * c + f32(0.03564049399292672)
    return p * c + f32(0.0008458845760219609)


@njit(**SMALL)
def _fold(t, mode):
    """`folded` of one coordinate in floating point: an integer remainder would cost more than the lookup."""
    if mode == CLAMP:
        return min(max(t, _ZERO), _ONE)
    if mode == MIRROR:
        t = t - f32(2.0) * np.floor(t * f32(0.5))
        return t if t <= _ONE else f32(2.0) - t
    return t - np.floor(t)


@njit(**SMALL)
def _neighbours(t, size, mode):
    """(lower texel, upper texel, share of the upper) of a folded coordinate."""
    p = t * f32(size) - f32(0.5)
    floor = np.floor(p)
    low = i32(floor)
    high = i32(low + i32(1))
    if mode == REPEAT:
        return i32(low + size) if low < 0 else low, i32(0) if high >= size else high, p - floor
    return max(low, i32(0)), min(high, i32(size - i32(1))), p - floor


@njit(**EXACT)
def _stored(texels, form, at):
    """One stored number; bytes and 16-bit numbers as [0, 1]."""
    if form == U8:
        return f32(load_u8(texels, at)) * f32(1.0 / 255.0)
    if form == U16:
        return f32(load_u16(texels, at)) * _INV_65535
    if form == F16:
        return load_f16(texels, at)
    return load_f32(texels, at)


@njit(**EXACT)
def _other_texel(texels, form, channels, number, decoding):
    """RGBA of a texel of any format: a single channel is grey, and what has no alpha is opaque."""
    at = number * channels
    r = _stored(texels, form, at)
    g, b = r, r
    if channels >= 3:
        g, b = _stored(texels, form, at + 1), _stored(texels, form, at + 2)
    if decoding == SRGB:
        r, g, b = srgb_to_linear(r), srgb_to_linear(g), srgb_to_linear(b)
    alpha = _ONE
    if channels == 2 or channels == 4:
        alpha = _stored(texels, form, at + channels - 1)
    return r, g, b, alpha


@njit(**SMALL)
def _texel(images, image, decoded, number, decoding):
    """RGBA of a texel; four bytes are read at once and decoded by table."""
    texels = load_u64(images, image + G.texels)
    form, channels = load_i64(images, image + G.format), load_i64(images, image + G.channels)
    if form != U8 or channels != 4:
        return _other_texel(texels, form, channels, number, decoding)
    packed = load_u32(texels, number)
    base = decoding * 256
    return (
        load_f32(decoded, base + (packed & u32(255))),
        load_f32(decoded, base + ((packed >> u32(8)) & u32(255))),
        load_f32(decoded, base + ((packed >> u32(16)) & u32(255))),
        load_f32(decoded, packed >> u32(24)),
    )


@njit(**SMALL)
def _mix(a, b, t):
    s = _ONE - t
    return a[0] * s + b[0] * t, a[1] * s + b[1] * t, a[2] * s + b[2] * t, a[3] * s + b[3] * t


@njit(**SMALL)
def recolored(texel, turn, more):
    """RGBA whose hue is turned by an angle [rad] about the greys, its saturation 1 + `more` times what it was."""
    if turn == _ZERO and more == _ZERO:
        return texel
    # A turn about (1, 1, 1) (Rodrigues), which keeps greys, then what it has beside its own grey made more or less.
    c, s = np.cos(turn), np.sin(turn) * f32(0.57735027)
    r, g, b = texel[0], texel[1], texel[2]
    mean = (r + g + b) * f32(1.0 / 3.0)
    r1 = r * c + (b - g) * s + mean * (_ONE - c)
    g1 = g * c + (r - b) * s + mean * (_ONE - c)
    b1 = b * c + (g - r) * s + mean * (_ONE - c)
    return (
        max(r1 + (r1 - mean) * more, _ZERO),
        max(g1 + (g1 - mean) * more, _ZERO),
        max(b1 + (b1 - mean) * more, _ZERO),
        texel[3],
    )


@njit(**EXACT)
def fetch(tables, binding, point):
    """Decoded RGBA of a binding at a POINT, bilinear unless the image says nearest."""
    bindings = load_u64(tables, T.bindings)
    row = binding * _BINDING_WIDTH
    m, at = row + B.matrix, P.uv + 2 * load_i32(bindings, row + B.uv_set)
    u, v = peek_f32(point, at), peek_f32(point, at + 1)
    tu = load_f32(bindings, m) * u + load_f32(bindings, m + 1) * v + load_f32(bindings, m + 2)
    tv = load_f32(bindings, m + 3) * u + load_f32(bindings, m + 4) * v + load_f32(bindings, m + 5)
    return texels_at(tables, load_i32(bindings, row + B.image), load_i32(bindings, row + B.decoding), tu, tv)


@njit(**EXACT)
def texels_at(tables, number, decoding, tu, tv):
    """Decoded RGBA of an image at coordinates, folded as the image says."""
    images, decoded = load_u64(tables, T.images), load_u64(tables, T.decodings)
    image = number * _IMAGE_WIDTH
    width, height = i32(load_i64(images, image + G.width)), i32(load_i64(images, image + G.height))
    wrap_u, wrap_v = load_i64(images, image + G.wrap_u), load_i64(images, image + G.wrap_v)
    tu, tv = _fold(tu, wrap_u), _fold(tv, wrap_v)
    if load_i64(images, image + G.nearest) != 0:
        x, y = min(i32(tu * f32(width)), i32(width - i32(1))), min(i32(tv * f32(height)), i32(height - i32(1)))
        return _texel(images, image, decoded, y * width + x, decoding)
    x0, x1, x = _neighbours(tu, width, wrap_u)
    y0, y1, y = _neighbours(tv, height, wrap_v)
    return _mix(
        _mix(
            _texel(images, image, decoded, y0 * width + x0, decoding),
            _texel(images, image, decoded, y0 * width + x1, decoding),
            x,
        ),
        _mix(
            _texel(images, image, decoded, y1 * width + x0, decoding),
            _texel(images, image, decoded, y1 * width + x1, decoding),
            x,
        ),
        y,
    )
