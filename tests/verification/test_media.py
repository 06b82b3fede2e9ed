"""What light goes through: absorption, boundaries, haze, liquid in glass, skin."""

import math

import numpy as np
import pytest
from numba import njit
from numpy import float32 as f32

from lantern.assets.mesh import Mesh
from lantern.kernel.random import path_key, uniform
from lantern.scene.document import Camera, Material
from lantern.scene.lights import PointLight, SphereLight
from lantern.scene.surroundings import FREE_PATHS_OF_SIGHT, Backdrop, Box, Environment, Haze
from lantern.surface.film import WAVELENGTHS, film_spectrum
from lantern.transport.medium import phase, sample_phase
from tests.core.shapes import (
    SIDE,
    WHITE,
    one_part,
    scene_of,
    slab_mesh,
    sphere_mesh,
    spot_radiance,
    square_mesh,
    traced,
)
from tests.verification.test_lights import PATCH, TABLE

LIT_BACK = np.zeros((128, 256, 3), np.float32)
LIT_BACK[:, 64:192] = 1  # the half sphere around -Z


def _middle(film, half=3):
    c = SIDE // 2
    return film.means().radiance[c - half : c + half, c - half : c + half].mean(axis=(0, 1), dtype=np.float64)


@pytest.mark.parametrize("ior", [1.33, 1.5, 2.4])
def test_clear_slab(finding, ior):
    """T = (1 - R) / (1 + R) at normal incidence, all inter-reflections summed."""
    scene, asset = one_part(
        Material(name="m", transmission_weight=1, specular_ior=ior, specular_roughness=0), slab_mesh(0.02, 20)
    )
    measured = float(_middle(traced(scene, asset, 2048, environment=LIT_BACK)).mean())
    r = ((ior - 1) / (ior + 1)) ** 2
    expected = (1 - r) / (1 + r)
    finding(f"clear slab of index {ior}", "(1 - R) / (1 + R)", measured, expected)
    assert measured == pytest.approx(expected, rel=0.004)


@pytest.mark.parametrize("depth", [0.005, 0.01, 0.04])
def test_beer(finding, depth):
    """A slab 20 mm thick whose colour is reached at `depth`."""
    tint = (0.5, 0.25, 0.8)
    scene, asset = one_part(
        Material(
            name="m", transmission_weight=1, specular_ior=1.0, specular_roughness=0, transmission_color=tint,
            transmission_depth=depth,
        ),
        slab_mesh(0.02, 20),
    )  # fmt: skip
    measured = _middle(traced(scene, asset, 64, environment=np.ones((8, 16, 3), np.float32)))
    expected = np.power(tint, 0.02 / depth)
    finding(f"absorption, colour at {1000 * depth:g} mm through 20 mm", "Beer's law", measured[0], expected[0])
    assert measured == pytest.approx(expected, rel=0.004)


@pytest.mark.parametrize("distance", [0.5, 2.0])
def test_haze_dims_by_the_exponential_law(finding, distance):
    """Air that only absorbs, between a glowing patch and the camera."""
    glow = Material(name="g", base_color=(0, 0, 0), emission_luminance=10, specular_ior=1.0)
    camera = Camera(position=(0, distance, 0.0001), target=(0, 0, 0), focal_length=200)
    scene, asset = scene_of(
        (square_mesh(0.5), glow),
        camera=camera,
        haze=Haze(enabled=True, sight=FREE_PATHS_OF_SIGHT * 1.5, color=(0, 0, 0)),
    )
    measured = spot_radiance(traced(scene, asset, 16))[0][1]
    expected = 10 * math.exp(-distance / 1.5)
    finding(f"haze over {distance} m", "exp(-σ d)", measured, expected)
    assert measured == pytest.approx(expected, rel=0.002)


