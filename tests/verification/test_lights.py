"""Lights against closed forms of the irradiance they give, the tables of profiles, and published daylight."""

import math
from datetime import UTC, datetime

import numpy as np
import pytest

from lantern.compile.compiled import CompiledScene
from lantern.compile.view import View
from lantern.film.film import Film
from lantern.film.renderer import Renderer
from lantern.light.daylight import (
    direct_illuminance,
    sky_illuminance,
    sky_map,
    sun_position,
)
from lantern.light.environment import open_ground_irradiance
from lantern.light.profiles import read_profile
from lantern.scene.document import Camera, Material
from lantern.scene.lights import DiskLight, PointLight, RectangleLight, SphereLight, TubeLight
from lantern.scene.model import FileRef
from lantern.scene.surroundings import Environment, Sky
from lantern.transport.passes import trace_tiles
from tests.core.shapes import WHITE, light_of, scene_of, sphere_mesh, spot_radiance, square_mesh, traced

TABLE = Camera(position=(0, 1.0, 0.0001), target=(0, 0, 0), focal_length=800)
"""Looks straight down on a few millimetres around the origin."""
PATCH = square_mesh(0.05)
L = 100.0  # cd/m²


def irradiance(lights, samples=1024, **changes):
    """(E [lx] on a white patch at the origin that faces up, its relative standard error)."""
    scene, asset = scene_of((PATCH, WHITE), camera=TABLE, lights=lights, **changes)
    mean, error = spot_radiance(traced(scene, asset, samples), 12)
    return float(mean[1]) * math.pi, error / max(float(mean[1]), 1e-12)


def _corner(a, b, c):
    """Form factor from an element to a parallel rectangle a x b with a corner over it at height c.

    Howell, "A Catalog of Radiation Heat Transfer Configuration Factors", B-4.
    """
    x, y = a / c, b / c
    p, q = math.sqrt(1 + x * x), math.sqrt(1 + y * y)
    return (x / p * math.atan(y / p) + y / q * math.atan(x / q)) / (2 * math.pi)


@pytest.mark.parametrize("height", [0.1, 0.5, 3.0])
def test_rectangle(finding, height):
    light = RectangleLight(
        name="l", position=(0.05, height, -0.02), target=(0.05, 0, -0.02), roll=0, width=0.6,
        height=0.4, unit="cd/m²", amount=L,
    )  # fmt: skip
    # The light's `width` runs along x or z, whichever its frame says; both layouts are symmetric sums of corners.
    forward_is_down = [(0.3 + sx * 0.05, 0.2 + sy * 0.02) for sx in (1, -1) for sy in (1, -1)]
    expected = math.pi * L * sum(_corner(a, b, height) for a, b in forward_is_down)
    measured, error = irradiance((light,))
    finding(f"rectangle light, {height} m above", "Howell B-4", measured, expected, error)
    assert measured == pytest.approx(expected, rel=0.003 + 4 * error)


@pytest.mark.parametrize(("radius", "distance"), [(0.1, 0.3), (0.2, 0.25), (0.01, 2.0)])
def test_sphere(finding, radius, distance):
    angle = 0.5
    place = (distance * math.sin(angle), distance * math.cos(angle), 0)
    light = SphereLight(name="l", position=place, target=(0, 0, 0), radius=radius, unit="cd/m²", amount=L)
    expected = math.pi * L * (radius / distance) ** 2 * math.cos(angle)
    if math.asin(radius / distance) > math.pi / 2 - angle:
        pytest.fail("the closed form needs the whole sphere above the horizon")
    measured, error = irradiance((light,))
    finding(f"sphere light, R {radius} m at {distance} m", "π L (R/d)² cos θ", measured, expected, error)
    assert measured == pytest.approx(expected, rel=0.003 + 4 * error)


