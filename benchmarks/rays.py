"""Rays per second of the path tracer against a bare ray-library loop over the same recorded rays."""

import argparse
import json

from benchmarks.measure import Ratio, against_bare
from demo.project import demo_scene
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.scene.document import Material, Scene

WIDTH, HEIGHT = 640, 400


def _simple(scene: Scene) -> Scene:
    """The same parts, all of one matt material: no gloss, no glass, no textures, no light of their own."""
    return scene.model_copy(
        update={"materials": {key: Material(name=m.name, specular_ior=1.0) for key, m in scene.materials.items()}}
    )


def _measure(scene: Scene, resolve, threads: int, rounds: int, title: str) -> tuple[Ratio, int]:
    print(f"{title}: demo scene, {WIDTH}x{HEIGHT}, {threads} threads.")
    engine = Engine(threads)
    engine.open(scene, resolve)
    found = against_bare(engine, Film(WIDTH, HEIGHT), threads, rounds, show=True)
    triangles = engine.triangles
    engine.close()
    return found, triangles


def main() -> None:
    """Print rates and their ratio."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--threads", type=int, default=2)
    parser.add_argument("--rounds", type=int, default=15)
    options = parser.parse_args()
    scene, resolve = demo_scene()
    full, triangles = _measure(scene, resolve, options.threads, options.rounds, "Full materials")
    simple, _ = _measure(_simple(scene), resolve, options.threads, options.rounds, "Simple materials")
    single, _ = _measure(scene, resolve, 1, max(options.rounds // 3, 3), "Full materials, one thread")
    print(
        json.dumps(
            {
                "benchmark": "rays",
                "rays_per_second": round(full.traced),
                "bare_rays_per_second": round(full.bare),
                "ratio": round(full.ratio, 3),
                "ratio_simple_materials": round(simple.ratio, 3),
                "ratio_one_thread": round(single.ratio, 3),
                "scaling": round(full.traced / single.traced, 2),
                "bare_scaling": round(full.bare / single.bare, 2),
                "threads": options.threads,
                "triangles": triangles,
            }
        )
    )


if __name__ == "__main__":
    main()
