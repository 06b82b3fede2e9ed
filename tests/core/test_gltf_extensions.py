"""Extensions of glTF by which files are made smaller, and which bring instances, lights and cameras."""

import json
import struct
from io import BytesIO

import alktx2
import numpy as np
import pytest
from PIL import Image

from lantern.assets.beginning import begun
from lantern.assets.errors import AssetError
from lantern.assets.reading import import_asset
from lantern.motion.bounds import asset_bounds
from lantern.scene.document import Scene
from lantern.scene.lights import DirectionalLight, PointLight, SpotLight
from lantern.scene.model import FileRef
from tests.core.gltf_files import (
    INDICES,
    POSITIONS,
    binary,
    draco_document,
    glb,
    lit_document,
    needing,
    packed_document,
)
from tests.core.quad_files import Quad, png

FILE = FileRef(sha256="0" * 64, name="square.glb")


@pytest.fixture
def brought(tmp_path):
    def bring(content, data):
        (tmp_path / "square.glb").write_bytes(glb(content, data))
        return import_asset(tmp_path / "square.glb")

    return bring


def same_square(asset):
    (mesh,) = asset.meshes
    return bool((np.unique(mesh.positions.round(4), axis=0) == np.unique(POSITIONS, axis=0)).all())


def test_buffer_views_are_unpacked(brought):
    asset = brought(*packed_document(POSITIONS, INDICES))
    assert same_square(asset) and asset.triangles == 2


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"byteLength": 5}, "buffer view 0 cannot be unpacked"),
        ({"byteOffset": 10_000}, "reaches beyond its buffer"),
        ({"count": 1 << 40}, "would unpack to"),
        ({"mode": "SPIRALS"}, "cannot be unpacked"),
        ({"count": "many"}, "cannot be unpacked"),
    ],
)
def test_a_damaged_view_is_refused_by_its_number(brought, changes, words):
    content, data = packed_document(POSITIONS, INDICES)
    content["bufferViews"][0]["extensions"]["EXT_meshopt_compression"] |= changes
    with pytest.raises(AssetError, match=words):
        brought(content, data)


def test_whole_numbers_stand_for_places_as_they_are_or_normalised(brought):
    content = needing("KHR_mesh_quantization")
    whole = np.hstack([POSITIONS * 100, np.zeros((4, 1))]).astype(np.int16)
    content["accessors"][0] |= {"componentType": 5122}
    content["bufferViews"][0] = {"buffer": 0, "byteOffset": 0, "byteLength": 32, "byteStride": 8}
    content["bufferViews"][1]["byteOffset"] = 32
    content["buffers"][0]["byteLength"] = 44
    data = whole.tobytes() + binary()[48:]
    assert brought(content, data).meshes[0].positions.max() == 100
    content["accessors"][0]["normalized"] = True
    assert brought(content, data).meshes[0].positions.max() == pytest.approx(100 / 32767)


def test_compressed_geometry_comes_with_its_coordinates(brought):
    asset = brought(*draco_document())
    assert same_square(asset) and asset.triangles == 2
    mesh = asset.meshes[0]
    assert mesh.uvs[0] == pytest.approx(mesh.positions[:, :2], abs=1e-4)


