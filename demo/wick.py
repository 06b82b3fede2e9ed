"""The Wick No. 4, a table lantern 0.30 m high: turned brass, ribbed frosted glass, a leather strap, an LED wick."""

import math
from pathlib import Path

import numpy as np

from demo.glb import GlbWriter
from demo.patterns import (
    cell_distance,
    layered_noise,
    metallic_roughness,
    normal_map,
    tinted,
)
from demo.shapes import Shape, dense, from_grid, merged, moved, rounded, swept, turned

SEGMENTS = 192
RIBS = 32
TEXTURE_SIDE = 512


def _base() -> Shape:
    profile = [
        (0.0, 0.003, 0), (0.050, 0.003, 0.001), (0.051, 0.0, 0.0008), (0.0585, 0.0, 0.001), (0.0600, 0.004, 0.002),
        (0.0600, 0.009, 0.002), (0.0560, 0.012, 0.0015), (0.0545, 0.016, 0.002), (0.0480, 0.0215, 0.006),
        (0.0345, 0.034, 0.010), (0.0320, 0.044, 0.008), (0.0375, 0.0525, 0.004), (0.0375, 0.0545, 0.0008),
        (0.0405, 0.0550, 0.0008), (0.0420, 0.0580, 0.0016), (0.0405, 0.0610, 0.0008), (0.0470, 0.0620, 0.001),
        (0.0485, 0.0640, 0.001), (0.0485, 0.0700, 0.0008), (0.0465, 0.0705, 0.0005), (0.0460, 0.0660, 0.0005),
        (0.0, 0.0655, 0),
    ]  # fmt: skip
    return turned(dense(rounded(profile), 0.0022), SEGMENTS)


def _cap() -> Shape:
    profile = [
        (0.0, 0.1985, 0), (0.0440, 0.1985, 0.0005), (0.0445, 0.1960, 0.0004), (0.0485, 0.1960, 0.0008),
        (0.0490, 0.2010, 0.0010), (0.0465, 0.2040, 0.0010), (0.0450, 0.2075, 0.002), (0.0380, 0.2150, 0.006),
        (0.0245, 0.2215, 0.006), (0.0180, 0.2235, 0.002), (0.0170, 0.2260, 0.0010), (0.0190, 0.2275, 0.0008),
        (0.0190, 0.2305, 0.0010), (0.0120, 0.2325, 0.002), (0.0, 0.2330, 0),
    ]  # fmt: skip
    return turned(dense(rounded(profile), 0.0022), SEGMENTS)


def _chimney() -> Shape:
    """A closed glass shell 2.6 mm thick: ribbed outside, smooth inside."""
    height = np.linspace(0.0665, 0.1975, 60)
    t = (height - height[0]) / (height[-1] - height[0])
    barrel = 0.0405 + 0.0028 * np.sin(math.pi * t) - 0.0008 * t
    outer = np.stack([barrel, height], 1)
    inner = np.stack([barrel - 0.0026, height], 1)
    segments = RIBS * 14
    angle = np.linspace(0, 2 * math.pi, segments + 1)
    ribs = 0.0011 * (np.abs(np.cos(angle * RIBS / 2)) ** 0.7 - 0.6)
    ribs[-1] = ribs[0]
    outside = turned(outer, segments, ribs, u_repeat=6)
    inside = turned(inner[::-1], segments, u_repeat=6)
    return merged(
        outside, inside, _rim(outer[-1], inner[-1], ribs, segments), _rim(inner[0], outer[0], ribs, segments, True)
    )


def _rim(first: np.ndarray, last: np.ndarray, ribs: np.ndarray, segments: int, ribs_on_last: bool = False) -> Shape:
    """The flat ring that closes the shell; it follows the ribs on its outer edge."""
    rings = np.linspace(0, 1, 3)
    profile = first[None] * (1 - rings[:, None]) + last[None] * rings[:, None]
    angle = np.linspace(0, 2 * math.pi, segments + 1)
    weight = rings if ribs_on_last else 1 - rings
    radius = profile[:, :1] + weight[:, None] * ribs[None]
    points = np.stack(
        [radius * np.sin(angle), np.broadcast_to(profile[:, 1:], radius.shape), radius * np.cos(angle)], -1
    )
    points[:, -1] = points[:, 0]
    uvs = np.stack(np.meshgrid(np.linspace(0, 6, segments + 1), rings), -1)
    return from_grid(points[::-1], uvs[::-1])


