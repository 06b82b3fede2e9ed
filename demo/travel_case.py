"""A travel case 0.27 m wide: leather over a shell, a quilted velvet lining, brass edges, hinges and a latch; open."""

import math
from pathlib import Path

import numpy as np

from demo.glb import GlbWriter
from demo.lofts import loft, placed, rows_of
from demo.patterns import cell_distance, layered_noise, metallic_roughness, normal_map, tinted
from demo.shapes import Shape, dense, merged, moved, rounded, turned
from lantern.kernel.normals import group_normals
from lantern.scene.document import Material

WIDTH, DEPTH, CORNER = 0.135, 0.092, 0.016
"""Half of the case's width and depth, and the radius of its corners [m]."""
BASE, LID, WALL = 0.052, 0.030, 0.0045
OPEN = -104.0
"""Degrees by which the lid is turned about its hinges."""
QUILT = 0.030
"""m between the seams of the lid's lining."""
TEXTURE_SIDE = 512

LEATHER = Material(name="Oxblood Leather", specular_roughness=1.0, coat_weight=0.15, coat_roughness=0.25)
VELVET = Material(
    name="Ink Velvet", base_color=(0.018, 0.022, 0.060), specular_roughness=0.9, specular_weight=0.3,
    fuzz_weight=0.9, fuzz_color=(0.26, 0.29, 0.56), fuzz_roughness=0.45,
)  # fmt: skip
EDGE = Material(
    name="Case Brass", base_metalness=1.0, base_color=(0.90, 0.74, 0.46), specular_roughness=0.16,
    specular_color=(1.0, 0.95, 0.85),
)  # fmt: skip


def _shell(height: float) -> Shape:
    """Floor, wall and rim of a tray that is open above."""
    profile = [
        (0.004, 0.0, 0), (0.0, 0.0, 0.004), (0.0, height, 0.0012), (WALL, height, 0.0012), (WALL, height - 0.008, 0),
    ]  # fmt: skip
    return loft(rows_of(dense(rounded(profile, 8), 0.002), "first"), WIDTH, DEPTH, CORNER)


def _lining(height: float, quilted: bool) -> Shape:
    """A padded tray inside of the shell."""
    profile = [
        (WALL, height - 0.0035, 0), (WALL + 0.0016, height - 0.006, 0.0012), (WALL + 0.0030, height * 0.55, 0.010),
        (WALL + 0.0035, 0.0085, 0.007), (WALL + 0.014, 0.0080, 0),
    ]  # fmt: skip
    rows = rows_of(dense(rounded(profile, 8), 0.0012), "last", 110, pillow=0.0022)
    shape = loft(rows, WIDTH, DEPTH, CORNER, 90 if quilted else 24)
    if not quilted:
        return shape
    x, y, z = shape.positions.T
    seams = np.abs(np.sin(math.pi * (x + z) / QUILT)) * np.abs(np.sin(math.pi * (x - z) / QUILT))
    # The seams end before the wall, which stays as it is.
    inner = np.clip((np.minimum(WIDTH - np.abs(x), DEPTH - np.abs(z)) - 0.014) / 0.012, 0, 1)
    raised = y + 0.0042 * (seams**0.5 - 1) * inner
    return _smoothed(Shape(np.stack([x, raised, z], 1).astype(np.float32), shape.normals, shape.uvs, shape.indices))


def _smoothed(shape: Shape) -> Shape:
    """The shape with the normals of its triangles, those of vertices at one place joined."""
    _, place = np.unique(np.round(shape.positions * 1e6).astype(np.int64), axis=0, return_inverse=True)
    place = place.ravel()
    corners = shape.indices.astype(np.int64)
    normals = group_normals(shape.positions.astype(np.float64), corners, place[corners], int(place.max()) + 1)
    return Shape(shape.positions, normals[place].astype(np.float32), shape.uvs, shape.indices)


