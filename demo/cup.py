"""A porcelain cup of tea on its saucer, 0.06 m high."""

import math
from pathlib import Path

import numpy as np

from demo.flacon import OVERLAP
from demo.glb import GlbWriter
from demo.shapes import Shape, dense, merged, moved, rounded, swept, turned
from lantern.scene.document import Material

SEGMENTS = 160
STANDS = 0.0085
"""m that the cup stands above the table, in its saucer."""
FILL = 0.050
PORCELAIN = Material(
    name="Moss Porcelain", base_color=(0.46, 0.55, 0.44), specular_roughness=0.35, coat_weight=1.0, coat_roughness=0.03,
    coat_ior=1.5, subsurface_weight=0.15, subsurface_color=(0.60, 0.68, 0.56), subsurface_radius=0.002,
)  # fmt: skip
RIM = Material(name="Gilt", base_metalness=1.0, base_color=(0.95, 0.76, 0.42), specular_roughness=0.12)
TEA = Material(
    name="Black Tea", transmission_weight=1.0, specular_ior=1.33, specular_roughness=0.0,
    transmission_color=(0.80, 0.30, 0.06), transmission_depth=0.010,
)  # fmt: skip
INSIDE = [(0.0, 0.0042, 0), (0.018, 0.0044, 0.012), (0.0325, 0.020, 0.014), (0.0372, 0.0560, 0)]


def _bowl() -> Shape:
    outside = [
        (0.0, 0.0022, 0), (0.0165, 0.0022, 0.0006), (0.0175, 0.0, 0.0006), (0.0198, 0.0, 0.0008),
        (0.0205, 0.0030, 0.0010), (0.0340, 0.018, 0.014), (0.0398, 0.0560, 0.0), (0.0398, 0.0592, 0.0010),
        (0.0385, 0.0600, 0.0010), (0.0374, 0.0592, 0.0008),
    ]  # fmt: skip
    profile = np.concatenate([rounded(outside, 10), rounded(INSIDE, 10)[::-1]])
    return turned(dense(profile, 0.0012), SEGMENTS)


def _handle() -> Shape:
    t = np.linspace(0, 1, 60)
    angle = math.pi * (0.5 - t * 1.04)
    # Both ends stop within the wall, which leans.
    path = np.stack([0.0382 - 0.0038 * t + 0.0195 * np.cos(angle), 0.0345 + 0.0165 * np.sin(angle), 0 * t], 1)
    round_ = np.linspace(0, 2 * math.pi, 24, endpoint=False)
    section = np.stack([0.0036 * np.cos(round_), 0.0026 * np.sin(round_)], 1)
    return swept(path[::-1], section, np.array([0.0, 0.0, 1.0]), (20.0, 20.0))


def _gilt() -> Shape:
    """A thin line around the lip."""
    profile = [
        (0.0399, 0.0572, 0), (0.0401, 0.0594, 0.0008), (0.0386, 0.0603, 0.0008), (0.0372, 0.0594, 0.0006),
        (0.0371, 0.0580, 0),
    ]  # fmt: skip
    return turned(dense(rounded(profile, 8), 0.0004), SEGMENTS)


def _tea() -> Shape:
    wall = dense(rounded(INSIDE, 10), 0.0012)
    wall = wall[wall[:, 1] <= FILL]
    tangent = np.gradient(wall, axis=0)
    normal = np.stack([tangent[:, 1], -tangent[:, 0]], 1)
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-12)
    wall = wall + OVERLAP * normal
    wall[0, 0] = 0.0
    top = np.array([[wall[-1, 0] * (1 - t), FILL] for t in np.linspace(0, 1, 24)[1:]])
    return turned(np.concatenate([wall, top]), SEGMENTS)


def _saucer() -> Shape:
    profile = [
        (0.0, 0.0026, 0), (0.030, 0.0026, 0.001), (0.0312, 0.0, 0.0006), (0.0340, 0.0, 0.0008), (0.0350, 0.0034, 0.002),
        (0.0700, 0.0128, 0.010), (0.0712, 0.0142, 0.0008), (0.0700, 0.0152, 0.0008), (0.0360, 0.0070, 0.012),
        (0.0225, 0.0066, 0.002), (0.0215, 0.0054, 0.001), (0.0, 0.0054, 0),
    ]  # fmt: skip
    return turned(dense(rounded(profile, 8), 0.0016), SEGMENTS)


def write_cup(path: Path) -> None:
    """Write cup and saucer as a GLB; its materials are the document's."""
    writer = GlbWriter("Velvet Lantern demo")
    porcelain, gilt, tea = (writer.add_material({"name": material.name}) for material in (PORCELAIN, RIM, TEA))
    up = (0.0, STANDS - 0.0031, 0.0)
    writer.add_part("Cup", moved(merged(_bowl(), _handle()), up), porcelain)
    writer.add_part("Cup Line", moved(_gilt(), up), gilt)
    writer.add_part("Tea", moved(_tea(), up), tea)
    writer.add_part("Saucer", _saucer(), porcelain)
    writer.write(path)