def _strap() -> Shape:
    """A band 16 mm wide and 2.6 mm thick in a tall arch between the studs."""
    t = np.linspace(0, 1, 140)
    x = 0.0515 * np.cos(math.pi * t) * (1 - 0.10 * np.sin(math.pi * t))
    y = 0.2005 + 0.088 * np.sin(math.pi * t) ** 0.62
    path = np.stack([x, y, np.zeros_like(t)], 1)
    # Straight ends, so that the band runs down beside the studs.
    tail = np.linspace(0.020, 0.002, 10)
    path = np.concatenate(
        [[[path[0, 0], path[0, 1] - d, 0] for d in tail], path, [[path[-1, 0], path[-1, 1] - d, 0] for d in tail[::-1]]]
    )
    keep = np.concatenate([[True], np.linalg.norm(np.diff(path, axis=0), axis=1) > 2e-4])
    path = dense(path[keep], 0.0025)
    for _ in range(8):
        path[1:-1] = (path[:-2] + 2 * path[1:-1] + path[2:]) / 4
    half_width, half_thickness, bevel = 0.008, 0.0013, 0.0009
    corners = []
    for sx, sy, start in ((1, -1, -90), (1, 1, 0), (-1, 1, 90), (-1, -1, 180)):
        for a in np.linspace(start, start + 90, 6):
            corners.append(
                (
                    sx * (half_width - bevel) + bevel * math.cos(math.radians(a)),
                    sy * (half_thickness - bevel) + bevel * math.sin(math.radians(a)),
                )
            )
    section = dense(np.array([*corners, corners[0]]), 0.0015)[:-1]
    return swept(path, section, np.array([0.0, 0.0, 1.0]), (40.0, 40.0))


def _studs() -> Shape:
    """Two turned studs that hold the strap, axes along x."""
    profile = [
        (0.0, -0.0045, 0), (0.0046, -0.0045, 0.0004), (0.0050, -0.0030, 0.0004), (0.0050, 0.0030, 0.0006),
        (0.0062, 0.0034, 0.0005), (0.0062, 0.0052, 0.0008), (0.0040, 0.0062, 0.001), (0.0, 0.0066, 0),
    ]  # fmt: skip
    stud = turned(dense(rounded(profile), 0.0008), 64)
    right = np.array([[0, 1, 0], [-1, 0, 0], [0, 0, 1]], np.float32)
    left = np.array([[0, -1, 0], [1, 0, 0], [0, 0, 1]], np.float32)
    studs = [Shape(stud.positions @ turn.T, stud.normals @ turn.T, stud.uvs, stud.indices) for turn in (right, left)]
    return merged(moved(studs[0], (0.0505, 0.1905, 0)), moved(studs[1], (-0.0505, 0.1905, 0)))


def _wick() -> Shape:
    """The light: a slender rounded rod."""
    profile = [
        (0.0, 0.0840, 0),
        (0.0036, 0.0845, 0.0012),
        (0.0042, 0.110, 0.01),
        (0.0036, 0.150, 0.01),
        (0.0016, 0.1655, 0.002),
        (0.0, 0.1665, 0),
    ]
    return turned(dense(rounded(profile), 0.002), 48)


def _holder() -> Shape:
    profile = [
        (0.0, 0.0650, 0), (0.0160, 0.0650, 0.0005), (0.0165, 0.0680, 0.001), (0.0105, 0.0700, 0.002),
        (0.0072, 0.0760, 0.002), (0.0072, 0.0840, 0.0008), (0.0050, 0.0852, 0.0004), (0.0, 0.0852, 0),
    ]  # fmt: skip
    return turned(dense(rounded(profile), 0.0012), 96)


def _foot() -> Shape:
    profile = [(0.0, -0.0012, 0), (0.0505, -0.0012, 0.0004), (0.0510, 0.0026, 0.0003), (0.0, 0.0028, 0)]
    return turned(dense(rounded(profile), 0.003), 96)


def _brass(writer: GlbWriter) -> int:
    lines = layered_noise(TEXTURE_SIDE, 64, 4, 11, stretch=32)
    patina = layered_noise(TEXTURE_SIDE, 4, 5, 12)
    roughness = 0.17 + 0.10 * lines + 0.10 * patina**3
    return writer.add_material(
        {
            "name": "Brushed Brass",
            "pbrMetallicRoughness": {
                "baseColorTexture": {
                    "index": writer.add_texture(tinted((0.905, 0.765, 0.480), (0.945, 0.815, 0.545), 1 - patina**2))
                },
                "metallicRoughnessTexture": {"index": writer.add_texture(metallic_roughness(roughness, 1.0))},
            },
            "normalTexture": {"index": writer.add_texture(normal_map(lines, 0.25)), "scale": 0.35},
        }
    )


