"""GLB export: valid by the standard's validator, and what comes back is what went out."""

import json
import subprocess
from pathlib import Path

import numpy as np
import pytest

from demo.project import demo_scene
from lantern.assets.imported import ImportedAsset
from lantern.assets.reading import import_asset
from lantern.assets.textures import CLAMP, Texture
from lantern.cli import main
from lantern.compile.compiled import CompiledScene
from lantern.engine.exporting import exported
from lantern.motion.bounds import asset_bounds, bounds_of, mesh_points
from lantern.motion.poses import part_pose
from lantern.scene.document import Asset, Camera, Material, Part, PartKey, Scene, Shutter
from lantern.scene.lights import DirectionalLight, PointLight, RectangleLight, SpotLight
from lantern.scene.model import FileRef
from lantern.scene.placing import Places, stand_of
from lantern.scene.scatter import Scatter
from lantern.scene.texture_use import TextureUse
from tests.core.shapes import box_mesh, no_files, sphere_mesh, traced

VALIDATOR = Path(__file__).parents[2] / "web" / "validate-gltf.mjs"
FILE = Asset(file=FileRef(sha256="0" * 64, name="case.glb"), name="Case", scale=0.01, up="+z")


def standing(x, y, z):
    return (1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, z)


def returned(folder, scene, asset):
    """(the asset that comes back, what was lost); the file is valid."""
    written = exported(scene, asset, "glb", no_files)
    path = folder / "out.glb"
    path.write_bytes(written.data)
    said = subprocess.run(["node", str(VALIDATOR), str(path)], capture_output=True, text=True, check=False)
    assert said.returncode == 0, said.stderr
    return import_asset(path), written.lost


@pytest.fixture
def case():
    """A box and two balls, in centimetres and with Z up, one moved by hand, one mirrored, one hidden."""
    meshes = [box_mesh((0, 0, 0), (20, 10, 5)), sphere_mesh(4, 16)]
    parts = {
        "box": Part(name="Box", mesh=0, material="oak"),
        "ball": Part(name="Ball", mesh=1, material="brass", matrix=standing(10, 5, 9), offset=(0.1, 0, 0), turn_y=30,
                     size=2),
        "twin": Part(name="Twin", mesh=1, material="brass", matrix=standing(-9, 0, 0), mirror="x", pivot=(0.1, 0, 0)),
        "gone": Part(name="Gone", mesh=1, material="oak", visible=False),
    }  # fmt: skip
    materials = {"oak": Material(name="Oak"), "brass": Material(name="Brass", base_metalness=1)}
    asset = ImportedAsset("Case", "test", meshes, parts, materials)
    return Scene(asset=FILE, parts=parts, materials=materials), asset


def test_copies_come_back_where_they_lay(case, tmp_path):
    scene, asset = case
    strewn = Scatter(over="box", density=900.0, tilt=20.0, lift=0.01)
    ball = scene.parts["twin"].model_copy(update={"strewn": strewn, "size": 0.2})
    scene = scene.model_copy(update={"parts": scene.parts | {"twin": ball}})
    back, lost = returned(tmp_path, scene, asset)
    compiled = CompiledScene(scene, asset, None)
    # Each is a part of its own, sharing a mesh, which is mirrored as the part was.
    copies = [part for part in back.parts.values() if part.name.startswith("Twin")]
    assert len(copies) == compiled.triangles[1] // asset.meshes[1].triangles - 2 > 20 and not lost
    assert len({part.mesh for part in copies}) == 1
    low, high = compiled.part_boxes(["twin"])["twin"]
    found = bounds_of(mesh_points(back.meshes, Shutter()), copies, Shutter())
    assert np.array(found) == pytest.approx(np.array([low, high]), abs=4e-3), "there the boxes of the balls were turned"
    back_scene = scene.model_copy(update={"parts": back.parts, "materials": back.materials, "asset": None})
    pictures = [traced(*pair, 64).radiance() for pair in ((scene, asset), (back_scene, back))]
    assert pictures[1].mean() == pytest.approx(pictures[0].mean(), rel=0.01)
    assert np.abs(pictures[1] - pictures[0]).mean() < 0.03 * pictures[0].mean()


