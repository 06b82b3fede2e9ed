"""Small assets for tests, made from formulas."""

import numpy as np

from lantern.assets.imported import ImportedAsset
from lantern.assets.mesh import Mesh
from lantern.assets.smoothing import smooth_mesh
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.scene.document import Camera, Material, Part, Scene
from lantern.scene.lights import LIGHT_KINDS, Light
from lantern.scene.surroundings import Backdrop, Environment, Ground

SIDE = 64
WHITE = Material(name="white", base_color=(1, 1, 1), specular_ior=1.0)


def sphere_mesh(radius: float = 0.1, rings: int = 64) -> Mesh:
    """A sphere of triangles with exact normals."""
    theta, phi = np.meshgrid(np.linspace(0, np.pi, rings + 1), np.linspace(0, 2 * np.pi, 2 * rings + 1), indexing="ij")
    unit = np.stack([np.sin(theta) * np.sin(phi), np.cos(theta), np.sin(theta) * np.cos(phi)], -1).reshape(-1, 3)
    width = 2 * rings + 1
    row, column = np.meshgrid(np.arange(rings), np.arange(2 * rings), indexing="ij")
    a = (row * width + column).ravel()
    indices = np.concatenate([np.stack([a, a + width, a + 1], 1), np.stack([a + 1, a + width, a + width + 1], 1)])
    return Mesh((unit * radius).astype(np.float32), indices.astype(np.uint32), unit.astype(np.float32), None, None)


def slab_mesh(thickness: float, half_width: float = 1.0) -> Mesh:
    """A plate across the line of sight, facing +Z and -Z, with flat normals; its rim is left open."""
    square = np.array([[-1, -1, 0], [1, -1, 0], [1, 1, 0], [-1, 1, 0]], np.float32) * half_width
    shift = np.array([0, 0, thickness / 2])
    positions = np.concatenate([square + shift, square - shift]).astype(np.float32)
    indices = np.array([[0, 1, 2], [0, 2, 3], [4, 6, 5], [4, 7, 6]], np.uint32)
    normals = np.repeat(np.array([[0, 0, 1], [0, 0, -1]], np.float32), 4, 0)
    return Mesh(positions, indices, normals, None, None)


def one_part(material: Material, mesh: Mesh | None = None, *, ground: bool = False) -> tuple[Scene, ImportedAsset]:
    """A scene of one mesh at the origin, seen from +Z, with even white light of 1 cd/m²."""
    asset = ImportedAsset("test", "none", [mesh or sphere_mesh()])
    scene = Scene(
        parts={"part": Part(name="Part", mesh=0, material="m")},
        materials={"m": material},
        camera=Camera(position=(0, 0, 1.0), target=(0, 0, 0), focal_length=100),
        ground=Ground(enabled=ground, height=-0.1),
    )
    return scene, asset


def box_mesh(low: tuple[float, ...], high: tuple[float, ...]) -> Mesh:
    """A box with sharp edges between two corners."""
    corners = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], np.float32)
    faces = np.array([[0, 1, 3], [0, 3, 2], [4, 6, 7], [4, 7, 5], [0, 4, 5], [0, 5, 1],
                      [2, 3, 7], [2, 7, 6], [0, 2, 6], [0, 6, 4], [1, 5, 7], [1, 7, 3]])  # fmt: skip
    return smooth_mesh((np.array(low) + corners * np.subtract(high, low)).astype(np.float32), faces)


def square_mesh(half_width: float = 0.5) -> Mesh:
    """A level square facing up."""
    positions = np.array([[-1, 0, 1], [1, 0, 1], [1, 0, -1], [-1, 0, -1]], np.float32) * half_width
    normals = np.tile(np.array([[0, 1, 0]], np.float32), (4, 1))
    return Mesh(positions, np.array([[0, 1, 2], [0, 2, 3]], np.uint32), normals, None, None)


def light_of(kind, **fields):
    """A light of a kind, with those of the fields that the kind has."""
    model = LIGHT_KINDS[kind]
    return model(**{name: value for name, value in fields.items() if name in model.model_fields})


def scene_of(
    *pieces: tuple[Mesh, Material], camera: Camera | None = None, lights: tuple[Light, ...] = (), **changes: object
) -> tuple[Scene, ImportedAsset]:
    """A scene of pieces in a dark room, without ground; parts and materials are called p0, p1, …"""
    asset = ImportedAsset("test", "none", [mesh for mesh, _ in pieces])
    parts = {f"p{i}": Part(name=f"P{i}", mesh=i, material=f"p{i}") for i in range(len(pieces))}
    scene = Scene(
        parts=parts,
        materials={f"p{i}": material for i, (_, material) in enumerate(pieces)},
        camera=camera or Camera(position=(0, 0, 1.0), target=(0, 0, 0), focal_length=100),
        ground=Ground(enabled=False),
        environment=Environment(intensity=0.0),
        backdrop=Backdrop(color=(0, 0, 0)),
        lights={f"l{i}": light for i, light in enumerate(lights)},
    )
    return scene.model_copy(update=changes), asset


def no_files(reference):
    raise LookupError(reference.name)


def traced(
    scene, asset, samples=64, *, environment=None, threads=2, steps=None, transparent=False, seed=0, noise=None,
    side=SIDE, aovs=False,
):  # fmt: skip
    """The film of a scene; no sample of it may be lost."""
    engine = Engine(threads)
    engine.open(scene, no_files, asset)
    if environment is not None:
        engine.compiled.use_environment(environment)
    film = Film(side, side, aovs=aovs)
    for step in steps or [samples]:
        assert engine.trace(film, step, transparent=transparent, seed=seed, noise=noise)
    assert engine.ray_counts().not_finite == 0
    engine.close()
    return film


def spot_radiance(film, half=4):
    """(mean radiance (3,), its standard error) of the few pixels in the middle."""
    c = film.width // 2
    patch = film.means().radiance[c - half : c + half, c - half : c + half].reshape(-1, 3)
    return patch.mean(axis=0, dtype=np.float64), float(patch[:, 1].std() / np.sqrt(len(patch)))
