"""Groups of parts: made, nested, moved and dissolved, with everything staying where it stands."""

from dataclasses import replace

import numpy as np
import pytest

from lantern.assets.beginning import begun
from lantern.assets.imported import ImportedAsset
from lantern.assets.joining import joined
from lantern.assets.swapping import swapped, version_of
from lantern.assets.tree import grouped
from lantern.compile.compiled import CompiledScene
from lantern.compile.view import View
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.scene import presence
from lantern.scene.arranging import (
    Align,
    Dissolve,
    Drop,
    Duplicate,
    Gather,
    Mirror,
    Move,
    Put,
    Regroup,
    Remove,
    Strew,
    arranged,
)
from lantern.scene.document import Asset, Camera, Material, Part, PartKey, Scene
from lantern.scene.editing import apply_patch
from lantern.scene.grouping import above
from lantern.scene.model import FileRef
from lantern.scene.motion import Motion, Turntable
from lantern.scene.patching import apply_operations
from lantern.scene.placed import PartGroup
from lantern.scene.placing import Places
from lantern.scene.reading import SceneError, read_scene
from lantern.scene.scatter import Scatter
from lantern.scene.standing import rescaled
from lantern.scene.starts import setup_of
from tests.core.shapes import box_mesh, no_files

FILE = Asset(file=FileRef(sha256="0" * 64, name="lamp.glb"), name="Lamp", scale=0.1, up="+z")
MESH = box_mesh((-0.5, -0.25, 0), (0.5, 0.25, 0.2))
TILTED = {"turn_x": 20.0, "turn_y": 50.0, "turn_z": -10.0, "size": 1.7, "offset": (0.3, 0.1, -0.2), "mirror": "z"}


def at(x, y, z):
    return (1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, z)


@pytest.fixture
def scene():
    """Two boxes in a turned, sized, mirrored group within another that is turned, one in the outer, one in none."""
    parts = {
        "a": Part(name="A", mesh=0, material="m", matrix=at(1, 2, 0), group="inner", turn_y=30, pivot=(0.1, 0.2, 0)),
        "b": Part(name="B", mesh=0, material="m", matrix=at(-3, 0, 1), group="inner", size=0.5),
        "c": Part(name="C", mesh=0, material="m", matrix=at(0, 5, 0), group="outer", mirror="x"),
        "d": Part(name="D", mesh=0, material="m", matrix=at(4, 4, 4)),
    }
    groups = {
        "inner": PartGroup(name="Inner", group="outer", pivot=(0.2, 0, 0.1), **TILTED),
        "outer": PartGroup(name="Outer", turn_z=40, pivot=(0, 1, 0), offset=(0, 0.5, 0)),
    }
    return Scene(asset=FILE, parts=parts, part_groups=groups, materials={"m": Material(name="M")})


def asset():
    return ImportedAsset("lamp", "test", [MESH])


def boxes_of(scene):
    found = CompiledScene(scene, asset(), None).part_boxes(list(scene.parts))
    return {key: (low.tolist(), high.tolist()) for key, (low, high) in found.items()}


def done(scene, operation):
    made = arranged(scene, operation, boxes_of(scene))
    assert made is not None
    return read_scene(apply_operations(scene.plain(), made.patch)[0]), made


def poses(scene):
    places = Places.of(scene)
    return {key: places.over(part) @ np.vstack([np.reshape(part.matrix, (3, 4)), [0, 0, 0, 1]])
            for key, part in scene.parts.items()}  # fmt: skip


def same_poses(one, other):
    a, b = poses(one), poses(other)
    return a.keys() == b.keys() and all(np.allclose(a[key], b[key], atol=1e-6) for key in a)


