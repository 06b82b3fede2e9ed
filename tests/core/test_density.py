"""Finer meshes as a document asks for them: in the compiled scene, in proof and print, from files and into them."""

from dataclasses import replace

import numpy as np
import pytest
from pxr import Usd

from lantern.assets.imported import ImportedAsset
from lantern.assets.mesh import MeshShapes
from lantern.assets.reading import import_asset
from lantern.assets.swapping import swapped, version_of
from lantern.assets.textures import REPEAT, Texture
from lantern.compile import stock
from lantern.compile.compiled import CompiledScene
from lantern.compile.stock import MOST_IN_PROOF, MOST_MADE
from lantern.engine.engine import Engine
from lantern.engine.exporting import exported
from lantern.scene.document import Asset, Camera, Material, Part, Scene, Shutter
from lantern.scene.model import FileRef
from lantern.scene.reading import SceneError
from lantern.scene.standing import rescaled
from lantern.scene.surroundings import Ground
from lantern.scene.texture_use import TextureUse
from lantern.shaping.density import Shaper
from tests.core.shapes import box_mesh, no_files, sphere_mesh, square_mesh, traced
from tests.core.usd_files import mesh as usd_mesh

CLAY = Material(name="Clay", base_color=(0.5, 0.5, 0.5), specular_weight=0.0)
FILE = Asset(file=FileRef(sha256="0" * 64, name="cube.glb"), name="Cube")
CUBE = box_mesh((-1, -1, -1), (1, 1, 1))
WHITE = Texture(np.full((2, 2, 1), 255, np.uint8), REPEAT, REPEAT)
LIFT = {"displacement_texture": TextureUse(texture=0), "displacement_middle": 0.0}


FACE_OF_CUBE = (16 * 1 + 4 * 4 * 0.75 + 4 * 5 / 9) / 36
"""Where the middles of the faces of a cube end up: (n² v + 4 Σ e + Σ f) / (n (n + 5)) of the net after a step."""
SHEET = square_mesh(1.0)
SHEET = replace(SHEET, uvs=SHEET.positions[None, :, :2].copy())


def asset_of(*meshes, textures=()):
    parts = {f"p{i}": Part(name=f"Part {i}", mesh=i, material="clay") for i in range(len(meshes))}
    return ImportedAsset("cube", "test", list(meshes), parts, {"clay": CLAY}, list(textures))


def scene_of(asset, **fields):
    parts = {key: part.model_copy(update=fields) for key, part in asset.parts.items()}
    return Scene(asset=FILE, parts=parts, materials=asset.materials, ground=Ground(enabled=False))


def with_part(scene, key="p0", **fields):
    return scene.model_copy(update={"parts": scene.parts | {key: scene.parts[key].model_copy(update=fields)}})


def test_levels_change_without_a_new_compile_and_go_back():
    asset = asset_of(CUBE, sphere_mesh(1.0, 8))
    scene = scene_of(asset)
    compiled = CompiledScene(scene, asset, None)
    built, plain = compiled.counts.mesh_trees, compiled.triangles
    for levels, triangles in ((1, 48), (3, 768), (2, 192)):
        assert compiled.update(with_part(scene, subdivision="catmull_clark", levels=levels))
        assert compiled.triangles[1] - sphere_mesh(1.0, 8).triangles == triangles
    assert compiled.counts.full == 1 and compiled.counts.mesh_trees == built + 3
    assert compiled.bounds(["p0"])[1] == pytest.approx([FACE_OF_CUBE] * 3)
    assert compiled.update(scene) and compiled.triangles == plain and compiled.counts.mesh_trees == built + 3
    assert compiled.bounds(["p0"])[1] == pytest.approx([1, 1, 1])


