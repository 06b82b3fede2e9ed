"""The picture that a pane shows, and how it is sent: with which look, as large and as exact as time and line allow.

In: developed pictures, scene-linear. Out: picture messages through `send`. Owned by `pane`.
"""

import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from lantern.compile.view import View, Way
from lantern.picture.develop import Developed
from lantern.picture.encode import block_means, encode_jpeg, encode_png, shrunk
from lantern.picture.false_colour import (
    LightScale,
    false_colour,
    illuminance_of,
    light_scale,
    luminance_of,
    with_isolines,
)
from lantern.picture.look.pipeline import Finisher, depends_on_place
from lantern.picture.look.surround import Surround
from lantern.scene.look import Look
from server.host.before_after import BeforeAndAfter
from server.host.ladder import Speed, block_side, fitted_size
from server.protocol import frames
from server.protocol.browser import Scale
from server.protocol.host import PaneSaid, Picture
from server.protocol.panes import PaneState
from server.protocol.parts import Message

AS_IT_IS = Look(view="plain")
"""What shows no light has no exposure."""
Region = tuple[int, int, int, int]
Send = Callable[[Message, bytes], None]
SHARPEN_AFTER_SECONDS = 0.05
"""How long nothing must have happened before a picture that was sent in a hurry is sent again as good as it is."""
PNG_PATIENCE = 8
"""A settled picture may take so many times as long to arrive as others; beyond that it comes as JPEG."""


def _measured(radiance: np.ndarray, frame: "Frame") -> np.ndarray:
    """(h, w) of what a frame is in false colours of."""
    return illuminance_of(radiance) if frame.view.way is Way.ILLUMINANCE else luminance_of(radiance)


def _cropped(picture: np.ndarray, region: Region | None) -> np.ndarray:
    if region is None:
        return picture
    x, y, width, height = region
    return picture[y : y + height, x : x + width]


@dataclass(frozen=True)
class Frame:
    """What a picture belongs to."""

    view: View
    look: Look
    size: tuple[int, int]  # pixels of the film
    revision: int
    serial: int
    around: Surround
    state: PaneState

    def info(
        self, codec: int, flags: int, samples: int, size: tuple[int, int], region: Region | None = None
    ) -> frames.FrameInfo:
        """The header of a picture of `size` pixels; it shows a region of the frame, or all of it."""
        camera = self.view.camera
        if camera.projection == "orthographic":
            flags |= frames.ORTHOGRAPHIC
        return frames.FrameInfo(
            self.revision, self.serial, samples, *size, self.size, region or (0, 0, *self.size), codec, flags,
            self.state.pane,
            (
                *camera.position, *camera.target, camera.focal_length, camera.sensor_width,
                camera.shift_x, camera.shift_y, camera.distortion, camera.roll,
            ),
        )  # fmt: skip


