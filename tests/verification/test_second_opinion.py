"""Pictures of small scenes against a tracer that shares no code with ours: `reference`."""

import numpy as np
import pytest

from lantern.assets.imported import ImportedAsset
from lantern.assets.mesh import Mesh, flat_shaded
from lantern.assets.textures import Texture
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.scene.document import Camera, Material, Part, Scene
from lantern.scene.surroundings import FREE_PATHS_OF_SIGHT, Backdrop, Box, Environment, Ground, Haze
from lantern.scene.texture_use import TextureUse
from tests.core.shapes import light_of, no_files, slab_mesh, sphere_mesh, square_mesh
from tests.verification.reference import Reference

SIDE, BLOCK = 12, 4
OURS, THEIRS = (12, 128), (8, 48)
"""(seeds, samples a pixel)."""


def _flat(mesh: Mesh) -> Mesh:
    positions, indices, normals = flat_shaded(mesh.positions, mesh.indices)
    corners = mesh.indices.ravel()
    uvs = mesh.positions[corners][None, :, :2] * 5
    return Mesh(positions, indices, normals, np.ascontiguousarray(uvs, np.float32), None)


MESHES = [
    _flat(sphere_mesh(0.2, 5)),
    _flat(square_mesh(0.5)),
    _flat(slab_mesh(0.06, 0.3)),
    _flat(sphere_mesh(0.12, 5)),
]
FLOOR = Mesh(
    MESHES[1].positions, MESHES[1].indices, MESHES[1].normals,
    np.ascontiguousarray(MESHES[1].positions[None][:, :, [0, 2]] + 0.5), None,
)  # fmt: skip
MESHES[1] = FLOOR
GREY = Material(name="grey", base_color=(0.5, 0.4, 0.3), specular_ior=1.0)
RED = np.array([[[255, 40, 20, 255], [30, 200, 60, 255]], [[250, 250, 250, 255], [10, 20, 220, 255]]], np.uint8)
LEANING = np.array([[[160, 200, 240, 255], [90, 110, 250, 255]]], np.uint8)


def at(x, y, z, mirrored=False):
    return (-1.0 if mirrored else 1.0, 0, 0, x, 0, 1, 0, y, 0, 0, 1, z)


def _scene(*pieces, lights=(), **changes) -> Scene:
    """Pieces (mesh number, material, matrix) over a grey floor, seen from above the front."""
    every = [(1, GREY, at(0, -0.2, 0)), *pieces]
    fields = {
        "parts": {
            f"p{i}": Part(name="p", mesh=mesh, material=f"m{i}", matrix=m) for i, (mesh, _, m) in enumerate(every)
        },
        "materials": {f"m{i}": material for i, (_, material, _) in enumerate(every)},
        "camera": Camera(position=(0.1, 0.5, 0.9), target=(0, -0.05, 0), focal_length=50),
        "ground": Ground(enabled=False),
        "environment": Environment(intensity=1.0, rotation=40),
        "backdrop": Backdrop(kind="environment"),
        "lights": {f"l{i}": light for i, light in enumerate(lights)},
    }
    return Scene(**(fields | changes))


def material(**fields):
    return Material(name="m", **fields)


def lamp(kind="rectangle", **fields):
    chosen = {"position": (0.3, 0.6, 0.2), "target": (0, -0.1, 0), "width": 0.4, "height": 0.3, "radius": 0.15}
    return light_of(kind, name="l", unit="cd/m²", amount=8, color=(1, 0.8, 0.6), **(chosen | fields))


