"""Patterns, layers and decals made into images: what the file of a model shows is what the proof shows."""

import numpy as np
import pytest

from lantern.assets.mesh import Mesh
from lantern.assets.reading import import_asset
from lantern.engine.exporting import exported
from lantern.scene.decals import Decal, TextContent
from lantern.scene.document import Material, Part
from lantern.scene.inputs import MaterialInput, Placement, Ramp, Stop
from lantern.scene.layers import Layer
from lantern.scene.lights import RectangleLight
from lantern.scene.sources import (
    ChanceSource,
    ChecksSource,
    EdgesSource,
    LitBallSource,
    NoiseSource,
    StripesSource,
    WeaveSource,
)
from lantern.scene.surroundings import Environment
from lantern.shaping.unwrapping import texels_of, unwrapped
from tests.core.shapes import box_mesh, no_files, one_part, sphere_mesh, traced

LAMP = RectangleLight(name="L", position=(0.5, 0.8, 1.2), target=(0, 0, 0), amount=300.0)
CHECKS = MaterialInput(
    source=ChecksSource(), placement=Placement(size=0.03),
    ramp=Ramp(stops=(Stop(at=0.0, color=(0.7, 0.1, 0.05)), Stop(at=1.0, color=(0.1, 0.3, 0.8)))),
)  # fmt: skip
SCRATCHED = Material(
    name="Painted", base_color=(0.6, 0.5, 0.4), specular_roughness=0.4,
    inputs={
        "base_color": CHECKS,
        "base_metalness": MaterialInput(source=StripesSource(), placement=Placement(size=0.05)),
        "specular_roughness": MaterialInput(source=NoiseSource(), placement=Placement(size=0.04), low=0.2, high=0.7),
    },
)  # fmt: skip


def before_and_after(scene, asset, tmp_path, samples=64, bake=1024):
    """What films show of a scene, and of its parts as they come back from a file, and what was lost."""
    written = exported(scene, asset, "glb", no_files, bake)
    scene = scene.model_copy(update={"lights": {"l": LAMP}, "environment": Environment(intensity=0.4)})
    path = tmp_path / "out.glb"
    path.write_bytes(written.data)
    back = import_asset(path)
    again = scene.model_copy(update={"parts": back.parts, "materials": back.materials, "decals": {}})
    return (*(traced(*each, samples).means() for each in ((scene, asset), (again, back))), written.lost)


def differs(first, second):
    """Mean difference over mean brightness, of blocks of 4 pixels: noise of single ones does not count."""
    blocks = [one.radiance.reshape(16, 4, 16, 4, 3).mean(axis=(1, 3)) for one in (first, second)]
    return np.abs(blocks[0] - blocks[1]).mean() / blocks[0].mean()


@pytest.mark.parametrize("shape", ["ball", "box"])
def test_patterns_come_back_as_images_that_look_the_same(shape, tmp_path):
    """Neither mesh has coordinates of its own."""
    mesh = sphere_mesh(0.1, 24) if shape == "ball" else box_mesh((-0.08, -0.08, -0.08), (0.08, 0.08, 0.08))
    scene, asset = one_part(SCRATCHED, mesh)
    part = scene.parts["part"].model_copy(update={"turn_x": 25.0, "turn_y": 35.0})
    first, second, lost = before_and_after(scene.model_copy(update={"parts": {"part": part}}), asset, tmp_path)
    assert differs(first, second) < 0.02 and not lost
    *_, lost = before_and_after(scene, asset, tmp_path, bake=None)
    assert lost == ["Painted: its patterns"]


def test_what_stands_out_comes_back_as_normals(tmp_path):
    """On a part that is mirrored and turned, under a coat."""
    weave = MaterialInput(source=WeaveSource(), placement=Placement(size=0.03))
    material = Material(name="Cloth", specular_roughness=0.3, coat_weight=0.5, bump=0.005, inputs={"bump": weave})
    scene, asset = one_part(material, sphere_mesh(0.1, 48))
    part = scene.parts["part"].model_copy(update={"mirror": "x", "turn_z": 20.0})
    scene = scene.model_copy(update={"parts": {"part": part}})
    first, second, lost = before_and_after(scene, asset, tmp_path)
    smooth, _, _ = before_and_after(
        scene.model_copy(update={"materials": {"m": material.model_copy(update={"inputs": {}})}}), asset, tmp_path
    )
    leans, left = (np.abs(first.normal - other.normal).mean() for other in (smooth, second))
    assert leans > 0.01 and left < 0.1 * leans and not lost
    assert differs(first, second) < 0.04


