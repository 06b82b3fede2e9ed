"""Making the plan of a frame: its finished picture at two counts of samples, and what its blocks cost.

In: an engine with the frame's document open, its film, the error that the finished picture may have. Out: the film with
its plan. Called by prints and the command line.
"""

from collections.abc import Callable, Iterator

import numpy as np

from lantern.engine.engine import Engine
from lantern.film import plan
from lantern.film.blocks import BLOCK, shape_of
from lantern.film.film import Film

REGION = 8 * BLOCK
"""Side in pixels of what the rays are counted in."""
Finished = Callable[[Film], np.ndarray | None]
"""The finished picture of a film, (h, w, 3 or 4) uint8; None when that was stopped."""


def make_plan(
    engine: Engine,
    film: Film,
    finished: Finished,
    steps: float,
    most: int,
    *,
    denoised: bool,
    transparent: bool = False,
) -> bool:
    """Have a film say how many samples each of its blocks gets; False when something else was wanted meanwhile.

    `steps` is the error of the finished picture in steps of 8 bits, `denoised` whether that is without its noise. Begun
    anew where a film has gone past the first picture without a plan. Costs are counted rays and not seconds, so that
    the plan is the same on every machine.
    """
    if film.samples > plan.HALF:
        film.clear()
    if not engine.trace(film, plan.HALF, transparent=transparent):
        return False
    first = finished(film)
    if first is None:
        return False
    costs = costs_of(engine, film, plan.WHOLE, transparent=transparent)
    if costs is None:
        return False
    second = finished(film)
    if second is None:
        return False
    whole = film.region
    here, fall = _blocks(*whole), plan.DENOISED_FALL if denoised else plan.PLAIN_FALL
    errors = plan.errors_of(first[..., :3], second[..., :3])[here]
    counts = np.full(costs.shape, plan.WHOLE, np.int32)
    counts[here] = plan.planned(errors, costs[here], steps / 255, most, fall=fall)
    film.follow(counts)
    return True


def costs_of(engine: Engine, film: Film, samples: int, *, transparent: bool = False) -> np.ndarray | None:
    """Bring a film to `samples`, and count what its blocks cost: (rows, columns) rays a pixel, 0 outside its region.

    None when something else was wanted meanwhile; the film is whole for what it has then.
    """
    costs = np.zeros(shape_of(film.width, film.height))
    whole = film.region
    try:
        for x, y, width, height in _regions(whole):
            film.select((x, y, width, height))
            before = engine.ray_counts().rays
            if not engine.trace(film, samples, transparent=transparent):
                return None
            costs[_blocks(x, y, width, height)] = (engine.ray_counts().rays - before) / (width * height)
    finally:
        film.select(whole)
    return costs


def _blocks(x: int, y: int, width: int, height: int) -> tuple[slice, slice]:
    """Rows and columns of the blocks of a region."""
    return slice(y // BLOCK, -(-(y + height) // BLOCK)), slice(x // BLOCK, -(-(x + width) // BLOCK))


def _regions(whole: tuple[int, int, int, int]) -> Iterator[tuple[int, int, int, int]]:
    """Parts of a region whose edges lie on those of blocks, but for its own."""
    left, top, width, height = whole
    for y in range(top // REGION * REGION, top + height, REGION):
        for x in range(left // REGION * REGION, left + width, REGION):
            first, last = max(x, left), min(x + REGION, left + width)
            high, low = max(y, top), min(y + REGION, top + height)
            yield first, high, last - first, low - high
