"""Thin films whose thickness follows a pattern, and reflectance in even light: against constants and closed forms."""

import numpy as np
import pytest

from lantern.color import lab_of
from lantern.engine import measuring
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.scene.decals import Decal
from lantern.scene.document import Material
from lantern.scene.inputs import MaterialInput, Placement, Ramp, Stop
from lantern.scene.layers import Layer
from lantern.scene.lights import RectangleLight
from lantern.scene.sources import GradientSource
from lantern.scene.surroundings import Environment
from tests.core.shapes import no_files, sphere_mesh
from tests.core.test_inputs import CAMERA, SIDE, means, scene_of

PEARL = Material(
    name="Pearl", base_color=(0.02, 0.02, 0.02), thin_film_weight=1.0, thin_film_thickness=0.4, thin_film_ior=1.6,
    specular_roughness=0.3,
)  # fmt: skip


def radiance(material, samples=64):
    return means(*scene_of(material, sphere_mesh(0.4, 32)), samples).radiance


def test_where_a_pattern_says_so_a_film_is_as_thick_as_a_constant():
    """Two halves, each against a film of that thickness alone."""
    across = Placement(kind="plane", size=1.0, offset=(-0.5, 0, 0))
    steps = Ramp(stops=(Stop(at=0.0, color=(0.25,) * 3), Stop(at=0.5, color=(0.55,) * 3)), blend="steps")
    one = MaterialInput(source=GradientSource(), placement=across, ramp=steps)
    both = radiance(PEARL.model_copy(update={"inputs": {"thin_film_thickness": one}}))
    thin, thick = (radiance(PEARL.model_copy(update={"thin_film_thickness": um})) for um in (0.25, 0.55))
    left, right = slice(8, SIDE // 2 - 2), slice(SIDE // 2 + 2, SIDE - 8)
    halves, *wanted = ([one[:, side].mean(axis=(0, 1)) for side in (left, right)] for one in (both, thin, thick))
    order = 0 if np.abs(halves[0] - wanted[0][0]).max() < np.abs(halves[0] - wanted[1][0]).max() else 1
    apart = np.abs(wanted[0][0] - wanted[1][0]).max()
    assert apart > 0.003
    assert np.abs(halves[0] - wanted[order][0]).max() < 0.15 * apart
    assert np.abs(halves[1] - wanted[1 - order][1]).max() < 0.15 * apart


def test_a_film_that_thickens_has_the_colours_between_and_lies_in_a_layer_too():
    rising = MaterialInput(source=GradientSource(), placement=Placement(kind="plane", size=1.0), low=0.1, high=0.9)
    pearl = PEARL.model_copy(update={"inputs": {"thin_film_thickness": rising}})
    alone = radiance(pearl)
    hues = alone[SIDE // 2, 8:-8] / alone[SIDE // 2, 8:-8].sum(axis=1, keepdims=True)
    assert np.ptp(hues, axis=0).max() > 0.1
    scene, asset = scene_of(Material(name="Low", layers=(Layer(material="p"),)), sphere_mesh(0.4, 32))
    scene = scene.model_copy(update={"materials": scene.materials | {"p": pearl}})
    laid = means(scene, asset, 64).radiance
    assert np.abs(laid - alone).mean() < 0.01


def test_an_edit_of_a_films_pattern_is_rows_alone_and_as_compiled_afresh():
    one = MaterialInput(source=GradientSource(), placement=Placement(kind="plane", size=1.0), low=0.1, high=0.9)
    scene, asset = scene_of(PEARL, sphere_mesh(0.4, 32))
    engine = Engine(threads=2)
    engine.open(scene, no_files, asset)
    for inputs in ({"thin_film_thickness": one}, {"thin_film_thickness": one.model_copy(update={"high": 0.3})}, {}):
        changed = scene.model_copy(update={"materials": {"m": PEARL.model_copy(update={"inputs": inputs})}})
        assert not engine.apply(changed, no_files).recompiled
        film = Film(SIDE, SIDE)
        engine.trace(film, 32)
        fresh = means(changed, asset, 32).radiance
        assert film.means().radiance == pytest.approx(fresh, abs=1e-5)
    engine.close()


def reflectance(material, x=0.5, y=0.5, measured=measuring.reflectance, **changes):
    engine = Engine(threads=2)
    scene, asset = scene_of(material)
    engine.open(scene.model_copy(update=changes), no_files, asset)
    found = measured(engine, CAMERA, 1.0, x, y)
    engine.close()
    return found


def test_a_matt_surface_reflects_its_base_colour_and_a_mirror_its_own():
    matt = Material(name="M", base_color=(0.7, 0.4, 0.1), specular_weight=0.0)
    assert reflectance(matt) == pytest.approx((0.7, 0.4, 0.1), abs=0.01)
    gold = Material(name="G", base_color=(0.94, 0.78, 0.37), base_metalness=1.0, specular_roughness=0.0)
    assert reflectance(gold) == pytest.approx((0.94, 0.78, 0.37), abs=0.005)
    # Fresnel at normal incidence, n = 1.5: 4 %, over a base that is black.
    black = Material(name="B", base_color=(0, 0, 0), specular_roughness=0.0)
    assert reflectance(black) == pytest.approx((0.04, 0.04, 0.04), abs=0.003)


def test_clear_glass_reflects_what_does_not_go_through_and_wax_its_colour():
    glass = Material(name="G", transmission_weight=1.0, specular_roughness=0.0, geometry_thin_walled=True)
    # Both faces, with what goes to and fro between them: 2 R / (1 + R).
    assert reflectance(glass) == pytest.approx([0.08 / 1.04] * 3, abs=0.006)
    wax = Material(name="W", subsurface_weight=1.0, subsurface_color=(0.8, 0.5, 0.3), specular_weight=0.0)
    assert reflectance(wax) == pytest.approx((0.8, 0.5, 0.3), abs=0.02)


def test_beside_the_part_there_is_none():
    scene, asset = scene_of(Material(name="M"), sphere_mesh(0.2, 32))
    engine = Engine(threads=2)
    engine.open(scene, no_files, asset)
    assert measuring.reflectance(engine, CAMERA, 1.0, 0.02, 0.02) is None
    assert measuring.radiance_factor(engine, CAMERA, 1.0, 0.02, 0.02) is None
    engine.close()


LAMP = RectangleLight(name="L", position=(1.0, 0.5, 2.0), target=(0, 0, 0), amount=300.0, color=(1.0, 0.5, 0.2))


def test_in_the_light_that_is_there_a_matt_surface_has_its_colour_whatever_that_lights():
    matt = Material(name="M", base_color=(0.7, 0.4, 0.1), specular_weight=0.0)
    for lights, intensity in (({"l": LAMP}, 0.0), ({}, 3.0)):
        found = reflectance(
            matt, measured=measuring.radiance_factor, lights=lights, environment=Environment(intensity=intensity)
        )
        assert found == pytest.approx((0.7, 0.4, 0.1), rel=0.02)
    dark = reflectance(matt, measured=measuring.radiance_factor, environment=Environment(intensity=0.0))
    assert dark is None


def test_a_highlight_sends_more_than_white():
    gloss = Material(name="G", base_color=(0.2, 0.2, 0.2), specular_roughness=0.15)
    lamp = RectangleLight(name="L", position=(0, 0, 6), target=(0, 0, 0), width=0.5, height=0.5, amount=100.0)
    found = reflectance(
        gloss, measured=measuring.radiance_factor, lights={"l": lamp}, environment=Environment(intensity=0.0)
    )
    assert min(found) > 1.0


def test_measuring_leaves_the_film_as_it_would_have_been():
    """A lettered part beside others, in the light of a lamp that is aimed at by chance."""
    scene, asset = scene_of(Material(name="M"), sphere_mesh(0.3, 32))
    label = Decal(name="Label", parts=("part",), middle=(0, 0, 0.3), width=0.2)
    scene = scene.model_copy(update={"lights": {"l": LAMP}, "decals": {"d": label}})
    films = []
    for measures in (False, True):
        engine, film = Engine(threads=2), Film(SIDE, SIDE)
        engine.open(scene, no_files, asset)
        engine.trace(film, 8)
        if measures:
            assert measuring.radiance_factor(engine, CAMERA, 1.0, 0.5, 0.5) is not None
        engine.trace(film, 16)
        films.append(film.means().radiance)
        engine.close()
    assert np.array_equal(*films)


@pytest.mark.parametrize(
    ("linear", "lab"),
    [
        ((1, 1, 1), (100, 0, 0)),
        ((0, 0, 0), (0, 0, 0)),
        ((0.18418652,) * 3, (50, 0, 0)),
        ((1, 0, 0), (53.24, 80.09, 67.20)),
    ],
)
def test_lab_is_that_of_the_standard(linear, lab):
    assert lab_of(np.array(linear)) == pytest.approx(lab, abs=0.02)
