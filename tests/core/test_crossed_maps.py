"""Light where a map meets another feature: mirrored parts, glow, transmission, films, brushed metal."""

import math

import numpy as np
import pytest

from lantern.assets.imported import ImportedAsset
from lantern.assets.mesh import Mesh
from lantern.assets.textures import Texture
from lantern.compile.view import View
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.rays.layout import SCATTERING_ALONE
from lantern.scene.document import Camera, Material, Part
from lantern.scene.lights import DirectionalLight
from lantern.scene.surroundings import Environment
from lantern.scene.texture_use import TextureUse
from lantern.surface.film import film_row
from tests.core.shapes import WHITE, no_files, scene_of, sphere_mesh, spot_radiance, square_mesh, traced

TABLE = Camera(position=(0, 1.0, 0.0001), target=(0, 0, 0), focal_length=800)
"""Looks straight down on a few millimetres around the origin."""
PATCH = square_mesh(0.05)
EVEN = {"environment": Environment(intensity=1.0)}


def _mapped_square(texels, material, *, mirrored=False, nearest=True, **changes):
    """A square facing up with a map over it, seen from above; (film of 64x64)."""
    base = square_mesh(0.1)
    mesh = Mesh(base.positions, base.indices, base.normals, np.float32([[[0, 1], [1, 1], [1, 0], [0, 0]]]), None)
    texture = Texture(np.ascontiguousarray(texels), 0, 0, nearest)
    asset = ImportedAsset("test", "none", [mesh], textures=[texture])
    matrix = (-1 if mirrored else 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0)
    camera = Camera(position=(0, 1, 0.0001), target=(0, 0, 0), focal_length=200)
    scene, _ = scene_of((mesh, material), camera=camera, **changes)
    return scene.model_copy(update={"parts": {"p0": Part(name="p", mesh=0, material="p0", matrix=matrix)}}), asset


USE = TextureUse(texture=0)


@pytest.mark.parametrize("mirrored", [False, True])
def test_a_normal_map_leans_the_same_way_on_a_mirrored_part(mirrored):
    """Green up means up the picture: towards smaller v, here towards -Z, however the part is mirrored along X."""
    leaning = np.zeros((1, 1, 4), np.uint8)
    leaning[..., :] = (128, 218, 218, 255)  # half a right angle towards +green
    material = WHITE.model_copy(update={"normal_texture": USE})
    light = DirectionalLight(name="l", position=(0, 1, -1), target=(0, 0, 0), unit="lx", amount=1, spread=0)
    scene, asset = _mapped_square(leaning, material, mirrored=mirrored, lights=(light,))
    towards = traced(scene, asset, 16).radiance()[32, 32, 1]
    away = light.model_copy(update={"position": (0, 1, 1)})
    other = traced(scene.model_copy(update={"lights": {"l0": away}}), asset, 16).radiance()[32, 32, 1]
    assert towards > 10 * max(other, 1e-6)


@pytest.mark.parametrize("mirrored", [False, True])
def test_a_glowing_map_lights_from_where_it_is_seen(mirrored):
    """One bright corner of a glowing board: aiming and running into it find the same light (mirrored or not)."""
    texels = np.zeros((8, 8, 4), np.uint8)
    texels[..., 3] = 255
    texels[:3, :2] = 255
    glow = Material(
        name="g", base_color=(0, 0, 0), emission_luminance=100, specular_ior=1.0, emission_texture=USE,
        double_sided=True,
    )  # fmt: skip
    board, asset = _mapped_square(texels, glow, mirrored=mirrored)
    part = board.parts["p0"]
    sign = -1 if mirrored else 1
    over = part.model_copy(update={"matrix": (sign, 0, 0, 0.05, 0, 1, 0, 0.08, 0, 0, 1, 0.02), "seen_by_camera": False})
    asset.meshes.append(PATCH)
    scene = board.model_copy(
        update={
            "parts": {"lamp": over, "table": Part(name="t", mesh=1, material="white")},
            "materials": {**board.materials, "white": WHITE},
            "camera": TABLE,
        }
    )
    aimed, error = spot_radiance(traced(scene, asset, 1024), 12)
    engine = Engine(2)
    engine.open(scene, no_files, asset)
    film = Film(64, 64)
    engine.trace(film, 4096, view=View(scene.camera, estimator=SCATTERING_ALONE))
    engine.close()
    met, spread = spot_radiance(film, 12)
    assert aimed[1] > 0.1 and aimed[1] == pytest.approx(met[1], abs=5 * math.hypot(error, spread))