def test_disk(finding):
    light = DiskLight(name="l", position=(0, 0.4, 0), target=(0, 0, 0), radius=0.3, unit="cd/m²", amount=L)
    expected = math.pi * L * 0.09 / (0.09 + 0.16)
    measured, error = irradiance((light,))
    finding("disk light on its axis", "π L R² / (R² + h²)", measured, expected, error)
    assert measured == pytest.approx(expected, rel=0.003 + 4 * error)


def test_tube(finding):
    """A thin tube parallel to the plane: E by integrating L·2R·cos² α / r² along it (exact for R << h)."""
    h, half, r = 0.5, 0.4, 0.002
    light = TubeLight(name="l", position=(0, h, 0), target=(0, 0, 0), radius=r, length=2 * half, unit="cd/m²", amount=L)
    x = np.linspace(-half, half, 20001)
    d2 = x * x + h * h
    expected = float(np.trapezoid(L * 2 * r * (h / np.sqrt(d2)) * (h / np.sqrt(d2)) / d2, x))
    measured, error = irradiance((light,))
    finding("tube light across", "integral along the line", measured, expected, error)
    assert measured == pytest.approx(expected, rel=0.006 + 4 * error)


@pytest.mark.parametrize("unit", ["lm", "cd", "lx"])
@pytest.mark.parametrize("kind", ["point", "spot", "sphere", "rectangle"])
def test_units(finding, kind, unit):
    """Lumens over their solid angle, candela over distance squared, lux where the light aims."""
    distance = 4.0
    light = light_of(
        kind, name="l", position=(0, distance, 0), target=(0, 0, 0), radius=0.02, width=0.04, height=0.04,
        cone=60, softness=0, unit=unit, amount=100,
    )  # fmt: skip
    cone = 2 * math.pi * (1 - math.cos(math.radians(30)))
    candela = {
        "point": 100 / (4 * math.pi),
        "spot": 100 / cone,
        "sphere": 100 / (4 * math.pi),
        "rectangle": 100 / math.pi,
    }
    expected = {"lm": candela[kind] / distance**2, "cd": 100 / distance**2, "lx": 100.0}[unit]
    measured, error = irradiance((light,), 64)
    finding(f"{kind} of 100 {unit}", "CIE definitions", measured, expected, error)
    assert measured == pytest.approx(expected, rel=0.003 + 4 * error)


def test_emissive_mesh(finding):
    """A part that shines, sampled by area and power, against the closed form of a sphere."""
    glow = Material(name="g", base_color=(0, 0, 0), emission_luminance=L, specular_ior=1.0)
    mesh = sphere_mesh(0.1, 96)
    scene, asset = scene_of((PATCH, WHITE), (mesh, glow), camera=TABLE)
    parts = dict(scene.parts)
    parts["p1"] = parts["p1"].model_copy(update={"matrix": (1, 0, 0, 0.25, 0, 1, 0, 0.3, 0, 0, 1, 0)})
    scene = scene.model_copy(update={"parts": parts})
    d2 = 0.25**2 + 0.3**2
    expected = math.pi * L * 0.01 / d2 * 0.3 / math.sqrt(d2)
    mean, error = spot_radiance(traced(scene, asset, 1024), 12)
    finding(
        "emissive mesh, a sphere of 36,864 triangles", "π L (R/d)² cos θ", mean[1] * math.pi, expected, error / mean[1]
    )
    assert mean[1] * math.pi == pytest.approx(expected, rel=0.004 + 4 * error / mean[1])


def test_a_light_shines_alike_whether_aimed_at_or_met(finding):
    """Rays that run into a light and rays aimed at it weigh up to the same: a mirror-like and a matt patch agree."""
    light = RectangleLight(name="l", position=(0, 0.3, 0), target=(0, 0, 0), width=2, height=2, unit="cd/m²", amount=L)
    full, _ = irradiance((light,))
    rough, asset = scene_of(
        (PATCH, Material(name="m", base_metalness=1, base_color=(1, 1, 1), specular_roughness=0.15)),
        camera=TABLE,
        lights=(light,),
    )
    mean, spread = spot_radiance(traced(rough, asset, 1024), 12)
    finding("metal under a wide light", "its luminance", mean[1], L, spread / L)
    assert mean[1] == pytest.approx(L, rel=0.01)
    assert full < math.pi * L


