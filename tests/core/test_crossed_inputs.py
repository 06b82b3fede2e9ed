"""Inputs of materials where they meet units, exports and lights."""

from dataclasses import replace

import numpy as np
import pytest

from lantern.assets.textures import REPEAT, Texture
from lantern.compile.operations import numbers_of
from lantern.engine.engine import Engine
from lantern.engine.exporting import exported
from lantern.pattern.cells import BORDERS, EACH, MIDDLES
from lantern.pattern.weave import PLAIN, SATIN, TWILL
from lantern.scene.document import Asset, Material, Part
from lantern.scene.inputs import MaterialInput, Placement
from lantern.scene.model import FileRef
from lantern.scene.sources import (
    SOURCES,
    CellsSource,
    ChecksSource,
    HeightSource,
    ImageSource,
    NoiseSource,
    SlopeSource,
    TilesSource,
    WeaveSource,
)
from lantern.scene.standing import rescaled
from lantern.scene.surroundings import Environment, Ground
from tests.core.shapes import box_mesh, no_files, sphere_mesh, square_mesh
from tests.core.test_inputs import CAMERA, UPRIGHT, even, means, painted, scene_of


def test_another_unit_of_the_asset_takes_patterns_bumps_and_rounded_edges_along():
    """The picture stays: everything is ten times as large, and the camera ten times as far away."""
    placed = Placement(kind="box", size=0.03, offset=(0.01, 0.0, 0.0))
    inputs = {
        "base_color": MaterialInput(source=ChecksSource(), placement=placed),
        "bump": MaterialInput(source=NoiseSource(), placement=placed),
        "coat_weight": MaterialInput(source=HeightSource(whole=0.0, none=0.1)),
    }
    scene, asset = scene_of(
        Material(name="M", bump=0.002, inputs=inputs), box_mesh((-0.2,) * 3, (0.2,) * 3), edge_radius=0.02, turn_y=30.0
    )
    file = Asset(file=FileRef(sha256="0" * 64, name="box.glb"), name="Box")
    scene = scene.model_copy(update={"asset": file, "ground": Ground(enabled=False, height=-0.2)})
    larger = rescaled(scene, file, 10.0)
    one, other = (means(each, asset, 16) for each in (scene, larger))
    assert np.abs(other.albedo - one.albedo).mean() < 2e-3
    assert np.abs(other.normal - one.normal).mean() < 2e-3
    assert np.abs(other.radiance - one.radiance).mean() < 2e-3


def test_what_an_export_cannot_say_of_inputs_and_edges_is_said():
    scene, asset = scene_of(painted(ChecksSource()), edge_radius=0.01)
    for form in ("glb", "usdz", "obj"):
        lost = exported(scene, asset, form, no_files).lost
        assert "M: its patterns" in lost and "Part: that its edges are rounded in shading" in lost
    plain, _ = scene_of(Material(name="M"))
    assert not any("patterns" in each or "rounded" in each for each in exported(plain, asset, "glb", no_files).lost)


def test_what_glows_by_an_input_alone_lights_its_surroundings():
    """Light is aimed at it: a picture of the floor is as bright as with the constant, and not much noisier."""
    found, noise, glow = [], [], even(8.0).model_copy(update={"high": 8.0})
    for material in (
        Material(name="M", base_color=(0, 0, 0), emission_luminance=8.0),
        Material(name="M", base_color=(0, 0, 0), inputs={"emission_luminance": glow}),
    ):
        scene, asset = scene_of(material, sphere_mesh(0.02, 12), offset=(0.0, 0.3, 0.0))
        asset.meshes.append(square_mesh(0.5))
        scene = scene.model_copy(
            update={
                "parts": scene.parts | {"floor": Part(name="Floor", mesh=1, material="floor")},
                "materials": scene.materials | {"floor": Material(name="Floor")},
                "environment": Environment(intensity=0.0),
                "camera": CAMERA.model_copy(update={"position": (0, 4, 0)}),
            }
        )
        picture = means(scene, asset, 64).radiance[:20]
        found.append(picture.mean())
        noise.append(np.abs(np.diff(picture, axis=1)).mean())
    assert found[1] == pytest.approx(found[0], rel=0.05) and found[0] > 0
    assert noise[1] < 3 * noise[0]


