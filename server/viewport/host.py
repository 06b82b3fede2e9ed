"""The render host: one process that holds one project's compiled scene and sends pictures of it.

Forked from `template`; messages on a socket as `pipe` packs them, the first of them its process number. It knows no
Django and no database: when it dies, nothing is lost, and the supervisor starts another. While a pass runs, a message
that changes a picture makes it give way at the next pixel; edits that wait together are applied once.
"""

import os
import queue
import socket
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np

from lantern.engine.engine import Engine
from lantern.film.film import Means
from lantern.picture.denoise import Quality, prepare_denoiser
from lantern.picture.develop import Developed, develop
from lantern.scene.framing import fit_camera
from lantern.scene.model import FileRef
from lantern.scene.reading import read_scene
from server.runtime.priority import lower_priority
from server.viewport import pipe
from server.viewport.messages import PaneState
from server.viewport.pane import LOUPE_MARGIN, Pane
from server.viewport.shown import SHARPEN_AFTER_SECONDS, Region
from server.viewport.swatches import Swatches

STATUS_SECONDS = 0.5
LOOKED_AT = 8_000
"""Pixels from which noise is estimated: all of them would hold up the next edit."""
INTERRUPTING = ("scene", "pane", "hold", "drop", "pick", "values", "fit", "bounds")
"""Messages that a running pass gives way to; it goes on where it was if nothing has changed."""
LOOK_SECTIONS, OVERLAY_FIELDS = ("look",), ("selected", "wire", "focus_plane", "serial")
"""What may change in a document and in a pane's state without a sample being lost."""