def test_light_scattered_once_by_haze(finding):
    """Thin air, a point light beside the view: the in-scattered light as a line integral of single scattering."""
    sigma, candela = 0.01, 50.0
    camera = Camera(position=(0, 0, 2.0), target=(0, 0, 0), focal_length=200)
    light = PointLight(name="l", position=(0.7, 0, 0), target=(0, 0, 0), unit="cd", amount=candela)
    haze = Haze(
        enabled=True, sight=FREE_PATHS_OF_SIGHT * 1 / sigma, color=(1, 1, 1), box=Box(low=(-1, -1, -1), high=(1, 1, 1))
    )
    scene, asset = scene_of(camera=camera, lights=(light,), haze=haze)
    measured, error = spot_radiance(traced(scene, asset, 4096))
    z = np.linspace(-1, 1, 20001)
    d2 = z * z + 0.49
    inside = np.exp(-sigma * (1 - z)) * np.exp(-sigma * np.sqrt(d2))
    expected = float(np.trapezoid(sigma / (4 * math.pi) * candela / d2 * inside, z))
    finding("shaft of light in thin haze", "integral of single scattering", measured[1], expected, error / measured[1])
    # Second and later scatterings add about σ times the size of the box.
    assert expected * (0.99 - 4 * error / expected) < measured[1] < expected * (1.02 + 4 * error / expected)


def test_white_fog_in_a_white_room(finding):
    """Scattering without absorption conserves energy: a box of white haze vanishes in even light."""
    haze = Haze(
        enabled=True,
        sight=FREE_PATHS_OF_SIGHT * 0.1,
        color=(1, 1, 1),
        anisotropy=0.6,
        box=Box(low=(-0.2,) * 3, high=(0.2,) * 3),
    )
    scene, asset = scene_of(
        haze=haze,
        environment=Environment(intensity=1.0),
        backdrop=Backdrop(kind="environment"),
        camera=Camera(position=(0, 0, 1), target=(0, 0, 0)),
    )
    film = traced(scene, asset, 256, environment=np.ones((8, 16, 3), np.float32))
    measured, error = spot_radiance(film, 8)
    finding("white haze, four free paths thick, white room", "energy", measured[1], 1.0, error)
    assert measured[1] == pytest.approx(1, abs=0.01)


@njit
def _phase_moments(g, count):
    total, cosine = 0.0, 0.0
    for i in range(count):
        key = path_key(i, 0, 4)
        d, density = sample_phase((f32(0), f32(0), f32(1)), g, uniform(key, 0), uniform(key, 1))
        cosine += d[2]
        total += density / phase(g, d[2])
    return total / count, cosine / count


@pytest.mark.parametrize("g", [-0.7, 0.0, 0.5, 0.95])
def test_phase_function(finding, g):
    """Henyey & Greenstein's g is the mean cosine, and the density that of the sampler."""
    ratio, mean = _phase_moments(f32(g), 1 << 18)
    finding(f"phase function, mean cosine, g = {g}", "g", mean, g)
    assert ratio == pytest.approx(1, abs=1e-4) and mean == pytest.approx(g, abs=0.005)


def _stack():
    """Water that reaches into its glass: a ball of water inside a shell of glass, overlapping by 1 mm."""
    glass = Material(name="glass", transmission_weight=1, specular_ior=1.5, specular_roughness=0, interior_priority=1)
    water = Material(name="water", transmission_weight=1, specular_ior=1.33, specular_roughness=0)
    return glass, water


def test_liquid_in_glass_by_priority(finding):
    """Plates: glass, water that overlaps it on both sides, glass. T of the four true boundaries, to first order."""
    glass, water = _stack()
    wall = 0.01

    def plate(low, high):
        mesh = slab_mesh(high - low, 20)
        return Mesh(mesh.positions + np.float32([0, 0, (low + high) / 2]), mesh.indices, mesh.normals, None, None)

    scene, asset = scene_of(
        (plate(-0.05 - wall, -0.05), glass),
        (plate(0.05, 0.05 + wall), glass),
        (plate(-0.051, 0.051), water),
        environment=Environment(intensity=1.0),
        camera=Camera(position=(0, 0, 1.0), target=(0, 0, 0), focal_length=100),
    )
    measured = float(_middle(traced(scene, asset, 2048, environment=LIT_BACK)).mean())
    outer, inner = ((1.5 - 1) / 2.5) ** 2, ((1.5 - 1.33) / 2.83) ** 2
    # Incoherent stack: R/T of each boundary combined by the adding method.
    t, r = 1.0, 0.0
    for b in (outer, inner, inner, outer):
        t, r = t * (1 - b) / (1 - r * b), r + t * t * b / (1 - r * b)
    finding("water overlapping its glass", "adding method, 4 boundaries", measured, t)
    assert measured == pytest.approx(t, rel=0.005)


