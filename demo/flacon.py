"""A perfume flacon 0.11 m high: cut glass, amber liquid that reaches into it, a gem of a stopper, a brass collar.

The glass counts more than the liquid where they overlap, so their common boundary is the cavity's wall.
"""

import itertools
import math
from collections.abc import Callable
from pathlib import Path

import numpy as np

from demo.glb import GlbWriter
from demo.project import cached_files, environment_makers, file_reference
from demo.shapes import Shape, dense, merged, moved, rounded, turned
from lantern.assets.reading import import_asset
from lantern.motion.bounds import asset_bounds
from lantern.scene.document import Asset, Camera, Material, Scene
from lantern.scene.framing import fit_camera
from lantern.scene.lights import RectangleLight
from lantern.scene.look import Look
from lantern.scene.model import FileRef
from lantern.scene.printing import PrintSettings
from lantern.scene.surroundings import Backdrop, Environment, Ground

ASSET_FILE = "amber-flacon.glb"
SEGMENTS = 160
OVERLAP = 0.0003
"""m that the liquid reaches into its glass."""
FILL = 0.047
"""m: height of the liquid."""
GLASS = Material(
    name="Cut Glass",
    transmission_weight=1,
    specular_ior=1.52,
    specular_roughness=0.0,
    transmission_dispersion_scale=1.0,
    transmission_dispersion_abbe_number=58,
    interior_priority=1,
)
AMBER = Material(
    name="Amber Perfume",
    transmission_weight=1,
    specular_ior=1.36,
    specular_roughness=0.0,
    transmission_color=(0.92, 0.50, 0.16),
    transmission_depth=0.022,
)
BRASS = Material(
    name="Polished Brass", base_metalness=1, base_color=(0.91, 0.78, 0.50), specular_roughness=0.12,
    specular_color=(1.0, 0.95, 0.85),
)  # fmt: skip


def faceted(rings: list[tuple[float, float]], sides: int) -> Shape:
    """A cut solid: rings of (radius, height) from below, each turned by half a side against the last; flat facets."""
    corners = []
    for number, (radius, height) in enumerate(rings):
        angle = (np.arange(sides) + number % 2 / 2) / sides * 2 * math.pi
        corners.append(np.stack([radius * np.sin(angle), np.full(sides, height), radius * np.cos(angle)], 1))
    faces: list[np.ndarray] = []
    for number, (low, high) in enumerate(itertools.pairwise(corners)):
        shift = number % 2
        for i in range(sides):
            j = (i + 1) % sides
            # The corner of the upper ring that stands between two of the lower, and the other way round.
            top, next_top = (i + shift) % sides, (i + shift + 1) % sides
            faces.append(np.stack([low[i], low[j], high[top]]))
            faces.append(np.stack([low[j], high[next_top], high[top]]))
    for ring, upwards in ((corners[0], False), (corners[-1], True)):
        centre = ring.mean(axis=0)
        for i in range(sides):
            a, b = ring[i], ring[(i + 1) % sides]
            faces.append(np.stack([centre, a, b] if upwards else [centre, b, a]))
    triangles = np.array(faces)
    normals = np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0])
    length = np.linalg.norm(normals, axis=1, keepdims=True)
    whole = length[:, 0] > 1e-14
    positions = triangles[whole].reshape(-1, 3).astype(np.float32)
    flat = np.repeat(normals[whole] / length[whole], 3, axis=0).astype(np.float32)
    return Shape(
        positions,
        flat,
        np.zeros((len(positions), 2), np.float32),
        np.arange(len(positions), dtype=np.uint32).reshape(-1, 3),
    )


def _flipped(shape: Shape) -> Shape:
    """The same surface with its inside out: the wall of a cavity."""
    return Shape(shape.positions, -shape.normals, shape.uvs, shape.indices[:, [0, 2, 1]])


CAVITY = [
    (0.0, 0.0105, 0), (0.0185, 0.0105, 0.005), (0.0245, 0.0200, 0.010), (0.0255, 0.0450, 0.010),
    (0.0180, 0.0610, 0.008), (0.0066, 0.0665, 0.004), (0.0064, 0.0760, 0),
]  # fmt: skip


def _cavity(grow: float, most: float) -> np.ndarray:
    """Profile of the cavity up to a height, widened all around by `grow`."""
    profile = dense(rounded(CAVITY), 0.0012)
    profile = profile[profile[:, 1] <= most + 1e-9]
    tangent = np.gradient(profile, axis=0)
    normal = np.stack([tangent[:, 1], -tangent[:, 0]], 1)
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-12)
    grown = profile + grow * normal
    grown[0, 0] = 0.0
    return grown


