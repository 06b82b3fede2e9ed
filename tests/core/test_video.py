"""Moving pictures: what is decoded again is what went in, as far as its form keeps it."""

from fractions import Fraction

import av
import numpy as np
import pytest
from PIL import Image, ImageSequence

from lantern.picture.video import FORMS, write_video

COUNT = 7
CODECS = {"mp4": "h264", "hevc": "hevc", "webm": "vp9", "av1": "av1", "mov": "prores", "mkv": "ffv1"}


def frames(height=48, width=64, alpha=False):
    """Soft colours that go across, as pictures of a product do."""
    y, x = np.mgrid[0:height, 0:width] / np.array([height, width]).reshape(2, 1, 1)
    for k in range(COUNT):
        shift = k / COUNT
        rgb = np.stack([0.2 + 0.6 * x, 0.7 - 0.4 * y, 0.3 + 0.2 * np.sin(3 * (x + shift))], axis=2)
        if alpha:
            rgb = np.concatenate([rgb, 0.5 + 0.5 * np.sin(4 * y + k)[..., None]], axis=2)
        yield np.round(255 * rgb).astype(np.uint8)


def decoded(path, form="rgb24"):
    with av.open(str(path)) as source:
        (stream,) = source.streams.video
        return stream, [frame.to_ndarray(format=form) for frame in source.decode(stream)]


@pytest.mark.parametrize("form", list(CODECS))
def test_each_codec_brings_back_its_frames_their_number_rate_and_colours(form, tmp_path):
    path = tmp_path / f"film{FORMS[form].suffix}"
    assert write_video(path, frames(), form, 25, quality=90) == COUNT
    stream, back = decoded(path)
    assert stream.codec_context.name.endswith(CODECS[form]) or CODECS[form] in stream.codec_context.name
    assert len(back) == COUNT and back[0].shape == (48, 64, 3)
    assert float(stream.average_rate) == pytest.approx(25)
    off = [np.abs(a.astype(int) - b).mean() for a, b in zip(back, frames(), strict=True)]
    assert max(off) == 0 if form == "mkv" else max(off) < 3.0, off


def test_colours_are_told_as_those_of_the_display(tmp_path):
    write_video(tmp_path / "film.mp4", frames(), "mp4", 24)
    context = decoded(tmp_path / "film.mp4")[0].codec_context
    told = (context.color_primaries, context.color_trc, context.colorspace, context.color_range)
    assert told == (1, 13, 1, 1)


@pytest.mark.parametrize("form", ["webm", "mov", "webp"])
def test_alpha_is_kept_where_there_is_any(form, tmp_path):
    path = tmp_path / f"film{FORMS[form].suffix}"
    write_video(path, frames(alpha=True), form, 25, quality=95)
    if form == "webp":
        back = [np.asarray(each.convert("RGBA")) for each in ImageSequence.Iterator(Image.open(path))]
    elif form == "webm":
        # FFmpeg's own decoder leaves alpha out; that of the codec's library has it.
        with av.open(str(path)) as source:
            decoder = av.CodecContext.create("libvpx-vp9", "r")
            found = [f for packet in source.demux(video=0) for f in decoder.decode(packet if packet.size else None)]
            back = [frame.to_ndarray(format="rgba") for frame in found]
    else:
        back = decoded(path, "rgba")[1]
    assert len(back) == COUNT
    for a, b in zip(back, frames(alpha=True), strict=True):
        assert np.abs(a[..., 3].astype(int) - b[..., 3]).mean() < 3


@pytest.mark.parametrize("form", [form for form, one in FORMS.items() if not one.with_alpha])
def test_alpha_that_a_form_has_not_is_said(form, tmp_path):
    with pytest.raises(ValueError, match="has no transparency"):
        write_video(tmp_path / "film", frames(alpha=True), form, 25)


@pytest.mark.parametrize("form", ["mp4", "webm", "mov", "gif"])
def test_odd_sides_and_odd_rates(form, tmp_path):
    path = tmp_path / f"film{FORMS[form].suffix}"
    write_video(path, frames(33, 47), form, 29.97)
    if form == "gif":
        image = Image.open(path)
        assert image.size == (47, 33) and image.n_frames == COUNT
        return
    stream, back = decoded(path)
    assert stream.average_rate == Fraction(30000, 1001) or float(stream.average_rate) == pytest.approx(29.97, rel=1e-4)
    assert len(back) == COUNT
    first = next(frames(33, 47)).astype(int)
    assert np.abs(back[0][:33, :47] - first).mean() < 4


@pytest.mark.parametrize("form", ["gif", "webp"])
def test_pictures_that_move_keep_their_length_and_say_how_often(form, tmp_path):
    for loop in (True, False):
        write_video(tmp_path / f"film.{form}", frames(), form, 24, loop=loop)
        image = Image.open(tmp_path / f"film.{form}")
        durations = []
        for k in range(image.n_frames):
            image.seek(k)
            image.load()
            durations.append(image.info["duration"])
        assert image.n_frames == COUNT and sum(durations) == pytest.approx(1000 * COUNT / 24, abs=6)
        assert (image.info.get("loop") == 0) is loop


def test_nothing_and_frames_of_two_sizes_are_refused(tmp_path):
    with pytest.raises(ValueError, match="no frame"):
        write_video(tmp_path / "film.mp4", [], "mp4", 25)
    with pytest.raises(ValueError, match="frame 1 has the shape"):
        write_video(tmp_path / "film.mp4", [next(frames()), next(frames(20, 20))], "mp4", 25)
