"""One pane of one browser window inside the render host: its films, and the picture it shows.

In: the pane's state, the engine. Out: picture messages through `send`. Called by the host's loop, a step at a time.
"""

import time
from collections.abc import Callable
from typing import Any

import numpy as np

from lantern.engine.engine import Engine
from lantern.engine.own_images import Resolver
from lantern.film.film import Film, Means
from lantern.picture.denoise import Quality
from lantern.picture.develop import Developed
from lantern.rays.layout import MOST_GROUPS
from lantern.scene.document import Scene
from server.host.coarse import CoarsePictures
from server.host.ladder import (
    Speed,
    first_whole_samples,
    loupe_region,
    next_samples,
)
from server.host.mixing import Factors, Mixer
from server.host.overlay import Overlay
from server.host.shown import Frame, Region, Send, ShownPicture
from server.host.sight import Sight
from server.protocol import frames
from server.protocol.host import Picture
from server.protocol.panes import LOOK_FIELDS, OVERLAY_FIELDS, PaneState

StartDenoiser = Callable[["Pane", Means, Quality, int, Region | None], None]
LOOKED_AT = 8_000
"""Pixels from which noise is estimated: all of them would hold up the next edit."""
LOUPE_MARGIN = 32
"""Pixels around the loupe that the denoiser may look at."""
GOOD_ENOUGH, MUCH_LARGER = 4, 1.4
"""Samples, at most, that a picture of another size must have to take the place of the one that is shown; and how many
times wider it is when any will do, as the one that is shown has become soft."""