def _body() -> Shape:
    outside = [
        (0.0270, 0.0000), (0.0300, 0.0030), (0.0345, 0.0140), (0.0360, 0.0300), (0.0350, 0.0460), (0.0300, 0.0600),
        (0.0190, 0.0690), (0.0112, 0.0725), (0.0110, 0.0760),
    ]  # fmt: skip
    cut = faceted(outside, 10)
    # Without the lid of the cut solid: the neck is open, closed by a ring from its rim to the cavity.
    lid = np.all(np.abs(cut.positions[cut.indices][:, :, 1] - 0.0760) < 1e-7, axis=1)
    body = Shape(cut.positions, cut.normals, cut.uvs, cut.indices[~lid])
    rim_angle = (np.arange(10) + 8 % 2 / 2) / 10 * 2 * math.pi
    ring = []
    for i in range(10):
        a, b = rim_angle[i], rim_angle[(i + 1) % 10] + (2 * math.pi if i == 9 else 0)
        inner = np.linspace(a, b, SEGMENTS // 10 + 1)
        p = 0.0110 * np.array([np.sin(a), 0, np.cos(a)])
        q = 0.0110 * np.array([np.sin(b), 0, np.cos(b)])
        for k, (c, d) in enumerate(itertools.pairwise(inner)):
            s, t = k / (len(inner) - 1), (k + 1) / (len(inner) - 1)
            outer = [p + (q - p) * s, p + (q - p) * t]
            near = [0.0064 * np.array([np.sin(c), 0, np.cos(c)]), 0.0064 * np.array([np.sin(d), 0, np.cos(d)])]
            ring += [[outer[0], outer[1], near[0]], [outer[1], near[1], near[0]]]
    flat = np.array(ring).reshape(-1, 3).astype(np.float32) + np.float32([0, 0.0760, 0])
    up = np.tile(np.float32([0, 1, 0]), (len(flat), 1))
    top = Shape(flat, up, np.zeros((len(flat), 2), np.float32), np.arange(len(flat), dtype=np.uint32).reshape(-1, 3))
    return merged(body, _flipped(turned(_cavity(0.0, 0.0760), SEGMENTS)), top)


def _liquid() -> Shape:
    wall = _cavity(OVERLAP, FILL)
    top = np.array([[wall[-1, 0] * (1 - t), FILL] for t in np.linspace(0, 1, 24)[1:]])
    return turned(np.concatenate([wall, top]), SEGMENTS)


def _stopper() -> Shape:
    gem = [(0.0085, 0.0), (0.0150, 0.0055), (0.0178, 0.0130), (0.0150, 0.0205), (0.0095, 0.0250)]
    plug = dense(rounded([(0.0, -0.0160, 0), (0.0058, -0.0160, 0.0006), (0.0061, 0.0002, 0), (0.0, 0.0002, 0)]), 0.0008)
    return moved(merged(faceted(gem, 10), turned(plug, 96)), (0, 0.0800, 0))


def _collar() -> Shape:
    profile = [
        (0.0113, 0.0722, 0), (0.0128, 0.0722, 0.0004), (0.0131, 0.0745, 0.0006), (0.0131, 0.0785, 0.0008),
        (0.0120, 0.0796, 0.0006), (0.0066, 0.0796, 0.0002), (0.0066, 0.0764, 0), (0.0113, 0.0764, 0),
        (0.0113, 0.0722, 0),
    ]  # fmt: skip
    return turned(dense(rounded(profile), 0.0006), SEGMENTS)


def write_flacon(path: Path) -> None:
    """Write the flacon as a GLB; its materials are the document's."""
    writer = GlbWriter("Velvet Lantern demo")
    names = (GLASS, AMBER, BRASS)
    numbers = [writer.add_material({"name": material.name}) for material in names]
    writer.add_part("Body", _body(), numbers[0])
    writer.add_part("Perfume", _liquid(), numbers[1])
    writer.add_part("Stopper", _stopper(), numbers[0])
    writer.add_part("Collar", _collar(), numbers[2])
    writer.write(path)


def flacon_scene() -> tuple[Scene, Callable[[FileRef], Path]]:
    """The flacon's document and a function that finds its files."""
    files = cached_files({ASSET_FILE: write_flacon, **environment_makers()})
    asset = import_asset(files[ASSET_FILE])
    by_name = {material.name: material for material in (GLASS, AMBER, BRASS)}
    low, high = asset_bounds(asset)
    printed = PrintSettings(width=800, height=1000, samples=96)
    camera = fit_camera(
        Camera(focal_length=100.0, position=(0.10, 0.14, 0.5), target=(0, 0.05, 0)), low, high, 0.8, keep_direction=True
    )
    scene = Scene(
        asset=Asset(file=file_reference(files[ASSET_FILE]), name="Amber Flacon"),
        parts=asset.parts,
        materials={key: by_name[material.name] for key, material in asset.materials.items()},
        environment=Environment(map=file_reference(files["softbox-studio.hdr"]), rotation=40.0, intensity=0.8),
        lights={
            "glow": RectangleLight(
                name="Window behind", position=(-0.50, 0.34, -0.30), target=(0, 0.05, 0), width=0.36,
                height=0.44, unit="cd/m²", amount=14.0, temperature=5200,
            )
        },
        backdrop=Backdrop(kind="color", color=(0.42, 0.36, 0.31)),
        ground=Ground(height=float(low[1]), reflectance=(0.42, 0.36, 0.31), reflection=0.04, reflection_roughness=0.1),
        camera=camera,
        look=Look(exposure=0.2),
        print=printed,
    )  # fmt: skip
    by_digest = {file_reference(path).sha256: path for path in files.values()}
    return scene, lambda reference: by_digest[reference.sha256]
