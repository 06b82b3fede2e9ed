"""OpenUSD and OBJ out: what comes back stands where it stood and looks as it looked, as far as the format has words."""

import zipfile

import numpy as np
import pytest
from pxr import Usd, UsdGeom, UsdValidation

from lantern.assets.imported import ImportedAsset
from lantern.assets.mesh import Mesh
from lantern.assets.reading import import_asset
from lantern.assets.textures import CLAMP, MIRROR, REPEAT, Texture
from lantern.compile.compiled import CompiledScene
from lantern.engine.exporting import ENDINGS, exported
from lantern.motion.bounds import bounds_of, mesh_points
from lantern.motion.poses import part_poses
from lantern.scene.document import Asset, Camera, Material, Part, PartKey, Scene, Shutter
from lantern.scene.lights import DirectionalLight, DiskLight, PointLight, RectangleLight, SphereLight, TubeLight
from lantern.scene.model import FileRef
from lantern.scene.placed import PartGroup
from lantern.scene.placing import Places
from lantern.scene.scatter import Scatter
from lantern.scene.surroundings import Environment, Ground
from lantern.scene.texture_use import TextureUse
from tests.core.shapes import box_mesh, no_files, sphere_mesh, traced

FORMS = ("usdz", "obj")
FILE = Asset(file=FileRef(sha256="0" * 64, name="case.glb"), name="Case", scale=0.01, up="+z")


def standing(x, y, z):
    return (1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, z)


def returned(folder, scene, asset, form):
    written = exported(scene, asset, form, no_files)
    path = folder / f"out{ENDINGS[form]}"
    path.write_bytes(written.data)
    return import_asset(path), written.lost


@pytest.fixture
def case():
    """In centimetres and with Z up: a box, a mirrored ball in a turned group, balls strewn over the box, one hidden."""
    meshes = [box_mesh((0, 0, 0), (20, 10, 5)), sphere_mesh(4, 16)]
    parts = {
        "box": Part(name="Box 1", mesh=0, material="oak", turn_y=20),
        "ball": Part(name="Ball", mesh=1, material="brass", matrix=standing(-9, 0, 0), mirror="x", group="g"),
        "beads": Part(name="Beads", mesh=1, material="glass", size=0.1, strewn=Scatter(over="box", density=2000.0)),
        "gone": Part(name="Gone", mesh=1, material="oak", visible=False),
    }
    materials = {
        "oak": Material(name="Oak wood", base_color=(0.4, 0.25, 0.1), specular_roughness=0.6),
        "brass": Material(name="Brass", base_metalness=1, base_color=(0.8, 0.6, 0.3), specular_roughness=0.2),
        "glass": Material(name="Coated", base_color=(0.1, 0.2, 0.6), coat_weight=0.8, coat_ior=1.5),
    }
    asset = ImportedAsset("Case", "test", meshes, parts, materials)
    scene = Scene(
        asset=FILE,
        parts=parts,
        part_groups={"g": PartGroup(name="G", turn_z=30, size=1.5, offset=(0, 0.05, 0))},
        materials=materials,
        camera=Camera(position=(0.2, 0.3, 0.6), target=(0.03, 0.02, -0.05), focal_length=50),
        environment=Environment(intensity=1.0),
        ground=Ground(enabled=False),
    )
    return scene, asset


@pytest.mark.parametrize("form", FORMS)
def test_everything_stands_where_it_stood_and_looks_as_it_looked(case, tmp_path, form):
    scene, asset = case
    back, _ = returned(tmp_path, scene, asset, form)
    low, high = CompiledScene(scene, asset, None).part_boxes(["ball"])["ball"]
    ball = next(part for part in back.parts.values() if part.name == "Ball")
    found = bounds_of(mesh_points(back.meshes, Shutter()), [ball], Shutter(), Places(back))
    assert np.array(found) == pytest.approx(np.array([low, high]), abs=1e-5)
    assert not any(part.name.startswith("Gone") for part in back.parts.values())
    stood = Asset(file=FILE.file, name="Back", scale=back.scale, up=back.up)
    again = scene.model_copy(
        update={"asset": stood, "parts": back.parts, "part_groups": back.groups, "materials": back.materials}
    )
    pictures = [traced(*pair, 64).radiance() for pair in ((scene, asset), (again, back))]
    assert pictures[1].mean() == pytest.approx(pictures[0].mean(), rel=0.01)
    assert np.abs(pictures[1] - pictures[0]).mean() < 0.04 * pictures[0].mean()


@pytest.mark.parametrize("form", FORMS)
def test_images_lie_as_they_lay(tmp_path, form):
    rng = np.random.default_rng(5)
    image = Texture(np.kron(rng.integers(0, 255, (4, 4, 4), np.uint8), np.ones((4, 4, 1), np.uint8)), REPEAT, REPEAT)
    surface = Texture(np.kron(rng.integers(0, 255, (4, 4, 3), np.uint8), np.ones((4, 4, 1), np.uint8)), CLAMP, CLAMP)
    turned = (1.5, 0, 0.1, 0, 2.0, 0.25)
    if form == "usdz":
        c, s = 0.8, 0.6
        turned = (1.5 * c, -0.7 * s, 0.1, 1.5 * s, 0.7 * c, 0.25)
    materials = {
        "a": Material(
            name="A",
            base_color=(1, 0.5, 0.25) if form == "usdz" else (1, 1, 1),
            base_color_texture=TextureUse(texture=0, matrix=turned),
            metallic_roughness_texture=TextureUse(texture=1),
            specular_roughness=1.0,
            base_metalness=1.0,
            alpha_mode="blend",
        )
    }
    mesh = box_mesh((0, 0, 0), (1, 1, 1))
    coordinates = rng.random((1, len(mesh.positions), 2), np.float32)
    mesh = Mesh(mesh.positions, mesh.indices, mesh.normals, coordinates, None)
    parts = {"a": Part(name="A", mesh=0, material="a")}
    asset = ImportedAsset("Map", "test", [mesh], parts, materials, [image, surface])
    scene = Scene(
        parts=parts, materials=materials, ground=Ground(enabled=False),
        camera=Camera(position=(2, 2, 2.5), target=(0.5, 0.5, 0.5), focal_length=50),
    )  # fmt: skip
    back, lost = returned(tmp_path, scene, asset, form)
    assert not [one for one in lost if "camera" not in one] and not [one for one in back.problems if "unit" not in one]
    again = scene.model_copy(update={"parts": back.parts, "materials": back.materials})
    pictures = [traced(*pair, 64).radiance() for pair in ((scene, asset), (again, back))]
    assert pictures[0].std() > 0.05
    assert np.abs(pictures[1] - pictures[0]).mean() < 0.03 * pictures[0].mean()


