"""Making a print that moves: its frames, one after the other in one engine, and one file of them.

In: an engine with the document open, a print. Out: its file in the storage of prints. Called by `working`. A frame that
is written is not made again, so that a worker that goes on where another died loses part of one frame at most.
"""

import os
import shutil
import time
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from django.core.files.storage import storages
from PIL import Image

from lantern.engine.engine import Engine
from lantern.engine.own_images import Resolver
from lantern.engine.still_files import write_files
from lantern.film.film import Film
from lantern.picture.stills import Told, write_png
from lantern.picture.video import FORMS, VideoForm, write_video
from lantern.scene.document import Scene
from server.prints import filling
from server.prints.filling import Progress, Watch
from server.prints.forms import SEQUENCES, with_frames
from server.prints.glimpses import Glimpses
from server.prints.models import Piece, Print
from server.prints.pieces import Taken, cost_left, cut, partial
from server.prints.together import Hands, Together, call
from server.runtime.durable import put_in_place
from server.runtime.patience import patiently
from server.runtime.stores import local_path, put
from server.workers.here import here

FRAMES = "frames"
"""Folder of the frames beside the film of the one that is being made."""


def frame_scene(scene: Scene, number: int) -> Scene:
    """The document of a frame: its moment is that of the number."""
    moment = scene.shutter.model_copy(update={"time": number / scene.motion.rate})
    return scene.model_copy(update={"shutter": moment})


@dataclass
class Frames:
    """The frames of a print as this worker makes them."""

    engine: Engine
    scene: Scene
    resolve: Resolver
    wanted: Print
    watch: Watch
    glimpses: Glimpses

    def __post_init__(self) -> None:
        self.scene = with_frames(self.scene, self.wanted.form)

    def make(self, number: int, path: Path, goes_on: Callable[[int], bool]) -> None:
        """Make a frame, and keep its film on the way. `goes_on` hears how many samples there are. Raises Canceled."""
        wanted = self.scene.print
        self.engine.apply(frame_scene(self.scene, number), self.resolve)
        # Named after its frame: another one's samples show another moment.
        kept = self.wanted.folder / f"film-{number}.npz"
        film = filling.open_film(kept, self.engine, wanted)
        begun = time.monotonic()

        def report(done: int) -> bool:
            self.glimpses.show(film)
            return goes_on(done) and (wanted.seconds is None or time.monotonic() - begun < wanted.seconds)

        filling.fill(self.engine, film, wanted, kept, self.watch, report, self._seed(number))
        self._write(number, film, path)
        kept.unlink(missing_ok=True)

    def make_piece(self, taken: Taken, is_wanted: Callable[[], bool]) -> Path | None:
        """Make the frame of a piece and keep nothing; None when it is not wanted any more. Raises Canceled."""
        number, wanted, path = taken.piece.frame, self.scene.print, partial(self.wanted)
        assert number is not None
        self.engine.apply(frame_scene(self.scene, number), self.resolve)
        film = self.engine.film_for(wanted.width, wanted.height, aovs=wanted.layers)
        film.select(wanted.window)
        begun, still_wanted = time.monotonic(), True

        def goes_on() -> bool:
            nonlocal still_wanted
            still_wanted = is_wanted()
            return still_wanted and (wanted.seconds is None or time.monotonic() - begun < wanted.seconds)

        filling.fill_quietly(self.engine, film, wanted, self.watch, goes_on, self._seed(number))
        if not still_wanted:
            return None
        self._write(number, film, path)
        return path

    def _seed(self, number: int) -> int:
        return number if self.scene.print.fresh_noise else 0

    def _write(self, number: int, film: Film, path: Path) -> None:
        """Write the finished picture of a frame. Raises Canceled."""
        wanted = self.scene.print
        picture, shown = filling.finished(self.engine, film, wanted, self.watch)
        self.glimpses.show_finished(shown)
        kind = SEQUENCES.get(self.wanted.form)
        if kind is None:  # of a video, whose pixels are what counts
            x, y, width, height = wanted.window or (0, 0, wanted.width, wanted.height)
            write_png(path, shown[y : y + height, x : x + width], Told(self.engine.shown.look.encoding))
            return
        scene = frame_scene(self.scene, number)
        with TemporaryDirectory(dir=self.wanted.folder) as folder:
            for _, made in write_files(Path(folder), self.engine, film, scene, picture, shown, only=kind):
                os.replace(made, path)


