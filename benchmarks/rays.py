"""Rays per second of the path tracer against a bare ray-library loop over the same recorded rays."""

import argparse
import json
import statistics
import time
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from demo.project import demo_scene
from lantern.engine import Engine
from lantern.kernel.memory import address
from lantern.trace.embree import replay
from lantern.trace.film import Film

WIDTH, HEIGHT = 640, 400


def _bare_seconds(pool: ThreadPoolExecutor, tree: int, scratch: list[np.ndarray], rays: list[np.ndarray]) -> float:
    start = time.perf_counter()
    tasks = [
        pool.submit(replay, np.uint64(tree), np.uint64(address(s)), np.uint64(address(r)), len(r))
        for s, r in zip(scratch, rays, strict=True)
    ]
    for task in tasks:
        task.result()
    return time.perf_counter() - start


def main() -> None:
    """Print rates and their ratio; rounds alternate, so that both feel the machine's mood alike."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--threads", type=int, default=2)
    parser.add_argument("--rounds", type=int, default=7)
    options = parser.parse_args()
    print(f"Path tracer against bare ray library: demo scene, {WIDTH}x{HEIGHT}, {options.threads} threads.")
    engine = Engine(options.threads)
    scene, resolve = demo_scene()
    engine.open(scene, resolve)
    film = Film(WIDTH, HEIGHT)
    engine.trace(film, 1)

    recordings = engine.renderer.record(8_000_000 // options.threads)
    engine.trace(film, 2)
    rays = [np.ascontiguousarray(rows) for rows in engine.renderer.recorded(recordings)]
    engine.renderer.record(0)
    # Threads may have got unequal shares: split evenly, in order, so that neither waits for the other.
    rays = [np.ascontiguousarray(part) for part in np.array_split(np.concatenate(rays), options.threads)]
    recorded = sum(len(r) for r in rays)
    shadow = int(sum((r[:, 6] < 0).sum() for r in rays))
    print(f"Recorded {recorded:,} rays of one sample ({shadow:,} shadow rays).")

    room = np.zeros((options.threads, 64), np.uint64)
    scratch = [row[(-row.ctypes.data % 64) // 8 :][:32] for row in room]
    tree = engine.compiled.tree.handle
    pool = ThreadPoolExecutor(options.threads)
    _bare_seconds(pool, tree, scratch, rays)
    traced_rates, bare_rates = [], []
    samples = film.samples
    for number in range(options.rounds):
        before, start = engine.ray_counts().rays, time.perf_counter()
        samples += 2
        engine.trace(film, samples)
        traced_rates.append((engine.ray_counts().rays - before) / (time.perf_counter() - start))
        bare = sum(_bare_seconds(pool, tree, scratch, rays) for _ in range(2))
        bare_rates.append(2 * recorded / bare)
        print(f"  round {number + 1}: traced {traced_rates[-1] / 1e6:.2f}, bare {bare_rates[-1] / 1e6:.2f} Mrays/s")
    ratio = statistics.median(t / b for t, b in zip(traced_rates, bare_rates, strict=True))
    print(
        json.dumps(
            {
                "benchmark": "rays",
                "rays_per_second": round(statistics.median(traced_rates)),
                "bare_rays_per_second": round(statistics.median(bare_rates)),
                "ratio": round(ratio, 3),
                "threads": options.threads,
                "triangles": engine.triangles,
            }
        )
    )


if __name__ == "__main__":
    main()
