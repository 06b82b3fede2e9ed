"""Parts as wholes: where they stand after each operation, by hand and as the renderer has them."""

import itertools
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lantern.assets.imported import ImportedAsset
from lantern.compile.compiled import CompiledScene
from lantern.motion.bounds import bounds_of, mesh_points
from lantern.motion.poses import part_poses
from lantern.scene.arranging import (
    Align,
    Centre,
    Drop,
    Duplicate,
    Mirror,
    Move,
    Remove,
    Sort,
    Stand,
    arranged,
)
from lantern.scene.document import Asset, Material, Part, PartKey, Scene, Shutter
from lantern.scene.editing import apply_patch
from lantern.scene.lights import PointLight
from lantern.scene.model import FileRef
from lantern.scene.placing import Places, placement_of, stand_of
from lantern.scene.reading import read_scene
from lantern.scene.surroundings import Ground
from lantern.scene.turning import UPRIGHT, turn_matrix, turns_of
from tests.core.shapes import box_mesh, one_part, sphere_mesh, traced

MESH = box_mesh((-0.5, 0, -0.5), (0.5, 2, 0.5))
"""1 by 2 by 1 m, standing on its origin."""
FILE = Asset(file=FileRef(sha256="0" * 64, name="towers.glb"), name="Towers")


def standing(x, y, z):
    return (1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, z)


@pytest.fixture
def scene():
    parts = {
        "a": Part(name="Tower", mesh=0, material="clay", matrix=standing(0, 1, 0)),
        "b": Part(name="Tower 2", mesh=0, material="clay", matrix=standing(4, 3, 0)),
    }
    return Scene(asset=FILE, parts=parts, materials={"clay": Material(name="Clay")}, ground=Ground(height=0.5))


def boxes_of(scene):
    points, places = mesh_points([MESH], Shutter()), Places.of(scene)
    return {
        key: tuple(corner.tolist() for corner in bounds_of(points, [part], Shutter(), places))
        for key, part in scene.parts.items()
    }


def done(scene, operation):
    """The document after an operation, and what it was called; undone it is as it was."""
    made = arranged(scene, operation, boxes_of(scene))
    after, undo = apply_patch(scene.plain(), made.patch)
    assert apply_patch(after, undo)[0] == scene.plain()
    return read_scene(after), made


def boxed(scene, key):
    return [pytest.approx(corner) for corner in boxes_of(scene)[key]]


def test_copies_stand_in_a_row_with_names_of_their_own(scene):
    after, made = done(scene, Duplicate(kind="duplicate", parts=("a",), count=3, step=(2, 0, 1)))
    assert [part.name for part in after.parts.values()] == ["Tower", "Tower 2", "Tower 3", "Tower 4", "Tower 5"]
    assert len(set(after.parts)) == 5 and made.key in after.parts and made.label == "Duplicate Tower"
    low, high = boxes_of(after)[list(after.parts)[-1]]
    assert low == pytest.approx([5.5, 1, 2.5]) and high == pytest.approx([6.5, 3, 3.5])


def test_copies_around_a_circle_keep_their_distance(scene):
    both = Duplicate(kind="duplicate", parts=("a", "b"), count=3, step=(0, 0, 0), turn=90)
    after, _ = done(scene, both)
    middles = [np.mean(boxes_of(after)[key], axis=0) for key in after.parts]
    assert len(after.parts) == 8
    for first, second in zip(middles[2::2], middles[3::2], strict=True):
        assert np.linalg.norm(second - first) == pytest.approx(np.hypot(4, 2)), "they turn as one"


def test_copies_may_have_materials_of_their_own(scene):
    after, _ = done(scene, Duplicate(kind="duplicate", parts=("a", "b"), step=(0, 0, 1), own_materials=True))
    worn = [part.material for part in after.parts.values()]
    assert worn == ["clay", "clay", "clay-1", "clay-1"] and after.materials["clay-1"].base_color == (0.8, 0.8, 0.8)


def test_parts_are_dropped_as_one_until_the_lowest_stands(scene):
    after, _ = done(scene, Drop(kind="drop", parts=("a", "b")))
    assert boxes_of(after)["a"][0][1] == 0.5 and boxes_of(after)["b"][0][1] == 2.5
    assert arranged(after, Drop(kind="drop", parts=("a",)), boxes_of(after)).patch == [], "it stands already"
    assert arranged(after, Drop(kind="drop", parts=("gone",)), boxes_of(after)) is None


