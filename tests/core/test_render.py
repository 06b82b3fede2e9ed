"""The path tracer against closed forms, and its determinism."""

import numpy as np
import pytest
from scipy import ndimage

from lantern.engine.engine import Engine
from lantern.film.film import FAR_DEPTH, Film
from lantern.scene.document import Material
from lantern.scene.surroundings import FREE_PATHS_OF_SIGHT, Backdrop, Environment, Ground, Haze
from tests.core.shapes import SIDE, no_files, one_part, slab_mesh, traced


def middle(film):
    """Mean radiance of the pixels well inside the sphere."""
    core = ndimage.binary_erosion(film.parts() == 0, iterations=2)
    assert core.sum() > 200
    return film.means().radiance[core].mean(axis=0)


@pytest.mark.parametrize(
    "material",
    [
        Material(name="diffuse", base_color=(1, 1, 1)),
        Material(name="metal", base_color=(1, 1, 1), base_metalness=1, specular_roughness=0.4),
        Material(name="rough glass", transmission_weight=1, specular_roughness=0.4),
        Material(name="clear glass", transmission_weight=1, specular_roughness=0.0),
        Material(name="coated", base_color=(1, 1, 1), coat_weight=1),
        Material(name="thin", transmission_weight=1, geometry_thin_walled=True),
    ],
    ids=lambda m: m.name,
)
def test_a_white_object_vanishes_in_a_white_room(material):
    """White furnace through the whole path tracer: paths are cut at the depth limit, hence the allowance below."""
    scene, asset = one_part(material)
    assert middle(traced(scene, asset, 256)) == pytest.approx([1, 1, 1], abs=0.015)


def test_diffuse_sphere_in_even_light_shows_its_albedo():
    """Closed form: radiance = albedo · (1 - E_spec) + E_spec; with IOR 1 the gloss vanishes."""
    scene, asset = one_part(Material(name="m", base_color=(0.6, 0.3, 0.1), specular_ior=1.0))
    assert middle(traced(scene, asset, 256)) == pytest.approx([0.6, 0.3, 0.1], abs=0.004)


def test_diffuse_sphere_under_a_half_lit_sky_follows_the_closed_form():
    """Irradiance of a plane tilted by θ under an even upper half-sky is π (1 + cos θ) / 2."""
    scene, asset = one_part(Material(name="m", base_color=(1, 1, 1), specular_ior=1.0))
    sky = np.zeros((128, 256, 3), np.float32)
    sky[:64] = 1
    film = traced(scene, asset, 512, environment=sky)
    layers = film.means()
    inside = (film.parts() == 0) & (layers.normal[..., 2] > 0.4)
    expected = (1 + layers.normal[..., 1]) / 2
    difference = layers.radiance[..., 0][inside] - expected[inside]
    assert abs(difference.mean()) < 0.004
    assert np.abs(difference).mean() < 0.03


def test_emission_shows_its_luminance():
    scene, asset = one_part(
        Material(name="m", base_color=(0, 0, 0), emission_color=(1, 0.5, 0.25), emission_luminance=8, specular_ior=1.0)
    )
    assert middle(traced(scene, asset, 16)) == pytest.approx([8, 4, 2], rel=0.01)


def test_coloured_glass_follows_beer():
    """A plate 20 mm thick that reaches its colour at 10 mm, index near 1: transmittance is the colour squared."""
    tint = (0.5, 0.25, 0.8)
    scene, asset = one_part(
        Material(
            name="m", transmission_weight=1, specular_ior=1.0, specular_roughness=0,
            transmission_color=tint, transmission_depth=0.01,
        ),
        slab_mesh(0.02, half_width=20),
    )  # fmt: skip
    radiance = traced(scene, asset, 64).means().radiance
    c = SIDE // 2
    assert radiance[c - 2 : c + 2, c - 2 : c + 2].mean((0, 1)) == pytest.approx(np.square(tint), rel=0.01)


def test_clear_slab_transmits_what_fresnel_says():
    """Through both faces with all inter-reflections, T = (1 - R) / (1 + R); a dark front shows T from a lit back."""
    scene, asset = one_part(
        Material(name="m", transmission_weight=1, specular_ior=1.5, specular_roughness=0), slab_mesh(0.02, 20)
    )
    behind = np.zeros((128, 256, 3), np.float32)
    behind[:, 64:192] = 1  # the half sphere around -Z
    radiance = traced(scene, asset, 1024, environment=behind).means().radiance
    r = ((1.5 - 1) / (1.5 + 1)) ** 2
    c = SIDE // 2
    assert radiance[c - 3 : c + 3, c - 3 : c + 3].mean() == pytest.approx((1 - r) / (1 + r), abs=0.01)


