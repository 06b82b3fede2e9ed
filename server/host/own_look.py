"""The look that one pane is seen with: its own, or that of the document which it shows.

In: the pane's state, the engine. Out: a look, and what it needs to know of a picture. Owned by `pane`.
"""

from lantern.engine.engine import Engine
from lantern.engine.finishing import LookFiles
from lantern.engine.own_images import Resolver
from lantern.film.film import Film
from lantern.picture.look.surround import Surround
from lantern.scene.document import Camera
from lantern.scene.look import Look


class PaneLook:
    """Files of a look of the pane's own are read once, and are none of the document's."""

    def __init__(self, resolve: Resolver) -> None:
        self._resolve = resolve
        self._own: Look | None = None
        self._files = LookFiles()

    def take(self, own: Look | None) -> None:
        """Be seen with a look of its own from now on; None: as the document has it."""
        if own is not None and own != self._own:
            self._files.bring(own, self._resolve)
        self._own = own

    def look(self, engine: Engine) -> Look:
        """The look of pictures that are sent now."""
        return self._own or engine.shown.look

    def surround(self, engine: Engine, film: Film | None, camera: Camera, *, clean: bool) -> Surround:
        """What that look needs to know of a film, as `Engine.surround`."""
        if self._own is None:
            return engine.surround(film, clean=clean, camera=camera)
        return engine.surround(film, clean=clean, camera=camera, own=(self._own, self._files))
