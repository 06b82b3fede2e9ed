"""Files of finished pictures: read back by other libraries; what they say about themselves read back by us."""

import io

import numpy as np
import OpenImageIO as oiio
import pytest
from PIL import Image, ImageCms

from lantern.picture.develop import Developed, display_deep, display_rgb, display_rgba
from lantern.picture.display import Transform, display_analytic, light_of_display
from lantern.picture.exr import Stored, picture_channels, write_exr
from lantern.picture.files import ImageError
from lantern.picture.icc import profile_of
from lantern.picture.stills import Told, write_jpeg, write_png, write_tiff
from lantern.picture.told import COMMENT_BYTES, KEY, packed, read_told
from lantern.scene.document import Scene
from lantern.scene.look import Look
from lantern.scene.printing import PrintSettings

TEXT = packed({"document": Scene().plain(), "samples": 8})


def noise(dtype=np.uint8, channels=3, size=(40, 70)):
    high = np.iinfo(dtype).max + 1
    return np.random.default_rng(5).integers(0, high, (*size, channels)).astype(dtype)


def read_back(path, dtype):
    """Pixels as they stand in a file, alpha not multiplied in."""
    as_it_is = oiio.ImageSpec()
    as_it_is.attribute("oiio:UnassociatedAlpha", 1)
    reader = oiio.ImageInput.open(str(path), as_it_is)
    return reader.read_image(0, 0, 0, reader.spec().nchannels, oiio.TypeDesc(np.dtype(dtype).name))


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
@pytest.mark.parametrize("channels", [3, 4])
@pytest.mark.parametrize("height", [1, 63, 64, 200])
def test_a_png_is_what_was_written(tmp_path, dtype, channels, height):
    pixels = noise(dtype, channels, (height, 33))
    write_png(tmp_path / "a.png", pixels, Told("srgb", 300, TEXT))
    assert (read_back(tmp_path / "a.png", dtype) == pixels).all()
    with Image.open(tmp_path / "a.png") as other:
        other.load()
        assert other.info["dpi"] == pytest.approx((300, 300), abs=0.01)
        assert "srgb" in other.info and "icc_profile" not in other.info


def test_a_smooth_png_is_small(tmp_path):
    ramp = np.repeat(np.linspace(0, 65535, 400).astype(np.uint16)[:, None, None], 300, axis=1).repeat(3, axis=2)
    write_png(tmp_path / "ramp.png", ramp)
    assert (tmp_path / "ramp.png").stat().st_size < ramp.nbytes / 50


def test_a_jpeg_keeps_its_colours_apart_and_says_how_large_it_is(tmp_path):
    pixels = np.zeros((32, 32, 3), np.uint8)
    pixels[:, ::2, 0] = 255  # every other column red: colours at half the width would make it brown
    write_jpeg(tmp_path / "a.jpg", pixels, 100, Told("p3", 240, TEXT))
    with Image.open(tmp_path / "a.jpg") as image:
        assert np.abs(np.asarray(image).astype(int) - pixels).max() < 12
        assert image.info["dpi"] == (240, 240) and image.info["icc_profile"] == profile_of("p3")


@pytest.mark.parametrize("channels", [3, 4])
def test_a_tiff_has_sixteen_bits_or_light(tmp_path, channels):
    deep = noise(np.uint16, channels)
    write_tiff(tmp_path / "deep.tif", deep, Told("p3", 150, TEXT))
    assert (read_back(tmp_path / "deep.tif", np.uint16) == deep).all()
    with Image.open(tmp_path / "deep.tif") as image:
        assert image.info["icc_profile"] == profile_of("p3") and image.info["dpi"] == (150, 150)
    light = np.random.default_rng(1).random((20, 30, channels)).astype(np.float32) * 40
    write_tiff(tmp_path / "light.tif", light, Told())
    assert (oiio.ImageBuf(str(tmp_path / "light.tif")).get_pixels(oiio.FLOAT) == light).all()


@pytest.mark.parametrize("encoding", ["srgb", "p3", "rec1886"])
def test_a_profile_says_what_the_display_makes_of_the_values(encoding):
    """A colour-managed program shows the same colour whatever display the picture was made for."""
    light = np.array([[[0.2, 0.5, 0.1], [0.6, 0.3, 0.25], [0.05, 0.04, 0.3]]], np.float32)
    shown = (display_analytic(light, Transform("plain", encoding)) * 255 + 0.5).astype(np.uint8)
    ours = ImageCms.ImageCmsProfile(io.BytesIO(profile_of(encoding)))
    told = ImageCms.applyTransform(
        Image.fromarray(shown), ImageCms.buildTransform(ours, ImageCms.createProfile("sRGB"), "RGB", "RGB", 1)
    )
    np.testing.assert_allclose(light_of_display(np.asarray(told), "srgb"), light, atol=0.012)


