"""Swatches: pictures of one material, made between the passes of a proof."""

import threading

import numpy as np
import pytest

from lantern.assets.textures import Texture
from lantern.engine.swatches import HEIGHT, WIDTH, SwatchMaker
from lantern.scene.document import Material
from lantern.scene.inputs import MaterialInput, Placement
from lantern.scene.sources import ImageSource
from lantern.scene.texture_use import TextureUse

PEBBLE = (slice(HEIGHT // 4, 3 * HEIGHT // 4), slice(WIDTH // 4, 3 * WIDTH // 4))


@pytest.fixture
def maker():
    made = SwatchMaker()
    yield made
    made.close()


def swatch(maker, textures=(), **fields):
    maker.begin(Material(name="m", **fields), list(textures))
    picture = maker.step()
    assert picture.shape == (HEIGHT, WIDTH, 3) and picture.dtype == np.uint8
    return picture.astype(float)


def test_a_swatch_shows_its_material(maker):
    red = swatch(maker, base_color=(0.6, 0.02, 0.02))[PEBBLE].mean((0, 1))
    assert red[0] > 3 * red[1] and red[0] > 3 * red[2]
    white, black = (swatch(maker, base_color=(v, v, v), specular_weight=0)[PEBBLE].mean() for v in (0.9, 0.02))
    assert white > 150 and black < 40
    glow = swatch(maker, base_color=(0, 0, 0), emission_luminance=1e5, emission_color=(1, 0.4, 0.1))[PEBBLE]
    assert glow[..., 2].mean() < 0.8 * glow[..., 0].mean(), "the colour of a bright light is still seen"


def test_what_stands_behind_is_seen_through_glass_alone(maker):
    clear = swatch(maker, transmission_weight=1.0, specular_roughness=0.0)[HEIGHT // 2].mean(1)
    solid = swatch(maker, base_color=(0.3, 0.3, 0.3))[HEIGHT // 2].mean(1)
    middle = slice(WIDTH // 3, 2 * WIDTH // 3)
    assert np.ptp(clear[middle]) > 4 * np.ptp(solid[middle])


def test_maps_are_shown_and_one_that_is_missing_is_not_missed(maker):
    texels = np.full((1024, 512, 4), 255, np.uint8)
    texels[..., 1:3] = 10
    red = Texture(texels, 0, 0)
    unused = Texture(np.zeros((2, 2, 4), np.uint8), 0, 0)
    mapped = swatch(maker, [unused, red], base_color_texture=TextureUse(texture=1))[PEBBLE].mean((0, 1))
    assert mapped[0] > 3 * mapped[1]
    plain = swatch(maker, [red], base_color_texture=TextureUse(texture=5))[PEBBLE].mean((0, 1))
    assert abs(plain[0] - plain[1]) < 6


def test_inputs_are_shown_and_an_image_that_is_missing_is_not_missed(maker):
    texels = np.full((64, 64, 4), 255, np.uint8)
    texels[..., 1:3] = 10
    red, unused = Texture(texels, 0, 0), Texture(np.zeros((2, 2, 4), np.uint8), 0, 0)

    def given(number, **placement):
        one = MaterialInput(source=ImageSource(texture=number), placement=Placement(**placement))
        return swatch(maker, [unused, red], inputs={"base_color": one})[PEBBLE].mean((0, 1))

    for placement in ({"kind": "uv", "uv_set": 3}, {"kind": "box", "size": 0.05}):
        mapped = given(1, **placement)
        assert mapped[0] > 3 * mapped[1]
    plain = given(5)
    assert abs(plain[0] - plain[1]) < 6


def test_a_swatch_that_gave_way_goes_on_and_is_the_same(maker):
    material = Material(name="m", base_color=(0.2, 0.5, 0.3), coat_weight=1.0)
    maker.begin(material, [])
    whole = maker.step()
    maker.begin(material, [])
    maker.cancel()
    assert maker.step() is None
    gave_way = 0
    for delay in np.linspace(0.002, 0.05, 12):
        maker.ready()
        stop = threading.Timer(delay, maker.cancel)
        stop.start()
        picture = maker.step()
        stop.cancel()
        stop.join()
        if picture is not None:
            break
        gave_way += 1
    else:
        maker.ready()
        picture = maker.step()
    assert gave_way > 0
    assert (picture == whole).all()
