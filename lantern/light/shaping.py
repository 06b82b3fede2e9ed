"""What shapes the light of a lamp before it leaves: a grid, barn doors, an image in the gate.

In: a light of the document, decoded images. Out: rows of SHAPING, and in kernels the share of light that is let out.
Called by `emitters`, and wherever kernels look up the radiance of a light.

A grid of cells lets out 1 - tan θ / tan γ at the angle θ from its axis, γ the angle at which no ray passes a cell. A
barn door is a flap along an edge, as long as the light is across it and taken as endless along the edge: a ray from a
point of the light is stopped where it crosses the flap.
"""

import math
from collections.abc import Mapping, Sequence

import numpy as np
from numba import njit
from numpy import float32 as f32

from lantern.kernel.memory import Table, load_f32, load_i32, load_vector
from lantern.kernel.vectors import EXACT, SMALL, dot, neg, sub
from lantern.light.shapes import LIGHT, RECTANGLE
from lantern.scene.lights import FlatLight, Light, RectangleLight, SpotLight, gobo_of

SHAPING = Table(
    "shaping",
    [
        ("grid", "f", 1),  # 1 / tan of the angle at which nothing is let out; 0 for none
        ("doors", "i", 1),
        ("flaps", "f", 8),  # sine and cosine of the opening of the right, left, upper and lower one
        ("gobo", "i", 1),  # number of the image, -1 for none
        ("widening", "f", 1),  # 1 / tan of half the cone that the image fills
    ],
)
G, L = SHAPING.slots, LIGHT.slots
SHAPING_WIDTH = SHAPING.width
GOBO_SIDE = 256
_GOBO_FLOATS = GOBO_SIDE * GOBO_SIDE * 3
_ZERO, _ONE, _HALF = f32(0.0), f32(1.0), f32(0.5)
_BLACK = (_ZERO, _ZERO, _ZERO)
Images = Mapping[str, np.ndarray]


def shaping_row(light: Light, gobo: int) -> np.ndarray | None:
    """The SHAPING row of a light, None for one whose light is not shaped; `gobo` is the number of its image, or -1."""
    row = SHAPING.zeros(1)
    row["gobo"] = gobo
    if isinstance(light, FlatLight) and light.grid is not None:
        row["grid"] = 1 / math.tan(math.radians(light.grid))
    if isinstance(light, RectangleLight) and light.doors is not None:
        angles = [light.doors.right, light.doors.left, light.doors.upper, light.doors.lower]
        row["doors"] = 1
        row["flaps"] = np.array([[math.sin(math.radians(a)), math.cos(math.radians(a))] for a in angles]).ravel()
    if isinstance(light, SpotLight) and gobo >= 0:
        row["widening"] = 1 / math.tan(math.radians(min(light.cone, 178.0)) / 2)
    is_shaped = row["grid"][0] > 0 or row["doors"][0] or gobo >= 0
    return row if is_shaped else None


def shapings_of(lights: Sequence[Light], images: Images) -> tuple[np.ndarray, np.ndarray, list[int]]:
    """(rows of SHAPING, images in gates (n, GOBO_SIDE, GOBO_SIDE, 3) float32, row number of each light or -1)."""
    rows: list[np.ndarray] = []
    pictures: list[np.ndarray] = []
    numbers: list[int] = []
    known: dict[str, int] = {}
    for light in lights:
        file, number = gobo_of(light), -1
        if file is not None and file.sha256 in images:
            if file.sha256 not in known:
                known[file.sha256] = len(pictures)
                pictures.append(gate_image(images[file.sha256]))
            number = known[file.sha256]
        row = shaping_row(light, number)
        numbers.append(-1 if row is None else len(rows))
        if row is not None:
            rows.append(row)
    table = np.concatenate(rows) if rows else SHAPING.zeros(1)
    gates = np.stack(pictures) if pictures else np.zeros((1, 1, 1, 3), np.float32)
    return table, np.ascontiguousarray(gates, np.float32), numbers


def gate_image(pixels: np.ndarray) -> np.ndarray:
    """(GOBO_SIDE, GOBO_SIDE, 3) float32: the whole image within the cone, dark beside it, at most 1 in each channel."""
    height, width = pixels.shape[:2]
    side = max(height, width)
    places = (np.arange(GOBO_SIDE) + 0.5) / GOBO_SIDE * side
    y = np.floor(places - (side - height) / 2).astype(int)
    x = np.floor(places - (side - width) / 2).astype(int)
    inside = ((y >= 0) & (y < height))[:, None] & ((x >= 0) & (x < width))[None, :]
    found = pixels[np.clip(y, 0, height - 1)][:, np.clip(x, 0, width - 1)]
    return np.where(inside[..., None], np.clip(found, 0.0, 1.0), 0.0).astype(np.float32)