def test_parts_alike_share_one_mesh_and_others_do_not():
    asset = asset_of(CUBE)
    scene = scene_of(asset, subdivision="loop", levels=2)
    twin = scene.parts["p0"].model_copy(update={"name": "Twin", "offset": (5, 0, 0)})
    other = twin.model_copy(update={"levels": 3})
    scene = scene.model_copy(update={"parts": scene.parts | {"p1": twin, "p2": other}})
    compiled = CompiledScene(scene, asset, None)
    assert compiled.counts.mesh_trees == 3, "its own, that of two parts and that of one"
    assert compiled.triangles[1] == 2 * 12 * 16 + 12 * 64


def test_the_print_has_its_own_levels():
    asset = asset_of(CUBE)
    scene = scene_of(asset, subdivision="catmull_clark", levels=1, print_levels=3)
    for final, triangles in ((False, 48), (True, 768)):
        engine = Engine(1, final=final)
        engine.open(scene, no_files, asset)
        assert engine.triangles == triangles
        engine.close()


def test_proof_and_print_show_the_same_surface():
    asset = asset_of(sphere_mesh(0.3, 8))
    scene = scene_of(asset, subdivision="loop", levels=2, print_levels=5)
    scene = scene.model_copy(update={"camera": Camera(position=(0, 0, 2), target=(0, 0, 0), focal_length=90)})
    pictures = []
    for final in (False, True):
        engine = Engine(2, final=final)
        engine.open(scene, no_files, asset)
        engine.close()
        shown = scene if not final else with_part(scene, levels=5)
        pictures.append(traced(shown, asset, 64, side=48).means().radiance)
    assert np.abs(pictures[0] - pictures[1]).mean() < 0.01 * pictures[1].mean()


@pytest.mark.parametrize(("scale", "size"), [(1.0, 1.0), (0.01, 1.0), (1.0, 4.0)])
def test_displacement_is_in_metres_whatever_the_unit_of_the_file_and_the_size_of_the_part(scale, size):
    asset = asset_of(SHEET, textures=[WHITE])
    matrix = (10, 0, 0, 0, 0, 10, 0, 0, 0, 0, 10, 0)
    scene = scene_of(asset, displacement=0.25, matrix=matrix, size=size, **LIFT)
    scene = scene.model_copy(update={"asset": FILE.model_copy(update={"scale": scale})})
    flat = CompiledScene(with_part(scene, displacement=0.0), asset, None).bounds()
    low, high = CompiledScene(scene, asset, None).bounds()
    moved = np.abs(np.concatenate([low - flat[0], high - flat[1]]))
    assert moved.max() == pytest.approx(0.25, rel=1e-5) and np.sort(moved)[:4] == pytest.approx(0, abs=1e-5)


def test_displacement_grows_with_the_unit_when_that_is_put_right():
    asset = asset_of(SHEET, textures=[WHITE])
    scene = scene_of(asset, displacement=0.25, **LIFT)
    larger = rescaled(scene, scene.asset, 100.0)
    compiled = CompiledScene(scene, asset, None)
    low, high = compiled.bounds()
    assert compiled.update(larger)
    assert np.allclose(np.array(compiled.bounds()), 100 * np.array([low, high]), atol=1e-4)


def test_what_cannot_be_had_is_said_and_the_rest_is_shown():
    moving = replace(CUBE, shapes=MeshShapes((0.0, 1.0), np.stack([CUBE.positions] * 2), np.stack([CUBE.normals] * 2)))
    without = replace(CUBE, uvs=None)
    asset = asset_of(CUBE, moving, without, textures=[WHITE])
    scene = with_part(scene_of(asset), "p1", subdivision="loop")
    scene = with_part(scene, "p2", displacement=0.1, **LIFT)
    engine = Engine(1)
    problems = engine.open(scene, no_files, asset)
    assert problems == [
        "Part 1: it changes its shape, and is shown as it came",
        "Part 2: it has no texture coordinates by which it could be displaced",
    ]
    change = engine.apply(with_part(scene, subdivision="loop"), no_files)
    assert change.problems == [] and not change.recompiled, "what was said is not said again"
    engine.close()


