"""Identity mattes: which object covers how much of each pixel, readable by compositing programs.

Friedman & Jones, "Cryptomatte Specification", version 1.2.0: names hashed by MurmurHash3, kept as the bits of a float
that is neither denormal nor infinite; ranks of (identity, coverage) in pairs of channels; a manifest in the metadata.
In: names and what covers each pixel, as the film ranks it. Out: channels and attributes for an EXR.
"""

import json
from dataclasses import dataclass

import numpy as np

_MASK = 0xFFFFFFFF


def _rotated(x: int, r: int) -> int:
    return (x << r | x >> (32 - r)) & _MASK


def murmur3(data: bytes, seed: int = 0) -> int:
    """32-bit MurmurHash3 (Appleby, 2008; public domain), x86 variant."""
    h = seed
    whole = len(data) // 4 * 4
    for i in range(0, whole, 4):
        k = int.from_bytes(data[i : i + 4], "little") * 0xCC9E2D51 & _MASK
        h ^= _rotated(k, 15) * 0x1B873593 & _MASK
        h = (_rotated(h, 13) * 5 + 0xE6546B64) & _MASK
    if tail := data[whole:]:
        k = int.from_bytes(tail, "little") * 0xCC9E2D51 & _MASK
        h ^= _rotated(k, 15) * 0x1B873593 & _MASK
    h ^= len(data)
    h = (h ^ h >> 16) * 0x85EBCA6B & _MASK
    h = (h ^ h >> 13) * 0xC2B2AE35 & _MASK
    return h ^ h >> 16


def identity(name: str) -> int:
    """Bits of the float that stands for a name (section "ID generation"): an exponent of 0 or 255 is changed."""
    bits = murmur3(name.encode())
    if bits >> 23 & 0xFF in (0, 255):
        bits ^= 1 << 23
    return bits


@dataclass(frozen=True)
class Matte:
    """Channels of one kind of identity and the attributes that describe them."""

    channels: dict[str, np.ndarray]  # (h, w) float32, to be stored as float
    attributes: dict[str, str]


def matte(layer: str, names: list[str], numbers: np.ndarray, coverage: np.ndarray) -> Matte:
    """Matte called `layer` of objects `names`; `numbers` (h, w, ranks) int, -1 for none, `coverage` (h, w, ranks)."""
    bits = np.array([identity(name) for name in names] or [0], np.uint32)
    ids = np.where(numbers >= 0, bits[np.clip(numbers, 0, None)], np.uint32(0)).view(np.float32)
    channels: dict[str, np.ndarray] = {}
    ranks = numbers.shape[2]
    for rank in range(ranks + ranks % 2):
        pair = "RG" if rank % 2 == 0 else "BA"
        here = rank < ranks
        for channel, values in zip(pair, (ids, coverage), strict=True):
            empty = np.zeros(numbers.shape[:2], np.float32)
            channels[f"{layer}{rank // 2:02d}.{channel}"] = values[..., rank] if here else empty
    key = f"cryptomatte/{murmur3(layer.encode()):08x}"[: len("cryptomatte/") + 7]
    manifest = json.dumps({name: f"{identity(name):08x}" for name in names}, ensure_ascii=True)
    attributes = {"name": layer, "hash": "MurmurHash3_32", "conversion": "uint32_to_float32", "manifest": manifest}
    return Matte(channels, {f"{key}/{name}": value for name, value in attributes.items()})
