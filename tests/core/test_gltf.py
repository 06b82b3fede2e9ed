"""glTF import against values worked out by hand, and every kind of damage."""

import base64
import json
import zipfile

import numpy as np
import pytest

from lantern.assets.errors import AssetError
from lantern.assets.mesh import triangulate
from lantern.assets.reading import import_asset
from lantern.motion.bounds import asset_bounds
from tests.core.gltf_files import binary, changed, damaged_files, document, glb


@pytest.fixture
def write(tmp_path):
    def write(name, content):
        path = tmp_path / name
        path.write_bytes(content)
        return path

    return write


def check_square(asset):
    assert list(asset.parts) == ["square"]
    assert asset.triangles == 2
    low, high = asset_bounds(asset)
    assert (low, high) == (pytest.approx([1, 2, 3]), pytest.approx([3, 4, 3]))


def test_glb_gives_the_values_worked_out_by_hand(write):
    asset = import_asset(write("square.glb", glb()))
    check_square(asset)
    material = asset.materials["red-enamel"]
    assert material.base_color == (0.8, 0.1, 0.05)
    assert (material.base_metalness, material.specular_roughness, material.specular_ior) == (0.25, 0.4, 1.7)
    assert (material.emission_color, material.emission_luminance) == ((0.5, 0.25, 0), 12)
    assert (material.coat_weight, material.coat_roughness, material.coat_ior) == (0.5, 0.1, 1.5)
    # Without normals the file is flat-shaded: six vertices that face +Z.
    mesh = asset.meshes[0]
    assert len(mesh.positions) == 6
    assert (mesh.normals == [0, 0, 1]).all()


def test_gltf_with_embedded_data_beside_it_and_in_a_zip(write, tmp_path):
    embedded = document()
    embedded["buffers"][0]["uri"] = "data:application/octet-stream;base64," + base64.b64encode(binary()).decode()
    check_square(import_asset(write("embedded.gltf", json.dumps(embedded).encode())))

    beside = document()
    beside["buffers"][0]["uri"] = "mesh%20data.bin"
    write("mesh data.bin", binary())
    check_square(import_asset(write("beside.gltf", json.dumps(beside).encode())))

    archive = tmp_path / "both.zip"
    with zipfile.ZipFile(archive, "w") as target:
        target.writestr("folder/scene.gltf", json.dumps(beside))
        target.writestr("folder/mesh data.bin", binary())
    asset = import_asset(archive)
    check_square(asset)
    assert asset.format == "glTF" and asset.name == "both"


def test_an_uploaded_gltf_may_not_read_files_beside_it(write):
    content = changed("buffers", 0, "uri", value="mesh.bin")
    write("mesh.bin", binary())
    with pytest.raises(AssetError, match="upload a zip"):
        import_asset(write("upload", json.dumps(content).encode()), name="scene.gltf")


def test_rotation_and_nesting_multiply_in_the_right_order(write):
    """A quarter turn about +Y takes +X to -Z; the parent's move comes after."""
    content = document()
    half = float(np.sqrt(0.5))
    content["nodes"] = [{"children": [1], "translation": [10, 0, 0]}, {"mesh": 0, "rotation": [0, half, 0, half]}]
    low, high = asset_bounds(import_asset(write("nested.glb", glb(content))))
    assert low == pytest.approx([10, 0, -1], abs=1e-6)
    assert high == pytest.approx([10, 1, 0], abs=1e-6)


def test_a_mesh_used_twice_is_stored_once(write):
    content = document()
    content["nodes"].append({"name": "Square", "mesh": 0})
    content["scenes"][0]["nodes"] = [0, 1]
    asset = import_asset(write("twice.glb", glb(content)))
    assert list(asset.parts) == ["square", "square-2"]
    assert len(asset.meshes) == 1 and asset.triangles == 4


def test_texture_transform_is_the_extensions_matrix(write, tmp_path):
    from lantern.picture.stills import write_png

    write_png(tmp_path / "t.png", np.full((2, 2, 3), 128, np.uint8))
    picture = base64.b64encode((tmp_path / "t.png").read_bytes()).decode()
    content = document()
    content["images"] = [{"uri": f"data:image/png;base64,{picture}"}]
    content["textures"] = [{"source": 0}]
    content["materials"][0]["pbrMetallicRoughness"]["baseColorTexture"] = {
        "index": 0,
        "extensions": {"KHR_texture_transform": {"offset": [0.1, 0.2], "scale": [2, 3], "rotation": np.pi / 2}},
    }
    use = import_asset(write("textured.glb", glb(content))).materials["red-enamel"].base_color_texture
    assert use is not None
    assert use.matrix == pytest.approx((0, 3, 0.1, -2, 0, 0.2), abs=1e-9)


def test_strips_and_fans_become_lists():
    flat = np.arange(5, dtype=np.uint32)
    assert triangulate(flat, 5).tolist() == [[0, 1, 2], [1, 3, 2], [2, 3, 4]]
    assert triangulate(flat, 6).tolist() == [[1, 2, 0], [2, 3, 0], [3, 4, 0]]


@pytest.mark.parametrize("damage", damaged_files())
def test_damaged_files_are_refused_by_name(write, damage):
    name, content, words = damaged_files()[damage]
    with pytest.raises(AssetError, match=words) as caught:
        import_asset(write(name, content))
    assert str(caught.value).startswith(name)


def test_size_limit_and_unpacked_size_limit(write, tmp_path):
    with pytest.raises(AssetError, match="limit"):
        import_asset(write("big.glb", glb()), limit=100)
    archive = tmp_path / "bomb.zip"
    with zipfile.ZipFile(archive, "w", zipfile.ZIP_DEFLATED) as target:
        target.writestr("scene.gltf", b" " * 1_000_000)
    with pytest.raises(AssetError, match="unpacks to"):
        import_asset(archive, limit=100_000)
