"""Making the pictures of a showing, one after the other, in one engine.

In: a `Showing`. Out: its pictures, and a take of each slide. Called by the print worker's task. A worker that dies
leaves what is made, and the next goes on with what is missing.
"""

import logging
import tempfile
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from django.utils import timezone

from lantern.engine.engine import Engine
from lantern.picture.develop import display_rgb
from lantern.picture.encode import encode_jpeg, encode_png
from lantern.scene.document import Scene
from lantern.scene.model import FileRef
from lantern.scene.orders import Combination, document_of, seen_around
from lantern.scene.reading import read_scene
from server.projects import storage
from server.projects.models import StoredFile
from server.runtime.patience import patiently
from server.showings.models import Showing, Slide, SlidePicture
from server.showings.rights import TURNS, frames_of
from server.takes.actions import KeepTake, Still
from server.takes.models import Take

log = logging.getLogger(__name__)
MOST_ATTEMPTS = 3
RING_SHARE = 0.5
"""Samples of the pictures of a ring, by those of the shot itself: they are seen while it turns."""
STOPS_AT = 8
"""Samples after which it is asked whether the showing is still wanted."""


class _NotWanted(Exception):
    """The showing was withdrawn, has ended, or is gone."""


def prepare(number: int) -> None:
    """Make what is missing; returns without a word when it is not wanted any more."""
    showing = patiently(lambda: _wanted(number))
    if showing is None:
        return
    slides = patiently(lambda: list(showing.slides.filter(state__in=(Slide.State.WAITING, Slide.State.DONE))))
    whole = read_scene(showing.scene)
    maker = _Maker(showing, whole)
    try:
        for slide in slides:
            maker.make(slide)
    except _NotWanted:
        log.info("showing %s is not wanted any more", number)
    finally:
        maker.close()


def _wanted(number: int) -> Showing | None:
    open_ones = Showing.objects.filter(withdrawn=None, ends__gt=timezone.now())
    return open_ones.select_related("maker").filter(pk=number).first()


class _Maker:
    """One engine for all slides: from one to the next costs what differs."""

    def __init__(self, showing: Showing, whole: Scene) -> None:
        self._showing, self._whole = showing, whole
        self._engine = Engine(final=True)
        self._paths = patiently(lambda: storage.paths_for(whole))
        self._opened = False

    def close(self) -> None:
        self._engine.close()

    def make(self, slide: Slide) -> None:
        """The pictures of a slide that are missing. One that cannot be made says why, and the others go on."""
        frames = frames_of(self._showing.rights)
        there = set(patiently(lambda: list(slide.pictures.values_list("turn", flat=True))))
        missing = [turn for turn in range(frames) if turn not in there]
        if not missing:
            return
        slide.attempts += 1
        patiently(lambda: slide.save(update_fields=("attempts",)))
        try:
            if slide.attempts > MOST_ATTEMPTS:
                raise RuntimeError(f"it was tried {MOST_ATTEMPTS} times, and each time the worker died of it")
            scene = document_of(self._whole, Combination(slide.edition, slide.shot, slide.conditions))
            for turn in missing:
                self._make_one(slide, scene, turn)
        except _NotWanted:
            raise
        except Exception as error:
            log.exception("slide %s of showing %s failed", slide.pk, self._showing.pk)
            slide.state, slide.error = Slide.State.FAILED, str(error) or type(error).__name__
            patiently(lambda: slide.save(update_fields=("state", "error")))
            return
        slide.state, slide.attempts = Slide.State.DONE, 0
        patiently(lambda: slide.save(update_fields=("state", "attempts")))

    def _make_one(self, slide: Slide, scene: Scene, turn: int) -> None:
        samples = self._showing.samples if turn == 0 else max(1, round(RING_SHARE * self._showing.samples))
        seen = scene.model_copy(update={"camera": seen_around(scene.camera, 360.0 * turn / TURNS)}) if turn else scene
        rgb, noise = self._picture(self._sized(seen), samples)
        patiently(lambda: keep_picture(self._showing, slide, scene, turn, Made(rgb, samples, noise)))

    def _sized(self, scene: Scene) -> Scene:
        ratio = self._showing.longer_side / max(scene.print.width, scene.print.height)
        width, height = (max(16, round(side * ratio)) for side in (scene.print.width, scene.print.height))
        return scene.model_copy(update={"print": scene.print.model_copy(update={"width": width, "height": height})})

    def _picture(self, scene: Scene, samples: int) -> tuple[np.ndarray, float]:
        """(h, w, 3) uint8 as a print of it would be, and the noise that its film still has."""
        engine = self._engine
        if self._opened:
            engine.apply(scene, self._resolve)
        else:
            engine.open(scene, self._resolve)
            self._opened = True
        film = engine.film_for(scene.print.width, scene.print.height)
        for count in range(STOPS_AT, samples + STOPS_AT, STOPS_AT):
            engine.trace(film, min(count, samples))
            self._check()
        picture = engine.develop(film, denoise="high")
        return display_rgb(picture, engine.shown.look, engine.surround(film, clean=True)), film.noise()

    def _check(self) -> None:
        if patiently(lambda: _wanted(self._showing.pk)) is None:
            raise _NotWanted

    def _resolve(self, reference: FileRef) -> Path:
        return Path(self._paths[reference.sha256])


@dataclass(frozen=True)
class Made:
    """A picture of a slide: (h, w, 3) uint8, and how far it had come."""

    rgb: np.ndarray
    samples: int
    noise: float | None


def keep_picture(showing: Showing, slide: Slide, scene: Scene, turn: int, made: Made) -> None:
    """Store a picture of a slide; that of the shot itself becomes a take on the showing's board. Done twice, it is done
    once."""
    if turn == 0 and slide.take_id is None:
        slide.take = _take(showing, slide, scene, made)
        slide.save(update_fields=("take",))
    with tempfile.NamedTemporaryFile() as file:
        file.write(encode_jpeg(made.rgb))
        file.flush()
        reference = storage.keep(Path(file.name), "slide.jpg", showing.maker)
    kept = {"picture": StoredFile.objects.get(sha256=reference.sha256)}
    SlidePicture.objects.get_or_create(slide=slide, turn=turn, defaults=kept)


def _take(showing: Showing, slide: Slide, scene: Scene, made: Made) -> Take:
    still = Still(encode_png(made.rgb), made.samples, made.noise)
    document, request = scene.model_dump(mode="json"), f"showing-{slide.pk}"
    take = KeepTake(
        showing.maker, showing.project_id, document, showing.revision, still, request, reason=Take.Reason.SHOWING
    ).execute()
    take.board, take.note = showing.name, " · ".join(name for name in slide.names if name)
    take.save(update_fields=("board", "note"))
    return take