def test_usd_keeps_lights_camera_and_motion(case, tmp_path):
    scene, asset = case
    keys = tuple(PartKey(time=t, matrix=standing(10 * t, 0, 0)) for t in (0.0, 0.5, 2.0))
    lights = {
        "a": RectangleLight(name="Window", width=0.4, height=0.3, unit="lm", amount=500, roll=25, temperature=4000),
        "b": DiskLight(name="Disk", radius=0.2, unit="cd/m²", amount=700, color=(1, 0.5, 0.25)),
        "c": SphereLight(name="Ball", radius=0.05, unit="cd", amount=20),
        "d": TubeLight(name="Tube", length=0.6, radius=0.02, unit="lx", amount=90, roll=40),
        "e": DirectionalLight(name="Sun", amount=9000, spread=0.5),
        "f": PointLight(name="Spark", amount=30, unit="cd"),
    }
    moving = scene.parts["box"].model_copy(update={"keys": keys, "turn_y": 0.0})
    scene = scene.model_copy(update={"parts": {"box": moving}, "lights": lights})
    back, lost = returned(tmp_path, scene, asset, "usdz")
    assert not [one for one in lost if "light" in one]
    places = Places.of(scene)
    for time in (0.0, 0.3, 1.7):
        found = part_poses(next(iter(back.parts.values())), Shutter(time=time))
        assert found == pytest.approx(part_poses(moving, Shutter(time=time), places), abs=1e-6)
    sight = back.sights[0]
    assert sight.position == pytest.approx(scene.camera.position, abs=1e-6)
    aspect = scene.print.width / scene.print.height
    assert 2 * np.tan(sight.height / 2) == pytest.approx(36 / aspect / 50, rel=1e-5)
    lit = [
        traced(one, asset, 512).radiance().mean(axis=(0, 1))
        for key in "abcde"
        for one in (
            scene.model_copy(update={"lights": {key: lights[key]}, "environment": Environment(intensity=0)}),
            scene.model_copy(update={
                "lights": {found.name: found for found in back.lights.values() if found.name == lights[key].name},
                "environment": Environment(intensity=0),
            }),
        )
    ]  # fmt: skip
    for was, now in zip(lit[::2], lit[1::2], strict=True):
        assert was.max() > 0 and now == pytest.approx(was, rel=0.03)


def test_a_usdz_is_one_by_the_library_that_checks_them(case, tmp_path):
    scene, asset = case
    returned(tmp_path, scene, asset, "usdz")
    stage = Usd.Stage.Open(str(tmp_path / "out.usdz"))
    checks = UsdValidation.ValidationRegistry().GetOrLoadAllValidators()
    faults = UsdValidation.ValidationContext(checks).Validate(stage)
    assert len(checks) > 10 and not [fault.GetMessage() for fault in faults]
    beads = UsdGeom.PointInstancer(stage.GetPrimAtPath("/Root/Beads"))
    copies = CompiledScene(scene, asset, None)._geometry.copies[2]
    assert len(beads.GetPositionsAttr().Get()) == len(copies) > 20


def test_an_obj_comes_with_all_that_it_names(case, tmp_path):
    scene, asset = case
    _, lost = returned(tmp_path, scene, asset, "obj")
    with zipfile.ZipFile(tmp_path / "out.zip") as archive:
        assert archive.namelist() == ["model.obj", "model.mtl"]
        text, library = (archive.read(name).decode() for name in archive.namelist())
    assert "mtllib model.mtl" in text and "newmtl Oak_wood" in library and "usemtl Oak_wood" in text
    assert lost == ["the camera: OBJ has none"]


def test_copies_that_text_cannot_hold_are_left_out_and_said(case, tmp_path, monkeypatch):
    monkeypatch.setattr("lantern.assets.writers.obj.MOST_TRIANGLES", 6000)
    scene, asset = case
    back, lost = returned(tmp_path, scene, asset, "obj")
    assert back.triangles <= 6000 and any("copies beyond" in one for one in lost)


def test_mirrored_images_stay_mirrored(tmp_path):
    image = Texture(np.zeros((2, 2, 3), np.uint8), MIRROR, REPEAT)
    material = Material(name="A", base_color_texture=TextureUse(texture=0))
    mesh = box_mesh((0, 0, 0), (1, 1, 1))
    mesh = Mesh(mesh.positions, mesh.indices, mesh.normals, mesh.positions[None, :, :2].copy(), None)
    parts = {"a": Part(name="A", mesh=0, material="a")}
    asset = ImportedAsset("Map", "test", [mesh], parts, {"a": material}, [image])
    back, _ = returned(tmp_path, Scene(parts=parts, materials={"a": material}), asset, "usdz")
    assert (back.textures[0].wrap_u, back.textures[0].wrap_v) == (MIRROR, REPEAT)
