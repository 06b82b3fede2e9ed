"""`python -m lantern.warm_up`: compile every kernel into the cache by tracing small frames.

Proof and looking are compiled by a process each: the compiler uses one core.
"""

import subprocess
import sys

import numpy as np

from lantern.assets.imported import ImportedAsset
from lantern.assets.mesh import Mesh
from lantern.compile.heights import heights
from lantern.compile.view import View, Way
from lantern.engine.engine import Engine
from lantern.engine.own_images import no_files
from lantern.film.carried import carried_over
from lantern.film.film import Film
from lantern.kernel.cache import is_compiled
from lantern.kernel.normals import group_normals
from lantern.picture.look.pipeline import Finisher
from lantern.picture.look.surround import Surround
from lantern.scene.document import Material, Part, Scene
from lantern.scene.inputs import MaterialInput
from lantern.scene.look import EFFECTS, Look


def load_kernels(way: Way) -> None:
    """Have the kernels of a way of looking in memory, by tracing one small frame; compiles what is not in the cache."""
    triangle = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], np.float32)
    facing = np.tile(np.array([[0, 0, 1]], np.float32), (3, 1))
    asset = ImportedAsset("warm-up", "none", [Mesh(triangle, np.array([[0, 1, 2]], np.uint32), facing, None, None)])
    scene = Scene(
        parts={"triangle": Part(name="triangle", mesh=0, material="grey")},
        materials={"grey": Material(name="grey", emission_luminance=1)},
    )

    engine = Engine(1)
    engine.open(scene, no_files, asset)
    engine.trace(Film(16, 16), 1, view=View(scene.camera, way))
    engine.close()
    small = np.ones((2, 2, 3), np.float32)
    every = {name: {"enabled": True} for name in EFFECTS}
    place = {"name": "Place", "mask": {"kind": "gradient"}}
    Finisher().bytes_of(small, Look.model_validate(every | {"locals": {"place": place}}), Surround(clean=False))
    carried_over(small, small, small)
    corners = np.array([[0, 1, 2]])
    heights(MaterialInput(), triangle, facing, [], 1.0)
    group_normals(triangle.astype(np.float64), corners, corners, 3)


def main() -> None:
    """Compile and leave the cache behind. An argument names the one way of looking to compile for."""
    if len(sys.argv) > 1:
        load_kernels(Way(sys.argv[1]))
        return
    if is_compiled():
        load_kernels(Way.PROOF)
        load_kernels(Way.DRAFT)
        return
    beside = subprocess.Popen([sys.executable, "-m", "lantern.warm_up", Way.DRAFT.value])
    load_kernels(Way.PROOF)
    if beside.wait() != 0:
        raise RuntimeError("the kernels of the ways of looking could not be compiled; see the messages above")


if __name__ == "__main__":
    main()