@pytest.mark.parametrize("damage", ["cut", "attribute", "view"])
def test_damaged_geometry_is_refused_by_its_place(brought, damage):
    content, data = draco_document()
    said = content["meshes"][0]["primitives"][0]["extensions"]["KHR_draco_mesh_compression"]
    if damage == "cut":
        data = data[: len(data) // 2] + b"\0" * (len(data) - len(data) // 2)
    elif damage == "attribute":
        said["attributes"]["POSITION"] = 77
    else:
        said["bufferView"] = 9
    with pytest.raises(AssetError, match=r"mesh 0 primitive 0: cannot be unpacked|buffer view 9 is missing"):
        brought(content, data)


def test_a_mesh_is_spread_as_its_instances_say(brought):
    content = needing("EXT_mesh_gpu_instancing")
    moves = np.array([[0, 0, 0], [5, 0, 0], [0, 7, 0]], np.float32)
    turns = np.array([[0, 0, 0, 1], [0, 0, 0, 1], [0, 0, np.sqrt(0.5), np.sqrt(0.5)]], np.float32)
    content["nodes"][0]["extensions"] = {"EXT_mesh_gpu_instancing": {"attributes": {"TRANSLATION": 2, "ROTATION": 3}}}
    content["accessors"] += [
        {"bufferView": 2, "componentType": 5126, "count": 3, "type": "VEC3"},
        {"bufferView": 3, "componentType": 5126, "count": 3, "type": "VEC4"},
    ]
    content["bufferViews"] += [
        {"buffer": 0, "byteOffset": 60, "byteLength": 36}, {"buffer": 0, "byteOffset": 96, "byteLength": 48},
    ]  # fmt: skip
    content["buffers"][0]["byteLength"] = 144
    data = binary() + moves.tobytes() + turns.tobytes()
    asset = brought(content, data)
    parts = list(asset.parts.values())
    assert [part.name for part in parts] == ["Square 1", "Square 2", "Square 3"] and len(asset.meshes) == 1
    # The node moves by (1, 2, 3) and doubles; +X of the last instance has been turned to +Y.
    assert [part.matrix[3::4] for part in parts] == [(1, 2, 3), (11, 2, 3), (1, 16, 3)]
    assert np.array(parts[2].matrix).reshape(3, 4)[:, 0] == pytest.approx([0, 2, 0], abs=1e-6)
    content["accessors"][3]["count"] = 2
    with pytest.raises(AssetError, match="node 0: its instances disagree"):
        brought(content, data)


def test_lights_come_as_bright_as_they_are_and_shine_where_they_did(brought):
    point, spot, sun = brought(lit_document(), binary()).lights.values()
    assert isinstance(point, PointLight) and (point.unit, point.color) == ("cd", (1, 0.5, 0))
    assert point.amount == pytest.approx(40 * (0.2126 + 0.5 * 0.7152), rel=1e-3), "its colour dims it"
    assert isinstance(spot, SpotLight) and (spot.amount, spot.unit) == (900, "cd")
    assert (spot.cone, spot.softness) == pytest.approx((np.degrees(0.8), 0.5))
    assert isinstance(sun, DirectionalLight) and (sun.amount, sun.unit) == (1500, "lx")
    assert np.subtract(sun.target, sun.position) == pytest.approx([0, -1, 0]), "-Z, turned down"


def test_a_project_begins_with_the_view_and_the_lights_of_its_file(brought):
    asset = brought(lit_document(), binary())
    low, high = asset_bounds(asset)
    scene = begun(asset, FILE, low, high)
    assert scene.camera.position == (2, 3, 10) and scene.camera.focus_distance == pytest.approx(7)
    # What is seen is as high as the file says, whatever the shape of the picture.
    aspect = scene.print.width / scene.print.height
    height = 2 * np.arctan(scene.camera.sensor_width / aspect / (2 * scene.camera.focal_length))
    assert height == pytest.approx(0.5, abs=1e-4)
    assert [light.enabled for light in scene.lights.values()] == [True] * 3
    setup = Scene(lights={"lamp-0": PointLight(name="Own")})
    scene = begun(asset, FILE, low, high, setup=setup)
    assert {light.name: light.enabled for light in scene.lights.values()} == {
        "Own": True, "Lamp 0": False, "Lamp 1": False, "Lamp 2": False,
    }  # fmt: skip
    assert scene.camera.position != (2, 3, 10), "the set-up looks for itself"


@pytest.mark.parametrize(
    ("changes", "words"),
    [({"light": 9}, "light"), ({"light": "sun"}, "light"), ([], "light")],
)
def test_a_light_that_is_not_there_is_said(brought, changes, words):
    content = lit_document()
    content["nodes"][1]["extensions"]["KHR_lights_punctual"] = changes
    with pytest.raises(AssetError, match=f"{words}.* does not follow KHR_lights_punctual"):
        brought(content, binary())


FOUR = np.zeros((8, 8, 3), np.uint8)
FOUR[:4, :4], FOUR[:4, 4:], FOUR[4:, :4], FOUR[4:, 4:] = (255, 0, 0), (0, 255, 0), (0, 0, 255), (128, 128, 128)


def test_images_in_a_universal_texture_format_are_transcoded(tmp_path):
    data = alktx2.encode_bytes_to_ktx2(png(FOUR, tmp_path), mime="image/png", codec="uastc", quality=100, srgb=True)
    texels = textured(tmp_path, data, "KHR_texture_basisu").textures[0].texels
    for (y, x), color in {(1, 1): (255, 0, 0), (1, 6): (0, 255, 0), (6, 1): (0, 0, 255)}.items():
        assert texels[y, x, :3].astype(int) == pytest.approx(color, abs=8)
    with pytest.raises(AssetError, match="image 0 cannot be transcoded"):
        textured(tmp_path, data[:60], "KHR_texture_basisu")


def test_images_of_webp_are_read(tmp_path):
    packed = BytesIO()
    Image.fromarray(FOUR).save(packed, "WEBP", lossless=True)
    texels = textured(tmp_path, packed.getvalue(), "EXT_texture_webp").textures[0].texels
    assert (texels[..., :3] == FOUR).all()


def textured(folder, data, extension):
    """A square whose one image is named by an extension of its texture alone."""
    material = {"pbrMetallicRoughness": {"baseColorTexture": {"index": 0}}}
    whole = Quad(material, (FOUR,)).glb(folder)
    (length,) = struct.unpack_from("<I", whole, 12)
    content, blob = json.loads(whole[20 : 20 + length]), whole[28 + length :]
    content["textures"] = [{"extensions": {extension: {"source": 0}}}]
    content["extensionsUsed"] = content["extensionsRequired"] = [extension]
    content["bufferViews"].append({"buffer": 0, "byteOffset": len(blob), "byteLength": len(data)})
    content["images"] = [{"bufferView": len(content["bufferViews"]) - 1, "mimeType": "image/ktx2"}]
    content["buffers"][0]["byteLength"] = len(blob) + len(data)
    (folder / "textured.glb").write_bytes(glb(content, blob + data))
    return import_asset(folder / "textured.glb")
