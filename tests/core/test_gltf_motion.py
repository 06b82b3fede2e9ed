"""Animated glTF files: keys of parts, shapes of meshes, and what is wrong with them."""

import math

import numpy as np
import pytest

from lantern.assets.beginning import begun
from lantern.assets.errors import AssetError
from lantern.assets.reading import import_asset
from lantern.engine.engine import Engine
from lantern.engine.from_file import through_camera, with_clip
from lantern.film.film import Film
from lantern.motion.poses import part_pose, part_poses
from lantern.scene.document import Asset, Camera, Scene, Shutter
from lantern.scene.model import FileRef
from lantern.scene.patching import apply_operations
from lantern.scene.reading import read_scene
from lantern.scene.surroundings import Backdrop, Environment, Ground
from tests.core.gltf_files import binary, document, glb


class Animated:
    """`document` with more accessors, and channels that read them."""

    def __init__(self):
        self.content, self.data = document(), binary()
        self.content["animations"] = [{"channels": [], "samplers": []}]

    def accessor(self, values, kind):
        array = np.asarray(values, "<f4")
        self.data += b"\0" * (-len(self.data) % 4)
        self.content["bufferViews"].append({"buffer": 0, "byteOffset": len(self.data), "byteLength": array.nbytes})
        count = array.size // {"SCALAR": 1, "VEC3": 3, "VEC4": 4}[kind]
        view = len(self.content["bufferViews"]) - 1
        self.content["accessors"].append({"bufferView": view, "componentType": 5126, "count": count, "type": kind})
        self.data += array.tobytes()
        self.content["buffers"][0]["byteLength"] = len(self.data)
        return len(self.content["accessors"]) - 1

    def channel(self, node, path, times, values, interpolation="LINEAR"):
        animation = self.content["animations"][0]
        kind = {"translation": "VEC3", "scale": "VEC3", "rotation": "VEC4", "weights": "SCALAR"}[path]
        sampler = {"input": self.accessor(times, "SCALAR"), "output": self.accessor(values, kind)}
        animation["samplers"].append(sampler | {"interpolation": interpolation})
        target = {"node": node, "path": path}
        animation["channels"].append({"sampler": len(animation["samplers"]) - 1, "target": target})
        return self

    def shape(self, weights=None, **shifts):
        target = {name: self.accessor(values, "VEC3") for name, values in shifts.items()}
        self.content["meshes"][0]["primitives"][0].setdefault("targets", []).append(target)
        if weights is not None:
            self.content["meshes"][0]["weights"] = weights
        return self

    def written(self, folder):
        path = folder / "moving.glb"
        path.write_bytes(glb(self.content, self.data))
        return path

    def imported(self, folder):
        return import_asset(self.written(folder))


def turn(axis, degrees):
    half = math.radians(degrees) / 2
    return [*(math.sin(half) * np.array(axis)), math.cos(half)]


def moved(asset, time, point=(0, 0, 0)):
    (part,) = asset.parts.values()
    pose = part_pose(part, time)
    return pose[:, :3] @ point + pose[:, 3]


def test_a_node_that_moves_becomes_keys(tmp_path):
    asset = Animated().channel(0, "translation", [1, 3], [[0, 0, 0], [4, 0, 2]]).imported(tmp_path)
    (part,) = asset.parts.values()
    assert [key.time for key in part.keys] == [1, 3]
    assert moved(asset, 0) == pytest.approx([0, 0, 0]) and moved(asset, 9) == pytest.approx([4, 0, 2])
    assert moved(asset, 1.5) == pytest.approx([1, 0, 0.5])
    assert moved(asset, 1.5, (1, 0, 0)) == pytest.approx([3, 0, 0.5]), "its scale is that of the node at rest"


def test_turns_follow_the_shorter_arc_at_an_even_rate(tmp_path):
    start, end = turn((0, 0, 1), 20), [-v for v in turn((0, 0, 1), 140)]
    asset = Animated().channel(0, "rotation", [0, 4], [start, end]).imported(tmp_path)
    for time in (0, 1, 2.5, 4):
        angle = math.radians(20 + 120 * time / 4)
        place = moved(asset, time, (1, 0, 0)) - moved(asset, time)
        assert place == pytest.approx([2 * math.cos(angle), 2 * math.sin(angle), 0], abs=1e-6)