def test_a_part_is_moved_by_its_groups_from_the_inside_out(scene):
    def matrix(one):
        c = {axis: np.cos(np.radians(getattr(one, f"turn_{axis}"))) for axis in "xyz"}
        s = {axis: np.sin(np.radians(getattr(one, f"turn_{axis}"))) for axis in "xyz"}
        about_x = np.array([[1, 0, 0], [0, c["x"], -s["x"]], [0, s["x"], c["x"]]])
        about_y = np.array([[c["y"], 0, s["y"]], [0, 1, 0], [-s["y"], 0, c["y"]]])
        about_z = np.array([[c["z"], -s["z"], 0], [s["z"], c["z"], 0], [0, 0, 1]])
        flip = np.diag([-1.0 if one.mirror == axis else 1.0 for axis in "xyz"])
        linear = about_z @ about_y @ about_x @ flip * one.size
        return lambda p: linear @ (p - np.array(one.pivot)) + one.pivot + one.offset

    corner = np.array([0.5, 0.25, 0.2])
    stood = np.array([[1, 0, 0], [0, 0, 1], [0, -1, 0]]) @ np.add(corner, [1, 2, 0]) * 0.1
    inner, outer = scene.part_groups["inner"], scene.part_groups["outer"]
    expected = matrix(outer)(matrix(inner)(matrix(scene.parts["a"])(stood)))
    assert (poses(scene)["a"] @ [*corner, 1])[:3] == pytest.approx(expected, abs=1e-9)


def test_a_moved_group_moves_its_parts_without_a_new_compile(scene):
    engine = Engine(1)
    engine.open(scene, no_files, asset())
    group = scene.part_groups["outer"].model_copy(update={"turn_x": 70.0, "size": 2.0})
    after = scene.model_copy(update={"part_groups": scene.part_groups | {"outer": group}})
    change = engine.apply(after, no_files)
    assert change.restarts and not change.recompiled and engine.compile_counts.part_rows <= len(scene.parts) + 4
    fresh = CompiledScene(after, asset(), None)
    assert np.allclose(engine.compiled._geometry.rows["matrix"], fresh._geometry.rows["matrix"])
    engine.close()


def test_groups_are_made_and_dissolved_where_everything_stands(scene):
    after, made = done(scene, Gather(kind="gather", parts=("a", "b", "d")))
    assert after.part_groups["inner"].group == made.key == after.parts["d"].group, "a whole group nests"
    assert same_poses(scene, after)
    boxes = boxes_of(scene)
    low, high = np.min([boxes[k][0] for k in "abd"], axis=0), np.max([boxes[k][1] for k in "abd"], axis=0)
    assert after.part_groups[made.key].pivot == pytest.approx(tuple((low + high) / 2), abs=1e-5)
    for key in ("outer", "inner", made.key):
        after, _ = done(after, Dissolve(kind="dissolve", group=key))
        assert key not in after.part_groups
        found, wanted = poses(after), poses(scene)
        assert all(np.allclose(found[part], wanted[part], atol=1e-6) for part in wanted), key


def test_a_group_within_a_group_turns_about_the_middle_of_its_parts(scene):
    after, made = done(scene, Gather(kind="gather", parts=("b",)))
    assert after.part_groups[made.key].group == "inner" and same_poses(scene, after)
    low, high = np.array(boxes_of(scene)["b"])
    pivot = Places.of(after).group("inner") @ [*after.part_groups[made.key].pivot, 1]
    assert pivot[:3] == pytest.approx((low + high) / 2, abs=1e-5)


def test_parts_change_their_group_where_they_stand(scene):
    into, _ = done(scene, Regroup(kind="regroup", parts=("d",), into="inner"))
    assert into.parts["d"].group == "inner" and same_poses(scene, into)
    out, _ = done(into, Regroup(kind="regroup", parts=("a", "b", "d"), into=None))
    assert out.part_groups["inner"].group is None and out.parts["a"].group == "inner" and same_poses(scene, out)
    every = boxes_of(scene)
    assert arranged(scene, Regroup(kind="regroup", parts=("a", "b", "c"), into="inner"), every) is None
    assert arranged(scene, Regroup(kind="regroup", parts=("a",), into="gone"), every) is None


@pytest.mark.parametrize(
    "operation",
    [
        lambda keys: Move(kind="move", parts=keys, offset=(0.1, 0.2, 0.3), turn=25, size=1.5),
        lambda keys: Mirror(kind="mirror", parts=keys, axis="y"),
        lambda keys: Drop(kind="drop", parts=keys),
    ],
)
@pytest.mark.parametrize("keys", [("a",), ("a", "b"), ("a", "b", "c", "d"), ("b", "c", "d")])
def test_what_is_done_in_groups_is_what_is_done_without(scene, operation, keys):
    flat = scene
    for group in ("inner", "outer"):
        flat, _ = done(flat, Dissolve(kind="dissolve", group=group))
    inside, outside = done(scene, operation(keys))[0], done(flat, operation(keys))[0]
    assert same_poses(inside, outside)
    assert keys != ("a", "b") or inside.parts == scene.parts, "a whole group is moved itself"


