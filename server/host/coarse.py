"""The coarse pictures of a pane: a small film, or a larger one where the whole frame is far off.

In: the frame's size, the view, a way to trace. Out: developed pictures, one step at a time. Owned by `pane`.
"""

from collections.abc import Callable

from lantern.compile.view import View
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.picture.denoise import Quality
from lantern.picture.develop import Developed
from lantern.scene.document import Scene
from server.host.carrier import Carrier
from server.host.ladder import COARSE_SAMPLES, Speed, coarse_size, middle_size

Size = tuple[int, int]
Trace = Callable[[Film, int, Speed], bool]
"""Traces so many samples of a film, learning how quick that is; False when it had to give way."""


class CoarsePictures:
    """What stands in for the whole frame until there is a sample of each of its pixels."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self.film: Film | None = None
        self.carrier = Carrier()
        self.speed = Speed()  # small pictures cost more a sample: neighbouring rays are less alike
        self._climbed = False
        """Whether the film has the size in the middle: the whole frame is far off."""

    def begin(self, scene: Scene, view: View, size: Size) -> None:
        """Start anew for a frame of a size."""
        self._climbed = False
        small = self.carrier.size_for(scene, view, size, coarse_size(*size, self.speed))
        if self.film is None or (self.film.width, self.film.height) != small:
            self.film = Film(*small)
        else:
            self.film.clear()

    def wants_more(self, running: bool) -> bool:
        """Whether another picture would be better than the last one."""
        assert self.film is not None
        # What is carried over from a whole picture is better than any coarse one.
        most = COARSE_SAMPLES if running and not self._climbed and not self.carrier.carries else 1
        return self.film.samples < most

    def make(self, trace: Trace, speed: Speed, scene: Scene, view: View, size: Size, denoise: bool) -> Developed | None:
        """The next picture, or what it makes of the last whole one; None when it had to give way.

        `speed` is that of the whole frame, whose pixels those of the size in the middle are like.
        """
        assert self.film is not None
        first = self.film.samples == 0
        if not trace(self.film, 1 if first else COARSE_SAMPLES, speed if self._climbed else self.speed):
            return None
        quality: Quality | None = "fast" if denoise else None
        picture = self._engine.develop_unless(self._engine.must_give_way, self.film, denoise=quality, urgent=True)
        if picture is not None and first and not self._climbed and denoise:
            return self.carrier.carry(scene, view, size, picture)
        return picture

    def climb(self, size: Size) -> None:
        """Go on in the size in the middle, once the small picture has all its samples, if there is such a size."""
        assert self.film is not None
        if self.film.samples > 1 and not self._climbed:
            larger = middle_size(*size, self.film.width, self.speed)
            if larger is not None:
                self.film, self._climbed = Film(*larger), True
