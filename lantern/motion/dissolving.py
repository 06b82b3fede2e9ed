"""Dissolves: a shot that comes while the one before is still seen, as a film that is exposed twice.

In: the document at a moment. Out: the camera that is seen besides, and which samples of a pixel are its. Called by
`engine`. Each sample is of one of the two, so that light is added as on film, and the mean of many is the dissolve.
"""

from dataclasses import dataclass

from lantern.motion.cuts import on_screen
from lantern.motion.moving import camera_of
from lantern.scene.document import Camera, Scene
from lantern.scene.motion import Travel

GOLDEN = 0.6180339887498949
"""Multiples of it, without their whole part, are spread evenly however many there are (H. Weyl 1916)."""
MOST_ALIKE = 4096


@dataclass(frozen=True)
class Second:
    """The camera of the shot that goes, and its share of the light (0, 1]."""

    camera: Camera
    share: float

    def has(self, sample: int) -> bool:
        """Whether a sample, counted from 0, is its."""
        return (sample + 1) * GOLDEN % 1.0 < self.share

    def alike(self, sample: int) -> int:
        """The first later sample that is of the other camera, or one that is far enough."""
        own = self.has(sample)
        later = sample + 1
        while later < sample + MOST_ALIKE and self.has(later) == own:
            later += 1
        return later


def second_of(scene: Scene) -> Second | None:
    """What is seen besides the camera of a document at its moment; None where it is no dissolve."""
    moves, time = scene.motion.moves, scene.shutter.time
    key = on_screen(moves, scene.shots, time)
    come = moves.get(key) if key is not None else None
    if not isinstance(come, Travel) or not come.start <= time < come.start + come.dissolve:
        return None
    before = {each: move for each, move in moves.items() if isinstance(move, Travel) and move.start < come.start}
    gone = on_screen(before, scene.shots, come.start)
    if gone is None:
        return None
    return Second(camera_of(scene, gone), 1.0 - (time - come.start) / come.dissolve)
