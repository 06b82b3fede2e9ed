"""What many lights cost: time times variance of 1,000 small lights against 10 of the same total power."""

import argparse
import json
import time

import numpy as np

from lantern.engine.engine import Engine
from lantern.film.film import LUMINANCE, Film
from lantern.scene.document import Camera, Material
from lantern.scene.lights import SphereLight
from lantern.scene.surroundings import Ground
from tests.core.shapes import no_files, scene_of, sphere_mesh

SIDE = 96


def _cost(count: int, samples: int, reference_samples: int) -> tuple[float, float]:
    """(seconds for `samples`, mean squared relative error then)."""
    generator = np.random.default_rng(4)
    lights = tuple(
        SphereLight(
            name=f"{i}", radius=0.004, unit="cd", amount=10 / count, target=(0, 0, 0),
            position=tuple(generator.uniform((-0.8, 0.25, -0.8), (0.8, 0.7, 0.8))),
        )
        for i in range(count)
    )  # fmt: skip
    matt = Material(name="matt", base_color=(0.6, 0.5, 0.4), specular_roughness=0.4)
    scene, asset = scene_of(
        (sphere_mesh(0.1), matt),
        camera=Camera(position=(0.3, 0.4, 1.0), target=(0, 0, 0), focal_length=60),
        lights=lights,
        ground=Ground(height=-0.1),
    )
    engine = Engine()
    engine.open(scene, no_files, asset)

    def film(samples: int, seed: int) -> tuple[np.ndarray, float]:
        kept = Film(SIDE, SIDE)
        start = time.perf_counter()
        engine.trace(kept, samples, seed=seed)
        return kept.radiance().astype(np.float64) @ LUMINANCE, time.perf_counter() - start

    reference, _ = film(reference_samples, 0)
    film(1, 1)
    seconds, errors = [], []
    for seed in range(1, 5):
        picture, took = film(samples, seed)
        seconds.append(took)
        errors.append(np.mean(((picture - reference) / np.maximum(reference, reference.mean() / 20)) ** 2))
    engine.close()
    return float(np.median(seconds)), float(np.mean(errors))


def main() -> None:
    """Print the cost of 10, 100 and 1,000 lights, relative to 10."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--samples", type=int, default=64)
    parser.add_argument("--reference", type=int, default=4096)
    options = parser.parse_args()
    costs = {}
    for count in (10, 100, 1000):
        seconds, error = _cost(count, options.samples, options.reference)
        costs[count] = seconds * error
        print(f"{count} lights: {seconds:.2f} s, RMS {np.sqrt(error):.4f} at {options.samples} samples")
    relative = {count: round(cost / costs[10], 2) for count, cost in costs.items()}
    print(json.dumps({"benchmark": "lights", "noise_equivalent_time_against_10": relative}))


if __name__ == "__main__":
    main()