def test_edges_and_middles_are_aligned(scene):
    after, _ = done(scene, Align(kind="align", parts=("a", "b"), axis="y", to="low"))
    assert boxes_of(after)["b"][0][1] == 1
    after, _ = done(scene, Align(kind="align", parts=("a", "b"), axis="x", to="middle"))
    assert {round(np.mean([box[0][0], box[1][0]]), 6) for box in boxes_of(after).values()} == {2}
    after, _ = done(scene, Centre(kind="centre", parts=("a", "b")))
    assert boxed(after, "a") == [[-2.5, 1, -0.5], [-1.5, 3, 0.5]]


def test_parts_turn_and_grow_as_one_about_what_they_stand_on(scene):
    after, _ = done(scene, Move(kind="move", parts=("a", "b"), turn=90, size=2, offset=(0, 10, 0)))
    # They stand at (2, 1, 0): the first, 2 m to the left of it, comes 4 m behind it, twice as large.
    assert boxed(after, "a") == [[1, 11, 3], [3, 15, 5]]
    assert boxed(after, "b") == [[1, 15, -5], [3, 19, -3]]


def points_of(part):
    """(n, 3) where the corners of a part are."""
    pose = part_poses(part, Shutter())[0]
    return MESH.positions @ pose[:, :3].T + pose[:, 3]


def test_a_mirror_image_is_one_and_twice_mirrored_is_as_before(scene):
    part = scene.parts["a"].model_copy(update={"turn_x": 20, "turn_y": 30, "turn_z": 40, "pivot": (0, 2, 0)})
    leaning = scene.model_copy(update={"parts": {"a": part}})
    centre = np.mean(boxes_of(leaning)["a"], axis=0)

    def mirrored(document, axis):
        return done(document, Mirror(kind="mirror", parts=("a",), axis=axis))[0]

    for first, second in itertools.product("xyz", repeat=2):
        once = mirrored(leaning, first)
        flip = np.diag([-1.0 if a == first else 1.0 for a in "xyz"])
        assert _same_set(points_of(once.parts["a"]), (points_of(part) - centre) @ flip + centre)
        twice = mirrored(once, second)
        flip = flip @ np.diag([-1.0 if a == second else 1.0 for a in "xyz"])
        assert twice.parts["a"].mirror == "none"
        assert _same_set(points_of(twice.parts["a"]), (points_of(part) - centre) @ flip + centre)


def _same_set(some, others):
    """Whether points are the same but for their order: a box is its own mirror image."""
    return all(np.linalg.norm(others - point, axis=1).min() < 1e-4 for point in some)


def test_parts_are_removed_and_sorted(scene):
    after, made = done(scene, Remove(kind="remove", parts=("a", "gone")))
    assert list(after.parts) == ["b"] and made.label == "Remove Tower"
    bolts = {f"bolt-{n}": Part(name=f"Bolt_{n:03}", mesh=0, material="clay") for n in range(3)}
    mixed = scene.model_copy(update={"parts": {**scene.parts, **bolts}})
    after, _ = done(mixed, Sort(kind="sort", by="name"))
    assert {s.name: len(s.parts) for s in after.part_sets.values()} == {"Tower": 2, "Bolt": 3}
    after, _ = done(mixed, Sort(kind="sort", by="material"))
    assert {s.name: len(s.parts) for s in after.part_sets.values()} == {"Clay": 5}
    after, _ = done(mixed, Sort(kind="sort", by="size"))
    assert {s.name for s in after.part_sets.values()} == {"1 to 10 m"}


def test_another_unit_scales_all_that_is_around(scene):
    lit = scene.model_copy(
        update={"lights": {"key": PointLight(name="Key", position=(1, 2, 3), target=(0, 1, 0), amount=900)},
                "materials": {"clay": Material(name="Clay", transmission_depth=0.5)}}
    )  # fmt: skip
    lit = lit.model_copy(
        update={"parts": {key: part.model_copy(update={"offset": (1, 0, 0)}) for key, part in lit.parts.items()}}
    )
    after, _ = done(lit, Stand(kind="stand", scale=0.01))
    assert after.asset.scale == 0.01
    for key, (low, high) in boxes_of(lit).items():
        assert boxes_of(after)[key][0] == pytest.approx(np.divide(low, 100)), key
        assert boxes_of(after)[key][1] == pytest.approx(np.divide(high, 100)), key
    light = after.lights["key"]
    assert light.position == pytest.approx((0.01, 0.02, 0.03)) and light.amount == pytest.approx(0.09)
    assert after.ground.height == 0.005 and after.materials["clay"].transmission_depth == 0.005
    assert after.camera.focus_distance == pytest.approx(lit.camera.focus_distance / 100)
    assert after.camera.f_number == lit.camera.f_number
    back, _ = done(after, Stand(kind="stand", scale=1.0))
    assert boxes_of(back)["a"][1] == pytest.approx(boxes_of(lit)["a"][1])


