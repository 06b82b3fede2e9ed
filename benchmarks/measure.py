"""What several benchmarks share: recorded rays, traced again by a bare loop over the ray library."""

import statistics
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.kernel.memory import address, aligned
from lantern.rays.embree import RAY_SLOTS, replay


@dataclass(frozen=True)
class Ratio:
    """Rates [rays/s] of the path tracer and of the bare loop over the same rays, and the median of their ratio."""

    traced: float
    bare: float
    ratio: float


def bare_seconds(pool: ThreadPoolExecutor, tree: int, scratch: list[np.ndarray], rays: list[np.ndarray]) -> float:
    """Time that the bare loop needs for recorded rays, one list a thread."""
    start = time.perf_counter()
    tasks = [
        pool.submit(replay, np.uint64(tree), np.uint64(address(s)), np.uint64(address(r)), len(r))
        for s, r in zip(scratch, rays, strict=True)
    ]
    for task in tasks:
        task.result()
    return time.perf_counter() - start


def against_bare(engine: Engine, film: Film, threads: int, rounds: int, *, show: bool = False) -> Ratio:
    """Alternate passes of the path tracer and of the bare loop, so that both feel the machine's mood alike."""
    engine.trace(film, 1)
    recordings = engine.renderer.record(8_000_000 // threads)
    engine.trace(film, 2)
    rays = [np.ascontiguousarray(rows) for rows in engine.renderer.recorded(recordings)]
    engine.renderer.record(0)
    # Threads may have got unequal shares: split evenly, in order, so that neither waits for the other.
    rays = [np.ascontiguousarray(part) for part in np.array_split(np.concatenate(rays), threads)]
    recorded = sum(len(r) for r in rays)
    scratch = [aligned((2 * RAY_SLOTS,), np.float32) for _ in range(threads)]
    tree = engine.compiled.tree.handle
    traced_rates, bare_rates = [], []
    samples = film.samples
    with ThreadPoolExecutor(threads) as pool:
        bare_seconds(pool, tree, scratch, rays)
        for number in range(rounds):
            before, start = engine.ray_counts().rays, time.perf_counter()
            samples += 2
            engine.trace(film, samples)
            traced_rates.append((engine.ray_counts().rays - before) / (time.perf_counter() - start))
            bare_rates.append(2 * recorded / sum(bare_seconds(pool, tree, scratch, rays) for _ in range(2)))
            if show:
                traced, bare = traced_rates[-1] / 1e6, bare_rates[-1] / 1e6
                print(f"  round {number + 1}: traced {traced:.2f}, bare {bare:.2f} Mrays/s")
    ratio = statistics.median(t / b for t, b in zip(traced_rates, bare_rates, strict=True))
    return Ratio(statistics.median(traced_rates), statistics.median(bare_rates), ratio)