class ShownPicture:
    """The newest picture of a pane."""

    def __init__(self, name: str, send: Send) -> None:
        self._name, self._send = name, send
        self.budget: int | None = None
        """Bytes that a picture may have; None for any."""
        self.speed = Speed(4e-8)
        """Of developing and encoding, when no ray is traced."""
        self._side = 1
        self._bytes_a_pixel = 0.35
        self._scale: LightScale | None = None
        self._told: tuple[Way, LightScale] | None = None
        self._before_and_after = BeforeAndAfter()
        self._last: np.ndarray | None = None
        """Display values of the last whole picture that was sent."""
        self._sent_at = 0.0
        self.forget()

    def forget(self) -> None:
        """There is none: it belongs to another document or another view."""
        self.picture: Developed | None = None
        self._last = None
        self._reduced: tuple[int, np.ndarray] | None = None
        self.flags = self.samples = 0
        self.in_a_hurry = False
        """Whether it was sent smaller or less exact than it is, because an edit asked for it."""

    @property
    def is_coarse(self) -> bool:
        return bool(self.flags & frames.COARSE)

    @property
    def is_settled(self) -> bool:
        return bool(self.flags & frames.SETTLED)

    @property
    def may_be_sharpened(self) -> bool:
        """Whether a picture sent in a hurry has been looked at long enough."""
        return self.in_a_hurry and time.monotonic() - self._sent_at >= SHARPEN_AFTER_SECONDS

    def take(self, picture: Developed, samples: int, flags: int, frame: Frame, region: Region | None = None) -> None:
        """Make a picture the one that is shown, and send it; under a loupe only its region is new."""
        if region is not None:
            picture = self._pasted(picture, region, frame.size)
        self.picture, self.samples, self.flags = picture, samples, flags
        self._reduced = None
        self.send(frame, region)

    def put(self, picture: Developed, frame: Frame) -> None:
        """Show another picture of the same samples for the moment, sent in a hurry."""
        self.picture, self._reduced = picture, None
        self.send(frame, quick=True)
        self.in_a_hurry = True

    def _block_means(self, side: int) -> np.ndarray:
        """Radiance in blocks; made once for all edits of the look that show the same picture."""
        assert self.picture is not None
        if self._reduced is None or self._reduced[0] != side:
            self._reduced = side, block_means(self.picture.radiance, side)
        return self._reduced[1]

    def _pasted(self, picture: Developed, region: Region, size: tuple[int, int]) -> Developed:
        """The picture shown so far with a region of another in it."""
        x, y, width, height = region
        shape = size[::-1]
        radiance = np.zeros((*shape, 3), np.float32) if self.picture is None else self.picture.radiance
        if radiance.shape[:2] != shape:
            rows = np.arange(shape[0]) * radiance.shape[0] // shape[0]
            columns = np.arange(shape[1]) * radiance.shape[1] // shape[1]
            radiance = radiance[rows][:, columns]
        radiance = radiance.copy()
        radiance[y : y + height, x : x + width] = picture.radiance[y : y + height, x : x + width]
        return Developed(radiance, np.ones(shape, np.float32))

    def send(self, frame: Frame, region: Region | None = None, *, quick: bool = False) -> None:
        """Send the picture, all or a region of it; for an edit that traces no ray the `quick` way.

        A quick picture is as large as the time allows, and never lossless; the full one follows when the hand rests.
        """
        assert self.picture is not None
        start, self._sent_at = time.perf_counter(), time.monotonic()
        radiance = self.picture.radiance
        side = 1
        if quick:
            side = self._side = block_side(radiance.shape[1], radiance.shape[0], self.speed, self._side)
        if side > 1:
            radiance = self._block_means(side)
        if frame.view.way.measures:
            self._tell_scale(light_scale(_measured(radiance, frame)), frame)
        self.in_a_hurry = quick and (self.is_settled or side > 1)
        rgb = self._display(radiance, frame, region)
        codec, data, size = self._encoded(rgb, lossless=self.is_settled and not quick)
        if quick:
            self.speed.learn(rgb.shape[0] * rgb.shape[1], time.perf_counter() - start)
        info = frame.info(codec, self.flags, self.samples, size, region)
        self._send(Picture(pane=self._name, kind="frame"), frames.pack_frame(info, data))

    def _encoded(self, rgb: np.ndarray, *, lossless: bool) -> tuple[int, bytes, tuple[int, int]]:
        """(codec, data, pixels across and down) of a picture, within the budget of the line."""
        height, width = rgb.shape[:2]
        if lossless and (self.budget is None or width * height <= PNG_PATIENCE * self.budget):
            return frames.PNG, encode_png(rgb), (width, height)
        small = fitted_size(width, height, self._bytes_a_pixel, self.budget)
        if small != (width, height):
            rgb = shrunk(rgb, *small)
        data = encode_jpeg(rgb)
        self._bytes_a_pixel += 0.5 * (len(data) / (small[0] * small[1]) - self._bytes_a_pixel)
        return frames.JPEG, data, small

    def _display(self, radiance: np.ndarray, frame: Frame, region: Region | None = None) -> np.ndarray:
        """(h, w, 3) uint8 of all of the picture, or of a region of it."""
        way, state = frame.view.way, frame.state
        if way.measures:
            assert self._scale is not None
            values = _measured(_cropped(radiance, region), frame)
            rgb = false_colour(values, self._scale)
            return with_isolines(rgb, values, self._scale) if state.isolines else rgb
        if not way.shows_light:
            return Finisher().bytes_of(_cropped(radiance, region), AS_IT_IS, Surround())
        shown = self._before_and_after.shown(radiance, frame.look, frame.around, state, region)
        if region is None:
            self._last = shown
        return shown

    def _tell_scale(self, scale: LightScale, frame: Frame) -> None:
        told = frame.view.way, scale
        if told != self._told:
            self._scale, self._told = scale, told
            unit: Literal["lx", "cd/m²"] = "lx" if frame.view.way is Way.ILLUMINANCE else "cd/m²"
            said = PaneSaid(pane=self._name, message=Scale(pane=frame.state.pane, unit=unit, ticks=scale.ticks()))
            self._send(said, b"")

    def displayed(self, frame: Frame) -> np.ndarray | None:
        """(h, w, 3) uint8 of what is shown, None before there is a picture."""
        return None if self.picture is None else self._display(self.picture.radiance, frame)

    def _display_at(self, linear: np.ndarray, x: float, y: float, frame: Frame) -> list[int]:
        """Display value at a point of the picture; where it depends on its place, that of the picture last sent."""
        if self._last is not None and frame.view.way.shows_light and depends_on_place(frame.look, frame.around):
            height, width = self._last.shape[:2]
            return [int(v) for v in self._last[min(int(y * height), height - 1), min(int(x * width), width - 1)]]
        return [int(v) for v in self._display(np.ascontiguousarray(linear), frame)[0, 0]]

    def values_at(self, x: float, y: float, frame: Frame) -> dict[str, Any] | None:
        """Scene-linear and display values of the pixel at a point of the picture, and which pixel it is."""
        if self.picture is None:
            return None
        height, width = self.picture.radiance.shape[:2]
        row, column = min(max(int(y * height), 0), height - 1), min(max(int(x * width), 0), width - 1)
        linear = self.picture.radiance[row : row + 1, column : column + 1]
        return {
            "pixel": [min(int(share * size), size - 1) for share, size in zip((x, y), frame.size, strict=True)],
            "linear": [float(v) for v in linear[0, 0]],
            "display": self._display_at(linear, x, y, frame),
        }