def test_levels_that_cannot_be_held_are_not_made_and_that_is_said():
    asset = asset_of(sphere_mesh(1.0, 128))
    scene = scene_of(asset, subdivision="catmull_clark", levels=6)
    compiled = CompiledScene(scene, asset, None)
    assert asset.meshes[0].triangles < compiled.triangles[1] <= MOST_IN_PROOF < MOST_MADE
    assert len(compiled.problems) == 1
    assert "Part 0: 6 levels would be 267 million triangles and 34.8 GB; 2 are shown" in compiled.problems[0]


def test_a_mesh_that_is_too_fine_already_is_shown_as_it_came(monkeypatch):
    ball = sphere_mesh(1.0, 32)
    asset = asset_of(replace(ball, uvs=ball.positions[None, :, :2]), textures=[WHITE])
    for limit in ("MOST_TRIANGLES", "MOST_IN_PROOF"):
        monkeypatch.setattr(stock, limit, ball.triangles * 4 - 1)
    monkeypatch.setattr(Shaper, "_cage", lambda *_: pytest.fail("its faces were looked at"))
    scene = scene_of(asset, subdivision="loop", levels=2)
    compiled = CompiledScene(scene, asset, None)
    assert compiled.triangles[1] == ball.triangles
    assert compiled.problems[0].endswith("GB; none are shown")
    assert compiled.foreseen(["p0"]).proof == ball.triangles
    monkeypatch.setattr(stock, "MOST_SMOOTHED", ball.triangles - 1)
    for fields in ({"crease_angle": 30.0}, {"displacement": 0.1, **LIFT}, {"subdivision": "catmull_clark"}):
        compiled = CompiledScene(scene_of(asset, **fields), asset, None)
        assert compiled.problems == ["Part 0: it has too many triangles to be made finer, smoothed or displaced"]
        assert compiled.foreseen(["p0"]).print == ball.triangles


def test_an_image_that_there_is_not_is_refused():
    asset = asset_of(CUBE)
    with pytest.raises(SceneError, match=r"parts/p0/displacement_texture: the asset has 0 textures"):
        CompiledScene(scene_of(asset, displacement=0.1, **LIFT), asset, None)


def test_a_subdivided_lamp_shines_as_the_lamp_that_it_looks_like():
    lamp = Material(name="Lamp", emission_luminance=100.0)
    ball = sphere_mesh(0.1, 24)
    asset = ImportedAsset("lamp", "test", [ball], {"p0": Part(name="Lamp", mesh=0, material="clay")}, {"clay": lamp})
    pictures = []
    for fields in ({}, {"subdivision": "loop", "levels": 1}):
        around = {"ground": Ground(height=-0.2), "camera": Camera(position=(0, 2, 1), target=(0, 0, 0))}
        scene = scene_of(asset, **fields).model_copy(update=around)
        film = traced(scene, asset, 256, side=32, environment=np.zeros((2, 4, 3), np.float32))
        pictures.append(film.means().radiance)
    lit = [picture[20:].mean() for picture in pictures]
    assert lit[1] == pytest.approx(lit[0], rel=0.03), "the limit lies a little inside"


def test_a_shutter_and_levels_cross():
    moving = replace(
        CUBE,
        shapes=MeshShapes((0.0, 1.0), np.stack([CUBE.positions, CUBE.positions + 1]), np.stack([CUBE.normals] * 2)),
    )
    asset = asset_of(moving, CUBE)
    scene = with_part(scene_of(asset), "p1", subdivision="catmull_clark")
    compiled = CompiledScene(scene, asset, None)
    opened = scene.model_copy(update={"shutter": Shutter(time=0.0, opens=0.0, closes=1.0)})
    assert compiled.update(opened) and compiled.counts.full == 1
    fresh = CompiledScene(opened, asset, None)
    assert np.array_equal(compiled.bounds(), fresh.bounds()), "as far as the mesh goes while the shutter is open"
    both = with_part(opened, "p1", levels=3)
    assert fresh.update(both)