def test_a_camera_inside_glass_sees_the_room(finding):
    """The volumes around the camera are found: from inside a glass ball even light stays even."""
    glass = Material(name="g", transmission_weight=1, specular_ior=1.5, specular_roughness=0)
    scene, asset = scene_of(
        (sphere_mesh(0.3), glass),
        environment=Environment(intensity=1.0),
        camera=Camera(position=(0, 0, 0.05), target=(0, 0, 0), focal_length=30),
    )
    film = traced(scene, asset, 64, environment=np.ones((8, 16, 3), np.float32))
    measured, error = spot_radiance(film)
    finding("from inside a glass ball", "energy", measured[1], 1.0, error)
    assert measured[1] == pytest.approx(1, abs=0.003)


@pytest.mark.parametrize("g", [0.0, 0.6])
def test_white_skin_in_a_white_room(finding, g):
    skin = Material(
        name="s", subsurface_weight=1, subsurface_color=(1, 1, 1), subsurface_radius=0.005, specular_ior=1.0,
        subsurface_radius_scale=(1, 1, 1), subsurface_scatter_anisotropy=g,
    )  # fmt: skip
    scene, asset = one_part(skin)
    film = traced(scene, asset, 128)
    measured, error = spot_radiance(film, 8)
    finding(f"white subsurface, g = {g}, white room", "energy", measured[1], 1.0, error)
    assert measured[1] == pytest.approx(1, abs=0.01)


@pytest.mark.parametrize("color", [0.2, 0.5, 0.9])
def test_skin_shows_its_colour(finding, color):
    """The walk's albedo is chosen so that a deep slab reflects the wanted colour (OpenPBR 1.1, section 3.8)."""
    skin = Material(
        name="s", subsurface_weight=1, subsurface_color=(color,) * 3, subsurface_radius=0.0005,
        subsurface_radius_scale=(1, 1, 1), specular_ior=1.0,
    )  # fmt: skip
    scene, asset = one_part(skin, slab_mesh(0.2, 5))
    measured, error = spot_radiance(traced(scene, asset, 256), 8)
    finding(f"deep subsurface of colour {color}", "its colour", measured[1], color, error / measured[1])
    assert measured[1] == pytest.approx(color, rel=0.04)


def test_thin_film_spectrum(finding):
    """A quarter-wave layer: R = ((n0 n2 - n1²) / (n0 n2 + n1²))² where 4 n d = λ (Born & Wolf, section 1.6.4)."""
    film, base = 1.38, 1.52
    thickness = 550.0 / (4 * film)
    measured = float(film_spectrum(1.0, thickness, film, base, np.array([550.0]))[0])
    expected = ((base - film**2) / (base + film**2)) ** 2
    finding("quarter-wave layer on glass", "Born & Wolf 1.6.4", measured, expected)
    assert measured == pytest.approx(expected, rel=1e-6)
    none = film_spectrum(0.7, 0.0, film, base, WAVELENGTHS)
    assert none == pytest.approx(none[0], rel=1e-9)


def test_dispersion_keeps_white_white(finding):
    """Each path has one wavelength; together they are white: a dispersing slab in even light vanishes."""
    glass = Material(
        name="d", transmission_weight=1, specular_roughness=0, transmission_dispersion_scale=1,
        transmission_dispersion_abbe_number=20,
    )  # fmt: skip
    scene, asset = one_part(glass)
    measured, error = spot_radiance(traced(scene, asset, 1024), 12)
    for c, name in enumerate("RGB"):
        finding(f"dispersing ball in a white room, {name}", "energy", measured[c], 1.0, error)
        assert measured[c] == pytest.approx(1, abs=0.01 + 4 * error)


def test_haze_that_is_off_changes_nothing():
    """The densest haze, switched off, leaves the film equal to the bit; switched on, nothing of the light."""
    light = SphereLight(name="l", position=(0, 1, 0), target=(0, 0, 0), radius=0.1, unit="cd", amount=100)
    thick = Haze(sight=FREE_PATHS_OF_SIGHT * 0.001, color=(0.1, 0.1, 0.1))
    films = {}
    for name, haze in (("none", Haze()), ("off", thick), ("on", thick.model_copy(update={"enabled": True}))):
        scene, asset = scene_of((PATCH, WHITE), camera=TABLE, lights=(light,), haze=haze)
        films[name] = traced(scene, asset, 16)
    assert (films["none"].rows == films["off"].rows).all()
    assert spot_radiance(films["none"])[0][1] > 20 and spot_radiance(films["on"])[0][1] < 1
