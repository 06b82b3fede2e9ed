"""Tileable textures of the demo materials, as arrays of uint8."""

import numpy as np


def value_noise(size: int, cells: int, generator: np.random.Generator, stretch: int = 1) -> np.ndarray:
    """Smooth tileable noise (size, size) in [0, 1]; `stretch` makes it longer along the rows."""
    grid = generator.random((cells, max(cells // stretch, 1)))
    result = grid
    for axis in (0, 1):
        count = result.shape[axis]
        at = np.arange(size) * count / size
        low = np.floor(at).astype(int)
        t = at - low
        t = t * t * (3 - 2 * t)
        shape = [1, 1]
        shape[axis] = size
        t = t.reshape(shape)
        result = np.take(result, low % count, axis) * (1 - t) + np.take(result, (low + 1) % count, axis) * t
    return result


def layered_noise(size: int, cells: int, octaves: int, seed: int, stretch: int = 1) -> np.ndarray:
    """Sum of octaves of value noise, (size, size), scaled to [0, 1]."""
    generator = np.random.default_rng(seed)
    total = sum(value_noise(size, min(cells << o, size), generator, stretch) * 0.5**o for o in range(octaves))
    low, high = np.min(total), np.max(total)
    return np.asarray((total - low) / (high - low))


def cell_distance(size: int, count: int, seed: int) -> np.ndarray:
    """Distance to the nearest of count² jittered points, tileable, (size, size) in cells."""
    generator = np.random.default_rng(seed)
    jitter = generator.random((count, count, 2)) * 0.8 + 0.1
    y, x = np.meshgrid(np.arange(size), np.arange(size), indexing="ij")
    px, py = x * count / size, y * count / size
    cx, cy = px.astype(int), py.astype(int)
    nearest = np.full((size, size), 9.0)
    for dy in (-1, 0, 1):
        for dx in (-1, 0, 1):
            point = jitter[(cy + dy) % count, (cx + dx) % count]
            distance = np.hypot(cx + dx + point[..., 0] - px, cy + dy + point[..., 1] - py)
            nearest = np.minimum(nearest, distance)
    return nearest


def as_bytes(values: np.ndarray) -> np.ndarray:
    """[0, 1] to uint8."""
    return (np.clip(values, 0, 1) * 255 + 0.5).astype(np.uint8)


def normal_map(height: np.ndarray, strength: float) -> np.ndarray:
    """Tangent-space normals (h, w, 3) uint8 of a tileable height field; green points up the picture."""
    dx = (np.roll(height, -1, 1) - np.roll(height, 1, 1)) * strength
    dy = (np.roll(height, -1, 0) - np.roll(height, 1, 0)) * strength
    normal = np.stack([-dx, dy, np.ones_like(height)], -1)
    normal /= np.linalg.norm(normal, axis=-1, keepdims=True)
    return as_bytes(normal * 0.5 + 0.5)


def metallic_roughness(roughness: np.ndarray, metalness: float) -> np.ndarray:
    """glTF's packing: green is roughness, blue metalness."""
    return as_bytes(np.stack([np.ones_like(roughness), roughness, np.full_like(roughness, metalness)], -1))


def tinted(low: tuple[float, float, float], high: tuple[float, float, float], t: np.ndarray) -> np.ndarray:
    """sRGB-encoded colours between two, (h, w, 3) uint8."""
    return as_bytes(np.array(low) * (1 - t[..., None]) + np.array(high) * t[..., None])
