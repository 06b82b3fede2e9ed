"""STL and PLY: read whole and true, refused with a reason when they are damaged, never a crash."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lantern.assets.errors import AssetError
from lantern.assets.images import ImageProblem, ImageStore, Room
from lantern.assets.reading import import_asset
from lantern.assets.smoothing import smooth_mesh
from lantern.motion.bounds import asset_bounds
from tests.core.mesh_files import CUBE, FACES, FILES, ply, stl_binary
from tests.core.shapes import sphere_mesh


def brought(tmp_path, name, content):
    (tmp_path / name).write_bytes(content)
    return import_asset(tmp_path / name)


@pytest.mark.parametrize("name", [name for name in FILES if name != "quads.ply"])
def test_a_cube_comes_as_large_as_it_is_with_its_edges(tmp_path, name):
    asset = brought(tmp_path, name, FILES[name])
    (mesh,) = asset.meshes
    assert asset.triangles == 12 and asset.name == name.split(".")[0]
    size = 1e-3 if name.endswith("stl") else 1.0
    low, high = asset_bounds(asset)
    assert np.allclose(high - low, size)
    assert len(mesh.positions) == 24, "a corner has a normal for each of its three faces"
    assert np.allclose(np.abs(mesh.normals).max(axis=1), 1, atol=1e-6), "which are straight"
    assert asset.up == ("+z" if name.endswith("stl") else "+y")
    assert any("unit" in said for said in asset.problems)


def test_a_file_is_known_by_what_it_holds_and_not_by_its_name(tmp_path):
    assert brought(tmp_path, "scan.glb", FILES["ascii.ply"]).format == "PLY"
    assert brought(tmp_path, "part.dat", FILES["binary.stl"]).format == "STL"
    with pytest.raises(AssetError, match=r"notes.stl: is neither OpenUSD"):
        brought(tmp_path, "notes.stl", b"dear reader, this is a letter and no triangle at all")


def test_faces_of_four_corners_are_cut_and_colours_of_vertices_are_linear(tmp_path):
    assert brought(tmp_path, "quads.ply", FILES["quads.ply"]).triangles == 4
    colors = np.tile([[255, 188, 0]], (8, 1))
    asset = brought(tmp_path, "tinted.ply", ply(CUBE, FACES, "binary_little_endian", colors))
    (mesh,) = asset.meshes
    assert mesh.colors[0] == pytest.approx([1, 0.5, 0, 1], abs=0.01), "188 of 255 is half the light"
    assert asset.materials["default"].vertex_colors


def test_a_ball_is_smooth_and_its_normals_are_those_of_a_sphere():
    ball = sphere_mesh(rings=32)
    corners = ball.positions[ball.indices].reshape(-1, 3)
    soup = np.arange(len(corners)).reshape(-1, 3)
    made = smooth_mesh(corners, soup)
    radial = made.positions / np.linalg.norm(made.positions, axis=1, keepdims=True)
    assert np.einsum("ij,ij->i", made.normals, radial).min() > np.cos(np.radians(3))
    assert len(made.positions) < 0.2 * len(corners), "corners at one place with one normal are one vertex"


def test_the_angle_decides_what_is_an_edge():
    ridge = np.array([[0, 0, 0], [1, 0, 0], [0.5, 0.2, 1], [0.5, 0.2, -1]], np.float32)
    faces = np.array([[0, 1, 2], [1, 0, 3]])
    angle = np.degrees(2 * np.arctan(0.2))
    assert len(smooth_mesh(ridge, faces, sharp=angle + 1).positions) == 4
    assert len(smooth_mesh(ridge, faces, sharp=angle - 1).positions) == 6


@pytest.mark.parametrize(
    ("name", "content", "words"),
    [
        ("short.ply", FILES["binary_little_endian.ply"][:-30], "damaged PLY"),
        ("empty.ply", ply(CUBE, [], "ascii"), "no triangles"),
        ("far.ply", ply(CUBE * 1e9, FACES, "ascii"), "beyond"),
        ("lost.ply", ply(CUBE, [[0, 1, 99]], "binary_little_endian"), "triangle of vertex 99|damaged"),
        ("nan.stl", stl_binary(np.full((1, 3, 3), np.nan, np.float32)), "no numbers"),
        ("flat.stl", stl_binary(np.zeros((2, 3, 3), np.float32)), "no triangles"),
    ],
)
def test_what_cannot_be_used_is_refused_with_its_name_and_the_reason(tmp_path, name, content, words):
    with pytest.raises(AssetError, match=f"{name}: .*({words})"):
        brought(tmp_path, name, content)


@settings(max_examples=300, deadline=None)
@given(st.sampled_from(sorted(FILES)), st.data())
def test_any_damage_is_read_or_refused(tmp_path_factory, name, data):
    content = bytearray(FILES[name])
    for _ in range(data.draw(st.integers(1, 6))):
        at = data.draw(st.integers(0, len(content) - 1))
        content[at] = data.draw(st.integers(0, 255))
    cut = data.draw(st.one_of(st.none(), st.integers(0, len(content))))
    path = tmp_path_factory.mktemp("damaged") / name
    path.write_bytes(bytes(content[:cut]))
    try:
        assert import_asset(path).triangles > 0
    except AssetError as error:
        assert name in str(error)


def test_images_are_decoded_once_each_and_only_while_there_is_room(monkeypatch):
    asked = []

    def decode(key, room):
        room.take(*key)
        asked.append(key)
        return np.zeros((key[1], key[0], 1), np.uint8)

    store = ImageStore()
    store.fill([(4, 2), (8, 8), (4, 2)], decode)
    store.fill([(8, 8), (2, 2)], decode)
    assert sorted(asked) == [(2, 2), (4, 2), (8, 8)] and store[4, 2].shape == (2, 4, 1)
    room = Room(100)
    room.take(10, 9)
    with pytest.raises(ImageProblem, match="has 11x1 texels"):
        room.take(11, 1)
    room.take(10, 1)
