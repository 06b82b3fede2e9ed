"""8-bit RGBA textures: one blob of texels, a row for each texture, a row for each use of one.

A binding is a use of a texture by a material: which texture, and the affine map from the mesh's UV to
it (`KHR_texture_transform`). glTF's UV origin is the upper left texel corner.
"""

import numpy as np
from numba import njit
from numpy import float32 as f32
from numpy import int32 as i32
from numpy import uint32 as u32

from lantern.kernel.memory import Table, load_f32, load_i32, load_u32
from lantern.kernel.vectors import SMALL

TEXTURE = Table(
    "texture", [("offset", "i", 1), ("width", "i", 1), ("height", "i", 1), ("wrap_u", "i", 1), ("wrap_v", "i", 1)]
)
BINDING = Table("binding", [("texture", "i", 1), ("matrix", "f", 6)])
REPEAT, CLAMP, MIRROR = 0, 1, 2

_OFFSET, _WIDTH, _HEIGHT = TEXTURE.slot("offset"), TEXTURE.slot("width"), TEXTURE.slot("height")
_WRAP_U, _WRAP_V = TEXTURE.slot("wrap_u"), TEXTURE.slot("wrap_v")
_TEXTURE, _MATRIX = BINDING.slot("texture"), BINDING.slot("matrix")
_TEXTURE_WIDTH, _BINDING_WIDTH = TEXTURE.width, BINDING.width
_INV_255 = f32(1.0 / 255.0)


@njit(**SMALL)
def _fold(t, mode):
    """A coordinate brought into [0, 1] in floating point: an integer remainder would cost more than the lookup."""
    if mode == CLAMP:
        return min(max(t, f32(0.0)), f32(1.0))
    if mode == MIRROR:
        t = t - f32(2.0) * np.floor(t * f32(0.5))
        return t if t <= f32(1.0) else f32(2.0) - t
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
def _texel(texels, base, x, y, width):
    return load_u32(texels, base + y * width + x)


@njit(**SMALL)
def _channel(a, b, c, d, shift, x, y):
    s = u32(shift)
    low = f32((a >> s) & u32(255)) * (f32(1.0) - x) + f32((b >> s) & u32(255)) * x
    high = f32((c >> s) & u32(255)) * (f32(1.0) - x) + f32((d >> s) & u32(255)) * x
    return (low * (f32(1.0) - y) + high * y) * _INV_255


@njit(**SMALL)
def fetch(texels, textures, bindings, binding, u, v):
    """Bilinear RGBA [0, 1] as stored (no decoding) at mesh coordinates (u, v)."""
    row = binding * _BINDING_WIDTH
    m = row + _MATRIX
    tu = load_f32(bindings, m) * u + load_f32(bindings, m + 1) * v + load_f32(bindings, m + 2)
    tv = load_f32(bindings, m + 3) * u + load_f32(bindings, m + 4) * v + load_f32(bindings, m + 5)
    t = load_i32(bindings, row + _TEXTURE) * _TEXTURE_WIDTH
    width, height = load_i32(textures, t + _WIDTH), load_i32(textures, t + _HEIGHT)
    wrap_u, wrap_v = load_i32(textures, t + _WRAP_U), load_i32(textures, t + _WRAP_V)
    base = load_i32(textures, t + _OFFSET)
    x0, x1, x = _neighbours(_fold(tu, wrap_u), width, wrap_u)
    y0, y1, y = _neighbours(_fold(tv, wrap_v), height, wrap_v)
    a, b = _texel(texels, base, x0, y0, width), _texel(texels, base, x1, y0, width)
    c, d = _texel(texels, base, x0, y1, width), _texel(texels, base, x1, y1, width)
    return (
        _channel(a, b, c, d, 0, x, y),
        _channel(a, b, c, d, 8, x, y),
        _channel(a, b, c, d, 16, x, y),
        _channel(a, b, c, d, 24, x, y),
    )