def test_a_newer_version_keeps_how_fine_its_parts_are():
    asset = asset_of(CUBE, textures=[WHITE])
    scene = scene_of(asset, subdivision="loop", levels=3, displacement=0.1, **LIFT)
    newer, _ = swapped(scene, version_of(asset), version_of(asset), FILE)
    part = newer.parts["p0"]
    assert (part.subdivision, part.levels, part.displacement) == ("loop", 3, 0.1)
    assert part.displacement_texture is None, "no material says which of the newer images is in its place"


def test_what_is_exported_is_as_fine_as_the_print(tmp_path):
    asset = asset_of(CUBE)
    scene = scene_of(asset, subdivision="catmull_clark", levels=1, print_levels=2)
    (tmp_path / "out.glb").write_bytes(exported(scene, asset, "glb", no_files).data)
    again = import_asset(tmp_path / "out.glb")
    assert again.triangles == 192
    assert np.abs(again.meshes[0].positions).max() < 1.0


# Faces as files have them

CUBE_OBJ = """
v -1 -1 -1
v -1 -1 1
v -1 1 -1
v -1 1 1
v 1 -1 -1
v 1 -1 1
v 1 1 -1
v 1 1 1
vt 0 0
vt 1 0
vt 1 1
vt 0 1
f 1/1 2/2 4/3 3/4
f 5/1 7/2 8/3 6/4
f 1/1 5/2 6/3 2/4
f 3/1 4/2 8/3 7/4
f 1/1 3/2 7/3 5/4
f 2/1 6/2 8/3 4/4
"""
FACES = [0, 1, 3, 2, 4, 6, 7, 5, 0, 4, 5, 1, 2, 3, 7, 6, 0, 2, 6, 4, 1, 5, 7, 3]
POINTS = [(x, y, z) for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)]


def shown(asset, **fields):
    parts = {key: part.model_copy(update=fields) for key, part in asset.parts.items()}
    stand = FILE.model_copy(update={"scale": asset.scale, "up": asset.up})
    return CompiledScene(Scene(asset=stand, parts=parts, materials=asset.materials), asset, None)


def test_the_quadrangles_of_an_obj_are_subdivided_as_such(tmp_path):
    (tmp_path / "cube.obj").write_text(CUBE_OBJ)
    asset = import_asset(tmp_path / "cube.obj")
    cage = asset.meshes[0].cage
    assert cage is not None and cage.counts.tolist() == [4] * 6 and len(cage.points) == 8 and len(cage.uvs) == 1
    compiled = shown(asset, subdivision="catmull_clark", levels=2)
    assert compiled.triangles[1] == 2 * 24 * 4 == 192
    assert compiled.bounds()[1] == pytest.approx([FACE_OF_CUBE] * 3)


def test_an_obj_of_triangles_keeps_no_second_copy_of_them(tmp_path):
    (tmp_path / "two.obj").write_text("v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nf 1 2 3\nf 1 3 4\n")
    assert import_asset(tmp_path / "two.obj").meshes[0].cage is None


def usd_cube(tmp_path, scheme=None, **attributes):
    stage = Usd.Stage.CreateNew(str(tmp_path / "cube.usda"))
    mesh = usd_mesh(stage, "/Cube", POINTS, [4] * 6, FACES)
    if scheme:
        mesh.CreateSubdivisionSchemeAttr(scheme)
    for name, value in attributes.items():
        getattr(mesh, f"Create{name}Attr")(value)
    stage.Save()
    return import_asset(tmp_path / "cube.usda")


def test_usd_says_how_its_meshes_are_subdivided(tmp_path):
    (part,) = usd_cube(tmp_path, "catmullClark").parts.values()
    assert (part.subdivision, part.levels) == ("catmull_clark", 2)