@pytest.mark.parametrize("up", list(UPRIGHT))
def test_another_upright_axis_stands_on_the_ground(scene, up):
    after, _ = done(scene, Stand(kind="stand", up=up)) if up != "+y" else (scene, None)
    axis, sign = "xyz".index(up[1]), 1 if up[0] == "+" else -1
    turn = stand_of(after.asset)[:3, :3]
    assert turn[:, axis] * sign == pytest.approx([0, 1, 0]) and np.linalg.det(turn) == pytest.approx(1)
    if up != "+y":
        assert after.ground.height == pytest.approx(min(box[0][1] for box in boxes_of(after).values()))


def test_a_moving_part_moves_as_it_did_where_it_stands_now():
    keys = (PartKey(time=0, matrix=standing(0, 0, 0)), PartKey(time=1, matrix=standing(1, 0, 0)))
    part = Part(name="Arm", mesh=0, material="clay", keys=keys, offset=(0, 5, 0), turn_y=90, pivot=(0, 0, 0))
    opened = Shutter(time=0.5, opens=-0.5, closes=0.5)
    poses = part_poses(part, opened)
    assert poses[0, :, 3] == pytest.approx([0, 5, 0]) and poses[-1, :, 3] == pytest.approx([0, 5, -1])


def test_the_compiled_scene_follows_without_building_a_mesh_again(scene):
    asset = ImportedAsset("Towers", "test", [MESH], dict(scene.parts), dict(scene.materials))
    compiled = CompiledScene(scene, asset, None)
    trees = compiled.counts.mesh_trees
    moved, _ = done(scene, Move(kind="move", parts=("a",), offset=(0, 0, 7), turn=45))
    assert compiled.update(moved) and compiled.counts.part_rows == 3
    scaled, _ = done(moved, Stand(kind="stand", scale=0.1, up="+z"))
    assert compiled.update(scaled) and compiled.counts.mesh_trees == trees
    low, high = compiled.bounds()
    boxes = boxes_of(scaled).values()
    assert low == pytest.approx(np.min([box[0] for box in boxes], axis=0))
    assert high == pytest.approx(np.max([box[1] for box in boxes], axis=0))


@settings(max_examples=200, deadline=None)
@given(st.tuples(*[st.floats(-720, 720)] * 3))
def test_angles_of_a_turn_give_it_again(angles):
    matrix = turn_matrix(*angles)
    assert matrix @ matrix.T == pytest.approx(np.eye(3), abs=1e-9)
    assert turn_matrix(*turns_of(matrix)) == pytest.approx(matrix, abs=1e-6)


def test_a_part_is_turned_about_its_pivot():
    part = Part(name="Door", mesh=0, material="clay", matrix=standing(3, 0, 0), turn_y=90, pivot=(2, 0, 0))
    assert placement_of(part) @ [3, 0, 0, 1] == pytest.approx([2, 0, -1, 1])


@pytest.mark.parametrize("crossed", ["glass", "mirrored", "glowing"])
def test_what_came_inside_out_and_is_turned_round_looks_as_it_should(crossed):
    """A ball whose faces and normals point inwards, turned round, is the ball: clear, mirrored, and as a lamp."""
    ball = sphere_mesh(0.2, rings=24)
    wrong = replace(ball, indices=ball.indices[:, ::-1].copy(), normals=-ball.normals)
    surface = {"glass": {"transmission_weight": 1.0}, "glowing": {"emission_luminance": 5.0}}.get(crossed, {})
    placed = {
        "size": 0.8,
        "turn_y": 30.0,
        "offset": (0.02, 0.1, 0.0),
        "mirror": "x" if crossed == "mirrored" else "none",
    }
    pictures = []
    for mesh, changes in ((ball, {}), (wrong, {"inside_out": True}), (wrong, {})):
        scene, asset = one_part(Material(name="m", **surface), mesh, ground=True)
        part = scene.parts["part"].model_copy(update=changes | placed)
        film = traced(scene.model_copy(update={"parts": {"part": part}}), asset, 64)
        pictures.append(film.radiance().reshape(8, 8, 8, 8, 3).mean(axis=(1, 3)))
    right, turned, wrong_way = pictures
    # The corners of a triangle are counted the other way: samples fall elsewhere on it.
    assert turned == pytest.approx(right, rel=0.03, abs=0.01)
    if crossed == "glass":
        assert np.abs(wrong_way - right).max() > 0.05, "or the test would see nothing"