BALL, USE = at(0, 0, 0), TextureUse(texture=0)
GLASS = {"transmission_weight": 1.0, "specular_roughness": 0.35, "specular_ior": 1.5}
SCENES = {
    "diffuse": lambda: _scene((0, material(base_color=(0.8, 0.3, 0.2), specular_ior=1.0), BALL)),
    "rough diffuse": lambda: _scene(
        (0, material(base_color=(0.8, 0.5, 0.2), specular_ior=1.0, base_diffuse_roughness=0.9), BALL)
    ),
    "metal with an edge tint": lambda: _scene(
        (
            0,
            material(
                base_metalness=1, base_color=(0.9, 0.6, 0.2), specular_roughness=0.5, specular_color=(1, 0.7, 0.4)
            ),
            BALL,
        )
    ),
    "gloss over diffuse": lambda: _scene(
        (0, material(base_color=(0.2, 0.5, 0.7), specular_roughness=0.4, specular_ior=1.7), BALL)
    ),
    "rough glass": lambda: _scene((0, material(**GLASS), BALL)),
    "glass that absorbs and scatters": lambda: _scene(
        (
            0,
            material(
                **GLASS,
                transmission_color=(0.8, 0.5, 0.3),
                transmission_depth=0.15,
                transmission_scatter=(0.3, 0.2, 0.1),
                transmission_scatter_anisotropy=0.4,
            ),
            BALL,
        )
    ),
    "thin wall with a tint": lambda: _scene(
        (2, material(**GLASS, geometry_thin_walled=True, transmission_color=(0.9, 0.5, 0.4)), at(0, 0, 0.05))
    ),
    "volumes by priority": lambda: _scene(
        (0, material(**GLASS, interior_priority=1), BALL),
        (
            3,
            material(
                transmission_weight=1,
                specular_roughness=0.3,
                specular_ior=1.3,
                transmission_color=(0.4, 0.7, 0.9),
                transmission_depth=0.1,
            ),
            at(0.12, 0.02, 0.05),
        ),
    ),
    "holes before a lamp": lambda: _scene(
        (2, material(base_color=(0.6, 0.2, 0.6), specular_ior=1.0, geometry_opacity=0.4), at(0.1, 0.15, 0.1)),
        lights=(lamp(),),
        environment=Environment(intensity=0.2),
    ),
    "haze under two lamps": lambda: _scene(
        (0, GREY, BALL),
        lights=(lamp(), lamp("sphere", position=(-0.5, 0.5, 0.3))),
        environment=Environment(intensity=0.1),
        haze=Haze(
            enabled=True,
            sight=FREE_PATHS_OF_SIGHT * 0.8,
            color=(0.9, 0.7, 0.5),
            anisotropy=0.3,
            box=Box(low=(-0.4, -0.3, -0.4), high=(0.4, 0.3, 0.4)),
        ),
    ),
    "unlit by one lamp": lambda: _scene(
        (0, GREY, BALL),
        lights=(lamp(unlit_parts=("p1",)), lamp("sphere", position=(-0.5, 0.5, 0.3))),
        environment=Environment(intensity=0.05),
    ),
    "a glowing map, mirrored": lambda: _scene(
        (
            2,
            material(
                base_color=(0, 0, 0), specular_ior=1.0, emission_luminance=6, emission_texture=USE, double_sided=True
            ),
            at(0.02, 0.05, -0.1, mirrored=True),
        ),
        environment=Environment(intensity=0.0),
    ),
    "a normal map, mirrored": lambda: _scene(
        (
            1,
            material(base_color=(0.8, 0.8, 0.8), specular_ior=1.0, normal_texture=TextureUse(texture=1)),
            at(0.05, -0.15, 0.05, mirrored=True),
        ),
        lights=(lamp(),),
        environment=Environment(intensity=0.1),
    ),
    "a base colour map through a lens": lambda: _scene(
        (1, material(base_color_texture=USE, base_color=(1, 1, 1), specular_ior=1.0), at(0, -0.15, 0)),
        (3, GREY, at(0, -0.05, 0)),
        camera=Camera(
            position=(0.1, 0.5, 0.9), target=(0, -0.05, 0), focal_length=50, f_number=0.6, focus_distance=0.9
        ),
    ),
    "ground that the camera does not see": lambda: _scene(
        (0, material(base_color=(0.7, 0.7, 0.7), specular_ior=1.0), at(0, 0.1, 0)),
        camera=Camera(position=(0, 0.05, 0.9), target=(0, 0.12, 0), focal_length=130),
        ground=Ground(enabled=True, height=-0.35, reflectance=(0.6, 0.3, 0.1)),
    ),
}


def _map() -> np.ndarray:
    pixels = np.random.default_rng(3).uniform(0.1, 0.9, (6, 12, 3))
    pixels[1:3, 2:6] += (3.0, 2.5, 2.0)
    return pixels.astype(np.float32)


def _blocks(pictures: list[np.ndarray]) -> tuple[np.ndarray, np.ndarray]:
    """(means of blocks of pixels, their standard errors) over independent pictures."""
    count = SIDE // BLOCK
    means = np.stack([p.reshape(count, BLOCK, count, BLOCK, 3).mean((1, 3)) for p in pictures])
    return means.mean(0), means.std(0, ddof=1) / np.sqrt(len(pictures))


@pytest.mark.parametrize("name", SCENES)
def test_pictures_agree(finding, name):
    scene = SCENES[name]()
    textures = [Texture(RED, 0, 2, nearest=False), Texture(LEANING, 0, 0, nearest=True)]
    asset = ImportedAsset("test", "none", MESHES, textures=textures)
    pixels = _map()
    engine = Engine(1)
    engine.open(scene, no_files, asset)
    engine.compiled.use_environment(pixels)
    ours = []
    for seed in range(OURS[0]):
        film = Film(SIDE, SIDE)
        engine.trace(film, OURS[1], seed=seed)
        ours.append(film.radiance().astype(np.float64))
    engine.close()
    reference = Reference(scene, asset, pixels)
    theirs = [reference.picture(SIDE, THEIRS[1], seed) for seed in range(THEIRS[0])]
    (a, error_a), (b, error_b) = _blocks(ours), _blocks(theirs)
    error = np.hypot(error_a, error_b)
    finding(
        f"second opinion: {name}", "an independent tracer", a.mean(), b.mean(), error.mean() * BLOCK / SIDE / b.mean()
    )
    # Errors of few pictures are themselves uncertain, and a block in a hundred may lie far out.
    off = np.abs(a - b) / (error + 0.004 * b.mean() + 1e-6)
    assert off.max() < 6 and np.sqrt((off**2).mean()) < 1.8
    assert a.mean() == pytest.approx(b.mean(), rel=0.01, abs=4 * float(np.sqrt((error**2).sum()) / error.size))
