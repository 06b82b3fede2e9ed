"""The render host: one process that holds one project's compiled scene and sends pictures of it.

`python -m server.viewport.host`; messages on standard input and output as `pipe` packs them. It knows no Django
and no database: when it dies, nothing is lost, and the supervisor starts another. While a pass runs, a message
that changes the picture makes it give way at the next tile; edits that wait together are applied once.
"""

import os
import queue
import sys
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any, BinaryIO

from lantern.engine import Engine
from lantern.picture.denoise import Quality
from lantern.picture.develop import Developed, develop, display_rgb
from lantern.picture.encode import encode_jpeg, encode_png
from lantern.scene.document import FileRef, Scene
from lantern.scene.framing import fit_camera
from lantern.scene.reading import read_scene
from lantern.trace.film import Film
from server.viewport import frames, pipe
from server.viewport.ladder import COARSE_SAMPLES, Speed, coarse_size, next_samples

STATUS_SECONDS = 0.5
LARGEST_SIDE = 4096


class Host:
    """The loop of one project."""

    def __init__(self, source: BinaryIO, target: BinaryIO) -> None:
        self._source, self._target = source, target
        self._inbox: queue.SimpleQueue[dict[str, Any] | None] = queue.SimpleQueue()
        self._engine = Engine()
        self._paths: dict[str, str] = {}
        self._revision = self._serial = 0
        self._opened = self._running = False
        self._size = (960, 600)
        self._film: Film | None = None
        self._coarse: Film | None = None
        self._shown: Developed | None = None
        self._shown_info: tuple[int, int] = (0, 0)  # samples, flags
        self._denoiser = ThreadPoolExecutor(1, thread_name_prefix="denoiser")
        self._denoising = False
        self._generation = 0  # counts restarts: a picture of an older one is thrown away
        self._speed = Speed()
        self._first_speed = Speed()  # small pictures cost more a sample: neighbouring rays are less alike
        self._settled = False
        self._develop_again = False  # the denoiser was switched
        self._started = time.monotonic()
        self._status_at = 0.0

    def _send(self, head: dict[str, Any], body: bytes = b"") -> None:
        self._target.write(pipe.pack(head, body))
        self._target.flush()

    def _listen(self) -> None:
        while (message := pipe.read(self._source)) is not None:
            head = message[0]
            self._inbox.put(head)
            if head["op"] in ("scene", "size", "hold"):
                self._engine.cancel()
        self._inbox.put(None)
        self._engine.cancel()

    def run(self) -> None:
        """Serve until standard input ends."""
        threading.Thread(target=self._listen, name="listener", daemon=True).start()
        while True:
            # Ready before the inbox is read: a message that comes later cancels the pass that follows.
            self._engine.ready()
            if not self._take_messages():
                return
            if self._has_work():
                self._climb()

    def _has_work(self) -> bool:
        if not self._opened:
            return False
        # A held proof makes one coarse picture of a change, so that what is seen is always the document.
        return not self._settled if self._running else self._shown is None

    def _take_messages(self) -> bool:
        """Handle all waiting messages, or wait for one when there is nothing to trace; False at the end."""
        newest: dict[str, Any] | None = None
        block = not self._has_work()
        while True:
            try:
                message = self._inbox.get(block=block)
            except queue.Empty:
                break
            block = False
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
            block = False
        if newest is not None:
            self._take_scene(newest)
        return True

    def _resolve(self, reference: FileRef) -> Path:
        return Path(self._paths[reference.sha256])

    def _take_scene(self, message: dict[str, Any]) -> None:
        self._revision, self._serial = message["revision"], message["serial"]
        try:
            scene = read_scene(message["scene"])
            if not self._opened:
                problems = self._engine.open(scene, self._resolve)
                self._opened = True
                restarts = True
            else:
                before = self._engine.scene
                change = self._engine.apply(scene, self._resolve)
                problems = change.problems
                restarts = change.restarts or (before.print != scene.print and self._frame_size() != self._film_size())
                if scene.proof != before.proof:
                    self._settled = False
                    self._develop_again = True
            if problems:
                self._send({"op": "problems", "problems": problems})
        except Exception as error:
            # Whatever a scene does to the compiler, the host lives on with what it had.
            self._send({"op": "error", "message": str(error) or type(error).__name__})
            return
        if restarts:
            self._restart()
        elif self._shown is not None:
            self._show(*self._shown_info)
        self._send({"op": "opened", "triangles": self._engine.triangles, "parts": len(scene.parts)})

    def _film_size(self) -> tuple[int, int] | None:
        return (self._film.width, self._film.height) if self._film else None

    def _frame_size(self) -> tuple[int, int]:
        """The largest size of the print's shape that fits the view."""
        wanted = self._engine.scene.print
        scale = min(self._size[0] / wanted.width, self._size[1] / wanted.height)
        return max(round(wanted.width * scale), 16), max(round(wanted.height * scale), 16)

    def _restart(self) -> None:
        self._settled = False
        self._generation += 1
        # What was shown belongs to another document: it must not be sent again under this one's number.
        self._shown = None
        self._started = time.monotonic()
        size = self._frame_size()
        if self._film_size() != size:
            self._film = Film(*size)
        else:
            assert self._film is not None
            self._film.clear()
        small = coarse_size(*size, self._first_speed)
        if self._coarse is None or (self._coarse.width, self._coarse.height) != small:
            self._coarse = Film(*small)
        else:
            self._coarse.clear()

    def _on_size(self, message: dict[str, Any]) -> None:
        self._size = (
            min(max(int(message["width"]), 16), LARGEST_SIDE),
            min(max(int(message["height"]), 16), LARGEST_SIDE),
        )
        if self._opened and self._frame_size() != self._film_size():
            self._restart()

    def _on_run(self, message: dict[str, Any]) -> None:
        self._running = True

    def _on_hold(self, message: dict[str, Any]) -> None:
        self._running = False
        if self._opened:
            self._status(force=True)

    def _on_refresh(self, message: dict[str, Any]) -> None:
        if self._shown is not None:
            self._show(*self._shown_info)

    def _on_pick(self, message: dict[str, Any]) -> None:
        film = next((f for f in (self._film, self._coarse) if f is not None and f.samples > 0), None)
        part = self._engine.part_at(film, message["x"], message["y"]) if film else None
        self._send({"op": "picked", "part": part, "request": message["request"]})

    def _on_fit(self, message: dict[str, Any]) -> None:
        scene = self._engine.scene
        low, high = self._engine.compiled.bounds()
        if low[0] > high[0]:
            self._send({"op": "fitted", "request": message["request"], "camera": None})
            return
        shape = scene.print.width / scene.print.height
        camera = fit_camera(scene.camera, low, high, shape, keep_direction=True)
        self._send({"op": "fitted", "request": message["request"], "camera": camera.model_dump(mode="json")})

    def _trace(self, film: Film, samples: int, speed: Speed) -> bool:
        before, start = film.samples, time.perf_counter()
        whole = self._engine.trace(film, samples, noise=self._engine.scene.proof.noise / 100)
        if whole:
            speed.learn(film.width * film.height * (samples - before), time.perf_counter() - start)
        return whole

    def _climb(self) -> None:
        """One step up: the coarse picture, then a clean coarse one, then the whole frame pass by pass."""
        assert self._film is not None and self._coarse is not None
        scene = self._engine.scene
        if self._film.samples == 0 and self._coarse.samples < (COARSE_SAMPLES if self._running else 1):
            first = self._coarse.samples == 0
            if not self._trace(self._coarse, 1 if first else COARSE_SAMPLES, self._first_speed):
                return
            self._develop(self._coarse, None if first or not scene.proof.denoise else "fast", frames.COARSE)
            return
        wanted = scene.proof.samples
        if not self._film.is_done(wanted):
            pixels = self._film.width * self._film.height
            target = next_samples(self._film.samples, wanted, pixels, self._speed)
            if not self._trace(self._film, target, self._speed):
                return
        self._settled = self._film.is_done(wanted)
        if self._settled or self._worth_showing():
            self._develop_full(scene.proof.denoise)
        self._status()

    def _develop_full(self, denoise: bool) -> None:
        """Develop the whole frame; the denoiser works beside the sampling and its picture arrives as a message."""
        assert self._film is not None
        flags = frames.SETTLED if self._settled else 0
        if not denoise:
            self._develop(self._film, None, flags)
            return
        if self._denoising:
            return  # `_on_developed` asks again when a newer picture is worth it
        self._denoising = True
        self._develop_again = False
        layers, generation = self._film.layers(), self._generation
        quality: Quality = "high" if self._settled else "fast"

        def work() -> None:
            picture = develop(
                layers.radiance, layers.alpha, layers.albedo, layers.normal, denoise=quality, transparent=False
            )
            self._inbox.put(
                {
                    "op": "developed",
                    "picture": picture,
                    "generation": generation,
                    "samples": layers.samples,
                    "flags": flags | frames.DENOISED,
                }
            )

        self._denoiser.submit(work)

    def _on_developed(self, message: dict[str, Any]) -> None:
        self._denoising = False
        scene = self._engine.scene
        current = message["generation"] == self._generation and scene.proof.denoise
        if current:
            self._shown = message["picture"]
            self._show(message["samples"], message["flags"])
        # A proof that settled while the denoiser was busy with an older picture still waits for its own.
        if self._settled and not (current and message["flags"] & frames.SETTLED):
            self._develop_full(scene.proof.denoise)

    def _worth_showing(self) -> bool:
        """A picture is developed when its samples have doubled since the last, the denoiser being dear."""
        assert self._film is not None
        samples, flags = self._shown_info
        if self._denoising:
            return False
        return (
            self._develop_again
            or bool(flags & frames.COARSE)
            or self._film.samples >= 2 * samples
            or self._film.samples < samples
        )

    def _develop(self, film: Film, quality: Quality | None, flags: int) -> None:
        self._shown = self._engine.develop(film, denoise=quality)
        self._develop_again = False
        if quality is not None:
            flags |= frames.DENOISED
        self._show(film.samples, flags)

    def _show(self, samples: int, flags: int) -> None:
        """Send the developed picture with the present look; no ray is traced."""
        assert self._shown is not None
        scene: Scene = self._engine.scene
        self._shown_info = (samples, flags)
        rgb = display_rgb(self._shown, scene.look.exposure, scene.look.view)
        codec = frames.PNG if flags & frames.SETTLED else frames.JPEG
        camera = scene.camera
        info = frames.FrameInfo(
            self._revision,
            self._serial,
            samples,
            rgb.shape[1],
            rgb.shape[0],
            codec,
            flags,
            (*camera.position, *camera.target, camera.focal_length, camera.sensor_width),
        )
        picture = encode_png(rgb) if codec == frames.PNG else encode_jpeg(rgb)
        self._send({"op": "frame"}, frames.pack_frame(info, picture))
        if flags & frames.SETTLED:
            self._status(force=True)

    def _status(self, force: bool = False) -> None:
        now = time.monotonic()
        if self._film is None or (not force and now - self._status_at < STATUS_SECONDS):
            return
        self._status_at = now
        counts, seconds = self._engine.ray_counts(), self._engine.timings.tracing
        wanted = self._engine.scene.proof.samples
        done = self._film.samples
        pixels = self._film.width * self._film.height
        noise = self._film.noise() if done >= 2 else None
        self._send(
            {
                "op": "status",
                "samples": done,
                "wanted": wanted,
                "settled": self._settled,
                "running": self._running,
                "width": self._film.width,
                "height": self._film.height,
                "noise": noise,
                "seconds": now - self._started,
                "seconds_left": max(wanted - done, 0) * pixels * self._speed.seconds_per_sample,
                "rays_per_second": counts.rays / seconds if seconds else 0.0,
                "dropped_samples": counts.not_finite,
            }
        )


def main() -> None:
    """Entry point. Standard output belongs to the protocol: whatever else prints goes to standard error."""
    target = os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)
    sys.stdout = sys.stderr
    Host(sys.stdin.buffer, target).run()


if __name__ == "__main__":
    main()
