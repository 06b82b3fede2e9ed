"""Moving pictures into one file: H.264, H.265, VP9, AV1, ProRes and FFV1 through PyAV, GIF and WebP through Pillow.

In: frames, one after the other. Out: a file. Called by the print worker and the command line. Only one frame is in
memory at a time, but for WebP, whose encoder takes all.

Colours are those of the display as they were developed: sRGB values, whose primaries are those of ITU-R BT.709, with
the transfer of IEC 61966-2-1 (13 in ITU-T H.273, table 3). Y'CbCr is made with the matrix of BT.709, in its narrow
range.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from itertools import chain
from pathlib import Path
from typing import Literal

import av
import numpy as np
from PIL import Image

VideoForm = Literal["mp4", "hevc", "webm", "av1", "mov", "mkv", "gif", "webp"]
BT709, SRGB_TRANSFER, NARROW, WIDE = 1, 13, 1, 2
"""Codes of ITU-T H.273 for primaries, matrix and transfer; ranges as FFmpeg counts them."""
WORST, BEST = 0, 100
_FULL_RANGE_RGB = "bgr0"


@dataclass(frozen=True)
class Form:
    """How one form of file is written."""

    label: str
    suffix: str
    codec: str = ""
    pixels: str = ""
    with_alpha: str = ""
    """Pixels of a picture with alpha; empty where there is no such thing."""
    container: str = ""
    options: tuple[tuple[str, str], ...] = ()
    quality: tuple[int, int] | None = None
    """Constant rate factor of the worst and of the best; None where all is kept."""


FORMS: dict[VideoForm, Form] = {
    "mp4": Form("MP4, H.264", ".mp4", "libx264", "yuv420p", container="mp4", quality=(36, 8),
                options=(("movflags", "+faststart"), ("preset", "slow"))),
    "hevc": Form("MP4, H.265", ".mp4", "libx265", "yuv420p10le", container="mp4", quality=(38, 8),
                 options=(("movflags", "+faststart"), ("tag", "hvc1"), ("x265-params", "log-level=error"))),
    "webm": Form("WebM, VP9", ".webm", "libvpx-vp9", "yuv420p", "yuva420p", "webm", quality=(50, 6),
                 options=(("b", "0"), ("row-mt", "1"), ("cpu-used", "4"))),
    "av1": Form("WebM, AV1", ".webm", "libsvtav1", "yuv420p10le", container="webm", quality=(58, 12),
                options=(("preset", "8"),)),
    "mov": Form("QuickTime, ProRes 4444", ".mov", "prores_ks", "yuv444p10le", "yuva444p10le", "mov",
                (("profile", "4444"), ("vendor", "apl0"))),
    "mkv": Form("Matroska, FFV1, lossless", ".mkv", "ffv1", _FULL_RANGE_RGB, container="matroska",
                options=(("level", "3"),)),
    "gif": Form("GIF", ".gif"),
    "webp": Form("WebP, animated", ".webp", with_alpha="RGBA", quality=(40, 100)),
}  # fmt: skip


def write_video(
    path: Path, frames: Iterable[np.ndarray], form: VideoForm, rate: float, *, quality: int = 80, loop: bool = True
) -> int:
    """Write frames (h, w, 3 or 4) uint8 of one size and return how many there were; alpha is straight.

    `quality` goes from WORST to BEST; `loop` is of forms that say how often they play. Sides that a codec needs even
    are continued by a pixel of their edge. Raises ValueError for no frame, or alpha that the form has not.
    """
    steps = iter(frames)
    first = next(steps, None)
    if first is None:
        raise ValueError("there is no frame to write")
    wanted = FORMS[form]
    if first.shape[2] == 4 and not wanted.with_alpha:
        raise ValueError(f"{wanted.label} has no transparency: choose another form, or print an opaque background")
    whole = chain((first,), steps)
    if form in ("gif", "webp"):
        return _write_images(path, whole, form, rate, quality, loop)
    return _encode(path, whole, wanted, first.shape, rate, quality)


def _encode(
    path: Path, frames: Iterator[np.ndarray], form: Form, shape: tuple[int, ...], rate: float, quality: int
) -> int:
    has_alpha = shape[2] == 4
    options = dict(form.options)
    if form.quality is not None:
        options["crf"] = str(round(form.quality[0] + (form.quality[1] - form.quality[0]) * quality / BEST))
    pixels = form.with_alpha if has_alpha else form.pixels
    halved = "420" in pixels
    count = 0
    with av.open(str(path), "w", format=form.container) as target:
        stream = target.add_stream(form.codec, rate=Fraction(rate).limit_denominator(1001), options=options)
        assert isinstance(stream, av.VideoStream)
        stream.height, stream.width = (side + (side % 2 if halved else 0) for side in shape[:2])
        stream.pix_fmt = pixels
        context = stream.codec_context
        context.color_primaries, context.color_trc = BT709, SRGB_TRANSFER
        is_rgb = pixels == _FULL_RANGE_RGB
        context.colorspace, context.color_range = (0, WIDE) if is_rgb else (BT709, NARROW)
        for frame in frames:
            if frame.shape != shape:
                raise ValueError(f"frame {count} has the shape {frame.shape}, and the first one {shape}")
            picture = av.VideoFrame.from_ndarray(
                np.ascontiguousarray(_even(frame) if halved else frame), format="rgba" if has_alpha else "rgb24"
            )
            if is_rgb:
                picture = picture.reformat(format=pixels)
            else:
                picture = picture.reformat(format=pixels, dst_colorspace=BT709, dst_color_range=NARROW)
            picture.pts = count
            target.mux(stream.encode(picture))
            count += 1
        target.mux(stream.encode(None))
    return count


def _even(frame: np.ndarray) -> np.ndarray:
    height, width = frame.shape[:2]
    if height % 2 == 0 and width % 2 == 0:
        return frame
    return np.pad(frame, ((0, height % 2), (0, width % 2), (0, 0)), mode="edge")


def _write_images(
    path: Path, frames: Iterator[np.ndarray], form: Literal["gif", "webp"], rate: float, quality: int, loop: bool
) -> int:
    """GIF tells time in hundredths of a second, WebP in thousandths: frames end at the next of them, so that the whole
    keeps its length."""
    grain = 10 if form == "gif" else 1
    images, durations, begun = [], [], 0
    for count, frame in enumerate(frames, 1):
        image = Image.fromarray(frame)
        images.append(image.quantize(256, dither=Image.Dither.FLOYDSTEINBERG) if form == "gif" else image)
        ends = round(1000 * count / rate / grain) * grain
        durations.append(max(ends - begun, grain))
        begun = ends
    how = {} if form == "gif" else {"quality": min(max(quality, 1), 100), "method": 4}
    forever = {"loop": 0} if loop else {} if form == "gif" else {"loop": 1}
    images[0].save(
        path, form.upper(), save_all=True, append_images=images[1:], duration=durations, disposal=2, **forever, **how
    )
    return len(images)
