"""What a look needs besides the light: files of the document, the lens, parts and depth of a film.

In: the document, what finds its files, a film. Out: a `Surround`. Called by the engine, the host and the print.
"""

from collections.abc import Iterable, Sequence
from pathlib import Path

import numpy as np
from scipy import ndimage

from lantern.assets.errors import AssetError
from lantern.assets.pictures import read_picture
from lantern.engine.own_images import Resolver
from lantern.film.film import Film
from lantern.picture.display import TransformError, own_config, prepare_display
from lantern.picture.files import is_hdr, read_hdr
from lantern.picture.look.aperture import from_image
from lantern.picture.look.pipeline import transform_of
from lantern.picture.look.surround import Surround, lens_of
from lantern.picture.look.table import processor_of
from lantern.picture.press import check_profile
from lantern.scene.document import Camera, Scene
from lantern.scene.exposing import camera_stops
from lantern.scene.look import Look, OwnTransform, PartMask
from lantern.scene.model import FileRef


class LookFiles:
    """Files of the look of one document after the other: what stays is not read again."""

    def __init__(self) -> None:
        self.images: dict[str, np.ndarray] = {}
        self.files: dict[str, Path] = {}
        self._unread: set[str] = set()
        self._refused: OwnTransform | None = None
        self.config: Path | None = None
        """The configuration of one's own, also when the look names what it does not have."""

    def bring(self, look: Look, resolve: Resolver) -> list[str]:
        """Bring them to those of a look; returns what was wrong with new ones, which the picture is shown without."""
        wanted = {file.sha256: (kind, file) for kind, file in _files_of(look)}
        self.images = {digest: image for digest, image in self.images.items() if digest in wanted}
        self.files = {digest: path for digest, path in self.files.items() if digest in wanted}
        self._unread &= wanted.keys()
        problems = []
        for digest, (kind, file) in wanted.items():
            if digest in self.images or digest in self.files or digest in self._unread:
                continue
            try:
                path = resolve(file)
                if kind == "aperture":
                    self.images[digest] = read_aperture(path, file.name)
                else:
                    check_look_file(kind, path)
                    self.files[digest] = path
            except (AssetError, TransformError, ValueError, OSError) as error:
                self._unread.add(digest)
                said = str(error) if file.name in str(error) else f"{file.name}: {error}"
                problems.append(f"{said}; the picture is shown without it")
        return problems + self._check_transform(look)

    def _check_transform(self, look: Look) -> list[str]:
        """Whether the configuration of one's own has what the look names; without, the built-in transform shows it."""
        own = look.own_transform
        if own is None or own.file.sha256 not in self.files:
            self._refused, self.config = None, None
            return []
        self.config = self.files[own.file.sha256]
        try:
            prepare_display(transform_of(look, Surround(files=self.files)))
        except TransformError as error:
            del self.files[own.file.sha256]
            was, self._refused = self._refused, own
            return [] if was == own else [f"{own.file.name}: {error}; the picture is shown without it"]
        return []


def _files_of(look: Look) -> Iterable[tuple[str, FileRef]]:
    if look.glare.image is not None:
        yield "aperture", look.glare.image
    if look.table.file is not None:
        yield "table", look.table.file
    if look.own_transform is not None:
        yield "config", look.own_transform.file
    if look.press_profile is not None:
        yield "press", look.press_profile


def read_aperture(path: Path, name: str) -> np.ndarray:
    """(h, w, channels) of an image of an aperture. Raises ValueError or AssetError, with what is wrong with it."""
    pixels = read_hdr(path, name) if is_hdr(path, name) else read_picture(path, name)[0]
    from_image(pixels)
    return pixels


def check_look_file(kind: str, path: Path) -> None:
    """Raises TransformError when a file is not the table, profile or configuration that it should be."""
    match kind:
        case "table":
            processor_of(path, "display")
        case "press":
            check_profile(path)
        case _:
            own_config(path)


def surround_of(
    scene: Scene,
    look: Look,
    files: LookFiles,
    camera: Camera,
    shape: float,
    film: Film | None,
    part_keys: Sequence[str],
    *,
    clean: bool,
) -> Surround:
    """What is around the pictures of a film; only what the look asks for is taken out of it.

    `shape` is width over height, `part_keys` are the parts by their numbers.
    """
    aperture, tangent = lens_of(camera, shape)
    depth = None
    if film is not None and look.shafts.strength > 0 and look.shafts.behind is not None:
        depth = film.means().depth
    return Surround(
        aperture,
        tangent,
        files.images,
        files.files,
        depth,
        camera_stops(camera),
        None if film is None or scene.backdrop.graded else film.alpha(),
        clean,
        _mattes(look, film, part_keys),
    )


def _mattes(look: Look, film: Film | None, part_keys: Sequence[str]) -> dict[tuple[str, ...], np.ndarray]:
    """(h, w) float32 of the parts that places of the look ask for; a little soft, as one ray a pixel tells them."""
    masks = [one.mask for one in look.locals.values() if one.strength > 0]
    wanted = {mask.parts for mask in masks if isinstance(mask, PartMask)}
    if film is None or not wanted:
        return {}
    seen = film.parts()
    found = {}
    for parts in wanted:
        numbers = [number for number, key in enumerate(part_keys) if key in parts]
        matte = np.isin(seen, numbers).astype(np.float32)
        found[parts] = ndimage.uniform_filter(matte, 3, mode="nearest")
    return found