def _band(height: float) -> Shape:
    """Brass around the rim of a tray."""
    low, high, out, deep = height - 0.0050, height + 0.0004, -0.0007, WALL + 0.0002
    profile = [
        (deep, low, 0), (out, low, 0.0004), (out, high, 0.0009), (deep, high, 0.0009), (deep, low, 0),
    ]  # fmt: skip
    return loft(rows_of(dense(rounded(profile), 0.0008), "none"), WIDTH, DEPTH, CORNER)


def _opened(shape: Shape) -> Shape:
    """What is made as a tray, as the lid: upside down on the base, then turned about the hinges behind it."""
    gap = 0.0015
    closed = placed(shape, (180, 0, 0), (0, LID, DEPTH + gap))
    return placed(closed, (OPEN, 0, 0), (0, BASE, -DEPTH - gap))


def _hinges() -> Shape:
    corners = [(0.0, -0.014, 0), (0.0030, -0.014, 0.0006), (0.0030, 0.014, 0.0006), (0.0, 0.014, 0)]
    profile = dense(rounded(corners), 0.001)
    knuckle = placed(turned(profile, 40), (0, 0, 90), (0, 0, 0))
    return merged(*(moved(knuckle, (x, BASE, -DEPTH - 0.0025)) for x in (-0.075, 0.075)))


def _latch() -> Shape:
    """A plate on the front with a turned knob."""
    plate = loft(
        rows_of(dense(rounded([(0.0, 0.0, 0), (0.0, 0.0022, 0.0008), (0.0012, 0.0022, 0)]), 0.0006), "last", 12),
        *(0.013, 0.0085, 0.004),
    )  # fmt: skip
    knob = turned(dense(rounded([(0.0045, 0.0, 0), (0.0045, 0.0045, 0.0012), (0.0, 0.0050, 0)]), 0.0006), 48)
    both = merged(plate, moved(knob, (0, 0.0018, 0)))
    return placed(both, (90, 0, 0), (0, BASE - 0.016, DEPTH - 0.0002))


def _leather(writer: GlbWriter) -> int:
    grain = np.clip(cell_distance(TEXTURE_SIDE, 44, 5) * 1.5, 0, 1)
    wear = layered_noise(TEXTURE_SIDE, 4, 5, 8)
    height = grain * 0.8 + wear * 0.2
    color = writer.add_texture(tinted((0.235, 0.062, 0.058), (0.345, 0.098, 0.082), height * 0.5 + wear * 0.5))
    surface = writer.add_texture(metallic_roughness(0.46 + 0.22 * (1 - grain), 0.0))
    bumps = writer.add_texture(normal_map(height, 5.0))
    # 60 mm of leather on one picture of it.
    laid = {"extensions": {"KHR_texture_transform": {"scale": [1 / 0.06, 1 / 0.06]}}}
    return writer.add_material(
        {
            "name": LEATHER.name,
            "pbrMetallicRoughness": {
                "baseColorTexture": {"index": color, **laid},
                "metallicRoughnessTexture": {"index": surface, **laid},
            },
            "normalTexture": {"index": bumps, "scale": 0.8, **laid},
        }
    )


def write_travel_case(path: Path) -> None:
    """Write the case as a GLB; its materials, but for their images, are the document's."""
    writer = GlbWriter("Velvet Lantern demo")
    leather = _leather(writer)
    velvet, brass = (writer.add_material({"name": material.name}) for material in (VELVET, EDGE))
    writer.add_part("Shell", _shell(BASE), leather)
    writer.add_part("Lining", _lining(BASE, quilted=False), velvet)
    writer.add_part("Edge", _band(BASE), brass)
    writer.add_part("Lid", _opened(_shell(LID)), leather)
    writer.add_part("Lid Lining", _opened(_lining(LID, quilted=True)), velvet)
    writer.add_part("Lid Edge", _opened(_band(LID)), brass)
    writer.add_part("Hinges", _hinges(), brass)
    writer.add_part("Latch", _latch(), brass)
    writer.write(path)
