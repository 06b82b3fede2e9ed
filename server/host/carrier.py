"""The first picture of an edit that leaves camera and parts where they are: the last whole one, carried over.

In: the whole pictures of a pane and the first coarse picture of every change. Out: a picture to show for a moment.
Owned by `pane`. Nothing of it reaches a film, a cover or a take.
"""

from dataclasses import dataclass

import numpy as np

from lantern.compile.view import View
from lantern.film.carried import carried_over
from lantern.picture.develop import Developed
from lantern.picture.encode import block_means
from lantern.scene.document import Scene

SIDE = 2
"""Pixels of the whole picture that are joined to one: a quarter of them are shown in a quarter of the time."""
LEAST_PIXELS = 2
MUCH_TOO_LARGE = 1.3
"""How many times wider than affordable a coarse picture may be to be set against the last: 1.7 times as much work."""

Size = tuple[int, int]
"""Width and height in pixels."""


def only_relit(before: Scene, after: Scene) -> bool:
    """Whether what the camera sees has the same shapes in the same places: light and materials alone may differ."""
    if (before.asset, before.shutter, before.rendering) != (after.asset, after.shutter, after.rendering):
        return False
    if (before.ground.enabled, before.ground.height) != (after.ground.enabled, after.ground.height):
        return False
    if list(before.parts) != list(after.parts) or before.part_groups != after.part_groups:
        return False
    return all(
        old == new or old.model_copy(update={"material": new.material}) == new
        for old, new in zip(before.parts.values(), after.parts.values(), strict=True)
    )


@dataclass(frozen=True)
class _Coarse:
    """The first coarse picture of a document."""

    radiance: np.ndarray
    scene: Scene
    view: View
    size: Size  # of the whole frame


@dataclass(frozen=True)
class _Pair:
    """A whole picture, in blocks, and the coarse one of the same document."""

    whole: np.ndarray
    coarse: _Coarse


class Carrier:
    """The last whole picture of a pane and its coarse twin."""

    def __init__(self) -> None:
        self._newest: _Coarse | None = None
        self._pair: _Pair | None = None
        self.carries = False
        """Whether the newest first picture was carried over."""

    def _fits(self, scene: Scene, view: View, size: Size) -> bool:
        if self._pair is None or not view.follows_paths:
            return False
        coarse = self._pair.coarse
        return coarse.size == size and coarse.view == view and only_relit(coarse.scene, scene)

    def size_for(self, scene: Scene, view: View, size: Size, affordable: Size) -> Size:
        """Size that the next coarse picture is to have: that of the last, to be set against it, or the affordable one.

        Another light may cost twice as much a sample: a twin that takes too long by now is given up for a smaller one.
        """
        if self._fits(scene, view, size):
            assert self._pair is not None
            height, width = self._pair.coarse.radiance.shape[:2]
            if width <= MUCH_TOO_LARGE * affordable[0]:
                self.carries = True
                return width, height
            self._pair = None
        self.carries = False
        return affordable

    def carry(self, scene: Scene, view: View, size: Size, coarse: Developed) -> Developed:
        """What to show of a document whose first coarse picture, denoised, is `coarse`."""
        self._newest = _Coarse(coarse.radiance, scene, view, size)
        self.carries = self._fits(scene, view, size)
        if not self.carries:
            return coarse
        assert self._pair is not None
        before = self._pair.coarse.radiance
        if before.shape != coarse.radiance.shape or min(before.shape[:2]) < LEAST_PIXELS:
            self.carries = False
            return coarse
        radiance = carried_over(self._pair.whole, before, coarse.radiance)
        return Developed(radiance, np.ones(radiance.shape[:2], np.float32))

    def take_whole(self, picture: Developed, scene: Scene, view: View) -> None:
        """A picture of the whole frame is there: later edits are set against it."""
        newest = self._newest
        if newest is None or newest.view != view:
            return
        # The look changes no light, and the proof only how long it is waited for.
        if newest.scene.model_copy(update={"look": scene.look, "proof": scene.proof}) == scene:
            self._pair = _Pair(block_means(picture.radiance, SIDE), newest)
