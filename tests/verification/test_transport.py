"""Whole paths: energy, radiosity, unbiased means, sums of layers, equality over splits, scales, the noise target."""

import numpy as np
import pytest

from lantern.engine.engine import Engine
from lantern.film.film import DARKEST_COUNTED, LUMINANCE, Film
from lantern.scene.document import Camera, Material, Rendering
from lantern.scene.lights import DirectionalLight, PointLight, SphereLight
from lantern.scene.surroundings import Backdrop, Environment, Ground
from tests.core.shapes import WHITE, no_files, one_part, scene_of, sphere_mesh, spot_radiance, traced
from tests.verification.test_lights import PATCH, TABLE

GLASS = Material(name="glass", transmission_weight=1, specular_roughness=0.2)
MATERIALS = {
    "diffuse": Material(name="m", base_color=(1, 1, 1)),
    "rough metal": Material(name="m", base_color=(1, 1, 1), base_metalness=1, specular_roughness=0.6),
    "frosted glass": Material(name="m", transmission_weight=1, specular_roughness=0.4),
    "coated fuzz": Material(name="m", base_color=(1, 1, 1), coat_weight=1, fuzz_weight=1, fuzz_roughness=0.6),
    "thin leaf": Material(name="m", subsurface_weight=1, subsurface_color=(1, 1, 1), geometry_thin_walled=True),
    "anisotropic metal": Material(
        name="m", base_color=(1, 1, 1), base_metalness=1, specular_roughness=0.5, specular_roughness_anisotropy=0.8
    ),
}


@pytest.mark.parametrize("name", MATERIALS)
def test_white_room(finding, name):
    scene, asset = one_part(MATERIALS[name])
    measured, error = spot_radiance(traced(scene, asset, 512), 12)
    finding(f"{name} ball in a white room", "energy", measured[1], 1.0, error)
    assert measured[1] == pytest.approx(1, abs=0.006 + 4 * error)


def test_radiosity_between_two_spheres(finding):
    """One glowing, one white sphere of equal size, both diffuse: a radiosity solution on a fine ring mesh.

    The white sphere's irradiance on its axis is the closed form of a sphere, plus what goes to and fro.
    """
    radius, gap, luminance, albedo = 0.1, 0.3, 10.0, 0.8
    lamp = Material(
        name="lamp", base_color=(albedo,) * 3, specular_ior=1.0, emission_luminance=luminance, emission_color=(1, 1, 1)
    )
    wall = WHITE.model_copy(update={"base_color": (albedo,) * 3})
    scene, asset = scene_of(
        (sphere_mesh(radius, 96), wall),
        (sphere_mesh(radius, 96), lamp),
        camera=Camera(position=(0.02, 0, 0.16), target=(0, 0, 0.1), focal_length=900),
    )
    parts = dict(scene.parts)
    parts["p1"] = parts["p1"].model_copy(update={"matrix": (1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, gap)})
    scene = scene.model_copy(update={"parts": parts})
    measured, error = spot_radiance(traced(scene, asset, 2048), 8)
    expected = _ring_radiosity(radius, gap, luminance, albedo)
    finding("inter-reflection of two spheres", "radiosity of 2 x 300 rings", measured[1], expected, error / measured[1])
    assert measured[1] == pytest.approx(expected, rel=0.01)