def test_parts_stand_on_a_point_of_a_surface(scene):
    place, normal = (1.0, 2.0, 3.0), (1.0, 1.0, 0.0)
    upright, _ = done(scene, Put(kind="put", parts=("a", "d"), position=place, normal=normal))
    boxes = boxes_of(upright)
    low, high = np.min([boxes[k][0] for k in "ad"], axis=0), np.max([boxes[k][1] for k in "ad"], axis=0)
    assert [(low[0] + high[0]) / 2, low[1], (low[2] + high[2]) / 2] == pytest.approx(place, abs=1e-5)
    along, _ = done(scene, Put(kind="put", parts=("d",), position=place, normal=normal, along=True))
    before, after = poses(scene)["d"], poses(along)["d"]
    turn = (after[:3, :3] / 0.1) @ np.linalg.inv(before[:3, :3] / 0.1)
    assert turn @ [0, 1, 0] == pytest.approx(np.array(normal) / np.sqrt(2), abs=1e-6)


def test_parts_are_strewn_as_suits_their_size(scene):
    small = {key: scene.parts[key].model_copy(update={"size": 0.05}) for key in "ab"}
    scene = scene.model_copy(update={"parts": scene.parts | small})
    after, made = done(scene, Strew(kind="strew", parts=("a", "b", "d"), over="d"))
    added = {key: part for key, part in after.parts.items() if key not in scene.parts}
    assert made.key in added and {part.strewn.over for part in added.values()} == {"d"}
    assert [part.name for part in added.values()] == ["A, strewn", "B, strewn"] and not made.patch[0]["value"]["group"]
    assert len({part.strewn.seed for part in added.values()}) == 2
    copies = CompiledScene(after, asset(), None)._geometry.copy_counts()[-2:]
    assert (copies >= 10).all() and (copies < 2000).all()
    own = [np.linalg.det(poses(one)[key][:3, :3]) for one, key in ((scene, "a"), (after, "a-strewn-1"))]
    assert own[0] == pytest.approx(own[1]), "a piece is as large as the one it was made of"
    every = boxes_of(after)
    assert arranged(after, Strew(kind="strew", parts=("a",), over=made.key), every) is None
    assert arranged(after, Strew(kind="strew", parts=("d",), over="d"), every) is None
    assert arranged(after, Strew(kind="strew", parts=("a",), over="gone"), every) is None


def test_wholes_are_aligned_as_wholes(scene):
    after, _ = done(scene, Align(kind="align", parts=("a", "b", "d"), axis="x", to="low"))
    boxes = boxes_of(after)
    assert min(boxes["a"][0][0], boxes["b"][0][0]) == pytest.approx(boxes["d"][0][0], abs=1e-6)
    gaps = [boxes_of(one)["a"][0][0] - boxes_of(one)["b"][0][0] for one in (scene, after)]
    assert gaps[0] == pytest.approx(gaps[1], abs=1e-6)


def test_a_copy_of_a_group_is_a_group(scene):
    after, made = done(scene, Duplicate(kind="duplicate", parts=("a", "b", "c"), count=2, step=(1, 0, 0)))
    assert len(after.part_groups) == 6 and len(after.parts) == 4 + 6
    assert after.part_groups["outer-1"].name == "Outer 2" and after.part_groups["outer-2"].name == "Outer 3"
    copy = after.part_groups["inner-2"]
    assert copy.group == "outer-2" and after.parts[made.key].group == "inner-1"
    low, shifted = boxes_of(scene)["b"][0], boxes_of(after)["b-2"][0]
    assert np.subtract(shifted, low) == pytest.approx([2, 0, 0], abs=1e-5)