def test_a_constant_of_0_that_is_multiplied_stays_0():
    dark = Material(name="M", base_color=(0, 0, 0), specular_weight=0.0)
    one = MaterialInput(source=ChecksSource(), placement=Placement(size=0.1), combine="multiply", high=5.0)
    picture = means(*scene_of(dark.model_copy(update={"inputs": {"emission_luminance": one}}))).radiance
    assert np.abs(picture[2:-2, 2:-2]).max() < 1e-3


def test_kernels_are_told_the_fields_of_a_pattern_in_their_order_and_words_by_their_numbers():
    assert [numbers_of(WeaveSource(binding=word))[0] for word in ("plain", "twill", "satin")] == [PLAIN, TWILL, SATIN]
    assert [numbers_of(CellsSource(shows=word))[0] for word in ("middles", "borders", "cells")] == [
        MIDDLES,
        BORDERS,
        EACH,
    ]
    assert numbers_of(TilesSource(joint=0.1, bevel=0.2, shift=0.3, variation=0.4)) == (0.1, 0.2, 0.3, 0.4)
    assert all(len(numbers_of(model())) <= 6 for model in SOURCES.values())
    slope = numbers_of(SlopeSource(whole=30.0, none=30.0))
    assert slope[0] != slope[1], "a passage has two ends"


@pytest.mark.parametrize("scale", [0.002, 300.0])
def test_patterns_bumps_and_rounded_edges_look_the_same_at_every_size(scale):
    """Of 1 mm and of 180 m, seen from as much nearer or farther."""

    def seen(size):
        placed = Placement(size=0.1 * size, offset=(0.013 * size, 0.017 * size, 0.0))
        inputs = {
            "base_color": MaterialInput(source=ChecksSource(), placement=placed),
            "bump": MaterialInput(source=NoiseSource(), placement=placed),
        }
        material = Material(name="M", bump=0.005 * size, inputs=inputs)
        scene, asset = scene_of(material, box_mesh((-0.3 * size,) * 3, (0.3 * size,) * 3), edge_radius=0.03 * size)
        place = (1.2 * size, 0.9 * size, 1.5 * size)
        camera = CAMERA.model_copy(update={"position": place, "projection": "perspective", "focal_length": 80.0})
        return means(scene.model_copy(update={"camera": camera}), asset)

    one, other = seen(1.0), seen(scale)
    for name in ("albedo", "normal", "radiance"):
        assert np.abs(getattr(one, name) - getattr(other, name)).mean() < 1e-3, name


@pytest.mark.parametrize("kind", ["uv", "plane"])
@pytest.mark.parametrize("scale", [0.002, 1.0, 300.0])
def test_a_bump_by_an_image_has_the_slopes_of_its_texels(kind, scale):
    """A staircase of 512 texels, smoothed between them: a step of 64 texels would see nothing of it."""
    texels = np.tile(np.repeat([0, 255], 4), 64).astype(np.uint8)
    texture = Texture(np.ascontiguousarray(np.tile(texels, (4, 1))[..., None]), REPEAT, REPEAT)
    sheet = replace(UPRIGHT, positions=UPRIGHT.positions * np.float32(scale))
    one = MaterialInput(
        source=ImageSource(decoding="linear"), placement=Placement(kind=kind, size=scale, offset=(0.0, 0.0, 0.0))
    )
    material = Material(name="M", bump=0.001 * scale, inputs={"bump": one})
    scene, asset = scene_of(material, sheet, [texture])
    camera = CAMERA.model_copy(update={"position": (0, 0, 4 * scale)})
    # Up or down a height of 0.001 within a texel of 1/512, on two of eight texels: a slope of 0.512, else none.
    engine = Engine(1)
    engine.open(scene.model_copy(update={"camera": camera}), no_files, asset)
    slopes = [engine.pick(camera, 1.0, x, 0.5).normal[0] for x in np.linspace(0.2, 0.8, 400)]
    engine.close()
    steep = np.abs(slopes) > 0.2
    assert 0.15 < steep.mean() < 0.45 and np.abs(slopes)[steep].max() == pytest.approx(0.512 / 1.262**0.5, rel=0.1)