def _ring_radiosity(radius, gap, luminance, albedo, rings=300, turns=96):
    """Radiance of the ring of the white sphere that faces the lamp: B = E + ρ F B, rings about the common axis."""
    theta = (np.arange(rings) + 0.5) / rings * np.pi
    area = 2 * np.pi * radius**2 * (np.cos(theta - np.pi / rings / 2) - np.cos(theta + np.pi / rings / 2))
    phi = (np.arange(turns) + 0.5) / turns * 2 * np.pi
    # Ring j of the one sphere, all around; ring i of the other, at one angle: symmetric about the axis.
    n = np.stack([np.sin(theta), np.zeros(rings), np.cos(theta)], -1)
    here = radius * n
    m = np.stack(
        [np.sin(theta)[:, None] * np.cos(phi), np.sin(theta)[:, None] * np.sin(phi), -np.cos(theta)[:, None] + 0 * phi],
        -1,
    )
    there = radius * m + np.array([0, 0, gap])
    way = there[None] - here[:, None, None]
    distance2 = (way**2).sum(-1)
    w = way / np.sqrt(distance2)[..., None]
    cos_here = np.maximum((w * n[:, None, None]).sum(-1), 0)
    cos_there = np.maximum(-(w * m[None]).sum(-1), 0)
    kernel = (cos_here * cos_there / (np.pi * distance2)).mean(-1) * area[None]
    one, other = np.zeros(rings), np.full(rings, luminance)
    for _ in range(50):
        one, other = albedo * kernel @ other, luminance + albedo * kernel @ one
    return float(one[0])