def test_what_is_strewn_is_copied_with_what_it_lies_on(scene):
    """Over the copy of its surface, in a group or beside it; else over the one that there is."""
    beads = Part(name="Beads", mesh=0, material="m", size=0.02, group="inner", strewn=Scatter(over="a", density=50.0))
    loose = beads.model_copy(update={"group": None, "strewn": Scatter(over="d", density=50.0)})
    scene = scene.model_copy(update={"parts": scene.parts | {"beads": beads, "loose": loose}})
    every = ("a", "b", "c", "beads", "d", "loose")
    after, _ = done(scene, Duplicate(kind="duplicate", parts=every, count=2, step=(3, 0, 0)))
    over = {key: part.strewn.over for key, part in after.parts.items() if part.strewn}
    assert over == {
        "beads": "a", "loose": "d", "beads-1": "a-1", "loose-1": "d-1", "beads-2": "a-2", "loose-2": "d-2",
    }  # fmt: skip
    alone, made = done(scene, Duplicate(kind="duplicate", parts=("beads",), step=(0, 0, 0)))
    assert alone.parts[made.key].strewn.over == "a"


def test_another_unit_strews_as_many_copies_of_as_large_a_surface(scene):
    beads = Part(name="Beads", mesh=0, material="m", size=0.02,
                 strewn=Scatter(over="d", density=2000.0, apart=0.01, lift=0.002))  # fmt: skip
    scene = scene.model_copy(update={"parts": scene.parts | {"beads": beads}})
    larger = rescaled(scene, scene.asset, 0.2)
    before, after = (CompiledScene(one, asset(), None)._geometry.copies[4] for one in (scene, larger))
    assert len(before) > 20 and np.allclose(after, np.array([[2.0] * 4] * 3) * before, atol=1e-5)


def test_groups_go_with_their_last_part(scene):
    after, _ = done(scene, Remove(kind="remove", parts=("a", "b")))
    assert set(after.part_groups) == {"outer"}
    after, _ = done(after, Remove(kind="remove", parts=("c",)))
    assert not after.part_groups


def test_a_ring_of_groups_is_refused_by_name(scene):
    patch = [{"op": "replace", "path": "/part_groups/outer/group", "value": "inner"}]
    with pytest.raises(SceneError, match="inner within outer within inner has no end"):
        apply_patch(scene.plain(), patch)
    with pytest.raises(SceneError, match="has no end"):
        read_scene(apply_operations(scene.plain(), patch)[0])


def test_a_group_that_is_not_there_is_as_none(scene):
    lost = scene.model_copy(update={"part_groups": {}})
    flat = {key: part.model_copy(update={"group": None}) for key, part in scene.parts.items()}
    assert same_poses(lost, lost.model_copy(update={"parts": flat}))


def test_another_unit_scales_the_places_of_groups(scene):
    after = rescaled(scene, scene.asset, 0.2)
    for key, pose in poses(after).items():
        assert np.allclose(pose, np.diag([2, 2, 2, 1]) @ poses(scene)[key] @ np.eye(4), atol=1e-6)


def test_a_set_leaves_its_groups_where_it_stood(scene):
    ball = Part(name="Ball", form={"kind": "ball", "radius": 0.1}, material="m", group="inner")
    made = setup_of(scene.model_copy(update={"parts": scene.parts | {"ball": ball}}))
    was = Places.of(scene).over(ball)
    assert not made.part_groups and np.allclose(Places.of(made).over(made.parts["ball"]), was, atol=1e-6)


def test_a_group_sizes_what_its_parts_are_keyed_to(scene):
    keys = (PartKey(time=0, matrix=at(0, 0, 0)), PartKey(time=1, matrix=at(0, 0, 1)))
    keyed = scene.parts["c"].model_copy(update={"keys": keys, "mirror": "none"})
    scene = scene.model_copy(update={"parts": {"c": keyed}, "shutter": scene.shutter.model_copy(update={"time": 1.0})})
    low, high = np.array(boxes_of(scene)["c"])
    bare = keyed.model_copy(update={"group": None})
    bare_low, bare_high = np.array(boxes_of(scene.model_copy(update={"parts": {"c": bare}}))["c"])
    middle = Places.of(scene).group("outer") @ [*((bare_low + bare_high) / 2), 1]
    assert (low + high) / 2 == pytest.approx(middle[:3], abs=1e-6)


# From files


def part(name):
    return Part(name=name, mesh=0, material="m")


def test_the_tree_of_a_file_is_kept_where_it_tells_something():
    root, lamp, shade, alone, nameless = (0, "Root"), (1, "Lamp"), (2, "Shade"), (3, "Screw"), (4, "")
    chains = {
        "a": (root, lamp, shade), "b": (root, lamp, shade, nameless), "c": (root, lamp, alone),
        "d": (root, nameless), "e": (root, nameless),
    }  # fmt: skip
    parts, groups = grouped({key: part(key) for key in chains}, chains)
    assert {key: group.name for key, group in groups.items()} == {"lamp-group": "Lamp", "shade-group": "Shade"}
    assert groups["shade-group"].group == "lamp-group"
    assert [parts[key].group for key in "abcde"] == ["shade-group", "shade-group", "lamp-group", None, None]


