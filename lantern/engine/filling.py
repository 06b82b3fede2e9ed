"""Filling the film of a final frame: by a plan where the finished picture is to be good enough, evenly otherwise.

In: an engine with the frame's document open, its film, its print settings. Out: the film, brought there. Called by
prints and the command line, so that both come out equal.
"""

import time
from collections.abc import Callable

import numpy as np

from lantern.engine.engine import Engine
from lantern.engine.planning import make_plan
from lantern.film.film import Film
from lantern.picture.denoise import GiveWay, Quality
from lantern.picture.develop import Developed, display_rgb, display_rgba
from lantern.picture.encode import block_means
from lantern.scene.printing import PrintSettings

PASS_SECONDS = 0.2
"""Between two questions whether to go on: with less, a small region would be begun more than it is traced."""


def finished(
    engine: Engine, film: Film, settings: PrintSettings, give_way: GiveWay = lambda: False
) -> tuple[Developed, np.ndarray] | None:
    """(the picture of a film, and as the display shows it (h, w, 3 or 4) uint8); None when it gave way."""
    quality: Quality | None = "high" if settings.denoise else None
    picture = engine.develop_unless(give_way, film, denoise=quality, transparent=settings.transparent)
    if picture is None:
        return None
    show = display_rgba if settings.transparent else display_rgb
    return picture, show(picture, engine.shown.look, engine.surround(film, clean=settings.denoise))


def glimpse(engine: Engine, film: Film, most: int) -> np.ndarray:
    """(h, w, 3) uint8 of a film as it is, its longer side at most `most` pixels, through the look; noise and all."""
    side = max(-(-max(film.width, film.height) // most), 1)
    light = engine.radiance(film)
    small = block_means(light, side) if side > 1 else light
    opaque = np.ones(small.shape[:2], np.float32)
    return display_rgb(Developed(small, opaque), engine.shown.look, engine.surround(film, clean=False))


def fill(
    engine: Engine,
    film: Film,
    settings: PrintSettings,
    goes_on: Callable[[int], bool],
    give_way: GiveWay = lambda: False,
    seed: int = 0,
) -> bool:
    """Bring a film to the samples of a print; False when something else was wanted meanwhile.

    `goes_on` hears, again and again, how many samples of those wanted there are, and says whether to take more; of a
    film with a plan they are its share of what is planned. A film that is stopped there is whole for what it has.
    """
    noise = settings.noise_target
    if settings.finish_noise is not None:
        noise = None
        if film.plan is None and not _planned(engine, film, settings, settings.finish_noise, give_way):
            return False
    step = 1
    while not film.is_done(settings.samples):
        count, begun = min(film.samples + step, settings.samples), time.perf_counter()
        if not engine.trace(film, count, noise=noise, seed=seed, transparent=settings.transparent):
            return False
        if not goes_on(samples_done(film, settings)):
            break
        seconds = time.perf_counter() - begun
        step = max(2 * step if seconds < PASS_SECONDS / 2 else step // 2 if seconds > PASS_SECONDS else step, 1)
    return True


def samples_done(film: Film, settings: PrintSettings) -> int:
    """Samples that are there; of a film with a plan as many of those wanted as its share of what is planned."""
    return film.samples if film.plan is None else int(film.planned_share * settings.samples)


def _planned(engine: Engine, film: Film, settings: PrintSettings, steps: float, give_way: GiveWay) -> bool:
    def shown(of: Film) -> np.ndarray | None:
        found = finished(engine, of, settings, give_way)
        return None if found is None else found[1]

    return make_plan(
        engine, film, shown, steps, settings.samples, denoised=settings.denoise, transparent=settings.transparent
    )
