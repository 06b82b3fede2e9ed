"""A frame of which one pixel is kept. In: which. Out: where kernels write it. Used by picking and measuring."""

from lantern.kernel.memory import address
from lantern.rays.layout import FILM


class OnePixel:
    """One pixel of a frame too large to be kept: what a ray through an exact place of the picture finds."""

    aov_rows = group_rows = None
    next_sample = 0

    def __init__(self, width: int, height: int, x: int, y: int) -> None:
        self.width, self.height, self.region = width, height, (x, y, 1, 1)
        self.row = FILM.zeros(1)

    @property
    def address(self) -> int:
        """Where pixel (0, 0) would be, so that kernels write to the one that is there."""
        return address(self.row) - (self.region[1] * self.width + self.region[0]) * FILM.dtype.itemsize
