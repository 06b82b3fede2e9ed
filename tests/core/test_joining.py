"""Several assets in one project: their files in one, their parts beside one another, each with what it refers to."""

import json
import zipfile

import numpy as np
import pytest

from lantern.assets.archive import LIST, listed
from lantern.assets.beginning import begun
from lantern.assets.errors import AssetError
from lantern.assets.hashing import sha256_of
from lantern.assets.joining import AssetFile, with_added, with_newer
from lantern.assets.reading import import_asset
from lantern.assets.swapping import swapped, version_of
from lantern.compile.compiled import CompiledScene
from lantern.engine.adding import added
from lantern.motion.bounds import asset_bounds
from lantern.scene.document import Asset
from lantern.scene.model import FileRef
from lantern.scene.standing import rescaled
from tests.core.gltf_files import glb
from tests.core.mesh_files import stl_binary
from tests.core.odd_asset import odd_glb

MTL = "newmtl Oak\nKd 0.5 0.3 0.1\nmap_Kd {image}\n"
OBJ = """mtllib wood.mtl
v 0 0 0\nv 2 0 0\nv 2 3 0\nv 0 3 0
vt 0 0\nvt 1 0\nvt 1 1\nvt 0 1
usemtl Oak
f 1/1 2/2 3/3 4/4
"""


@pytest.fixture
def files(tmp_path):
    """A GLB of five parts in metres, an STL of 20 mm, a zip of an OBJ with its material and image."""
    from PIL import Image

    (tmp_path / "odd.glb").write_bytes(odd_glb())
    corners = np.array([[[0, 0, 0], [20, 0, 0], [0, 0, 20]], [[0, 0, 0], [0, 20, 0], [20, 0, 0]]], np.float32)
    (tmp_path / "clip.stl").write_bytes(stl_binary(corners))
    Image.new("RGB", (4, 4), (200, 100, 50)).save(tmp_path / "grain.png")
    with zipfile.ZipFile(tmp_path / "board.zip", "w") as archive:
        archive.writestr("board.obj", OBJ)
        archive.writestr("wood.mtl", MTL.format(image="C:\\textures\\Grain.PNG"))
        archive.write(tmp_path / "grain.png", "maps/grain.png")
    return {name: AssetFile(tmp_path / name, name) for name in ("odd.glb", "clip.stl", "board.zip")}


def project(file):
    asset = import_asset(file.path)
    reference = FileRef(sha256=sha256_of(file.path), name=file.name)
    low, high = asset_bounds(asset)
    return begun(asset, reference, low, high), asset


def test_an_asset_is_added_to_another_and_both_are_as_they_were_alone(files, tmp_path):
    folder = with_added(files["odd.glb"], files["board.zip"], tmp_path / "two.zip")
    assert folder == "2" and [entry.name for entry in listed(tmp_path / "two.zip")] == ["odd.glb", "board.zip"]
    both = import_asset(tmp_path / "two.zip")
    odd, board = import_asset(files["odd.glb"].path), import_asset(files["board.zip"].path)
    assert both.name == odd.name and list(both.parts)[: len(odd.parts)] == list(odd.parts)
    (key,) = [key for key in both.parts if key not in odd.parts]
    part, (alone,) = both.parts[key], board.parts.values()
    assert key.startswith("2-") and part.name == alone.name
    material = both.materials[part.material]
    assert material.base_color == board.materials[alone.material].base_color
    texture = both.textures[material.base_color_texture.texture]
    assert (texture.texels[0, 0, :3] == [200, 100, 50]).all(), "its image came along, and is not one of the other's"
    mesh = both.meshes[part.mesh]
    assert mesh.positions == pytest.approx(board.meshes[alone.mesh].positions)


def test_units_and_upright_axes_differ_and_sizes_are_true(files, tmp_path):
    """An STL is in millimetres with Z up; beside a GLB in metres it is 2 cm."""
    with_added(files["odd.glb"], files["clip.stl"], tmp_path / "two.zip")
    scene, alone = project(files["odd.glb"])
    both = import_asset(tmp_path / "two.zip")
    file = FileRef(sha256=sha256_of(tmp_path / "two.zip"), name="two.zip")
    after, rows = added(scene, version_of(alone), both, file, "clip")
    (row,) = rows
    assert row.state == "new" and after.asset.name == scene.asset.name
    compiled = CompiledScene(after, both, None)
    low, high = compiled.bounds([row.key])
    assert high - low == pytest.approx([0.02, 0.02, 0.02])
    others = compiled.bounds([key for key in after.parts if key != row.key])
    assert low[0] > others[1][0], "to the right of what was there"
    assert low[1] == pytest.approx(after.ground.height, abs=1e-6)
    assert [(s.name, s.parts) for s in after.part_sets.values()] == [("clip", (row.key,))]
    assert {key: part for key, part in after.parts.items() if key != row.key} == scene.parts


