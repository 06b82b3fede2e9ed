"""How large a pane's film is: what fills the window, as far as there is memory for it, or what a kept film has.

In: the pane's state, the shape of the frame. Out: pixels. Owned by `pane`.
"""

from lantern.film.film import Film
from lantern.scene.document import Scene
from server.host.ladder import frame_size, within
from server.protocol.panes import LARGEST_SIDE, PaneState


class FilmSize:
    """Pixels that the film of one pane has."""

    def __init__(self) -> None:
        self.most_pixels = LARGEST_SIDE**2
        """That it may have: the panes of a project share the memory for them."""
        self.is_limited = False
        """Whether it has fewer than the window asked for."""
        self._kept: tuple[int, int] | None = None

    def keep(self, film: Film) -> None:
        """Have the size of a kept film, whatever the window's, until it is let go or there is no room for it."""
        self._kept = film.width, film.height

    def let_go(self) -> None:
        """Fill the window again."""
        self._kept = None

    def of(self, state: PaneState, scene: Scene) -> tuple[int, int]:
        """Width and height now."""
        printed = scene.print
        if self._kept is not None:
            width, height = self._kept
            has_its_shape = abs(height - width * printed.height / printed.width) <= 1
            if has_its_shape and width * height <= self.most_pixels:
                self.is_limited = False
                return self._kept
            self._kept = None
        wanted = frame_size((state.width, state.height), (printed.width, printed.height), state.scale, LARGEST_SIDE)
        size = within(wanted, self.most_pixels)
        self.is_limited = size != wanted
        return size
