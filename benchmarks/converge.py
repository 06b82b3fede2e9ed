"""Error against samples: this renderer's points against independent random numbers, and no importance sampling.

Three scenes, small pictures: matt objects under an even sky, polished objects under a studio map, many lights. Each
error is the root mean square over the pixels against a reference of many samples from another
seed.
"""

import argparse
import json
from dataclasses import dataclass
from functools import partial

import numpy as np

from demo.environments import studio
from lantern.assets.imported import ImportedAsset
from lantern.color import LUMINANCE
from lantern.compile import compiled
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.kernel import points
from lantern.light.environment import sampling_grid
from lantern.scene.document import Camera, Material, Scene
from lantern.scene.lights import SphereLight
from lantern.scene.surroundings import Backdrop, Environment, Ground
from tests.core.shapes import no_files, scene_of, sphere_mesh

SIDE = 96
COUNTS = (16, 32, 64, 128, 256, 512, 1024)


@dataclass(frozen=True)
class Case:
    """One scene and the map that lights it."""

    scene: Scene
    asset: ImportedAsset
    pixels: np.ndarray | None


def _cases() -> dict[str, Case]:
    camera = Camera(position=(0.25, 0.25, 0.8), target=(0, 0, 0), focal_length=80)
    even = np.linspace(0.4, 1.6, 64, dtype=np.float32)[::-1, None, None] * np.ones((64, 128, 3), np.float32)
    matt = Material(name="matt", base_color=(0.6, 0.5, 0.4), specular_ior=1.0)
    metal = Material(name="metal", base_color=(0.9, 0.7, 0.5), base_metalness=1, specular_roughness=0.35)
    sphere, ground = sphere_mesh(0.1), Ground(height=-0.1)
    even_light, behind = Environment(intensity=1.0), Backdrop(color=(0.3, 0.3, 0.3))
    around = partial(scene_of, camera=camera, environment=even_light, backdrop=behind, ground=ground)
    generator = np.random.default_rng(2)
    lights = tuple(
        SphereLight(
            name=f"{i}", radius=0.01,
            position=tuple(generator.uniform((-0.6, 0.2, -0.6), (0.6, 0.8, 0.6))),
            unit="cd", amount=float(generator.uniform(0.05, 0.5)),
        )
        for i in range(40)
    )  # fmt: skip
    return {
        "diffuse": Case(*around((sphere, matt)), even),
        "studio": Case(*around((sphere, metal)), studio()),
        "lights": Case(*scene_of((sphere, matt), camera=camera, lights=lights, ground=ground), None),
    }


def _film(engine: Engine, samples: int, seed: int) -> np.ndarray:
    film = Film(SIDE, SIDE)
    engine.trace(film, samples, seed=seed)
    return film.radiance().astype(np.float64) @ LUMINANCE


def _rmse(engine: Engine, reference: np.ndarray, samples: int, seeds: int) -> float:
    errors = [np.mean((_film(engine, samples, seed + 1) - reference) ** 2) for seed in range(seeds)]
    return float(np.sqrt(np.mean(errors)))


def _independent(first: int, count: int, seed: int) -> np.ndarray:
    """Random numbers in the place of the scrambled points: independent over samples and dimensions."""
    return np.random.default_rng((seed, first)).random((count, points.DIMENSIONS), dtype=np.float32)


def _measure(case: Case, reference_samples: int) -> dict[str, object]:
    engine = Engine()
    engine.open(case.scene, no_files, case.asset)
    if case.pixels is not None:
        engine.compiled.use_environment(case.pixels)
    reference = _film(engine, reference_samples, 0)
    ours = {n: _rmse(engine, reference, n, 3) for n in COUNTS}
    sampled = compiled.sample_points
    compiled.sample_points = _independent
    independent = _rmse(engine, reference, 64, 6)
    compiled.sample_points = sampled
    # An even grid over the whole sphere in the place of the map's own distribution: aiming without importance.
    blind = None
    if case.pixels is not None:
        flat = sampling_grid(np.ones_like(case.pixels), case.scene.ground.enabled)
        grids = engine.compiled._environment._grids
        kept = dict(grids)
        grids.update(dict.fromkeys(kept, flat))
        compiled.sample_points = _independent
        blind = _rmse(engine, reference, 64, 6)
        compiled.sample_points = sampled
        grids.update(kept)
    engine.close()
    slope = np.polyfit(np.log(COUNTS), np.log([ours[n] for n in COUNTS]), 1)[0]
    return {
        "rmse": {n: float(f"{e:.4g}") for n, e in ours.items()},
        "slope": round(float(slope), 3),
        "against_independent": round(ours[64] / independent, 3),
        "against_no_importance": round(ours[64] / blind, 3) if blind else None,
    }


def main() -> None:
    """Print the curves."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--reference", type=int, default=16384, help="samples of the reference")
    options = parser.parse_args()
    found = {}
    for name, case in _cases().items():
        found[name] = _measure(case, options.reference)
        print(f"{name}: {found[name]}")
    print(json.dumps({"benchmark": "converge", **found}))


if __name__ == "__main__":
    main()