def test_sixteen_bits_are_the_same_picture_in_finer_steps():
    light = np.random.default_rng(2).random((24, 36, 3)).astype(np.float32) * 2
    picture = Developed(light, np.full((24, 36), 0.5, np.float32))
    look = Look.model_validate({"vignette": {"enabled": True, "edge": -1.0}, "grain": {"enabled": True}})
    deep, shallow = display_deep(picture, look), display_rgb(picture, look)
    assert np.abs(deep / 257.0 - shallow).max() < 0.75 and len(np.unique(deep)) > 4 * len(np.unique(shallow))
    clear = display_rgba(picture, look, deep=True)
    assert clear.dtype == np.uint16 and (clear[..., 3] == 32768).all()


def test_an_exr_of_a_part_keeps_its_place_in_the_frame(tmp_path):
    rows = np.random.default_rng(3).random((30, 50, 3)).astype(np.float32)
    flat = np.ones((30, 50), np.float32)

    def band(span):
        return picture_channels(rows[slice(*span)], flat[slice(*span)])

    write_exr(tmp_path / "a.exr", band, (30, 50), {KEY: TEXT}, Stored(True, "piz", (10, 5, 20, 8)))
    spec = oiio.ImageInput.open(str(tmp_path / "a.exr")).spec()
    assert (spec.x, spec.y, spec.width, spec.height, spec.full_width, spec.full_height) == (10, 5, 20, 8, 50, 30)
    assert spec.get_string_attribute("compression") == "piz" and spec.format == oiio.FLOAT
    pixels = oiio.ImageInput.open(str(tmp_path / "a.exr")).read_image(0, 0, 0, 3, oiio.FLOAT)
    assert (pixels == rows[5:13, 10:30]).all()
    assert read_told(tmp_path / "a.exr", "a.exr")["samples"] == 8


def test_what_made_a_picture_is_read_from_every_format_however_long_it_is(tmp_path):
    many = {f"part-{n}": np.random.default_rng(n).bytes(40).hex() for n in range(4000)}
    text = packed({"document": many})
    assert len(text) > 3 * COMMENT_BYTES
    told = Told("srgb", None, text)
    write_png(tmp_path / "a.png", noise(), told)
    write_jpeg(tmp_path / "a.jpg", noise(), 80, told)
    write_tiff(tmp_path / "a.tif", noise(np.uint16), told)
    rows, flat = np.ones((4, 5, 3), np.float32), np.ones((4, 5), np.float32)
    write_exr(tmp_path / "a.exr", lambda _: picture_channels(rows, flat), (4, 5), {KEY: text})
    for name in ("a.png", "a.jpg", "a.tif", "a.exr"):
        assert read_told(tmp_path / name, name)["document"] == many


def test_what_says_nothing_or_nonsense_is_refused_in_words(tmp_path):
    write_png(tmp_path / "silent.png", noise())
    (tmp_path / "words.png").write_text("no picture")
    write_png(tmp_path / "nonsense.png", noise(), Told(text="bm9uc2Vuc2U="))
    newer = packed({"document": {}, "version": 2})
    write_png(tmp_path / "newer.png", noise(), Told(text=newer))
    whole = (tmp_path / "newer.png").read_bytes()
    (tmp_path / "cut.png").write_bytes(whole[: len(whole) // 2])
    for name, words in (
        ("silent.png", "does not say"),
        ("words.png", "no picture that was printed here"),
        ("nonsense.png", "cannot be read"),
        ("newer.png", "newer program"),
        ("cut.png", "cut.png"),
    ):
        with pytest.raises(ImageError, match=words):
            read_told(tmp_path / name, name)


def test_the_part_that_is_printed_lies_within_the_frame():
    whole = PrintSettings(width=101, height=57)
    assert whole.window is None
    part = whole.model_copy(update={"region": (0.5, 0.25, 1.0, 0.26)})
    assert part.window == (50, 14, 51, 1)
    with pytest.raises(ValueError, match="left and top must lie before"):
        PrintSettings(region=(0.5, 0.5, 0.5, 0.9))