def _leather(writer: GlbWriter) -> int:
    pebbles = np.minimum(cell_distance(TEXTURE_SIDE, 36, 21), 0.62) / 0.62
    creases = layered_noise(TEXTURE_SIDE, 6, 4, 22)
    height = (1 - pebbles**2) * 0.8 + creases * 0.4
    occlusion = np.repeat((np.clip(0.55 + 0.45 * (1 - pebbles**2), 0, 1)[..., None] * 255).astype(np.uint8), 3, 2)
    return writer.add_material(
        {
            "name": "Cognac Leather",
            "pbrMetallicRoughness": {
                "baseColorTexture": {
                    "index": writer.add_texture(
                        tinted((0.36, 0.17, 0.085), (0.56, 0.29, 0.15), 0.65 * height + 0.2 * creases)
                    )
                },
                "metallicRoughnessTexture": {
                    "index": writer.add_texture(metallic_roughness(0.42 + 0.22 * pebbles, 0.0))
                },
            },
            "normalTexture": {"index": writer.add_texture(normal_map(height, 3.0)), "scale": 0.8},
            "occlusionTexture": {"index": writer.add_texture(occlusion)},
        }
    )


def _glass(writer: GlbWriter) -> int:
    return writer.add_material(
        {
            "name": "Frosted Glass",
            "pbrMetallicRoughness": {"metallicFactor": 0.0, "roughnessFactor": 0.28},
            "extensions": {
                "KHR_materials_transmission": {"transmissionFactor": 1.0},
                "KHR_materials_ior": {"ior": 1.48},
                "KHR_materials_volume": {
                    "thicknessFactor": 0.0026,
                    "attenuationDistance": 0.02,
                    "attenuationColor": [0.955, 0.965, 0.945],
                },
            },
        }
    )


def _light(writer: GlbWriter) -> int:
    v = np.linspace(1, 0, 64)
    # Brightest a little above the middle, cooler towards both ends, as a wound filament is.
    strength = 0.55 + 0.45 * np.exp(-(((v - 0.6) / 0.28) ** 2))
    picture = np.repeat((strength[:, None, None] * np.array([1.0, 0.98, 0.95]) * 255).astype(np.uint8), 64, 1)
    return writer.add_material(
        {
            "name": "LED Wick",
            "pbrMetallicRoughness": {
                "baseColorFactor": [0.9, 0.85, 0.75, 1],
                "metallicFactor": 0,
                "roughnessFactor": 0.5,
            },
            "emissiveFactor": [1.0, 0.58, 0.24],
            "emissiveTexture": {"index": writer.add_texture(picture)},
            "extensions": {"KHR_materials_emissive_strength": {"emissiveStrength": 42.0}},
        }
    )


def write_wick(path: Path) -> None:
    """Write the lantern as a GLB."""
    writer = GlbWriter("Velvet Lantern demo")
    brass, leather, glass, light = _brass(writer), _leather(writer), _glass(writer), _light(writer)
    felt = writer.add_material(
        {
            "name": "Moss Felt",
            "pbrMetallicRoughness": {
                "baseColorFactor": [0.045, 0.06, 0.04, 1],
                "metallicFactor": 0,
                "roughnessFactor": 0.95,
            },
        }
    )
    porcelain = writer.add_material(
        {
            "name": "Glazed Porcelain",
            "pbrMetallicRoughness": {
                "baseColorFactor": [0.82, 0.80, 0.76, 1],
                "metallicFactor": 0,
                "roughnessFactor": 0.45,
            },
            "extensions": {"KHR_materials_clearcoat": {"clearcoatFactor": 1.0, "clearcoatRoughnessFactor": 0.08}},
        }
    )
    writer.add_part("Base", _base(), brass)
    writer.add_part("Cap", _cap(), brass)
    writer.add_part("Strap Studs", _studs(), brass)
    writer.add_part("Chimney", _chimney(), glass)
    writer.add_part("Carry Strap", _strap(), leather)
    writer.add_part("Wick", _wick(), light)
    writer.add_part("Wick Holder", _holder(), porcelain)
    writer.add_part("Felt Foot", _foot(), felt)
    writer.write(path)