def test_parts_stand_where_they_stood_in_metres(case, tmp_path):
    scene, asset = case
    back, lost = returned(tmp_path, scene, asset)
    assert [part.name for part in back.parts.values()] == ["Box", "Ball", "Twin"] and not lost
    assert len(back.meshes) == 2, "the balls share their mesh"
    points, places = mesh_points(asset.meshes, Shutter()), Places.of(scene)
    for key, part in back.parts.items():
        expected = bounds_of(points, [scene.parts[key]], Shutter(), places)
        found = bounds_of(mesh_points(back.meshes, Shutter()), [part], Shutter())
        assert np.array(found) == pytest.approx(np.array(expected), abs=1e-6), key


def test_materials_come_back_as_they_were(tmp_path):
    materials = {
        "coated": Material(name="Coated", base_color=(0.5, 0.2, 0.1), coat_weight=0.5, coat_roughness=0.2,
                           coat_ior=1.5),
        "glass": Material(name="Glass", transmission_weight=0.9, transmission_tint=(0.9, 1, 1), specular_ior=1.6,
                          transmission_color=(0.5, 0.9, 0.8), transmission_depth=0.02, specular_roughness=0.05),
        "pane": Material(name="Pane", transmission_weight=1.0, geometry_thin_walled=True),
        "brushed": Material(name="Brushed", base_metalness=1.0, specular_roughness=0.35,
                            specular_roughness_anisotropy=0.6, tangent_rotation=40.0),
        "velvet": Material(name="Velvet", fuzz_weight=0.8, fuzz_color=(1, 0.5, 0.25), fuzz_roughness=0.4),
        "lamp": Material(name="Lamp", emission_color=(1, 0.5, 0.25), emission_luminance=300.0),
        "film": Material(name="Film", thin_film_weight=1.0, thin_film_thickness=0.42, thin_film_ior=1.33),
        "veil": Material(name="Veil", geometry_opacity=0.4, alpha_mode="blend", double_sided=True),
        "tinted": Material(name="Tinted", specular_weight=0.5, specular_color=(1, 0.8, 0.6)),
    }  # fmt: skip
    parts = {key: Part(name=key, mesh=0, material=key) for key in materials}
    asset = ImportedAsset("All", "test", [box_mesh((0, 0, 0), (1, 1, 1))], parts, materials)
    back, lost = returned(tmp_path, Scene(parts=parts, materials=materials), asset)
    assert not lost
    for key, material in materials.items():
        for name, value in material:
            wanted = value
            if key in ("glass", "pane") and name == "base_color":
                wanted = material.transmission_tint  # one colour in glTF
            elif key == "veil" and name == "alpha_cutoff":
                continue
            assert getattr(back.materials[key], name) == pytest.approx(wanted, abs=1e-6), (key, name)


def test_images_lie_as_they_lay(tmp_path):
    rng = np.random.default_rng(5)
    texels = rng.integers(0, 255, (8, 8, 4), np.uint8)
    use = TextureUse(texture=1, uv_set=0, matrix=(1.5, 0.3, 0.1, -0.2, 1.0, 0.25))
    turned = TextureUse(texture=1, matrix=(0, 2, 0.5, -3, 0, 0.25))
    materials = {"a": Material(name="A", base_color_texture=turned, normal_texture=use, normal_scale=0.5)}
    mesh = box_mesh((0, 0, 0), (1, 1, 1))
    mesh = type(mesh)(
        mesh.positions, mesh.indices, mesh.normals, rng.random((1, len(mesh.positions), 2), np.float32), None
    )
    parts = {"a": Part(name="A", mesh=0, material="a")}
    deep = Texture(rng.random((4, 4, 1), np.float32), 0, 0)
    asset = ImportedAsset("Map", "test", [mesh], parts, materials, [deep, Texture(texels, CLAMP, 0, True)])
    back, _ = returned(tmp_path, Scene(parts=parts, materials=materials), asset)
    (texture,) = back.textures
    assert (texture.texels == texels).all() and (texture.wrap_u, texture.wrap_v, texture.nearest) == (CLAMP, 0, True)
    assert back.materials["a"].base_color_texture.matrix == pytest.approx(turned.matrix)
    assert back.materials["a"].normal_scale == 0.5
    assert np.sort(back.meshes[0].uvs.ravel()) == pytest.approx(np.sort(mesh.uvs.ravel()))


