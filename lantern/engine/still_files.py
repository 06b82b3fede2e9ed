"""The files of a still: its picture as the document's print settings want it written, each with what made it.

In: an engine with the frame's document open, its film, its picture. Out: files in a folder. Called by prints and the
command line.
"""

from collections.abc import Iterator
from functools import partial
from pathlib import Path

import numpy as np

from lantern.engine.channels import channels_of
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.picture.develop import Developed, display_deep, display_rgba, hdr_rgb
from lantern.picture.exr import Stored, write_exr, write_exrs
from lantern.picture.hdr import write_pq_png
from lantern.picture.look.surround import Surround
from lantern.picture.stills import Told, write_jpeg, write_png, write_tiff
from lantern.picture.told import KEY, packed
from lantern.scene.document import Scene

NAMES = {
    "png": "picture.png",
    "exr": "picture.exr",
    "layers": "picture-layers.zip",
    "hdr": "picture-hdr.png",
    "jpg": "picture.jpg",
    "tif": "picture.tif",
}
"""Of files in the folder, by their kinds."""


def write_files(
    folder: Path,
    engine: Engine,
    film: Film,
    scene: Scene,
    picture: Developed,
    shown: np.ndarray,
    *,
    only: str | None = None,
) -> Iterator[tuple[str, Path]]:
    """(kind, path) of each file of `PrintSettings.kinds`, once it is written; `shown` is as the display has it, uint8.

    What lies outside of a region that is printed alone is in none of them. Of `only` one kind no other is written.
    """
    settings, look = scene.print, engine.shown.look
    around = engine.surround(film, clean=settings.denoise)
    x, y, width, height = settings.window or (0, 0, settings.width, settings.height)
    window = np.s_[y : y + height, x : x + width]
    text = packed({"document": scene.plain(), "samples": film.samples}) if settings.told else ""
    told = Told(look.encoding, settings.dpi, text)
    deep = _deep(picture, engine, around, transparent=settings.transparent) if settings.is_deep else shown
    for kind in settings.kinds if only is None else (only,):
        path = folder / NAMES[kind]
        match kind:
            case "png":
                write_png(path, (deep if settings.png_depth == "16" else shown)[window], told)
            case "exr" | "layers":
                displayed = None if settings.exr_picture == "light" else _straight(picture, engine, around)
                bands = partial(channels_of, engine, film, picture, settings, shown=displayed)
                write = write_exr if kind == "exr" else write_exrs
                stored = Stored(settings.exr_depth == "float", settings.exr_compression, settings.window)
                write(path, bands, (settings.height, settings.width), {KEY: text} if text else {}, stored)
            case "hdr":
                write_pq_png(path, hdr_rgb(picture, look, around)[window])
            case "jpg":
                assert settings.jpeg is not None
                write_jpeg(path, shown[window], settings.jpeg, told)
            case "tif":
                write_tiff(path, _light(picture)[window] if settings.tiff == "light" else deep[window], told)
        yield kind, path


def _deep(picture: Developed, engine: Engine, around: Surround, *, transparent: bool) -> np.ndarray:
    """(h, w, 3 or 4) uint16 as the display shows it."""
    look = engine.shown.look
    return display_rgba(picture, look, around, deep=True) if transparent else display_deep(picture, look, around)


def _straight(picture: Developed, engine: Engine, around: Surround) -> np.ndarray:
    """(h, w, 3) uint16 as the display shows what is there, not multiplied by how much it covers."""
    return display_rgba(picture, engine.shown.look, around, deep=True)[..., :3]


def _light(picture: Developed) -> np.ndarray:
    """(h, w, 4) float32 linear, premultiplied: the light without any look."""
    return np.concatenate([picture.radiance, picture.alpha[..., None]], axis=2).astype(np.float32)