@pytest.mark.parametrize(("scale", "up"), [(0.01, "+y"), (1.0, "+z"), (100.0, "-x")])
def test_what_was_put_right_by_hand_does_not_change_the_size_of_another(files, tmp_path, scale, up):
    with_added(files["odd.glb"], files["clip.stl"], tmp_path / "two.zip")
    scene, alone = project(files["odd.glb"])
    scene = rescaled(scene, scene.asset, scale)
    scene = scene.model_copy(update={"asset": scene.asset.model_copy(update={"up": up})})
    both = import_asset(tmp_path / "two.zip")
    after, (row,) = added(scene, version_of(alone), both, scene.asset.file, "clip")
    compiled = CompiledScene(after, both, None)
    low, high = compiled.bounds([row.key])
    assert high - low == pytest.approx([0.02, 0.02, 0.02], rel=1e-4)
    assert low[1] == pytest.approx(after.ground.height, abs=1e-5 * max(scale, 1))


def test_a_third_is_added_and_a_newer_version_of_one_leaves_the_others(files, tmp_path):
    with_added(files["odd.glb"], files["board.zip"], tmp_path / "two.zip")
    two = AssetFile(tmp_path / "two.zip", "two.zip")
    assert with_added(two, files["clip.stl"], tmp_path / "three.zip") == "3"
    three = AssetFile(tmp_path / "three.zip", "three.zip")
    before = import_asset(three.path)
    newer = AssetFile(tmp_path / "newer", "Odd.glb")
    newer.path.write_bytes(odd_glb(names=("Mesh_0421", "Mesh_0422", "Mesh_0423", None, "Mesh_0425")))
    assert with_newer(three, newer, tmp_path / "again.zip") == "1"
    after = import_asset(tmp_path / "again.zip")
    assert [entry.folder for entry in listed(tmp_path / "again.zip")] == ["1", "2", "3"]
    assert set(before.parts) - set(after.parts) == {"mesh-0424"}
    scene, _ = project(three)
    told = Asset(file=scene.asset.file, name="x", scale=after.scale, up=after.up)
    _, rows = swapped(scene, version_of(before), version_of(after), told)
    assert {row.key: row.state for row in rows if row.state != "same"} == {"mesh-0424": "gone"}
    assert with_newer(three, AssetFile(newer.path, "lamp.glb"), tmp_path / "no.zip") is None
    assert not (tmp_path / "no.zip").exists()


def test_the_same_asset_twice_has_keys_of_its_own_each_time(files, tmp_path):
    with_added(files["odd.glb"], files["odd.glb"], tmp_path / "two.zip")
    both, alone = import_asset(tmp_path / "two.zip"), import_asset(files["odd.glb"].path)
    assert len(both.parts) == 2 * len(alone.parts) and both.triangles == 2 * alone.triangles
    assert len(both.materials) == 2 * len(alone.materials)


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (
            {"assets": [{"folder": "1", "path": "1/gone.glb", "name": "a.glb"}]},
            "lists '1/gone.glb', which",
        ),
        ({"assets": [{"folder": "..", "path": "../a.glb", "name": "a.glb"}]}, "must hold one asset"),
        ({"assets": []}, "must hold one asset"),
        ({"assets": [{"folder": "1", "path": "2/b.glb", "name": "b.glb"}]}, "must hold one asset"),
        ([1, 2, 3], "must hold one asset"),
        ("{", "must hold one asset"),
    ],
)
def test_a_list_that_is_none_is_not_followed(tmp_path, content, words):
    with zipfile.ZipFile(tmp_path / "x.zip", "w") as archive:
        archive.writestr("1/a.glb", glb())
        archive.writestr("2/b.glb", glb())
        archive.writestr(LIST, content if isinstance(content, str) else json.dumps(content))
    with pytest.raises(AssetError, match=words):
        import_asset(tmp_path / "x.zip")


def test_one_of_several_that_is_damaged_is_named(files, tmp_path):
    (tmp_path / "bad.glb").write_bytes(glb()[:60])
    with_added(files["clip.stl"], AssetFile(tmp_path / "bad.glb", "bad.glb"), tmp_path / "two.zip")
    with pytest.raises(AssetError, match=r"^bad\.glb: "):
        import_asset(tmp_path / "two.zip")