def test_ground_without_anything_on_it_is_the_backdrop():
    """The catcher multiplies the backdrop by exactly what is missing: far from the object nothing is."""
    scene, asset = one_part(Material(name="m"), ground=True)
    scene = scene.model_copy(
        update={"backdrop": Backdrop(kind="color", color=(0.3, 0.2, 0.1)), "ground": Ground(enabled=True, height=-50)}
    )
    film = traced(scene, asset, 256)
    layers = film.means()
    ground = np.s_[48:, :8]  # a corner that the object does not touch
    assert (layers.depth[ground] < FAR_DEPTH).all()
    assert layers.radiance[ground].mean((0, 1)) == pytest.approx([0.3, 0.2, 0.1], rel=0.005)


def test_ground_catches_shadow_and_alpha_says_how_much():
    scene, asset = one_part(Material(name="m", base_color=(0, 0, 0), specular_ior=1.0), ground=True)
    camera = scene.camera.model_copy(update={"position": (0, 0.6, 0.8), "target": (0, -0.05, 0)})
    scene = scene.model_copy(update={"camera": camera})
    film = traced(scene, asset, 128, transparent=True)
    layers = film.means()
    ground = film.parts() < 0
    assert layers.radiance[ground].max() < 1e-3, "a transparent picture holds no backdrop"
    assert np.median(layers.alpha[film.parts() == 0]) == 1
    near, far = layers.alpha[ground].max(), np.median(layers.alpha[0])
    assert near > 0.4 and far < 0.1


def test_paths_over_ground_that_catches_shadow_end_by_roulette_as_others_do():
    """In air that scatters 0.9 a path is expected to go on for 1 / (1 - 0.9) events once roulette has begun."""
    scene, asset = one_part(Material(name="m", base_color=(0.5, 0.5, 0.5)), ground=True)
    scene = scene.model_copy(
        update={"haze": Haze(enabled=True, sight=FREE_PATHS_OF_SIGHT * 0.2, color=(0.9, 0.9, 0.9))}
    )
    engine = Engine(2)
    engine.open(scene, no_files, asset)
    engine.trace(Film(SIDE, SIDE), 16)
    rays = engine.ray_counts().rays / (16 * SIDE**2)
    engine.close()
    before_roulette, after, rays_an_event = 4, 10, 2
    assert rays < 1.1 * rays_an_event * (before_roulette + after)


def test_backdrop_colour_does_not_light_the_asset():
    scene, asset = one_part(Material(name="m", base_color=(0.5, 0.5, 0.5)))
    one = traced(scene.model_copy(update={"backdrop": Backdrop(kind="color", color=(9, 0, 0))}), asset, 16)
    other = traced(scene.model_copy(update={"backdrop": Backdrop(kind="color", color=(0, 0, 0))}), asset, 16)
    core = (one.parts() == 0) & (one.means().normal[..., 2] > 0.5)
    assert (one.means().radiance[core] == other.means().radiance[core]).all()


def test_depth_and_normal_are_those_of_the_sphere():
    scene, asset = one_part(Material(name="m"))
    layers = traced(scene, asset, 64).means()
    c = SIDE // 2
    assert layers.depth[c, c] == pytest.approx(0.9, abs=0.002)
    assert layers.normal[c, c] == pytest.approx([0, 0, 1], abs=0.06)
    assert layers.depth[0, 0] == FAR_DEPTH


def material_mix():
    scene, asset = one_part(
        Material(name="m", transmission_weight=0.5, coat_weight=0.5, specular_roughness=0.3), ground=True
    )
    return scene.model_copy(update={"environment": Environment(rotation=30, intensity=2)}), asset


@pytest.mark.parametrize("how", [{"threads": 1}, {"threads": 2}, {"threads": 3, "steps": [1, 4, 5, 12]}])
def test_film_is_equal_to_the_bit_however_it_is_made(how):
    """1, 2 and 3 threads, whole and split: the same bytes."""
    scene, asset = material_mix()
    reference = traced(scene, asset, 12, threads=2)
    assert traced(scene, asset, 12, **how).rows.tobytes() == reference.rows.tobytes()


def test_seeds_give_other_noise_and_the_same_picture():
    scene, asset = material_mix()
    a, b = traced(scene, asset, 64, seed=1), traced(scene, asset, 64, seed=2)
    assert a.rows.tobytes() != b.rows.tobytes()
    assert a.means().radiance.mean() == pytest.approx(b.means().radiance.mean(), rel=0.01)


def test_a_cancelled_pass_can_be_resumed():
    scene, asset = material_mix()
    engine = Engine(2)
    engine.open(scene, no_files, asset)
    film = Film(SIDE, SIDE)
    engine.cancel()
    assert not engine.trace(film, 12)
    engine.ready()
    assert engine.trace(film, 12)
    engine.close()
    assert film.rows.tobytes() == traced(scene, asset, 12).rows.tobytes()


def test_noise_estimate_falls_as_samples_grow():
    scene, asset = material_mix()
    few, many = traced(scene, asset, 8), traced(scene, asset, 128)
    assert Film(4, 4).noise() == float("inf")
    assert 2.5 < few.noise() / many.noise() < 6.0  # the square root of 16 is 4