def make_film(engine: Engine, scene: Scene, resolve: Resolver, wanted: Print, watch: Watch) -> None:
    """Make the frames that are missing, with other workers if some have nothing to do, and one file of all.

    Raises Canceled.
    """
    folder = wanted.folder / FRAMES
    folder.mkdir(exist_ok=True)
    count, samples = scene.motion.frames, scene.print.samples
    missing = [number for number in range(count) if not _frame_path(wanted, number).is_file()]
    progress = Progress(wanted.pk, time.monotonic(), (count - len(missing)) * samples)
    frames = Frames(engine, scene, resolve, wanted, watch, Glimpses(wanted.pk, engine))
    hands = Hands(scene, wanted.worked_by)
    while missing and not patiently(wanted.pieces.exists):
        before = (count - len(missing)) * samples

        def goes_on(done: int, before: int = before) -> bool:
            progress.report(before + done, count * samples)
            return True

        rays = engine.ray_counts().rays
        frames.make(missing[0], _frame_path(wanted, missing[0]), goes_on)
        del missing[0]
        if hands.are_free(progress.left):
            cost = float(max(engine.ray_counts().rays - rays, 1))
            cut(wanted, [Piece(print=wanted, frame=number, cost=cost) for number in missing])
    if missing:
        _share(frames, missing, hands, progress)
    watch.check(now=True)
    put(storages["prints"], _one_file(wanted, scene), wanted.file_name(wanted.kinds[0]))


def _share(frames: Frames, missing: list[int], hands: Hands, progress: Progress) -> None:
    """Make what is left of a film with other workers. Raises Canceled."""
    item, worker = frames.wanted, here()
    assert worker is not None
    samples = frames.scene.print.samples
    whole = frames.scene.motion.frames * samples

    call(item, hands)
    for _ in Together(item, worker, frames.watch, frames.make_piece).until_done():
        left, cut_ones = cost_left(item)
        progress.report(int(whole - samples * len(missing) * left / cut_ones), whole)
        call(item, hands)
    for piece in patiently(lambda: list(Piece.objects.filter(print=item, frame__in=missing))):
        path = partial(item)
        shutil.copyfile(local_path(storages["prints"], piece.file), path)
        put_in_place(path, _frame_path(item, piece.frame or 0))


def discard_frames(item: Print) -> None:
    """Remove what lies on this machine of a print that moves."""
    shutil.rmtree(item.folder / FRAMES, ignore_errors=True)
    for path in [*item.folder.glob("film-*.npz"), *item.folder.glob("film.*")]:
        path.unlink(missing_ok=True)


def _frame_path(wanted: Print, number: int) -> Path:
    return wanted.folder / FRAMES / f"frame-{number:05d}.{SEQUENCES.get(wanted.form, 'png')}"


def _one_file(wanted: Print, scene: Scene) -> Path:
    """The frames as the file that was asked for."""
    paths = [_frame_path(wanted, number) for number in range(scene.motion.frames)]
    if wanted.form in SEQUENCES:
        path = wanted.folder / "film.zip"
        with zipfile.ZipFile(path, "w", zipfile.ZIP_STORED) as target:
            for frame in paths:
                target.write(frame, frame.name)
        return path
    form: VideoForm = wanted.form
    path = wanted.folder / f"film{FORMS[form].suffix}"

    def frames() -> Iterator[np.ndarray]:
        for frame in paths:
            with Image.open(frame) as image:
                yield np.asarray(image)

    write_video(path, frames(), form, scene.motion.rate, quality=wanted.quality, loop=scene.motion.loop)
    return path