class Pane(Sight):
    """What one pane shows, from its first coarse picture to the settled one."""

    def __init__(self, name: str, seat: int, engine: Engine, send: Send, resolve: Resolver) -> None:
        super().__init__(engine, resolve)
        self.name, self.seat, self._send = name, seat, send
        self.serial = self.revision = 0
        self.film: Film | None = None
        self.done = 0
        """Samples of the film; 0 also while it holds those of another document: it is cleared when it is used."""
        self._coarse = CoarsePictures(engine)
        self.shown = ShownPicture(name, send)
        self.settled = False
        self.generation = 0  # counts restarts: a picture of an older one is thrown away
        self.denoising = False
        self._denoise_started = 0.0
        self._awaits_first = False
        """Whether the first picture of the whole frame is being denoised: no sample is taken before it is there."""
        self._develop_again = False
        self._outgrown = False
        """Whether what is shown has the size of an earlier film."""
        self.speed = Speed()
        self._denoise_speed = Speed(1e-6)
        self._overlay = Overlay(engine)
        self._mixer = Mixer()
        self._factors: Factors = ()
        """Those of the picture that is being developed."""
        self._rebalances = False
        """Whether what is shown was balanced in a hurry."""
        self.started = self.stepped = time.monotonic()

    # How far it is

    @property
    def noise(self) -> float | None:
        """Relative error of the picture; None where it is not measured, or not yet."""
        if self.film is None or self.done < 2 or not self.view.follows_paths:
            return None
        return float(self.film.noise(LOOKED_AT))

    @property
    def region(self) -> Region | None:
        """The loupe in pixels of the film."""
        assert self.state is not None and self.film is not None
        if self.state.loupe is None:
            return None
        return loupe_region(self.state.loupe, self.film.width, self.film.height)

    # Changes

    def take_state(self, state: PaneState) -> None:
        """Take over what the window wants to see here; starts anew only if samples no longer show it."""
        before = self.state
        self.see(state)
        self.serial = max(self.serial, state.serial)
        if before is None or self.film is None:
            self.restart()
            return
        if before.camera != state.camera or before.way != state.way:
            self.restart()
            return
        if before.scale != state.scale:
            self.size.let_go()
        if self.frame_size != (self.film.width, self.film.height):
            self._resize()
            return
        if before.loupe != state.loupe:
            self.film.select(self.region)
            self.done = self.film.samples if self.done > 0 else 0
            self.settled = self.done > 0 and self.film.is_done(self.wanted)
            self._awaits_first = False
            self._develop_again = True
        if any(getattr(before, name) != getattr(state, name) for name in OVERLAY_FIELDS):
            self._overlay.forget()
        if any(getattr(before, name) != getattr(state, name) for name in LOOK_FIELDS):
            self.show_again()

    def take_document(self, before: Scene, restarts: bool, revision: int, serial: int) -> None:
        """The document has changed: start anew, show with another look, or go on."""
        self.revision, self.serial = revision, max(self.serial, serial)
        if self.state is None:
            return
        own = self.state.camera is not None
        scene = self.scene_shown
        if own and restarts:
            # The shot's camera is nothing to a pane with its own.
            restarts = scene.model_copy(update={"camera": before.camera}) != before or before == scene
        size_changed = self.film is None or self.frame_size != (self.film.width, self.film.height)
        if restarts or size_changed:
            self.restart()
            return
        if scene.proof != before.proof:
            assert self.film is not None
            self.settled = self._awaits_first = False
            self._develop_again = True
        if scene.balance != before.balance:
            self._rebalance()
        else:
            self.show_again()

    def _rebalance(self) -> None:
        """Show the light groups with other factors; no ray is traced. The whole picture follows when the hand rests."""
        assert self.film is not None
        picture = self._mixer.mixed(self.film, self.engine.factors()) if self.view.follows_paths else None
        if picture is None:
            self._develop_again = True
            return
        self.shown.put(picture, self._frame)
        self._rebalances = True

    def restart(self) -> None:
        """Forget all samples: they belong to another document or another view."""
        # What was shown must not be sent again under a new number.
        self.shown.forget()
        self._outgrown = False
        self.size.let_go()
        self._begin()

    def go_on(self, film: Film) -> None:
        """Show a film of what is shown now, that was kept, and take more samples; it keeps its size until a change."""
        self.shown.forget()
        self._outgrown = False
        self.film = film
        self.size.keep(film)
        self._begin()
        self.done = film.samples
        self.settled = film.is_done(self.wanted)
        self._awaits_first = True

    def _resize(self) -> None:
        """Go on in another size; a picture that is worth it stays, scaled, until there is one as good."""
        if self.shown.picture is None or self.shown.is_coarse:
            self.restart()
            return
        self._outgrown = True
        self._begin()

    def _begin(self) -> None:
        self.settled = self._awaits_first = self._rebalances = False
        self._mixer.forget()
        self.generation += 1
        self.started = time.monotonic()
        size = self.frame_size
        if self.film is None or (self.film.width, self.film.height) != size or not self._tells_groups(self.film):
            self.film = self.engine.film_for(*size, groups=self.view.follows_paths)
        self.done = 0
        self.film.select(self.region)
        self._coarse.begin(self.scene_shown, self.view, size)
        self._overlay.forget()

    def _tells_groups(self, film: Film) -> bool:
        """Whether a film tells the light groups of the document apart, where it follows paths."""
        wanted = len(self.engine.compiled.light_groups) if self.view.follows_paths else 0
        return film.group_count == min(wanted, MOST_GROUPS)

    # Steps

    @property
    def is_seen(self) -> bool:
        """Whether anybody looks at it."""
        return self.state is not None and self.state.visible and self.film is not None

    def is_whole(self, running: bool) -> bool:
        """Whether it shows as large a picture of the document as it will; more samples are all that it wants."""
        if self.shown.picture is None or self.shown.in_a_hurry or self._awaits_first:
            return False
        return self.done > 0 or not running

    def has_work(self, running: bool) -> bool:
        """Whether a step would bring anything. A held proof makes a coarse picture of a change, and shows its film."""
        if self.state is None or self.film is None or not self.is_seen:
            return False
        if self._awaits_first and self.shown.picture is None:
            return not self.denoising
        if (
            self.shown.picture is None
            or self.shown.in_a_hurry
            or self._overlay.is_due(self.state, self.film, self.done)
        ):
            return True
        if not running:
            return self._is_behind
        return not self.settled and not self._awaits_first

    @property
    def _is_behind(self) -> bool:
        """Whether the film has samples that the shown picture has not, and no picture of them is on its way."""
        return not self.denoising and self.done > (0 if self.shown.is_coarse else self.shown.samples)

    def only_sharpens(self, running: bool) -> bool:
        """Whether the shown picture is to be sent again, as good as it is, before anything else is done.

        A pass begun meanwhile would have it wait: what the hand does is to be seen whole a moment after it rests.
        """
        return self.shown.in_a_hurry and (self.done > 0 or self._awaits_first or not running)

    def urgency(self) -> tuple[bool, float]:
        """Panes that show nothing yet come first, then those that have waited longest."""
        return self.shown.picture is not None, self.stepped

    def _trace(self, film: Film, samples: int, speed: Speed) -> bool:
        if film is self.film and self.done == 0:
            film.clear()
        before, start = film.samples, time.perf_counter()
        whole = self.engine.trace(film, samples, noise=self.noise_target, view=self.view)
        if film is self.film:
            self.done = film.samples
        if whole:
            _, _, width, height = film.region
            speed.learn(width * height * (samples - before), time.perf_counter() - start)
        return whole

    def step(self, running: bool, start_denoiser: StartDenoiser) -> bool:
        """One step up; False when it was made to give way."""
        assert self.film is not None and self.state is not None
        self.stepped = time.monotonic()
        denoise = self.scene_shown.proof.denoise and self.view.way.shows_light
        if self.done == 0 and not self._outgrown and self._coarse.wants_more(running):
            return self._step_coarse(denoise)
        if self._awaits_first and self.shown.picture is None:
            self.develop_full(denoise, start_denoiser)
            return True
        if self.shown.may_be_sharpened:
            if self._rebalances and not self.denoising:
                self.develop_full(denoise, start_denoiser)
                self.shown.in_a_hurry = False
            elif not self._rebalances:
                self.shown.send(self._frame)
            return True
        if not self._draw_overlay(self.film):
            return False
        if not running and self._is_behind:
            self.develop_full(denoise, start_denoiser)
        if not running or self.settled or self._awaits_first or self.only_sharpens(running):
            return True
        if self.done == 0 or not self.film.is_done(self.wanted):
            _, _, width, height = self.film.region
            if self.done == 0 and denoise:
                elapsed = time.monotonic() - self.started
                first = first_whole_samples(width * height, self.speed, self._denoise_speed, elapsed)
                target = min(first, self.wanted)
            else:
                target = next_samples(self.done, self.wanted, width * height, self.speed)
            if not self._trace(self.film, target, self.speed):
                return False
        self.settled = self.film.is_done(self.wanted)
        self._awaits_first = denoise and self.shown.is_coarse and not self.settled and self.region is None
        if self.settled or self._awaits_first or self._worth_showing():
            self.develop_full(denoise, start_denoiser)
        return True

    def _step_coarse(self, denoise: bool) -> bool:
        """Show a coarse picture; then with more samples; then a larger one."""
        assert self.film is not None
        size = (self.film.width, self.film.height)
        picture = self._coarse.make(self._trace, self.speed, self.scene_shown, self.view, size, denoise)
        film = self._coarse.film
        if picture is None or film is None:
            return False
        self.show(picture, film.samples, frames.COARSE | (frames.DENOISED if denoise else 0))
        if not self._draw_overlay(film):
            return False
        self._coarse.climb(size)
        return True

    def _draw_overlay(self, film: Film) -> bool:
        """Send what is drawn over the picture, when it has changed."""
        assert self.state is not None and self.film is not None
        if not self._overlay.is_due(self.state, film, film.samples if film is self._coarse.film else self.done):
            return True
        flags = frames.COARSE if film is self._coarse.film else 0
        info = self._frame.info(frames.PNG, flags, self.shown.samples, (film.width, film.height))
        picture = self._overlay.picture(self.state, film, self.camera, info)
        if picture is None:
            return False
        self._send(Picture(pane=self.name, kind="overlay"), picture)
        return True

    def develop_full(self, denoise: bool, start_denoiser: StartDenoiser) -> None:
        """Develop the film; the denoiser works beside the sampling, and its picture arrives later."""
        assert self.film is not None
        flags = frames.SETTLED if self.settled else 0
        self._develop_again = self._rebalances = False
        self._factors = self.engine.factors()
        if not denoise:
            self._awaits_first = False
            opaque = np.ones((self.film.height, self.film.width), np.float32)
            self._show_whole(Developed(self.engine.radiance(self.film), opaque), self.done, flags, self.region)
            return
        if self.denoising:
            return  # `developed` asks again when a newer picture is worth it
        self.denoising = True
        self._denoise_started = time.perf_counter()
        quality: Quality = "high" if self.settled else "fast"
        start_denoiser(self, self.engine.means(self.film), quality, flags | frames.DENOISED, self.region)

    @property
    def shows_nothing(self) -> bool:
        """Whether the next step makes the first picture since the last change."""
        return self.film is not None and self.shown.picture is None

    def developed(
        self, picture: Developed | None, generation: int, samples: int, flags: int, region: Region | None
    ) -> bool:
        """Take a denoised picture, or that its denoiser gave way; True when another one is wanted at once."""
        assert self.film is not None
        self.denoising = False
        if picture is None:
            self._develop_again = True
        elif self.scene_shown.proof.denoise and generation == self.generation and region == self.region:
            self._awaits_first = False
            if region is None:
                self._denoise_speed.learn(
                    self.film.width * self.film.height, time.perf_counter() - self._denoise_started
                )
                self._coarse.carrier.take_whole(picture, self.scene_shown, self.view)
            self._show_whole(picture, samples, flags, region)
        # A pane that settled while the denoiser was busy with an older picture still waits for its own.
        return self._awaits_first or (self.settled and not self.shown.is_settled)

    def _worth_showing(self) -> bool:
        """A picture is developed when its samples have doubled since the last, the denoiser being dear."""
        assert self.film is not None
        if self.denoising:
            return False
        if self._outgrown:
            assert self.shown.picture is not None
            soft = self.film.width > MUCH_LARGER * self.shown.picture.radiance.shape[1]
            return self.done >= (1 if soft else min(self.shown.samples, GOOD_ENOUGH))
        return (
            self._develop_again
            or self.shown.is_coarse
            or self.done >= 2 * self.shown.samples
            or self.done < self.shown.samples
        )

    # Pictures

    @property
    def _frame(self) -> Frame:
        """What pictures belong to that are sent now."""
        assert self.film is not None and self.state is not None
        size = (self.film.width, self.film.height)
        state = self.state
        clean = bool(self.shown.flags & frames.DENOISED)
        film = self.film if self.done > 0 else self._coarse.film
        around = self.surround(film, clean=clean)
        return Frame(self.view, self.look, size, self.revision, self.serial, around, state)

    def show(self, picture: Developed, samples: int, flags: int, region: Region | None = None) -> None:
        """Make a picture the one that is shown; under a loupe only its region is new."""
        self._outgrown = False
        self.shown.take(picture, samples, flags, self._frame, region)

    def _show_whole(self, picture: Developed, samples: int, flags: int, region: Region | None) -> None:
        """Show a picture of the film; faders that have moved since it was begun are taken into account."""
        self.show(picture, samples, flags, region)
        self._mixer.forget()
        if region is None:
            self._mixer.keep(picture, self._factors)
        if region is None and list(self._factors) != list(self.engine.factors()):
            self._rebalance()

    def show_again(self) -> None:
        """Send the shown picture with the present look; no ray is traced."""
        if self.shown.picture is not None:
            self.shown.send(self._frame, quick=True)

    def light(self) -> np.ndarray | None:
        """(h, w, 3) float32 scene-linear of what is shown, None before there is a picture."""
        return None if self.shown.picture is None else self.shown.picture.radiance

    def displayed(self) -> np.ndarray | None:
        """(h, w, 3) uint8 of what is shown, None before there is a picture."""
        return None if self.film is None else self.shown.displayed(self._frame)

    def values_at(self, x: float, y: float) -> dict[str, Any] | None:
        """Scene-linear and display values of the pixel at a point of the picture, and which pixel it is."""
        return None if self.film is None else self.shown.values_at(x, y, self._frame)
