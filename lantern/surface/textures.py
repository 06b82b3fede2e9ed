"""8-bit RGBA textures: one blob of texels, a row for each texture, a row for each use of one.

A binding is a use of a texture by a material: which texture, and the affine map from the mesh's UV to
it (`KHR_texture_transform`). glTF's UV origin is the upper left texel corner.
"""

import numpy as np

from numba import njit
from numpy import float32 as f32
from numpy import uint32 as u32

from lantern.kernel.memory import Table, load_f32, load_i32, load_u32
from lantern.kernel.vectors import EXACT

TEXTURE = Table("texture", [("offset", "i", 1), ("width", "i", 1), ("height", "i", 1), ("wrap_u", "i", 1), ("wrap_v", "i", 1)])
BINDING = Table("binding", [("texture", "i", 1), ("matrix", "f", 6)])
REPEAT, CLAMP, MIRROR = 0, 1, 2

_OFFSET, _WIDTH, _HEIGHT = TEXTURE.slot("offset"), TEXTURE.slot("width"), TEXTURE.slot("height")
_WRAP_U, _WRAP_V = TEXTURE.slot("wrap_u"), TEXTURE.slot("wrap_v")
_TEXTURE, _MATRIX = BINDING.slot("texture"), BINDING.slot("matrix")
_TEXTURE_WIDTH, _BINDING_WIDTH = TEXTURE.width, BINDING.width
_INV_255 = f32(1.0 / 255.0)


@njit(**EXACT)
def _wrap(i, size, mode):
    if mode == CLAMP:
        return min(max(i, 0), size - 1)
    if mode == MIRROR:
        period = 2 * size
        i = i % period
        return i if i < size else period - 1 - i
    return i % size


@njit(**EXACT)
def srgb_to_linear(c):
    """IEC 61966-2-1 decoding of a value in [0, 1], relative error below 1e-4."""
    if c <= f32(0.04045):
        return c * f32(1.0 / 12.92)
    x = (c + f32(0.055)) * f32(1.0 / 1.055)
    # x^2.4 = x² · x^0.4, and x^0.4 = (x²)^(1/5) by three Newton steps from a quadratic guess.
    y = f32(0.3175) + x * (f32(1.0925) - f32(0.41) * x)
    square = x * x
    for _ in range(3):
        y4 = y * y
        y4 = y4 * y4
        y = f32(0.8) * y + f32(0.2) * square / y4
    return square * y


@njit(**EXACT)
def _texel(texels, base, x, y, width):
    return load_u32(texels, base + y * width + x)


@njit(**EXACT)
def _channel(a, b, c, d, shift, x, y):
    s = u32(shift)
    low = f32((a >> s) & u32(255)) * (f32(1.0) - x) + f32((b >> s) & u32(255)) * x
    high = f32((c >> s) & u32(255)) * (f32(1.0) - x) + f32((d >> s) & u32(255)) * x
    return (low * (f32(1.0) - y) + high * y) * _INV_255


@njit(**EXACT)
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
    px = min(max(tu, f32(-1e4)), f32(1e4)) * f32(width) - f32(0.5)
    py = min(max(tv, f32(-1e4)), f32(1e4)) * f32(height) - f32(0.5)
    fx, fy = np.floor(px), np.floor(py)
    x, y = px - fx, py - fy
    ix, iy = int(fx), int(fy)
    x0, x1 = _wrap(ix, width, wrap_u), _wrap(ix + 1, width, wrap_u)
    y0, y1 = _wrap(iy, height, wrap_v), _wrap(iy + 1, height, wrap_v)
    a, b = _texel(texels, base, x0, y0, width), _texel(texels, base, x1, y0, width)
    c, d = _texel(texels, base, x0, y1, width), _texel(texels, base, x1, y1, width)
    return (
        _channel(a, b, c, d, 0, x, y),
        _channel(a, b, c, d, 8, x, y),
        _channel(a, b, c, d, 16, x, y),
        _channel(a, b, c, d, 24, x, y),
    )
