"""A film kept in a file together with what its samples show, so that it can be gone on with.

In: a film, the document and the camera that it was made of. Out: a file; later the film, for the same light seen by the
same camera. Called by the render host. The look, the faders and when a picture is done may be others by then.
"""

from pathlib import Path

import numpy as np

from lantern.film.film import Film
from lantern.kernel.cache import source_digest
from lantern.scene.document import Camera, Scene
from lantern.scene.look import Look
from lantern.scene.orders import digest_of
from lantern.scene.printing import PrintSettings

SHOWN, SIZE = "shown", "size"
"""Names in the file beside those of the film's own arrays."""


class KeptFilmError(ValueError):
    """A kept film cannot be gone on with; the message says why, and what to do."""


def samples_of(scene: Scene, camera: Camera) -> str:
    """SHA-256 of all that samples depend on: document without look and faders, camera, and the kernels themselves."""
    seen = {"camera": camera, "look": Look(), "balance": {}, "print": PrintSettings()}
    return f"{digest_of(scene.model_copy(update=seen))} {source_digest()}"


def write_film(path: Path, film: Film, scene: Scene, camera: Camera) -> None:
    """Keep a film. Raises OSError, and then there is no file."""
    try:
        with path.open("wb") as file:
            kept = {SHOWN: np.array(samples_of(scene, camera)), SIZE: np.array([film.width, film.height])}
            np.savez(file, allow_pickle=False, **(film.arrays() | kept))
    except OSError:
        path.unlink(missing_ok=True)
        raise


def read_film(path: Path, scene: Scene, camera: Camera, groups: int, most_pixels: int) -> Film:
    """The film of a file, to go on with; `groups` are the light groups that it has to tell apart.

    Raises KeptFilmError where it shows something else by now, or is larger than `most_pixels`.
    """
    try:
        with np.load(path) as file:
            kept = dict(file)
        shown, (width, height) = str(kept.pop(SHOWN)), kept.pop(SIZE).tolist()
    except (OSError, ValueError, KeyError) as error:
        raise KeptFilmError(f"The film of this take cannot be read ({error}): its picture is computed anew.") from error
    if shown != samples_of(scene, camera):
        raise KeptFilmError("What is shown differs from this take: its picture is computed anew.")
    if width * height > most_pixels:
        raise KeptFilmError("The film of this take is larger than there is memory for: its picture is computed anew.")
    film = Film(width, height, groups=groups)
    if not film.restore(kept):
        raise KeptFilmError("The film of this take is of another kind: its picture is computed anew.")
    return film