def test_of_nodes_that_hold_the_same_the_innermost_counts():
    chains = {"a": ((0, "Export"), (1, "Lamp")), "b": ((0, "Export"), (1, "Lamp")), "c": ()}
    _, groups = grouped({key: part(key) for key in chains}, chains)
    assert [group.name for group in groups.values()] == ["Lamp"]


def lamp(*names, group="Lamp"):
    parts, groups = grouped({n: part(n) for n in names}, {n: ((1, group),) if n != "x" else () for n in names})
    return ImportedAsset("lamp", "test", [MESH], parts, {"m": Material(name="M")}, groups=groups)


def test_a_newer_version_comes_into_the_groups_that_there_are():
    before, after = lamp("a", "b", "x"), lamp("a", "b", "c", "x")
    scene = begun(before, FILE.file, np.zeros(3), np.ones(3))
    assert scene.part_groups["lamp-group"].name == "Lamp"
    moved = scene.part_groups["lamp-group"].model_copy(update={"turn_y": 90.0, "name": "Mine"})
    scene = scene.model_copy(update={"part_groups": {"lamp-group": moved}})
    newer, _ = swapped(scene, version_of(before), version_of(after), FILE)
    assert newer.part_groups == {"lamp-group": moved} and newer.parts["c"].group == "lamp-group"
    dissolved = scene.model_copy(update={"part_groups": {}})
    assert swapped(dissolved, version_of(before), version_of(after), FILE)[0].parts["c"].group is None
    grown = replace(lamp("a", "b", "x"), groups={})
    grown.parts = {key: one.model_copy(update={"group": None}) for key, one in grown.parts.items()}
    started = begun(grown, FILE.file, np.zeros(3), np.ones(3))
    newer, _ = swapped(started, version_of(grown), version_of(after), FILE)
    assert newer.parts["c"].group == "lamp-group" in newer.part_groups


def test_another_asset_is_a_group_that_holds_its_own():
    whole = joined([("1", "a.glb", lamp("a", "b", "x")), ("2", "b.glb", lamp("a", "b", "x", group="Base"))])
    assert whole.groups["2-asset"].name == "b.glb" and whole.groups["2-base-group"].group == "2-asset"
    assert whole.parts["2-x"].group == "2-asset" and whole.parts["x"].group is None


def test_what_is_in_a_group_out_of_sight_is_not_there_and_comes_back_as_it_was(scene):
    """Shown, moved on the time line, exported: the parts of a hidden group are missing, the others are not."""
    hidden = scene.model_copy(update={"part_groups": {
        key: group.model_copy(update={"visible": key != "outer"}) for key, group in scene.part_groups.items()
    }})  # fmt: skip
    inside = {key for key, part in scene.parts.items() if "outer" in above(scene, part)}
    assert inside and inside != set(scene.parts), "the test says something"
    assert {key for key, part in presence.seen(hidden).parts.items() if not part.visible} == inside
    assert presence.seen(scene) is scene
    engine = Engine(1)
    engine.open(scene, no_files, asset())

    def pictured(document):
        engine.apply(document, no_files)
        film = Film(96, 64)
        assert engine.trace(film, 1, view=View(Camera(position=(0.8, 1.3, 4), target=(0.8, 0.75, 0))))
        keys = engine.compiled.part_keys
        return {keys[n] for n in np.unique(film.parts()) if n >= 0}

    assert pictured(scene) == set(scene.parts)
    assert pictured(hidden) == set(scene.parts) - inside
    first = next(iter(inside))
    moved = hidden.parts | {first: hidden.parts[first].model_copy(update={"offset": (0.0, 3.0, 0.0)})}
    assert pictured(hidden.model_copy(update={"parts": moved})) == set(scene.parts) - inside
    moving = Motion(moves={"turn": Turntable(name="Turn", turns="asset")})
    assert pictured(hidden.model_copy(update={"motion": moving})) == set(scene.parts) - inside
    assert pictured(scene) == set(scene.parts)
    engine.close()