PROFILE = """IESNA:LM-63-2002
[TEST] made from a formula
TILT=NONE
1 -1 1 {v} {h} 1 2 0 0 0
1 1 10
{vs}
{hs}
{cd}
"""


def _profile(function, verticals, horizontals):
    values = [" ".join(f"{function(math.radians(v), math.radians(h)):.8g}" for v in verticals) for h in horizontals]
    return PROFILE.format(
        v=len(verticals), h=len(horizontals), vs=" ".join(f"{v:g}" for v in verticals),
        hs=" ".join(f"{h:g}" for h in horizontals), cd="\n".join(values),
    )  # fmt: skip


def test_profile_lumens(finding):
    """∫ 500 cos² θ dω over the lower hemisphere is 500 · 2π / 3."""
    profile = read_profile(_profile(lambda v, h: 500 * math.cos(v) ** 2, np.arange(0, 90.5, 2.5), [0]), "cosine")
    expected = 500 * 2 * math.pi / 3
    finding("IES profile, total flux [lm]", "closed form", profile.lumens(), expected)
    assert profile.lumens() == pytest.approx(expected, rel=0.001)


@pytest.mark.parametrize("turn", [0, 90, 200])
@pytest.mark.parametrize("tilt", [0, 25, 60])
def test_profile_irradiance(finding, turn, tilt):
    """E = I(θ, φ) cos / d² for a lopsided profile, from its own table."""

    def candela(v, h):
        return 200 * max(math.cos(v), 0) * (1.2 + math.cos(h) * math.sin(v))

    text = _profile(candela, np.arange(0, 91, 1.0), np.arange(0, 361, 5.0))
    profile = read_profile(text, "lopsided")
    reference = FileRef(sha256="0" * 64, name="lopsided.ies")
    distance = 2.0
    light = PointLight(
        name="l", position=(0, distance, 0), target=(math.tan(math.radians(tilt)) * distance, 0, 0),
        roll=turn, unit="cd", amount=400.0, profile=reference,
    )  # fmt: skip
    scene, asset = scene_of((PATCH, WHITE), camera=TABLE, lights=(light,))
    compiled = CompiledScene(scene, asset, None, {reference.sha256: profile})
    film, renderer = Film(32, 32), Renderer(2)
    bound = compiled.block(film, renderer.control, 32, 0, False, View(scene.camera))
    assert renderer.run(trace_tiles, bound.row, bound.tree.handle)
    renderer.close()
    row = compiled._lights.emitters.lights[0]
    down = np.array([0.0, -1.0, 0.0])
    v = math.acos(min(float(down @ row["normal"]), 1.0))
    h = math.atan2(float(down @ row["along"]), float(down @ row["across"]))
    expected = candela(v, h) * 400 / profile.candela.max() / distance**2
    measured = spot_radiance(film)[0][1] * math.pi
    finding(f"IES profile, {tilt}° off, rolled {turn}°", "its own table", measured, expected)
    assert measured == pytest.approx(expected, rel=0.004)


@pytest.mark.parametrize(
    ("moment", "latitude", "longitude", "azimuth", "elevation"),
    [
        # NREL's published example of its Solar Position Algorithm: 2003-10-17, 12:30:30 in Golden, Colorado (UTC-7).
        (datetime(2003, 10, 17, 19, 30, 30, tzinfo=UTC), 39.742476, -105.1786, 194.34024, 90 - 50.11162 - 0.016),
        # Solstices and equinox by definition: noon sun at latitude 0 and at the tropic.
        (datetime(2000, 6, 21, 12, 1, 46, tzinfo=UTC), 23.4386, 0.0, None, 90.0),
        (datetime(2000, 12, 21, 11, 58, 10, tzinfo=UTC), 0.0, 0.0, None, 90 - 23.4386),
    ],
)
def test_sun_position(finding, moment, latitude, longitude, azimuth, elevation):
    place = sun_position(moment, latitude, longitude)
    finding(f"sun elevation, {moment:%Y-%m-%d %H:%M} at {latitude:.2f}°", "published value", place.elevation, elevation)
    assert place.elevation == pytest.approx(elevation, abs=0.05)
    if azimuth is not None:
        assert place.azimuth == pytest.approx(azimuth, abs=0.05)


