"""Light of parts by their lumens and their temperature: against closed forms, sizes, copies, edits."""

import numpy as np
import pytest

from lantern.color import LUMINANCE
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.light.light_row import blackbody
from lantern.scene.document import Material, Part, Scene
from lantern.scene.forms import BallForm, BoxForm
from lantern.scene.surroundings import Environment, Ground
from tests.core.shapes import no_files
from tests.core.test_inputs import CAMERA, SIDE

LAMP = Material(name="Lamp", base_color=(0, 0, 0), specular_weight=0.0, emission_lumens=100.0)


def scene_of(material, **parts):
    return Scene(
        parts=parts, materials={"m": material}, environment=Environment(intensity=0.0), camera=CAMERA,
        ground=Ground(enabled=False),
    )  # fmt: skip


def middle(scene, x=0.0):
    """Radiance where the picture shows x [m] beside its middle."""
    engine = Engine(threads=2)
    engine.open(scene, no_files)
    film = Film(SIDE, SIDE)
    engine.trace(film, 4)
    engine.close()
    return film.means().radiance[SIDE // 2, int((0.5 + x) * SIDE)]


def ball(radius, **fields):
    return Part(name="Ball", form=BallForm(radius=radius), material="m", offset=(0, -radius, 0), **fields)


@pytest.mark.parametrize("radius", [0.05, 0.3])
def test_a_ball_is_as_bright_as_its_lumens_make_it(radius):
    """Φ = π L · 4 π r²."""
    found = middle(scene_of(LAMP, part=ball(radius)))
    assert found @ LUMINANCE == pytest.approx(100 / (4 * np.pi**2 * radius**2), rel=0.01)


def test_each_part_gives_its_own_light_and_one_that_is_made_larger_is_dimmer():
    small = Part(
        name="A", form=BoxForm(width=0.2, height=0.2, depth=0.2, edge=0), material="m", offset=(-0.25, -0.1, 0)
    )
    large = small.model_copy(update={"offset": (0.25, -0.2, 0), "size": 2.0})
    scene = scene_of(LAMP, a=small, b=large)
    near, far = middle(scene, -0.25) @ LUMINANCE, middle(scene, 0.25) @ LUMINANCE
    assert near == pytest.approx(100 / (np.pi * 6 * 0.04), rel=0.01)
    assert far == pytest.approx(near / 4, rel=0.01)


def test_the_temperature_colours_it_and_keeps_its_lumens():
    warm = LAMP.model_copy(update={"emission_temperature": 2700.0})
    found = middle(scene_of(warm, part=ball(0.2)))
    wanted = blackbody(2700.0) * 100 / (4 * np.pi**2 * 0.04)
    assert found == pytest.approx(wanted, rel=0.01)
    by_luminance = Material(
        name="L", base_color=(0, 0, 0), specular_weight=0.0, emission_luminance=50.0, emission_temperature=2700.0
    )
    assert middle(scene_of(by_luminance, part=ball(0.2))) == pytest.approx(50 * blackbody(2700.0), rel=0.01)


def test_no_lumens_are_no_light_and_lumens_without_luminance_are():
    assert middle(scene_of(LAMP.model_copy(update={"emission_lumens": 0.0}), part=ball(0.2))).max() == 0
    both = LAMP.model_copy(update={"emission_luminance": 1e5})
    assert middle(scene_of(both, part=ball(0.2))) == pytest.approx(middle(scene_of(LAMP, part=ball(0.2))), rel=1e-4)


def test_what_it_lights_follows_live_as_compiled_afresh():
    """A floor below a lamp, whose light is aimed at; the lamp grows, is brightened, goes out."""
    floor = Part(name="F", form=BoxForm(width=0.9, height=0.1, depth=0.9, edge=0), material="f", offset=(0, -0.4, 0))
    lamp = ball(0.05).model_copy(update={"offset": (0, 0.1, 0)})
    first = scene_of(LAMP, part=lamp, floor=floor)
    first = first.model_copy(update={"materials": first.materials | {"f": Material(name="F", specular_weight=0.0)}})
    steps = [
        {"parts": first.parts | {"part": lamp.model_copy(update={"size": 2.0})}},
        {"materials": first.materials | {"m": LAMP.model_copy(update={"emission_lumens": 700.0})}},
        {"materials": first.materials | {"m": LAMP.model_copy(update={"emission_lumens": None})}},
    ]
    engine = Engine(threads=2)
    engine.open(first, no_files)
    for step in steps:
        scene = first.model_copy(update=step)
        assert not engine.apply(scene, no_files).recompiled
        fresh = Engine(threads=2)
        fresh.open(scene, no_files)
        films = [Film(SIDE, SIDE), Film(SIDE, SIDE)]
        for one, film in zip((engine, fresh), films, strict=True):
            one.trace(film, 32)
        live, wanted = (film.means().radiance.mean(axis=(0, 1)) for film in films)
        assert live == pytest.approx(wanted, rel=0.02, abs=1e-9)
        fresh.close()
    engine.close()