class Host:
    """The loop of one project."""

    def __init__(self, source: BinaryIO, target: BinaryIO) -> None:
        self._source, self._target = source, target
        self._inbox: queue.SimpleQueue[dict[str, Any] | None] = queue.SimpleQueue()
        self._engine = Engine()
        self._paths: dict[str, str] = {}
        self._opened = self._running = False
        self._panes: dict[str, Pane] = {}
        self._swatches = Swatches(self._send)
        self._revision = 0
        self._serials: dict[str, int] = {}
        self._denoiser = ThreadPoolExecutor(1, thread_name_prefix="denoiser", initializer=lower_priority)
        self._first_picture = False
        self._denoise_no_more = False
        self._heard: dict[str, dict[str, Any]] = {}  # what came last, by pane; used by the listener alone
        self._status_at = 0.0
        self._counted = (0, 0.0)  # rays and seconds of tracing at the last status

    def _send(self, head: dict[str, Any], body: bytes = b"") -> None:
        self._target.write(pipe.pack(head, body))
        self._target.flush()

    def _listen(self) -> None:
        while (message := pipe.read(self._source)) is not None:
            head = message[0]
            self._inbox.put(head)
            if head["op"] in INTERRUPTING:
                # A denoiser takes all cores: it stops when its picture is not wanted any more, and only then. While
                # exposure is dragged, a better picture still arrives.
                self._denoise_no_more |= self._asks_for_samples(head)
                # The first picture of an edit is short and is finished: edits in quick succession would otherwise
                # never show one.
                if not self._first_picture:
                    self._engine.cancel()
                self._swatches.cancel()
        self._inbox.put(None)
        self._engine.cancel()

    def _asks_for_samples(self, head: dict[str, Any]) -> bool:
        """Whether a message changes more than the look of pictures and what is drawn over them."""
        if head["op"] == "scene":
            heard = {name: part for name, part in head["scene"].items() if name not in LOOK_SECTIONS}
        elif head["op"] == "pane":
            heard = {name: value for name, value in head["state"].items() if name not in OVERLAY_FIELDS}
        else:
            return False
        source = head.get("pane", "scene")
        before, self._heard[source] = self._heard.get(source), heard
        return heard != before

    def run(self) -> None:
        """Serve until the messages end."""
        threading.Thread(target=self._listen, name="listener", daemon=True).start()
        # The library's threads inherit the priority of the thread that first uses it.
        self._denoiser.submit(prepare_denoiser).result()
        prepare_denoiser(urgent=True)
        while True:
            # Ready before the inbox is read: a message that comes later cancels the pass that follows.
            self._engine.ready()
            self._swatches.ready()
            if not self._take_messages():
                return
            working = self._working()
            if self._may_make_swatches():
                self._swatches.step()
            elif working:
                pane = min(working, key=Pane.urgency)
                self._first_picture = pane.shows_nothing
                if self._first_picture:
                    self._engine.ready()  # what has come since the inbox was read waits for this picture too
                pane.step(self._running, self._start_denoiser)
                self._first_picture = False
                self._status(pane)

    def _working(self) -> list[Pane]:
        """Panes for which something can be done."""
        return [pane for pane in self._panes.values() if pane.has_work(self._running)] if self._opened else []

    def _may_make_swatches(self) -> bool:
        """Whether one is missing while somebody looks and every picture in sight is a whole one."""
        seen = [pane for pane in self._panes.values() if pane.is_seen]
        return bool(seen) and self._swatches.is_due and all(pane.is_whole(self._running) for pane in seen)

    # Messages

    def _take_messages(self) -> bool:
        """Handle all waiting messages, or wait for one when there is nothing to do; False at the end."""
        newest: dict[str, Any] | None = None
        working = self._working()
        patience = (
            0.0
            if self._may_make_swatches()
            else None
            if not working
            else SHARPEN_AFTER_SECONDS
            if all(p.only_sharpens(self._running) for p in working)
            else 0.0
        )
        while True:
            try:
                message = self._inbox.get(block=patience != 0.0, timeout=patience)
            except queue.Empty:
                break
            patience = 0.0
            if message is None:
                return False
            if message["op"] == "scene":
                newest = message  # only the newest of several edits is worth compiling
                self._paths.update(message["paths"])
            else:
                if newest is not None:
                    self._take_scene(newest)
                    newest = None
                getattr(self, f"_on_{message['op']}")(message)
        if newest is not None:
            self._take_scene(newest)
        return True

    def _resolve(self, reference: FileRef) -> Path:
        return Path(self._paths[reference.sha256])

    def _take_scene(self, message: dict[str, Any]) -> None:
        self._revision, self._serials = message["revision"], message["serials"]
        before = self._engine.scene
        try:
            scene = read_scene(message["scene"])
            if not self._opened:
                problems, restarts = self._engine.open(scene, self._resolve), True
                self._opened = True
            else:
                change = self._engine.apply(scene, self._resolve)
                problems, restarts = change.problems, change.restarts
            if problems:
                self._send({"op": "problems", "problems": problems})
        except Exception as error:
            # Whatever a scene does to the compiler, the host lives on with what it had.
            self._send({"op": "error", "message": str(error) or type(error).__name__})
            return
        for pane in self._panes.values():
            pane.take_document(before, restarts, self._revision, self._serials.get(str(pane.seat), 0))
        self._swatches.take_document(scene, self._engine.textures)
        unique, placed = self._engine.compiled.triangles
        counts = asdict(self._engine.compile_counts)
        opened = {"unique_triangles": unique, "triangles": placed, "parts": len(scene.parts), "compiled": counts}
        self._send({"op": "opened", **opened, "moves": self._engine.moves})

    def _on_pane(self, message: dict[str, Any]) -> None:
        name = message["pane"]
        pane = self._panes.get(name)
        if pane is None:
            pane = self._panes[name] = Pane(name, message["seat"], self._engine, self._send)
            pane.revision, pane.serial = self._revision, self._serials.get(str(message["seat"]), 0)
        pane.shown.budget = message["budget"]
        if self._opened:
            pane.take_state(PaneState.model_validate(message["state"]))
        else:
            pane.state = PaneState.model_validate(message["state"])

    def _on_drop(self, message: dict[str, Any]) -> None:
        self._panes.pop(message["pane"], None)

    def _on_budget(self, message: dict[str, Any]) -> None:
        if pane := self._panes.get(message["pane"]):
            pane.shown.budget = message["bytes"]

    def _on_swatches(self, message: dict[str, Any]) -> None:
        self._swatches.know(message["made"])

    def _on_run(self, message: dict[str, Any]) -> None:
        self._running = True

    def _on_hold(self, message: dict[str, Any]) -> None:
        self._running = False
        for pane in self._panes.values():
            self._status(pane, force=True)

    # Questions

    def _answer(self, message: dict[str, Any], operation: str, **answer: Any) -> None:
        self._send({"op": operation, "request": message["request"], "asked": message["asked"], **answer})

    def _asked_pane(self, message: dict[str, Any]) -> Pane | None:
        """The pane that a question is about; None before anything can be said of it."""
        pane = self._panes.get(message["pane"])
        return pane if pane is not None and pane.state is not None and self._opened else None

    def _on_pick(self, message: dict[str, Any]) -> None:
        pane = self._asked_pane(message)
        found = self._engine.pick(pane.camera, pane.shape, message["x"], message["y"]) if pane else None
        self._answer(message, "picked", found=asdict(found) if found else None)

    def _on_values(self, message: dict[str, Any]) -> None:
        pane = self._asked_pane(message)
        self._answer(message, "values", values=pane.values_at(message["x"], message["y"]) if pane else None)

    def _on_fit(self, message: dict[str, Any]) -> None:
        pane = self._asked_pane(message)
        low, high = self._engine.compiled.bounds(message["parts"]) if pane else (np.ones(3), np.zeros(3))
        camera = None
        if pane is not None and low[0] <= high[0]:
            fitted = fit_camera(pane.camera, low, high, pane.shape, keep_direction=True, side=message["direction"])
            camera = fitted.model_dump(mode="json")
        self._answer(message, "fitted", camera=camera)

    def _on_bounds(self, message: dict[str, Any]) -> None:
        pane = self._asked_pane(message)
        low, high = self._engine.compiled.bounds(message["parts"]) if pane else (np.ones(3), np.zeros(3))
        box = [low.tolist(), high.tolist()] if low[0] <= high[0] else None
        self._answer(message, "bounds", box=box)

    # The denoiser

    def _start_denoiser(self, pane: Pane, means: Means, quality: Quality, flags: int, region: Region | None) -> None:
        """Denoise beside the sampling; the picture arrives as a message."""
        generation = pane.generation
        self._denoise_no_more = False

        def work() -> None:
            rows, columns = slice(None), slice(None)
            if region is not None:
                x, y, width, height = region
                rows = slice(max(y - LOUPE_MARGIN, 0), y + height + LOUPE_MARGIN)
                columns = slice(max(x - LOUPE_MARGIN, 0), x + width + LOUPE_MARGIN)
            crop = [np.ascontiguousarray(a[rows, columns]) for a in (means.radiance, means.albedo, means.normal)]
            alpha = means.alpha[rows, columns]
            picture = made = develop(
                crop[0],
                alpha,
                crop[1],
                crop[2],
                denoise=quality,
                transparent=False,
                give_way=lambda: self._denoise_no_more,
            )
            if region is not None and made is not None:
                radiance = means.radiance.copy()
                radiance[rows, columns] = made.radiance
                picture = Developed(radiance, means.alpha)
            self._inbox.put(
                {
                    "op": "developed",
                    "pane": pane.name,
                    "made": (picture, generation, means.samples, flags, region),
                }
            )

        self._denoiser.submit(work)

    def _on_developed(self, message: dict[str, Any]) -> None:
        pane = self._panes.get(message["pane"])
        if pane is not None and pane.developed(*message["made"]):
            pane.develop_full(self._engine.scene.proof.denoise, self._start_denoiser)

    # Status

    def _status(self, pane: Pane, force: bool = False) -> None:
        now = time.monotonic()
        film = pane.film
        if film is None or not (force or pane.settled or now - self._status_at >= STATUS_SECONDS):
            return
        self._status_at = now
        rays, seconds = self._engine.ray_counts().rays, self._engine.timings.tracing
        rate = (rays - self._counted[0]) / (seconds - self._counted[1]) if seconds > self._counted[1] else 0.0
        if seconds > self._counted[1]:
            self._counted = (rays, seconds)
        done = pane.done
        if done > 0:
            left = film.samples_left(pane.wanted, pane.noise_target, LOOKED_AT)
        else:
            left = film.region[2] * film.region[3] * pane.wanted
        counts = self._engine.ray_counts()
        self._send(
            {
                "op": "status",
                "pane": pane.name,
                "samples": done,
                "wanted": pane.wanted,
                "settled": pane.settled,
                "running": self._running,
                "width": film.width,
                "height": film.height,
                "noise": film.noise(LOOKED_AT) if done >= 2 and pane.view.follows_paths else None,
                "seconds": now - pane.started,
                "seconds_left": left * pane.speed.seconds_per_sample,
                "rays_per_second": rate,
                "dropped_samples": counts.not_finite,
                "limited_samples": counts.limited,
                "memory_mib": _resident_mib(),
            }
        )


def _resident_mib() -> int:
    """Memory of this process [MiB]."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") >> 20


def serve(connection: socket.socket) -> None:
    """Serve one project until the other end of the connection is closed."""
    with connection, connection.makefile("rb") as source, connection.makefile("wb") as target:
        target.write(pipe.pack({"op": "born", "pid": os.getpid()}))
        target.flush()
        Host(source, target).run()
