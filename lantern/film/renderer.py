"""Passes over a compiled scene on a pool of threads, with counters and cancelling.

In: a `CompiledScene`'s block, a film, the wanted number of samples. Out: the film, brought there. Called by
`lantern.engine`.
"""

import os
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor, wait
from dataclasses import dataclass, field

import numpy as np

from lantern.kernel.memory import address, aligned
from lantern.rays.layout import COUNTERS, SCRATCH_COUNTERS, SCRATCH_RECORDS, SCRATCH_SLOTS

Kernel = Callable[[np.uint64, np.uint64, np.uint64], None]
"""Fills tiles: addresses of the scene block, of the tree and of a thread's scratch memory."""


@dataclass
class RayCounts:
    """Rays traced by kind; samples dropped because they were not finite, and samples limited in brightness."""

    camera: int = 0
    bounce: int = 0
    shadow: int = 0
    not_finite: int = 0
    limited: int = 0

    @property
    def rays(self) -> int:
        return self.camera + self.bounce + self.shadow


@dataclass
class Recording:
    """Rays kept by one thread for the benchmark: (n, 8) float32 rows as `embree.replay` reads them."""

    rows: np.ndarray
    used: int = 0


@dataclass
class Renderer:
    """Threads, their scratch memory and their counters."""

    threads: int = field(default_factory=lambda: os.cpu_count() or 1)

    def __post_init__(self) -> None:
        if self.threads < 1:
            raise ValueError(f"threads must be at least 1, not {self.threads}")
        self._pool = ThreadPoolExecutor(self.threads, thread_name_prefix="tracer")
        self._scratch = [aligned((SCRATCH_SLOTS,), np.uint64) for _ in range(self.threads)]
        self.control = np.zeros(2, np.int32)
        self._cancel = threading.Event()

    def run(self, kernel: Kernel, scene_block: np.ndarray, tree: int) -> bool:
        """Let a kernel fill all tiles of the block's region; False when cancelled on the way."""
        self.control[0] = 0
        # In this order, so that a cancel between the two lines is not lost.
        self.control[1] = 0
        if self._cancel.is_set():
            self.control[1] = 1
        block = address(scene_block)
        tasks = [
            self._pool.submit(kernel, np.uint64(block), np.uint64(tree), np.uint64(address(scratch)))
            for scratch in self._scratch
        ]
        wait(tasks)
        for task in tasks:
            task.result()
        return not self._cancel.is_set()

    def cancel(self) -> None:
        """Make a running pass give way at its next tile, and later ones at once, until `ready`."""
        self._cancel.set()
        self.control[1] = 1

    def ready(self) -> None:
        """Allow passes again after `cancel`."""
        self._cancel.clear()

    @property
    def cancelled(self) -> bool:
        return self._cancel.is_set()

    def counts(self) -> RayCounts:
        """Totals over all threads since the start."""
        total = RayCounts()
        for index, kind in enumerate(COUNTERS):
            setattr(total, kind, sum(int(scratch[SCRATCH_COUNTERS + index]) for scratch in self._scratch))
        return total

    def record(self, rays_a_thread: int) -> list[Recording]:
        """Keep each thread's rays from now on; `rays_a_thread` 0 stops."""
        recordings = []
        for scratch in self._scratch:
            recording = Recording(np.zeros((max(rays_a_thread, 1), 8), np.float32))
            scratch[SCRATCH_RECORDS] = address(recording.rows)
            scratch[SCRATCH_RECORDS + 1] = 0
            scratch[SCRATCH_RECORDS + 2] = rays_a_thread
            recordings.append(recording)
        return recordings

    def recorded(self, recordings: list[Recording]) -> list[np.ndarray]:
        """The rows that each thread has filled."""
        return [r.rows[: int(s[SCRATCH_RECORDS + 1])] for r, s in zip(recordings, self._scratch, strict=True)]

    def close(self) -> None:
        """End the threads."""
        self.cancel()
        self._pool.shutdown(wait=True)