def test_usd_that_says_nothing_of_subdivision_means_faces(tmp_path):
    asset = usd_cube(tmp_path)
    assert [part.subdivision for part in asset.parts.values()] == ["none"]
    assert asset.meshes[0].cage.counts.tolist() == [4] * 6


@pytest.mark.parametrize("sharpness", [[10.0], [10.0] * 4])
def test_creases_of_usd_are_sharp(tmp_path, sharpness):
    creases = {"CreaseIndices": [2, 3, 7, 6, 2], "CreaseLengths": [5], "CreaseSharpnesses": sharpness}
    asset = usd_cube(tmp_path, "catmullClark", **creases)
    compiled = shown(asset, subdivision="catmull_clark", levels=4)
    low, high = compiled.bounds()
    assert high[1] == pytest.approx(0.01), "the top stays in its plane, of a cube of 2 cm"
    assert low[1] == pytest.approx(-0.01 * FACE_OF_CUBE, rel=0.02)


def test_creases_that_contradict_themselves_are_none(tmp_path):
    asset = usd_cube(tmp_path, "catmullClark", CreaseIndices=[2, 3, 70], CreaseLengths=[2, 9], CreaseSharpnesses=[1.0])
    assert len(asset.meshes[0].cage.creases) == 0


def test_left_handed_faces_of_usd_look_outwards_when_they_are_subdivided(tmp_path):
    mirrored = usd_cube(tmp_path, "catmullClark", Orientation="leftHanded")
    mesh = mirrored.meshes[0]
    finer = shown(mirrored)._stock.meshes[-1]
    for each in (mesh, finer):
        assert np.sign(np.einsum("ni,ni->n", each.normals, each.positions)).mean() == pytest.approx(-1)


# Smooth by angle


def corner_normals(compiled):
    mesh = compiled._stock.meshes[-1]
    return mesh.normals[mesh.indices], mesh


def test_an_angle_smooths_a_part_anew_and_mends_normals_that_are_wrong():
    ball = sphere_mesh(1.0, 24)
    wrong = replace(ball, normals=np.roll(ball.normals, 1, axis=1) * np.float32(-1))
    asset = asset_of(wrong)
    for angle, least, most in ((60.0, 0.995, 1.0), (1.0, 0.9, 0.9999)):
        compiled = CompiledScene(scene_of(asset, crease_angle=angle), asset, None)
        normals, mesh = corner_normals(compiled)
        outwards = mesh.positions[mesh.indices] / np.linalg.norm(mesh.positions[mesh.indices], axis=2, keepdims=True)
        along = np.einsum("mci,mci->mc", normals, outwards)
        assert least < along.mean() <= most
        flat = np.ptp(normals, axis=1).max(axis=1) < 1e-5
        # Round the poles faces meet at less than 1°.
        assert flat.mean() > 0.95 if angle == 1.0 else not flat.any()
    assert compiled.triangles[1] <= ball.triangles, "those of no area are gone"


def test_edges_of_a_box_stay_sharp_below_its_angle_and_are_smooth_above():
    asset = asset_of(CUBE)
    sharp, _ = corner_normals(CompiledScene(scene_of(asset, crease_angle=80.0), asset, None))
    assert np.abs(sharp).max(axis=2) == pytest.approx(1.0), "along the axes"
    smooth, _ = corner_normals(CompiledScene(scene_of(asset, crease_angle=100.0), asset, None))
    assert np.abs(smooth) == pytest.approx(3**-0.5), "out of the corners: each face counts by its angle there"


def test_smoothing_is_counted_as_no_more_triangles():
    asset = asset_of(CUBE)
    found = CompiledScene(scene_of(asset, crease_angle=30.0), asset, None).foreseen(["p0", "gone"])
    assert (found.brought, found.proof, found.print) == (12, 12, 12)