@njit(**SMALL)
def _stopped(place, half, slope, sine, cosine):
    """Whether the flap at +`half` stops a ray from `place`, both [m] along an axis, that goes `slope` a metre ahead."""
    turning = slope * cosine - sine
    return turning > _ZERO and half - place <= f32(2.0) * half * turning


@njit(**EXACT)
def share_let_out(lights, row, shapings, number, point, wi):
    """Share [0, 1] of the light of a flat lamp, shaped by row `number`, that leaves `point` of it against `wi`."""
    at = number * SHAPING_WIDTH
    normal = load_vector(lights, row + L.normal)
    ahead = -dot(wi, normal)
    if ahead <= f32(1e-6):
        return _ZERO
    x, y = load_vector(lights, row + L.across), load_vector(lights, row + L.along)
    wide, tall = math.sqrt(dot(x, x)), math.sqrt(dot(y, y))
    slope_x, slope_y = -dot(wi, x) / (wide * ahead), -dot(wi, y) / (tall * ahead)
    share, grid = _ONE, load_f32(shapings, at + G.grid)
    if grid > _ZERO:
        share = max(_ONE - math.sqrt(slope_x * slope_x + slope_y * slope_y) * grid, _ZERO)
    if load_i32(shapings, at + G.doors) != 0 and load_i32(lights, row + L.kind) == RECTANGLE:
        off = sub(point, load_vector(lights, row + L.position))
        px, py, f = dot(off, x) / wide, dot(off, y) / tall, at + G.flaps
        if (
            _stopped(px, wide, slope_x, load_f32(shapings, f), load_f32(shapings, f + 1))
            or _stopped(-px, wide, -slope_x, load_f32(shapings, f + 2), load_f32(shapings, f + 3))
            or _stopped(py, tall, slope_y, load_f32(shapings, f + 4), load_f32(shapings, f + 5))
            or _stopped(-py, tall, -slope_y, load_f32(shapings, f + 6), load_f32(shapings, f + 7))
        ):
            return _ZERO
    return share


@njit(**SMALL)
def _texel(gates, base, x, y):
    at = base + (y * GOBO_SIDE + x) * 3
    return load_vector(gates, at)


@njit(**EXACT)
def thrown(lights, row, shapings, number, gates, wi):
    """RGB share of the light of a spot that the image in its gate lets out against `wi`."""
    at = number * SHAPING_WIDTH
    gobo = load_i32(shapings, at + G.gobo)
    if gobo < 0:
        return (_ONE, _ONE, _ONE)
    towards = neg(wi)
    ahead = dot(towards, load_vector(lights, row + L.normal))
    if ahead <= f32(1e-6):
        return _BLACK
    k = load_f32(shapings, at + G.widening) / ahead
    # Seen from the lamp the image lies as it does in a slide: across is to its right.
    u = (dot(towards, load_vector(lights, row + L.across)) * k + _ONE) * f32(GOBO_SIDE / 2) - _HALF
    v = (_ONE - dot(towards, load_vector(lights, row + L.along)) * k) * f32(GOBO_SIDE / 2) - _HALF
    if u < -_HALF or v < -_HALF or u > f32(GOBO_SIDE - 0.5) or v > f32(GOBO_SIDE - 0.5):
        return _BLACK
    x, y = int(np.floor(u)), int(np.floor(v))
    fx, fy = u - f32(x), v - f32(y)
    x0, x1 = max(x, 0), min(x + 1, GOBO_SIDE - 1)
    y0, y1 = max(y, 0), min(y + 1, GOBO_SIDE - 1)
    base = gobo * _GOBO_FLOATS
    a, b, c, d = (
        _texel(gates, base, x0, y0),
        _texel(gates, base, x1, y0),
        _texel(gates, base, x0, y1),
        _texel(gates, base, x1, y1),
    )
    low = (a[0] + (b[0] - a[0]) * fx, a[1] + (b[1] - a[1]) * fx, a[2] + (b[2] - a[2]) * fx)
    high = (c[0] + (d[0] - c[0]) * fx, c[1] + (d[1] - c[1]) * fx, c[2] + (d[2] - c[2]) * fx)
    return (
        low[0] + (high[0] - low[0]) * fy, low[1] + (high[1] - low[1]) * fy, low[2] + (high[2] - low[2]) * fy,
    )  # fmt: skip
