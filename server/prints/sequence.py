"""Making a print that moves: its frames, one after the other in one engine, and one file of them.

In: an engine with the document open, a print. Out: its file in the storage of prints. Called by `working`. A frame that
is written is not made again, so that a worker that goes on where another died loses part of one frame at most.
"""

import shutil
import time
import zipfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from django.core.files.storage import storages
from PIL import Image

from lantern.engine.engine import Engine
from lantern.engine.own_images import Resolver
from lantern.picture.stills import Told, write_png
from lantern.picture.video import FORMS, VideoForm, write_video
from lantern.scene.document import Scene
from server.prints import filling
from server.prints.filling import Progress, Watch
from server.prints.models import Print
from server.runtime.stores import put

FRAMES = "frames"
"""Folder of the frames beside the film of the one that is being made."""


def frame_scene(scene: Scene, number: int) -> Scene:
    """The document of a frame: its moment is that of the number."""
    moment = scene.shutter.model_copy(update={"time": number / scene.motion.rate})
    return scene.model_copy(update={"shutter": moment})


def make_film(engine: Engine, scene: Scene, resolve: Resolver, wanted: Print, watch: Watch) -> None:
    """Make the frames that are missing and one file of all. Raises Canceled."""
    folder = wanted.folder / FRAMES
    folder.mkdir(exist_ok=True)
    count, samples = scene.motion.frames, scene.print.samples
    made = sum(_frame_path(folder, number).is_file() for number in range(count))
    progress = Progress(wanted.pk, time.monotonic(), made * samples)
    for number in range(count):
        path = _frame_path(folder, number)
        if path.is_file():
            continue
        engine.apply(frame_scene(scene, number), resolve)
        # Named after its frame: another one's samples show another moment.
        kept = wanted.folder / f"film-{number}.npz"
        film = filling.open_film(kept, engine, scene.print)
        before = made * samples

        begun = time.monotonic()

        def report(done: int, before: int = before, begun: float = begun) -> bool:
            progress.report(before + done, count * samples)
            return scene.print.seconds is None or time.monotonic() - begun < scene.print.seconds

        filling.fill(engine, film, scene.print, kept, watch, report)
        shown = filling.finished(engine, film, scene.print, watch)[1]
        x, y, width, height = scene.print.window or (0, 0, scene.print.width, scene.print.height)
        write_png(path, shown[y : y + height, x : x + width], Told(engine.shown.look.encoding))
        kept.unlink(missing_ok=True)
        made += 1
    watch.check(now=True)
    put(storages["prints"], _one_file(wanted, scene, folder), wanted.file_name(wanted.kinds[0]))


def discard_frames(item: Print) -> None:
    """Remove what lies on this machine of a print that moves."""
    shutil.rmtree(item.folder / FRAMES, ignore_errors=True)
    for path in [*item.folder.glob("film-*.npz"), *item.folder.glob("film.*")]:
        path.unlink(missing_ok=True)


def _frame_path(folder: Path, number: int) -> Path:
    return folder / f"frame-{number:05d}.png"


def _one_file(wanted: Print, scene: Scene, folder: Path) -> Path:
    """The frames as the file that was asked for."""
    numbers = range(scene.motion.frames)
    if wanted.form == Print.FRAMES:
        path = wanted.folder / "film.zip"
        with zipfile.ZipFile(path, "w", zipfile.ZIP_STORED) as target:
            for number in numbers:
                target.write(_frame_path(folder, number), _frame_path(folder, number).name)
        return path
    form: VideoForm = wanted.form
    path = wanted.folder / f"film{FORMS[form].suffix}"

    def frames() -> Iterator[np.ndarray]:
        for number in numbers:
            with Image.open(_frame_path(folder, number)) as image:
                yield np.asarray(image)

    write_video(path, frames(), form, scene.motion.rate, quality=wanted.quality, loop=scene.motion.loop)
    return path