def test_lights_and_camera_come_back_as_bright_and_as_wide(case, tmp_path):
    scene, asset = case
    lights = {
        "p": PointLight(name="P", position=(1, 2, 3), amount=400, unit="lm", color=(1, 0.5, 0.25)),
        "s": SpotLight(name="S", position=(0, 3, 0), target=(0, 0, 1), amount=900, unit="lm", cone=50, softness=0.4),
        "d": DirectionalLight(name="D", position=(0, 5, 5), target=(0, 0, 0), amount=1500, temperature=3200),
        "r": RectangleLight(name="R"), "off": PointLight(name="Off", enabled=False),
    }  # fmt: skip
    camera = Camera(position=(1, 1, 2), target=(0, 0.5, 0), focal_length=85)
    back, lost = returned(tmp_path, scene.model_copy(update={"lights": lights, "camera": camera}), asset)
    assert lost == ["light 'R': glTF knows lights without extent alone"]
    point, spot, sun = back.lights.values()
    assert point.amount == pytest.approx(400 / (4 * np.pi)) and point.unit == "cd"
    assert np.array(point.color) == pytest.approx(np.array([1, 0.5, 0.25]))
    assert (spot.cone, spot.softness) == pytest.approx((50, 0.4)) and sun.amount == pytest.approx(1500)
    assert np.subtract(spot.target, spot.position) == pytest.approx(np.array([0, -3, 1]) / np.sqrt(10))
    (sight,) = back.sights
    aspect = scene.print.width / scene.print.height
    assert sight.height == pytest.approx(2 * np.arctan(36 / aspect / (2 * 85)))
    assert sight.ahead == pytest.approx(np.array([-1, -0.5, -2]) / np.linalg.norm([1, 0.5, 2]))


def test_motion_comes_back(case, tmp_path):
    scene, asset = case
    away = np.eye(4)
    away[:3, :3] = [[0, -1, 0], [1, 0, 0], [0, 0, 1]]
    away[:3, 3] = (0, 30, 0)
    keys = (PartKey(time=0.5, matrix=standing(0, 0, 0)), PartKey(time=2.0, matrix=tuple(away[:3].ravel().tolist())))
    parts = {"box": scene.parts["box"].model_copy(update={"keys": keys, "offset": (0, 0.5, 0)})}
    back, lost = returned(tmp_path, scene.model_copy(update={"parts": parts}), asset)
    assert not lost
    (part,) = back.parts.values()
    for time in (0.5, 1.25, 2.0):
        expected = stand_of(scene.asset)[:3, :3] @ part_pose(parts["box"], time) + [
            [0, 0, 0, 0],
            [0, 0, 0, 0.5],
            [0, 0, 0, 0],
        ]
        assert part_pose(part, time) == pytest.approx(expected, abs=1e-5), time


def test_the_demo_looks_the_same_after_it_left_and_came_back(tmp_path):
    scene, resolve = demo_scene()
    asset = import_asset(resolve(scene.asset.file))
    back, lost = returned(tmp_path, scene, asset)
    assert np.array(asset_bounds(back)) == pytest.approx(np.array(asset_bounds(asset)), abs=1e-6)
    plain = scene.model_copy(update={"environment": scene.environment.model_copy(update={"map": None})})
    again = plain.model_copy(update={"asset": None, "parts": back.parts, "materials": back.materials})
    pictures = [
        traced(plain.model_copy(update={"asset": None}), asset, 64).radiance(),
        traced(again, back, 64).radiance(),
    ]
    blocks = [picture.reshape(8, 8, 8, 8, 3).mean(axis=(1, 3)) for picture in pictures]
    assert blocks[1] == pytest.approx(blocks[0], rel=0.06, abs=0.02), lost


def test_the_command_writes_a_file_and_says_what_it_left_out(case, tmp_path, capsys):
    scene, asset = case
    (tmp_path / "case.glb").write_bytes(exported(scene, asset, "glb", no_files).data)
    assert main(["export", str(tmp_path / "case.glb"), "--out", str(tmp_path / "again.glb")]) == 0
    assert len(import_asset(tmp_path / "again.glb").parts) == 3
    assert main(["export", str(tmp_path / "case.glb"), "--out", str(tmp_path / "again.fbx")]) == 2
    assert "must end in .glb" in capsys.readouterr().err
    (tmp_path / "empty.json").write_text(json.dumps(Scene().plain()))
    assert main(["export", str(tmp_path / "empty.json"), "--out", str(tmp_path / "x.glb")]) == 2
    assert "there is no asset in it" in capsys.readouterr().err
