"""What one pane of a window is to show: a document, by a camera, in a way of looking, with a look, so large.

In: the pane's state, the engine. Out: all that its pictures depend on and samples do not change. Base of `pane`.
"""

from lantern.compile.view import View
from lantern.engine.engine import Engine
from lantern.engine.own_images import Resolver
from lantern.film.film import Film
from lantern.picture.look.surround import Surround
from lantern.scene.document import Camera, Scene
from lantern.scene.look import Look
from server.host.own_look import PaneLook
from server.host.sizing import FilmSize
from server.protocol.panes import PaneState


class Sight:
    """The state that a window has given a pane, over what the document says where the pane has nothing of its own."""

    def __init__(self, engine: Engine, resolve: Resolver) -> None:
        self.engine = engine
        self.state: PaneState | None = None
        self.size = FilmSize()
        self._look = PaneLook(resolve)

    def see(self, state: PaneState) -> None:
        """Take over what the window wants to see."""
        self.state = state
        self._look.take(state.look)

    @property
    def scene_shown(self) -> Scene:
        """The document as it is at its moment, under what the pane shows it under."""
        return self.engine.shown

    @property
    def camera(self) -> Camera:
        """The pane's own camera, or the shot's."""
        assert self.state is not None
        return self.state.camera or self.scene_shown.camera

    @property
    def look(self) -> Look:
        """The pane's own look, or that of what it shows."""
        return self._look.look(self.engine)

    @property
    def view(self) -> View:
        assert self.state is not None
        return View(self.camera, self.state.way)

    @property
    def shape(self) -> float:
        """Width over height."""
        return self.scene_shown.print.width / self.scene_shown.print.height

    @property
    def wanted(self) -> int:
        """Samples of the settled picture."""
        return self.view.wanted_samples(self.scene_shown.proof.samples)

    @property
    def noise_target(self) -> float | None:
        """Relative error at which a pixel has settled, if there is one."""
        return self.scene_shown.proof.noise_target if self.view.follows_paths else None

    @property
    def frame_size(self) -> tuple[int, int]:
        """Width and height of the whole picture [px]."""
        assert self.state is not None
        return self.size.of(self.state, self.scene_shown)

    def surround(self, film: Film | None, *, clean: bool) -> Surround:
        """What the look needs to know of a film."""
        return self._look.surround(self.engine, film, self.camera, clean=clean)
