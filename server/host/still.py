"""The picture of a pane as it is seen, whole and lossless, for a take; its film too, and going on with that later.

In: a pane, a file. Out: PNG with how far it has come; a pane that goes on. Called by `answers`.
"""

import base64
from pathlib import Path

from lantern.compile.view import Way
from lantern.engine.kept_film import KeptFilmError, read_film, write_film
from lantern.picture.encode import encode_png
from lantern.rays.layout import MOST_GROUPS
from server.host.pane import Pane
from server.protocol.panes import AS_IT_IS
from server.protocol.takes import FilmOpened, OpenFilm, Still, StillFound

NO_PATHS = "Only a proof has a film to go on with: this view is looked at in another way."
NO_SAMPLES = "There is no sample to go on from yet: wait for the picture to refine."


def still(question: Still, pane: Pane | None) -> StillFound:
    """An answer without a picture before there is one."""
    shown = pane.displayed() if pane else None
    if pane is None or pane.state is None or pane.film is None or shown is None:
        return StillFound(asked=question.request)
    state = pane.state
    return StillFound(
        asked=question.request,
        png=base64.b64encode(encode_png(shown)).decode(),
        samples=pane.shown.samples,
        noise=pane.noise,
        camera=pane.camera.model_dump(mode="json"),
        look=None if state.look is None else state.look.model_dump(mode="json"),
        scene=None if state.under == AS_IT_IS else pane.engine.scene.plain(),
        problem="" if question.film_to is None else _film_written(Path(question.film_to), pane),
    )


def _film_written(path: Path, pane: Pane) -> str:
    """Why it was not, or nothing."""
    if pane.view.way is not Way.PROOF:
        return NO_PATHS
    if pane.done == 0 or pane.film is None:
        return NO_SAMPLES
    try:
        write_film(path, pane.film, pane.engine.scene, pane.camera)
    except OSError as error:
        return f"The film cannot be written ({error.strerror or error}): make room and keep the take again."
    return ""


def film_opened(question: OpenFilm, pane: Pane | None) -> FilmOpened:
    """Have a pane go on with a film that was kept of what it shows."""
    asked = question.request
    if pane is None or pane.film is None:
        return FilmOpened(asked=asked, problem="There is no picture yet: wait for the first one.")
    if pane.view.way is not Way.PROOF:
        return FilmOpened(asked=asked, problem=NO_PATHS)
    groups = min(len(pane.engine.compiled.light_groups), MOST_GROUPS)
    scene = pane.engine.scene
    try:
        film = read_film(Path(question.path), scene, pane.camera, groups, pane.size.most_pixels)
    except KeptFilmError as error:
        return FilmOpened(asked=asked, problem=str(error))
    pane.go_on(film)
    return FilmOpened(asked=asked, samples=film.samples)
