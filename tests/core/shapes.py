"""Small assets for tests, made from formulas."""

import numpy as np

from lantern.assets.gltf import ImportedAsset
from lantern.assets.mesh import Mesh
from lantern.scene.document import Camera, Ground, Material, Part, Scene


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
