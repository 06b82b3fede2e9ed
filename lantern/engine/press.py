"""A point of the picture under the hand, and what is seen there. Used by what puts things by hand."""

from dataclasses import dataclass, replace

from lantern.engine.engine import Engine
from lantern.engine.picking import Picked
from lantern.scene.document import Camera


@dataclass(frozen=True)
class Press:
    """A point of a picture that is pressed, (0, 0) upper left to (1, 1) lower right, and who sees it."""

    camera: Camera
    shape: float  # width over height
    x: float
    y: float

    def beside(self, across: float, down: float) -> "Press":
        """Another, some shares of the picture's width away."""
        return replace(self, x=self.x + across, y=self.y + down * self.shape)

    def pick(self, engine: Engine) -> Picked | None:
        """What is seen there."""
        return engine.pick(self.camera, self.shape, self.x, self.y)
