"""The picture with its look, before it, both beside an edge, with one effect alone, and with marks.

In: scene-linear light, the look, what a pane wants to see. Out: display bytes. Owned by `shown`.
"""

import numpy as np

from lantern.picture.look.marks import marked
from lantern.picture.look.pipeline import Finisher, depends_on_place
from lantern.picture.look.surround import Surround
from lantern.scene.look import Look, only_effect, without_effects
from server.protocol.panes import PaneState

Region = tuple[int, int, int, int]


class BeforeAndAfter:
    """Each of the two remembers what its lens made."""

    def __init__(self) -> None:
        self._before, self._after = Finisher(), Finisher()

    def shown(
        self, light: np.ndarray, look: Look, around: Surround, state: PaneState, region: Region | None
    ) -> np.ndarray:
        """(h, w, 3) uint8 of (h, w, 3) float32 light, or of a region of it."""
        if state.solo is not None:
            look = only_effect(look, state.solo)
        plain = without_effects(look)
        if state.before:
            return self._finished(self._before, light, plain, around, state, region)
        picture = self._finished(self._after, light, look, around, state, region)
        if state.edge is None:
            return picture
        left = self._finished(self._before, light, plain, around, state, region)
        return _joined(left, picture, state.edge, light.shape[1], region)

    def _finished(
        self,
        finisher: Finisher,
        light: np.ndarray,
        look: Look,
        around: Surround,
        state: PaneState,
        region: Region | None,
    ) -> np.ndarray:
        whole = region is None or depends_on_place(look, around)
        picture = finisher.bytes_of(light if whole else _part(light, region), look, around)
        if state.marks != "none":
            picture = marked(picture, light if whole else _part(light, region), look, around, state.marks)
        return _part(picture, region) if whole else picture


def _part(picture: np.ndarray, region: Region | None) -> np.ndarray:
    if region is None:
        return picture
    x, y, width, height = region
    return np.ascontiguousarray(picture[y : y + height, x : x + width])


def _joined(left: np.ndarray, right: np.ndarray, edge: float, width: int, region: Region | None) -> np.ndarray:
    """One picture left of an edge, the other right of it."""
    column = round(edge * width) - (region[0] if region else 0)
    joined = right.copy()
    column = min(max(column, 0), joined.shape[1])
    joined[:, :column] = left[:, :column]
    return joined
