"""Rays per second over the size of a mesh, 10 thousand to 10 million triangles, and over instances of 5 million; how
fast a strewn billion is seen and edited."""

import argparse
import json
import time

import numpy as np

from benchmarks.measure import against_bare
from lantern.assets.imported import ImportedAsset
from lantern.assets.mesh import Mesh
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.scene.document import Camera, Material, Part, Scene
from lantern.scene.scatter import Scatter
from lantern.scene.surroundings import Environment, Ground
from tests.core.shapes import no_files, sphere_mesh, square_mesh

WIDTH, HEIGHT = 480, 300


def bumpy(triangles: int) -> Mesh:
    """A displaced ball of radius about 0.1 m."""
    rings = max(int(np.sqrt(triangles / 4)), 4)
    theta, phi = np.meshgrid(np.linspace(0, np.pi, rings + 1), np.linspace(0, 2 * np.pi, 2 * rings + 1), indexing="ij")
    radius = 0.1 + 0.004 * np.sin(40 * theta) * np.sin(40 * phi)
    unit = np.stack([np.sin(theta) * np.sin(phi), np.cos(theta), np.sin(theta) * np.cos(phi)], -1)
    positions = (unit * radius[..., None]).reshape(-1, 3).astype(np.float32)
    row, column = np.meshgrid(np.arange(rings), np.arange(2 * rings), indexing="ij")
    a = (row * (2 * rings + 1) + column).ravel()
    below = a + 2 * rings + 1
    indices = np.concatenate([np.stack([a, below, a + 1], 1), np.stack([a + 1, below, below + 1], 1)]).astype(np.uint32)
    return Mesh(positions, indices, unit.reshape(-1, 3).astype(np.float32), None, None)


def _scene(instances: int) -> Scene:
    across = int(np.ceil(np.sqrt(instances)))
    parts = {}
    for i in range(instances):
        x, z = 0.22 * (i % across - (across - 1) / 2), 0.22 * (i // across - (across - 1) / 2)
        parts[f"p{i}"] = Part(name=f"{i}", mesh=0, material="m", matrix=(1, 0, 0, x, 0, 1, 0, 0, 0, 0, 1, z))
    return Scene(
        parts=parts,
        materials={"m": Material(name="m")},
        camera=Camera(position=(0, 0.2 * across, 0.5 * across), target=(0, 0, 0), focal_length=50),
        ground=Ground(height=-0.105),
        environment=Environment(intensity=1.0),
    )


def _measure(mesh: Mesh, instances: int, rounds: int) -> dict[str, object]:
    engine = Engine()
    start = time.perf_counter()
    engine.open(_scene(instances), no_files, ImportedAsset("bumps", "none", [mesh]))
    opened = time.perf_counter() - start
    found = against_bare(engine, Film(WIDTH, HEIGHT), 2, rounds)
    engine.close()
    return {
        "triangles": mesh.triangles,
        "instances": instances,
        "open_s": round(opened, 2),
        "mrays_per_second": round(found.traced / 1e6, 2),
        "bare_mrays_per_second": round(found.bare / 1e6, 2),
        "ratio": round(found.ratio, 3),
    }


def _strewn(copies: int) -> dict[str, object]:
    """Beads strewn over a square metre: opened, seen from elsewhere at a quarter of 1280x800, sown anew."""
    asset = ImportedAsset("beads", "none", [square_mesh(0.5), sphere_mesh(0.001, 71)])
    bead = Part(name="Bead", mesh=1, material="m", strewn=Scatter(over="floor", density=copies))
    scene = _scene(0).model_copy(
        update={
            "parts": {"floor": Part(name="Floor", mesh=0, material="m"), "bead": bead},
            "camera": Camera(position=(0.3, 0.5, 0.9), target=(0, 0, 0), focal_length=45),
        }
    )
    engine = Engine()
    seconds = {}
    start = time.perf_counter()
    engine.open(scene, no_files, asset)
    seconds["open_s"] = time.perf_counter() - start
    engine.trace(Film(320, 200), 1)
    engine.apply(scene.model_copy(update={"camera": Camera(position=(0.9, 0.3, 0.3), target=(0, 0, 0))}), no_files)
    start = time.perf_counter()
    engine.trace(Film(320, 200), 1)
    seconds["picture_s"] = time.perf_counter() - start
    start = time.perf_counter()
    other = bead.model_copy(update={"strewn": Scatter(over="floor", density=copies, seed=2)})
    engine.apply(scene.model_copy(update={"parts": scene.parts | {"bead": other}}), no_files)
    seconds["sown_anew_s"] = time.perf_counter() - start
    triangles = engine.triangles
    engine.close()
    return {"triangles": triangles} | {name: round(value, 3) for name, value in seconds.items()}


def main() -> None:
    """Print one line for each size."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rounds", type=int, default=5)
    options = parser.parse_args()
    rows = []
    for triangles in (10_000, 100_000, 1_000_000, 10_000_000):
        rows.append(_measure(bumpy(triangles), 1, options.rounds))
        print(rows[-1])
    mesh = bumpy(5_000_000)
    for instances in (1, 20, 200):
        rows.append(_measure(mesh, instances, options.rounds))
        print(rows[-1])
    rows.append(_strewn(50_000))
    print(rows[-1])
    print(json.dumps({"benchmark": "scale", "rows": rows}))


if __name__ == "__main__":
    main()
