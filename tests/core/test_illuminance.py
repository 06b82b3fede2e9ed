"""Illuminance in false colour against closed forms, whatever light falls on and whatever is in the way of the eye."""

import numpy as np
import pytest

from lantern.compile.view import View, Way
from lantern.engine.engine import Engine
from lantern.picture.false_colour import illuminance_of
from lantern.picture.histogram import BINS, histogram
from lantern.scene.document import Camera, Fader, Material
from lantern.scene.lights import PointLight, RectangleLight
from lantern.scene.surroundings import FREE_PATHS_OF_SIGHT, Box, Environment, Ground, Haze
from tests.core.shapes import no_files, one_part
from tests.core.test_looking import FRONT, wall

CANDELA, DISTANCE = 18.0, 3.0
LAMP = PointLight(name="l", position=(0, 0, DISTANCE), unit="cd", amount=CANDELA)
BLACK = Material(name="m", base_color=(0, 0, 0), specular_weight=0.0)
STUFFS = {
    "black": BLACK,
    "glass": Material(name="m", transmission_weight=1.0),
    "gold": Material(name="m", base_metalness=1.0, base_color=(1, 0.8, 0.3), specular_roughness=0.1),
    "glowing": Material(name="m", emission_luminance=2.0),
    "wax": Material(name="m", subsurface_weight=1.0),
}


def measured(material: Material, samples: int = 64, size: int = 17, camera: Camera = FRONT, **sections) -> np.ndarray:
    """(size, size) lx that the camera sees arrive on a square of 1 m that faces it, or on what else is there."""
    scene, asset = one_part(material, wall(0.5))
    dark = {"camera": camera, "ground": Ground(enabled=False), "environment": Environment(intensity=0.0)}
    engine = Engine(2)
    engine.open(scene.model_copy(update=dark | {"lights": {"l": LAMP}} | sections), no_files, asset)
    film = engine.film_for(size, size, groups=True)
    engine.trace(film, samples, view=View(camera, Way.ILLUMINANCE))
    found = illuminance_of(engine.radiance(film))
    engine.close()
    return found


@pytest.mark.parametrize("stuff", STUFFS)
def test_a_point_source_lights_whatever_is_there_by_the_inverse_square(stuff):
    """E = I / d² (CIE S 017, 17-21-060)."""
    assert measured(STUFFS[stuff])[8, 8] == pytest.approx(CANDELA / DISTANCE**2, rel=0.03)


def test_even_light_and_a_fader():
    """A sky of even luminance L all around lights with π L; half of it by a fader of one stop down."""
    sections = {"lights": {}, "environment": Environment(intensity=2.0)}
    assert measured(BLACK, **sections)[8, 8] == pytest.approx(2 * np.pi, rel=0.02)
    balance = {"balance": {"environment": Fader(stops=-1.0)}}
    assert measured(BLACK, **sections, **balance)[8, 8] == pytest.approx(np.pi, rel=0.02)


def test_the_ground_shows_what_arrives_on_it_and_not_its_backdrop():
    camera = Camera(position=(0, 5, 3.0), target=(0, 0, 3.0), focal_length=300)
    sections = {"ground": Ground(height=-1.0, reflectance=(0.0, 0.0, 0.0), reflection=0.3)}
    found = measured(BLACK, camera=camera, **sections)[8, 8]
    assert found == pytest.approx(CANDELA / 1.0**2, rel=0.02)


def test_neither_air_nor_a_lamp_before_the_eye_is_measured():
    soot = Haze(
        enabled=True, sight=FREE_PATHS_OF_SIGHT * 0.2, color=(0, 0, 0), box=Box(low=(-1, -1, 3.2), high=(1, 1, 3.8))
    )
    screen = RectangleLight(name="s", position=(0, 0, 3.5), target=(0, 0, 9), width=2, height=2, amount=100.0)
    assert measured(BLACK, haze=soot)[8, 8] == pytest.approx(CANDELA / DISTANCE**2, rel=0.03)
    seen = measured(BLACK, lights={"l": LAMP, "s": screen.model_copy(update={"seen_by_camera": True})})
    assert seen[8, 8] == pytest.approx(CANDELA / DISTANCE**2, rel=0.03)


def test_where_nothing_is_there_is_nothing_to_measure():
    camera = FRONT.model_copy(update={"focal_length": 15})
    assert measured(BLACK, camera=camera, environment=Environment(intensity=1.0))[0, 0] == 0.0


def test_a_histogram_counts_every_pixel_and_what_is_clipped():
    picture = np.zeros((10, 10, 3), np.uint8)
    picture[:5], picture[5:, :5, 0] = 128, 255
    found = histogram(picture)
    assert all(sum(channel) == pytest.approx(1) and len(channel) == BINS for channel in found.channels)
    assert found.channels[1][32] == pytest.approx(0.5)
    assert found.clipped == pytest.approx((0.25, 0, 0)) and found.crushed == pytest.approx((0.25, 0.5, 0.5))