def test_sudden_changes_stay_sudden_and_curves_stay_curves(tmp_path):
    steps = Animated().channel(0, "translation", [0, 1, 2], [[0, 0, 0], [1, 0, 0], [5, 0, 0]], "STEP")
    asset = steps.imported(tmp_path)
    assert moved(asset, 0.999)[0] == 0 and moved(asset, 1.0)[0] == 1 and moved(asset, 1.9)[0] == 1
    # Value, and tangents into and out of it: y = t² from 0 to 2.
    knots = [[0, 0, 0], [0, 0, 0], [0, 0, 0], [0, 4, 0], [0, 4, 0], [0, 0, 0]]
    asset = Animated().channel(0, "translation", [0, 2], knots, "CUBICSPLINE").imported(tmp_path)
    for time in np.linspace(0, 2, 9):
        assert moved(asset, time)[1] == pytest.approx(time**2, abs=0.07)


def test_motion_adds_up_down_the_nodes(tmp_path):
    file = Animated()
    file.content["scenes"][0]["nodes"] = [1]
    file.content["nodes"].append({"children": [0]})
    quarter = [turn((0, 1, 0), 0), turn((0, 1, 0), 90)]
    file.channel(1, "rotation", [0, 2], quarter).channel(0, "translation", [0, 1, 2], [[1, 0, 0], [1, 2, 0], [3, 2, 0]])
    asset = file.imported(tmp_path)
    for time in (0, 0.3, 0.75, 1.25, 2):
        angle, far = math.radians(45 * time), 1 + 2 * max(time - 1, 0)
        expected = [far * math.cos(angle), 2 * min(time, 1), -far * math.sin(angle)]
        assert moved(asset, time) == pytest.approx(expected, abs=0.03)


def test_shapes_are_mixed_at_rest_and_over_time(tmp_path):
    lifted = [[0, 0, 0], [0, 0, 0], [0, 0, 1], [0, 0, 1]]
    still = Animated().shape([0.5], POSITION=lifted).imported(tmp_path)
    assert still.meshes[0].shapes is None
    assert still.meshes[0].positions[:, 2].max() == 0.5
    file = Animated().shape([0.5], POSITION=lifted)
    file.content["nodes"][0]["weights"] = [0.25]
    assert file.imported(tmp_path).meshes[0].positions[:, 2].max() == 0.25, "the node's own weights count"
    moving = Animated().shape([0.0], POSITION=lifted).channel(0, "weights", [0, 1, 3], [0, 1, -1]).imported(tmp_path)
    shapes = moving.meshes[0].shapes
    assert shapes.times == (0, 1, 3)
    assert shapes.positions[:, :, 2].max(1).tolist() == [0, 1, 0] and shapes.positions[2, :, 2].min() == -1
    # The file has no normals: they are those of the triangles, at every moment.
    slope = 1 / math.sqrt(2)
    assert shapes.normals[1, 0] == pytest.approx([0, -slope, slope], abs=1e-6)


def test_the_picture_shows_the_moment_and_the_time_the_shutter_is_open(tmp_path):
    asset = Animated().channel(0, "translation", [0, 1], [[-3, 0, 0], [1, 0, 0]]).imported(tmp_path)
    camera = Camera(position=(0, 1, 20), target=(0, 1, 0), projection="orthographic", focus_distance=20)

    def shown(**shutter):
        scene = Scene(
            parts=asset.parts, materials=asset.materials, camera=camera, shutter=Shutter(**shutter),
            ground=Ground(enabled=False), backdrop=Backdrop(color=(0, 0, 0)), environment=Environment(),
        )  # fmt: skip
        engine = Engine(2)
        engine.open(scene, lambda reference: tmp_path, asset)
        assert engine.moves
        film = Film(96, 64)
        engine.trace(film, 32)
        engine.close()
        return film.means().alpha.sum(0)

    early, late = (np.average(np.arange(96), weights=shown(time=t)) for t in (0.25, 0.75))
    assert late > early + 10
    sharp, streak = shown(time=0.5), shown(time=0.5, opens=-0.25, closes=0.25)
    assert (streak > 1).sum() > 1.5 * (sharp > 1).sum() and streak.sum() == pytest.approx(sharp.sum(), rel=0.02)


LOST = {"sampler": 7, "target": {"node": 0, "path": "scale"}}


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda f: f.channel(0, "translation", [1, 1], [[0, 0, 0], [1, 0, 0]]), "times do not rise"),
        (lambda f: f.channel(0, "translation", [0, 1], [[0, 0, 0]]), "1 values for 2 times"),
        (lambda f: f.channel(0, "translation", [0, 1], [[0, 0, 0], [math.inf, 0, 0]]), "not finite"),
        (lambda f: f.content["animations"][0]["channels"].append(LOST), "sampler 7 is missing"),
        (lambda f: f.shape([0, 0], POSITION=[[0, 0, 0]] * 4), "2 weights for 1 shapes"),
        (lambda f: f.shape([0], POSITION=[[0, 0, 0]] * 3), "POSITION cannot be used"),
    ],
)  # fmt: skip
def test_damaged_motion_is_refused_with_a_reason(tmp_path, change, words):
    file = Animated()
    change(file)
    with pytest.raises(AssetError, match=words):
        file.imported(tmp_path)