def test_layers_and_decals_come_back(tmp_path):
    """Paint worn at the edges down to the metal, and lettering on it."""
    metal = Material(name="Steel", base_color=(0.8, 0.8, 0.8), base_metalness=1.0, specular_roughness=0.3)
    worn = Layer(material="metal", mask=MaterialInput(source=EdgesSource(width=0.02)))
    scene, asset = one_part(
        Material(name="Paint", base_color=(0.05, 0.2, 0.1), layers=(worn,)), box_mesh((-0.08,) * 3, (0.08,) * 3)
    )
    label = Decal(
        name="Label", parts=("part",), content=TextContent(text="WICK"), middle=(0, 0, 0.08), width=0.1, depth=0.02,
        color=(0.9, 0.8, 0.2),
    )  # fmt: skip
    scene = scene.model_copy(update={"materials": scene.materials | {"metal": metal}, "decals": {"label": label}})
    first, second, lost = before_and_after(scene, asset, tmp_path)
    assert differs(first, second) < 0.03 and not lost
    bare, _, lost = before_and_after(scene.model_copy(update={"decals": {}}), asset, tmp_path, bake=None)
    assert differs(first, bare) > 0.02 and lost == ["Paint: the layers over it"]


def test_holes_and_light_come_back(tmp_path):
    glow = MaterialInput(source=StripesSource(), placement=Placement(size=0.05))
    material = Material(
        name="Lattice", base_color=(0.3, 0.3, 0.3), emission_luminance=0.5, double_sided=True,
        inputs={"geometry_opacity": CHECKS.model_copy(update={"ramp": None}), "emission_luminance": glow},
    )  # fmt: skip
    scene, asset = one_part(material, box_mesh((-0.08,) * 3, (0.08,) * 3))
    first, second, lost = before_and_after(scene, asset, tmp_path, 128)
    assert differs(first, second) < 0.04 and not lost


def test_parts_alike_share_their_images_and_those_by_chance_do_not(tmp_path):
    scene, asset = one_part(SCRATCHED, sphere_mesh(0.05, 16))
    twin = Part(name="Twin", mesh=0, material="m", offset=(0.12, 0, 0))
    scene = scene.model_copy(update={"parts": scene.parts | {"twin": twin}})

    def images(scene):
        path = tmp_path / "pair.glb"
        path.write_bytes(exported(scene, asset, "glb", no_files, 512).data)
        return len(import_asset(path).textures)

    alone = images(scene)
    by_chance = MaterialInput(source=ChanceSource())
    material = SCRATCHED.model_copy(update={"inputs": SCRATCHED.inputs | {"base_diffuse_roughness": by_chance}})
    assert images(scene.model_copy(update={"materials": {"m": material}})) == 2 * alone > 0


def test_what_images_do_not_say_is_said(tmp_path):
    noise = MaterialInput(source=NoiseSource())
    inputs = {"specular_weight": noise, "coat_color": noise, "base_color": MaterialInput(source=LitBallSource())}
    scene, asset = one_part(Material(name="Odd", coat_weight=0.5, inputs=inputs), sphere_mesh(0.1, 16))
    lost = exported(scene, asset, "glb", no_files, 512).lost
    assert lost[:3] == [
        "Part: how its specular weight varies", "Part: how its coat colour varies",
        "Part: its base colour by a lit ball, but as this camera sees it",
    ]  # fmt: skip


def test_a_layout_without_overlaps_is_kept_and_any_other_made_anew():
    ball = sphere_mesh(0.1, 12)
    around = np.arctan2(ball.positions[:, 0], ball.positions[:, 2]) / (2 * np.pi) + 0.5
    folded = Mesh(ball.positions, ball.indices, ball.normals, (around[None, :, None] % 0.5).repeat(2, 2), None)
    made = unwrapped(folded, 256)
    single = texels_of(made.uvs[0], made.indices, 256)
    assert single.covered == (single.triangle >= 0).sum() > 0.4 * 256**2
    assert unwrapped(made, 256).uvs[0] is not None and np.array_equal(unwrapped(made, 256).uvs, made.uvs)
    # The triangles are where they were.
    assert np.array_equal(made.positions[made.indices], ball.positions[ball.indices])


def test_a_place_under_a_texel_is_where_its_coordinates_are():
    ball = unwrapped(sphere_mesh(0.1, 12), 128)
    found = texels_of(ball.uvs[0], ball.indices, 128)
    rows, columns = np.nonzero(found.triangle >= 0)
    corners = ball.uvs[0][ball.indices[found.triangle[rows, columns]]]
    u, v = found.u[rows, columns, None], found.v[rows, columns, None]
    there = corners[:, 0] * (1 - u - v) + corners[:, 1] * u + corners[:, 2] * v
    assert there == pytest.approx((np.stack([columns, rows], 1) + 0.5) / 128, abs=1e-4)