@pytest.mark.parametrize("kind", ["diffuse", "glass", "lights"])
def test_means_agree_at_every_count(finding, kind):
    """Unbiased at any number of samples: means at 16, 64, 256 and 1024 samples lie within their errors."""
    if kind == "diffuse":
        scene, asset = one_part(Material(name="m"), ground=True)
    elif kind == "glass":
        scene, asset = one_part(GLASS, ground=True)
    else:
        lights = tuple(
            SphereLight(name=f"{i}", radius=0.02, position=(np.cos(i), 0.4, np.sin(i)), unit="cd", amount=5)
            for i in range(12)
        )
        scene, asset = scene_of((sphere_mesh(0.1), WHITE), lights=lights, ground=Ground(height=-0.1))
    sky = np.linspace(0, 2, 32, dtype=np.float32)[:, None, None] * np.ones((32, 64, 3), np.float32)
    found = []
    for samples in (16, 64, 256, 1024):
        # Several seeds, since one picture says nothing of its own error.
        means = [
            float(traced(scene, asset, samples, environment=sky, seed=seed).radiance().mean())
            for seed in range(max(16 * 16 // samples, 4))
        ]
        found.append((np.mean(means), np.std(means, ddof=1) / np.sqrt(len(means))))
    best, _ = found[-1]
    for samples, (mean, error) in zip((16, 64, 256), found[:-1], strict=True):
        finding(f"{kind}: mean of the picture at {samples} samples", "1024 samples", mean, best, error / mean)
        assert abs(mean - best) < 5 * np.hypot(error, found[-1][1]) + 1e-5 * best


def test_light_groups_sum_to_the_picture(finding):
    lights = tuple(
        SphereLight(name=f"{i}", radius=0.05, position=(x, 0.5, 0.5), unit="cd", amount=3, group=f"g{i}")
        for i, x in enumerate((-0.5, 0.0, 0.5))
    )
    sun = DirectionalLight(name="s", position=(1, 2, 1), target=(0, 0, 0), unit="lx", amount=4, spread=9, group="s")
    glow = Material(name="g", emission_luminance=2, emission_color=(1, 0.4, 0.1))
    scene, asset = scene_of(
        (sphere_mesh(0.1), GLASS), (sphere_mesh(0.03), glow), lights=(*lights, sun), ground=Ground(height=-0.1),
        environment=Environment(intensity=0.5), backdrop=Backdrop(kind="environment"),
    )  # fmt: skip
    film = traced(scene, asset, 64, aovs=True, environment=np.ones((8, 16, 3), np.float32))
    layers, picture = film.aovs(), film.radiance()
    total = np.sum(layers.groups, axis=0, dtype=np.float64)
    kinds = sum(layers.colors[k].astype(np.float64) for k in ("direct", "indirect", "emission", "background"))
    lobes = sum(
        layers.colors[k].astype(np.float64) for k in ("diffuse", "specular", "transmission", "emission", "background")
    )
    scale = np.abs(picture).max()
    for name, sums in (("light groups", total), ("direct + indirect", kinds), ("lobes", lobes)):
        worst = float(np.abs(sums - picture).max() / scale)
        assert layers.groups[5].mean() > 0, "the directional light has a group of its own"
        finding(f"sum of {name} against the picture, worst pixel", "0", worst, 0.0)
        assert worst < 2e-5


@pytest.mark.parametrize("layers", [False, True])
def test_equal_to_the_bit_over_threads_and_splits(layers):
    scene, asset = one_part(GLASS, ground=True)
    films = [
        traced(scene, asset, 24, threads=threads, steps=steps, aovs=layers)
        for threads, steps in ((1, None), (2, None), (2, [1, 2, 7, 24]), (3, [16, 24]))
    ]
    for film in films[1:]:
        for name, array in films[0].arrays().items():
            assert (film.arrays()[name].view(np.uint8) == array.view(np.uint8)).all()


@pytest.mark.parametrize("target", [0.1, 0.03])
def test_a_settled_picture_has_at_most_the_target_noise(finding, target):
    """The true error against many samples is at most what the user asked for, and blocks end at different counts."""
    scene, asset = one_part(Material(name="m", specular_roughness=0.3), ground=True)
    sky = np.full((32, 64, 3), 0.3, np.float32)
    sky[6:9, 10:14] = 60
    reference = traced(scene, asset, 8192, environment=sky, seed=99).radiance().astype(np.float64) @ LUMINANCE
    film = traced(scene, asset, 8192, environment=sky, noise=target)
    assert film.rows["settled"].all() and film.rows["samples"].max() < 8192
    shown = film.radiance().astype(np.float64) @ LUMINANCE
    error = (shown - reference) / np.maximum(reference, reference.mean() / DARKEST_COUNTED)
    rms = float(np.sqrt((error**2).mean()))
    finding(f"true error of a picture settled at {100 * target:g} %", "at most the target", rms, target)
    assert target / 6 < rms <= target
    assert len(np.unique(film.rows["samples"])) > 1


def test_noise_target_is_the_same_film_however_it_is_split():
    scene, asset = one_part(Material(name="m"), ground=True)
    films = [traced(scene, asset, 128, noise=0.05, steps=steps) for steps in ([128], [3, 16, 20, 64, 128])]
    assert (films[0].rows == films[1].rows).all()


def test_limited_samples_are_counted_and_dim_the_picture_only_there():
    scene, asset = one_part(Material(name="m", emission_luminance=5, base_color=(0, 0, 0), specular_ior=1.0))
    for limit, expected in ((None, 5.0), (2.0, 2.0)):
        engine = Engine(1)
        engine.open(scene.model_copy(update={"rendering": Rendering(sample_limit=limit)}), no_files, asset)
        film = Film(32, 32, aovs=True)
        engine.trace(film, 4)
        assert (engine.ray_counts().limited > 0) == (limit is not None)
        assert film.radiance()[16, 16] @ LUMINANCE == pytest.approx(expected, rel=1e-3)
        assert film.aovs().groups[1][16, 16] @ LUMINANCE == pytest.approx(expected, rel=1e-3)
        engine.close()


@pytest.mark.parametrize("scale", [0.001, 0.1, 10.0, 1000.0])
@pytest.mark.parametrize("name", ["diffuse", "glass"])
def test_nothing_shadows_itself_at_any_scale(finding, name, scale):
    """A ball and its room from 1 mm to 1 km, no epsilon to set: the white room stays white."""
    material = WHITE if name == "diffuse" else GLASS
    scene, asset = one_part(material, sphere_mesh(0.5 * scale))
    scene = scene.model_copy(update={"camera": Camera(position=(0, 0, 5 * scale), target=(0, 0, 0), focal_length=100)})
    measured, error = spot_radiance(traced(scene, asset, 128), 12)
    finding(f"{name} ball of {scale:g} m, white room", "energy", measured[1], 1.0, error)
    assert measured[1] == pytest.approx(1, abs=0.002 + 4 * error)


def test_a_coarse_ball_has_a_round_terminator(finding):
    """Eight rings of triangles with smooth normals, lit from the side: light fades as the shading normal says."""
    light = DirectionalLight(name="l", position=(1, 0, 0), target=(0, 0, 0), unit="lx", amount=np.pi, spread=0)
    camera = Camera(position=(0, 0, 2), target=(0, 0, 0), focal_length=100)
    scene, asset = scene_of((sphere_mesh(0.3, 8), WHITE), camera=camera, lights=(light,))
    film = traced(scene, asset, 64, side=128)
    layers = film.means()
    inside = (film.parts() == 0) & (layers.normal[..., 2] > 0.3)
    expected = np.clip(layers.normal[..., 0], 0, None)
    difference = (layers.radiance[..., 1] - expected)[inside]
    rms = float(np.sqrt((difference**2).mean()))
    finding("terminator of a ball of 8 rings, RMS", "cosine of the shading normal", rms, 0.0)
    assert rms < 0.04


def test_catcher_is_exact_where_nothing_stands(finding):
    """Far from the object ground equals its backdrop, polished or not; alpha is 0 there and the shadow has some."""
    for reflection in (0.0, 0.04):
        ground = Ground(height=-0.1, reflection=reflection)
        scene, asset = one_part(Material(name="m"), ground=True)
        scene = scene.model_copy(update={"ground": ground, "backdrop": Backdrop(color=(0.4, 0.3, 0.2))})
        camera = Camera(position=(0, 3, 3), target=(0, -0.1, 0), focal_length=50)
        film = traced(scene.model_copy(update={"camera": camera}), asset, 512)
        corner = film.means().radiance[56:, :8].mean(axis=(0, 1), dtype=np.float64)
        finding(f"open ground, reflection {reflection}", "its backdrop", corner[0], 0.4)
        assert corner == pytest.approx([0.4, 0.3, 0.2], rel=0.01)
        alpha = traced(scene.model_copy(update={"camera": camera}), asset, 512, transparent=True).means().alpha
        assert alpha[60:, :4].mean() == pytest.approx(0, abs=0.01) and alpha.max() > 0.9


def test_polished_ground_mirrors_what_stands_on_it(finding):
    """A glowing ball above a perfectly smooth ground: its image has Schlick's share of its luminance."""
    glow = Material(name="g", base_color=(0, 0, 0), emission_luminance=100, specular_ior=1.0)
    camera = Camera(position=(0, 1, 1), target=(0, -0.5, -0.5), focal_length=400)
    scene, asset = scene_of(
        (sphere_mesh(0.1), glow), camera=camera, environment=Environment(intensity=1.0),
        ground=Ground(height=0, reflection=0.04, reflection_roughness=0),
    )  # fmt: skip
    parts = {"p0": scene.parts["p0"].model_copy(update={"matrix": (1, 0, 0, 0, 0, 1, 0, 0.5, 0, 0, 1, -0.5)})}
    scene = scene.model_copy(update={"parts": parts})
    fresnel = 0.04 + 0.96 * (1 - np.sqrt(0.5)) ** 5
    measured, error = spot_radiance(traced(scene, asset, 2048), 8)
    finding("image in a polished ground", "Schlick's Fresnel term", measured[1], 100 * fresnel, error / measured[1])
    assert measured[1] == pytest.approx(100 * fresnel, rel=0.03)


def test_a_square_lit_from_below_stays_dark():
    """No light leaks through a single sheet."""
    light = PointLight(name="l", position=(0, -0.3, 0), target=(0, 0, 0), unit="cd", amount=100)
    scene, asset = scene_of((PATCH, WHITE), camera=TABLE, lights=(light,))
    assert spot_radiance(traced(scene, asset, 16))[0].max() == 0