def test_base_colour_maps_tint_what_passes():
    texels = np.full((1, 1, 4), 255, np.uint8)
    texels[..., :3] = (188, 188, 0)  # linear 0.5, 0.5, 0
    glass = Material(
        name="g", transmission_weight=1, specular_ior=1.0, specular_roughness=0, geometry_thin_walled=True,
        transmission_tint=(1, 0.5, 1), transmission_tint_texture=USE,
    )  # fmt: skip
    scene, asset = _mapped_square(texels, glass, **EVEN)
    assert traced(scene, asset, 64).radiance()[32, 32] == pytest.approx([0.5, 0.25, 0], abs=0.01)


def test_a_film_on_metal_keeps_the_base_colour_map():
    """A film over a mapped metal is the film over a metal of that colour."""
    texels = np.full((1, 1, 4), 255, np.uint8)
    texels[..., :3] = (188, 137, 99)
    linear = np.where(texels[0, 0, :3] <= 10, 0, ((texels[0, 0, :3] / 255 + 0.055) / 1.055) ** 2.4)
    metal = {"base_metalness": 1.0, "specular_roughness": 0.3, "thin_film_weight": 1.0, "thin_film_thickness": 0.35}
    mapped, asset = _mapped_square(
        texels, Material(name="m", base_color_texture=USE, base_color=(1, 1, 1), **metal), **EVEN
    )
    plain, _ = _mapped_square(texels, Material(name="m", base_color=tuple(linear), **metal), **EVEN)
    found = spot_radiance(traced(mapped, asset, 512), 8)[0]
    assert found == pytest.approx(spot_radiance(traced(plain, asset, 512), 8)[0], abs=0.01)
    white = _mapped_square(texels, Material(name="m", base_color=(1, 1, 1), **metal), **EVEN)[0]
    assert np.abs(found - spot_radiance(traced(white, asset, 64), 8)[0]).max() > 0.1


def test_planes_of_films_over_metals_interpolate():
    """The reflectance over any metal lies on the table's planes to a hundredth."""
    edge = np.array([1.0, 0.8, 0.5])
    table = film_row(420.0, 1.6, 1.5, None, edge, 1.0)[64 * 3 :].reshape(17, 64, 3)
    levels = np.linspace(0, 1, 17) ** 2
    for f0 in (0.02, 0.2, 0.55, 0.97):
        exact = film_row(420.0, 1.6, 1.5, np.full(3, f0), edge, 1.0)[64 * 3 :].reshape(17, 64, 3)[0]
        k = min(np.searchsorted(levels, f0, side="right") - 1, 15)
        t = (f0 - levels[k]) / (levels[k + 1] - levels[k])
        assert np.abs(table[k] + (table[k + 1] - table[k]) * t - exact).max() < 0.012


def test_brushed_metal_without_coordinates_is_smooth_over_its_triangles():
    """A lathe-like tangent: neighbouring triangles of a ball show no facets of anisotropy."""
    brushed = Material(
        name="b", base_color=(1, 1, 1), base_metalness=1, specular_roughness=0.4, specular_roughness_anisotropy=0.9
    )
    light = DirectionalLight(name="l", position=(0.3, 0.6, 1), target=(0, 0, 0), unit="lx", amount=3, spread=2)
    scene, asset = scene_of((sphere_mesh(0.1, 24), brushed), lights=(light,))
    picture = traced(scene, asset, 256, side=96).radiance()[..., 1][30:66, 30:66]
    # Along a ring the picture is smooth: second differences are small against its range.
    bends = np.abs(np.diff(picture, 2, axis=1))
    assert np.percentile(bends, 95) < 0.06 * (picture.max() - picture.min())
