"""How far a pane is, and how quick this host traces.

In: a pane, engines. Out: a `Status`. Called by `loop`.
"""

import os
import time
from collections.abc import Sequence
from dataclasses import astuple
from pathlib import Path

from lantern.engine.engine import Engine
from lantern.film.renderer import RayCounts
from server.host.pane import LOOKED_AT, Pane
from server.protocol.browser import Status


class TracingSpeed:
    """Rays a second from one status to the next."""

    def __init__(self) -> None:
        self._counted = (0, 0.0)  # rays and seconds of tracing at the last one

    def of(self, engines: Sequence[Engine]) -> tuple[float, RayCounts]:
        """(rays a second since the last time, all rays so far) of all engines of a host."""
        counts = [astuple(engine.ray_counts()) for engine in engines]
        total = RayCounts(*(sum(each) for each in zip(*counts, strict=True)))
        seconds = sum(engine.timings.tracing for engine in engines)
        rays, before = self._counted
        rate = (total.rays - rays) / (seconds - before) if seconds > before else 0.0
        if seconds != before:  # less when an engine was closed
            self._counted = (total.rays, seconds)
        return rate, total


def status_of(pane: Pane, counts: RayCounts, rate: float, *, running: bool, rests: bool) -> Status:
    """What a window is told of a pane that has a film."""
    film, state = pane.film, pane.state
    assert film is not None and state is not None
    done = pane.done
    left = film.region[2] * film.region[3] * pane.wanted
    if done > 0:
        left = film.samples_left(pane.wanted, pane.noise_target, LOOKED_AT)
    return Status(
        pane=state.pane,
        samples=done,
        wanted=pane.wanted,
        settled=pane.settled,
        running=running,
        rests=rests,
        width=film.width,
        height=film.height,
        noise=pane.noise,
        seconds=time.monotonic() - pane.started,
        seconds_left=left * pane.speed.seconds_per_sample,
        rays_per_second=max(rate, 0.0),
        dropped_samples=counts.not_finite,
        limited_samples=counts.limited,
        memory_mib=_resident_mib(),
    )


def _resident_mib() -> int:
    """Memory of this process [MiB]."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") >> 20
