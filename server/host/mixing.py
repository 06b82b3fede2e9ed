"""A picture balanced anew while a fader is moved: no ray is traced and nothing is denoised.

In: a film that tells light groups apart, the last picture developed of it and the factors it was developed with. Out: a
picture of half the size with other factors. Owned by `pane`; the whole picture follows when the hand rests.

The developed picture, which may be denoised, is multiplied by the ratio of the balanced sums; where there was no light
the sums themselves stand. Both sums are of the same samples, so that their noise nearly cancels.
"""

from collections.abc import Sequence

import numpy as np

from lantern.film.film import Film
from lantern.picture.develop import Developed
from lantern.picture.encode import block_means

SIDE = 2
"""Pixels of the film along a side of one of the picture."""
_DARK = 1e-7
Factors = Sequence[Sequence[float]]


class Mixer:
    """The last whole picture of a film, and what is known of its light groups."""

    def __init__(self) -> None:
        self._kept: tuple[Developed, Factors] | None = None
        self._of: tuple[int, int] | None = None
        self._groups = np.zeros((0, 1, 1, 3), np.float32)
        self._base = np.zeros((1, 1, 3), np.float32)

    def keep(self, developed: Developed, factors: Factors) -> None:
        """Note the newest whole picture, and the factors that it was developed with."""
        self._kept = developed, factors

    def forget(self) -> None:
        """There is no whole picture of the film any more."""
        self._kept = None

    def mixed(self, film: Film, now: Factors) -> Developed | None:
        """The picture with the factors `now`; None where there is none, or the film tells no light groups apart."""
        if self._kept is None or film.group_rows is None:
            return None
        developed, before = self._kept
        key = id(developed), film.samples
        if self._of != key:
            self._of = key
            self._groups = np.stack([_smooth(block_means(group, SIDE)) for group in film.groups()])
            self._base = block_means(developed.radiance, SIDE)
        was, becomes = (self._sum(factors) for factors in (before, now))
        ratio = np.where(was > _DARK, becomes / np.maximum(was, _DARK), 0.0)
        radiance = np.where(was > _DARK, self._base * ratio, becomes).astype(np.float32)
        return Developed(radiance, np.ones(radiance.shape[:2], np.float32))

    def _sum(self, factors: Factors) -> np.ndarray:
        weights = np.ones((len(self._groups), 3), np.float32)
        told = min(len(factors), len(weights))
        weights[:told] = np.array(factors[:told], np.float32).reshape(told, 3)
        total = np.zeros_like(self._base)
        for group, weight in zip(self._groups, weights, strict=True):
            total += group * weight
        return total


def _smooth(pixels: np.ndarray) -> np.ndarray:
    """The mean over 3 x 3 pixels."""
    padded = np.pad(pixels, ((1, 1), (1, 1), (0, 0)), mode="edge")
    rows = padded[:-2] + padded[1:-1] + padded[2:]
    return np.asarray((rows[:, :-2] + rows[:, 1:-1] + rows[:, 2:]) / 9, np.float32)