def test_sun_and_sky_on_open_ground(finding):
    """The rendered white patch against the illuminances that the model publishes."""
    elevation = 40.0
    sky = Sky(enabled=True, azimuth=120, elevation=elevation, turbidity=2.5, sun=True)
    direct = direct_illuminance(elevation, 2.5) * math.sin(math.radians(elevation))
    pixels = sky_map(sky)
    diffuse = float(open_ground_irradiance(pixels) @ [0.2126, 0.7152, 0.0722])
    finding("sky on level ground [lx]", "RP-21 clear sky", diffuse, sky_illuminance(elevation))
    assert diffuse == pytest.approx(sky_illuminance(elevation), rel=0.01)
    scene, asset = scene_of((PATCH, WHITE), camera=TABLE, sky=sky, environment=Environment(intensity=1.0))
    mean, error = spot_radiance(traced(scene, asset, 1024), 12)
    measured = float(mean @ [0.2126, 0.7152, 0.0722]) * math.pi
    expected = direct + diffuse
    finding("sun and sky on level ground [lx]", "RP-21, direct + sky", measured, expected, error / mean[1])
    assert measured == pytest.approx(expected, rel=0.005 + 4 * error / mean[1])


def test_light_linking_and_shadow_switches():
    """A light that leaves a part out does not light it; a part that casts no shadow casts none."""
    light = PointLight(name="l", position=(0, 1, 0), target=(0, 0, 0), unit="cd", amount=100)
    lit, _ = irradiance((light,), 16)
    unlit, _ = irradiance((light.model_copy(update={"unlit_parts": ("p0",)}),), 16)
    assert lit == pytest.approx(100, rel=0.01) and unlit == 0
    # A light with a size, so that rays run into it too; a black blocker that they meet whatever it casts.
    blocker, black = sphere_mesh(0.3), Material(name="b", base_color=(0, 0, 0), specular_ior=1.0)
    lamp = SphereLight(name="l", position=(0, 1, 0), target=(0, 0, 0), radius=0.1, unit="cd", amount=100)
    for casts, expected in ((True, 0.0), (False, 100.0)):
        scene, asset = scene_of((PATCH, WHITE), (blocker, black), camera=TABLE, lights=(lamp,))
        parts = dict(scene.parts)
        above = {"matrix": (1, 0, 0, 0, 0, 1, 0, 0.5, 0, 0, 1, 0), "casts_shadow": casts, "seen_by_camera": False}
        parts["p1"] = parts["p1"].model_copy(update=above)
        mean, error = spot_radiance(traced(scene.model_copy(update={"parts": parts}), asset, 256))
        assert mean[1] * math.pi == pytest.approx(expected, abs=0.5 + 4 * error)


def test_many_lights_are_picked_without_bias(finding):
    """500 small lights: the light tree's estimate against the plain sum of all."""
    generator = np.random.default_rng(8)
    lights, expected = [], 0.0
    for i in range(500):
        place = generator.uniform([-2, 0.2, -2], [2, 1.5, 2])
        candela = float(10 ** generator.uniform(-2, 1))
        lights.append(PointLight(name=f"{i}", position=tuple(place), target=(0, 0, 0), unit="cd", amount=candela))
        expected += candela * place[1] / np.linalg.norm(place) ** 3
    measured, error = irradiance(tuple(lights), 2048)
    finding("500 point lights through the light tree", "sum over all", measured, expected, error)
    assert measured == pytest.approx(expected, rel=0.003 + 4 * error)