def test_what_is_not_used_is_told(tmp_path):
    file = Animated().channel(0, "translation", [0, 1], [[0, 0, 0], [1, 0, 0]])
    file.content["animations"][0]["channels"].append({"sampler": 0, "target": {"node": 0, "path": "pointer"}})
    file.content["nodes"][0]["skin"] = 0
    file.content["skins"] = [{"joints": [0]}]
    asset = file.imported(tmp_path)
    assert len(asset.problems) == 2
    assert all(any(word in p for p in asset.problems) for word in ("what it moves", "skin"))
    assert next(iter(asset.parts.values())).keys


def two_clips():
    """A node that goes right in one clip, and in another, by a pointer, up."""
    file = Animated().channel(0, "translation", [0, 2], [[0, 0, 0], [2, 0, 0]])
    first = file.content["animations"][0] | {"name": "Slide"}
    file.content["animations"][0] = {"channels": [], "samplers": []}
    file.channel(0, "translation", [0, 1], [[0, 0, 0], [0, 3, 0]])
    pointer = {"pointer": "/nodes/0/translation"}
    target = {"path": "pointer", "extensions": {"KHR_animation_pointer": pointer}}
    file.content["animations"][0]["channels"][0]["target"] = target
    file.content["extensionsUsed"] = file.content["extensionsRequired"] = ["KHR_animation_pointer"]
    file.content["animations"] = [first, *file.content["animations"]]
    return file


def test_every_clip_can_be_had_by_its_name(tmp_path):
    path = two_clips().written(tmp_path)
    first, other, unknown = (import_asset(path, clip=clip) for clip in (None, "Clip 2", "Jump"))
    assert first.clips == ["Slide", "Clip 2"] and not first.problems
    assert moved(first, 2) == pytest.approx([2, 0, 0]) and moved(other, 2) == pytest.approx([0, 3, 0])
    assert moved(unknown, 2) == pytest.approx([2, 0, 0]) and "no clip 'Jump'" in unknown.problems[0]


def test_another_clip_is_taken_without_losing_what_was_done(tmp_path):
    path = two_clips().written(tmp_path)
    asset = import_asset(path)
    scene = begun(asset, FileRef(sha256="0" * 64, name="moving.glb"), np.zeros(3), np.ones(3))
    key, part = next(iter(scene.parts.items()))
    mine = part.model_copy(update={"offset": (0.0, 0.0, 5.0), "name": "Mine", "visible": False})
    scene = scene.model_copy(update={"parts": {key: mine, "copy": part}})
    engine = Engine(1)
    engine.open(scene, lambda _: path, asset)
    made = with_clip(engine, "Clip 2", lambda _: path)
    assert made.label == "Clip Clip 2" and with_clip(engine, "Jump", lambda _: path) is None
    after = read_scene(apply_operations(scene.plain(), made.patch)[0])
    assert after.asset.clip == "Clip 2" and (after.parts[key].name, after.parts[key].visible) == ("Mine", False)
    for one, offset in ((after.parts[key], 5.0), (after.parts["copy"], 0.0)):
        assert part_poses(one, Shutter(time=1.0))[0][:, 3] == pytest.approx([0, 3, offset])
    assert engine.apply(after, lambda _: path).recompiled, "its meshes may have other shapes"
    engine.close()


def test_a_camera_of_the_file_is_looked_through(tmp_path):
    file = two_clips()
    file.content["cameras"] = [{"type": "perspective", "perspective": {"yfov": 0.5, "znear": 0.01}}]
    file.content["nodes"].append({"camera": 0, "name": "Front", "translation": [0, 0, 4]})
    file.content["scenes"][0]["nodes"].append(len(file.content["nodes"]) - 1)
    path = file.written(tmp_path)
    engine = Engine(1)
    engine.open(Scene(asset=Asset(file=FileRef(sha256="0" * 64, name="a.glb"), name="A")), lambda _: path)
    made = through_camera(engine, 0)
    after = read_scene(apply_operations(engine.scene.plain(), made.patch)[0])
    assert made.label == "See as Front" and after.camera.position == (0, 0, 4) and after.camera.target[2] == 3
    assert through_camera(engine, 1) is None
    engine.close()
