"""`python -m lantern.warm_up`: compile every kernel into the cache by tracing one small frame."""

from pathlib import Path

import numpy as np

from lantern.assets.gltf import ImportedAsset
from lantern.assets.mesh import Mesh
from lantern.engine import Engine
from lantern.scene.document import FileRef, Material, Part, Scene
from lantern.trace.film import Film


def main() -> None:
    """Compile and leave the cache behind."""
    triangle = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], np.float32)
    facing = np.tile(np.array([[0, 0, 1]], np.float32), (3, 1))
    asset = ImportedAsset("warm-up", "none", [Mesh(triangle, np.array([[0, 1, 2]], np.uint32), facing, None, None)])
    scene = Scene(
        parts={"triangle": Part(name="triangle", mesh=0, material="grey")},
        materials={"grey": Material(name="grey", emission_luminance=1)},
    )

    def no_files(reference: FileRef) -> Path:
        raise LookupError(f"the warm-up scene has no file {reference.name}")

    engine = Engine(1)
    engine.open(scene, no_files, asset)
    engine.trace(Film(16, 16), 1)
    engine.close()


if __name__ == "__main__":
    main()
