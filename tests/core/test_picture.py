"""Display transform, files, developing."""

import numpy as np
import OpenImageIO as oiio
import pytest

from lantern.picture.denoise import whole_guides
from lantern.picture.develop import Developed, develop, display_rgba
from lantern.picture.display import Transform, display_analytic, to_display
from lantern.picture.encode import block_means, encode_jpeg, encode_png
from lantern.picture.exr import picture_channels, write_exr
from lantern.picture.files import ImageError, read_hdr, write_radiance_hdr
from lantern.picture.stills import write_png
from lantern.picture.thumbnails import environment_thumbnail
from lantern.scene.look import Look


@pytest.mark.parametrize("view", ["filmic", "plain"])
def test_the_baked_transform_follows_the_analytic_one(view):
    generator = np.random.default_rng(4)
    light = (0.18 * 2.0 ** generator.uniform(-7, 5, (64, 64, 1)) * generator.uniform(0.3, 1, (64, 64, 3))).astype(
        np.float32
    )
    exact = np.clip(display_analytic(light, Transform(view)), 0, 1) * 255
    shown = to_display(light, 0.0, view).astype(np.float64)
    assert np.abs(shown - exact).max() < 4.0
    assert np.sqrt(((shown - exact) ** 2).mean()) < 0.7


def test_plain_view_is_the_srgb_curve_and_exposure_doubles_the_light():
    grey = np.full((2, 2, 3), 0.2, np.float32)
    assert to_display(grey, 0, "plain")[0, 0, 0] == pytest.approx(255 * (1.055 * 0.2 ** (1 / 2.4) - 0.055), abs=1.0)
    assert (to_display(grey, 1, "filmic") == to_display(grey * 2, 0, "filmic")).all()
    assert to_display(np.zeros((2, 2, 3), np.float32), 0, "filmic").max() == 0
    with pytest.raises(ValueError, match="filmic, plain"):
        to_display(grey, 0, "vivid")


def test_strips_of_a_picture_are_shown_like_the_whole():
    light = np.random.default_rng(8).uniform(0, 4, (301, 407, 3)).astype(np.float32)
    shown = to_display(light, 0.5, "filmic")
    rows = [to_display(row[None], 0.5, "filmic")[0] for row in light[::50]]
    assert (shown[::50] == np.stack(rows)).all()
    turned = to_display(light.transpose(1, 0, 2), 0.5, "filmic")
    assert (turned.transpose(1, 0, 2) == shown).all(), "whatever the order of an array in memory"


def test_blocks_are_joined_as_light():
    light = np.random.default_rng(9).uniform(0, 4, (7, 10, 3)).astype(np.float32)
    means = block_means(light, 3)
    assert means.shape == (2, 3, 3)
    assert means[1, 2] == pytest.approx(light[3:6, 6:9].mean((0, 1)), rel=1e-6)
    assert (block_means(light, 1) == light).all()


def test_exr_keeps_every_layer(tmp_path):
    generator = np.random.default_rng(1)
    h, w = 5, 7
    radiance = generator.uniform(0, 4, (h, w, 3)).astype(np.float32)
    radiance[0, 0] = 1e6
    alpha, depth = (
        generator.uniform(size=(h, w)).astype(np.float32),
        generator.uniform(0, 1e4, (h, w)).astype(np.float32),
    )
    albedo, normal = generator.uniform(size=(2, h, w, 3)).astype(np.float32)
    channels = picture_channels(radiance, alpha)
    channels.color("albedo", albedo)
    channels.vector("normal", normal)
    channels.value("Z", depth)
    write_exr(tmp_path / "a.exr", lambda rows: channels, (h, w))
    image = oiio.ImageBuf(str(tmp_path / "a.exr"))
    pixels = image.get_pixels(oiio.FLOAT)
    names = list(image.spec().channelnames)

    def layer(*channels):
        return pixels[..., [names.index(c) for c in channels]]

    assert layer("R", "G", "B")[1:] == pytest.approx(radiance[1:], rel=1e-3)
    assert np.isfinite(pixels).all()
    assert layer("A")[..., 0] == pytest.approx(alpha, abs=1e-3)
    assert layer("albedo.R", "albedo.G", "albedo.B") == pytest.approx(albedo, abs=1e-3)
    assert layer("normal.X", "normal.Y", "normal.Z") == pytest.approx(normal, abs=1e-3)
    assert (layer("Z")[..., 0] == depth).all()
    assert list(tmp_path.iterdir()) == [tmp_path / "a.exr"], "nothing half-written is left"


def test_hdr_round_trip_and_refusals(tmp_path):
    pixels = np.random.default_rng(2).uniform(0, 9, (8, 16, 3)).astype(np.float32)
    write_radiance_hdr(tmp_path / "e.hdr", pixels)
    assert read_hdr(tmp_path / "e.hdr") == pytest.approx(pixels, rel=0.01, abs=9 / 128)
    (tmp_path / "cut.hdr").write_bytes((tmp_path / "e.hdr").read_bytes()[:90])
    (tmp_path / "text.hdr").write_text("not a picture")
    for name, words in (("cut.hdr", "cut.hdr"), ("text.hdr", "neither"), ("gone.hdr", "no such file")):
        with pytest.raises(ImageError, match=words):
            read_hdr(tmp_path / name)


def test_transparent_png_is_not_premultiplied(tmp_path):
    light = np.full((4, 4, 3), 0.1, np.float32)
    picture = Developed(light, np.full((4, 4), 0.5, np.float32))
    rgba = display_rgba(picture, Look(view="plain"))
    assert rgba[0, 0, 3] == 128
    assert rgba[0, 0, 0] == to_display(light * 2, 0, "plain")[0, 0, 0]
    write_png(tmp_path / "a.png", rgba)
    back = oiio.ImageBuf(str(tmp_path / "a.png"))
    assert back.spec().nchannels == 4


def test_denoising_lowers_the_error_and_keeps_the_mean():
    generator = np.random.default_rng(3)
    noisy = generator.exponential(0.5, (64, 64, 3)).astype(np.float32)
    flat, normal = np.full((64, 64, 3), 0.5, np.float32), np.tile(np.array([0, 0, 1], np.float32), (64, 64, 1))
    alpha = np.ones((64, 64), np.float32)
    clean = develop(noisy, alpha, whole_guides(flat, normal), denoise="high", transparent=False)
    assert clean.radiance.std() < noisy.std() / 4
    assert clean.radiance.mean() == pytest.approx(0.5, rel=0.05)
    assert (develop(noisy, alpha, whole_guides(flat, normal), denoise=None, transparent=False).radiance == noisy).all()


def test_encoded_pictures_have_their_formats():
    rgb = np.random.default_rng(5).integers(0, 255, (8, 8, 3), dtype=np.uint8)
    assert encode_jpeg(rgb)[:3] == b"\xff\xd8\xff"
    assert encode_png(rgb)[:4] == b"\x89PNG"


def test_thumbnail_of_a_sky_with_a_sun_is_neither_black_nor_white():
    sky = np.full((64, 100, 3), 0.02, np.float32)
    sky[5, 5] = 1e5
    assert 60 < np.median(environment_thumbnail(sky)) < 130
