"""Skinned glTF files: vertices go where their joints go (glTF 2.0, section 3.7.3)."""

import numpy as np
import pytest

from lantern.assets.errors import AssetError
from lantern.motion.bounds import bounds_of, mesh_points
from lantern.scene.document import Shutter
from tests.core.gltf_files import POSITIONS
from tests.core.test_gltf_motion import Animated, turn

HALF = [[1, 0, 0, 0], [1, 0, 0, 0], [0, 1, 0, 0], [0, 1, 0, 0]]
"""The lower two corners of the square hang on the first joint, the upper two on the second."""


class Skinned(Animated):
    """The square with two joints, the second a child of the first, 1 above it; the node of the mesh is far away."""

    def __init__(self, weights=HALF, joints=((0, 1, 0, 0),) * 4, bind=True):
        super().__init__()
        primitive = self.content["meshes"][0]["primitives"][0]
        primitive["attributes"]["WEIGHTS_0"] = self.accessor(weights, "VEC4")
        primitive["attributes"]["JOINTS_0"] = self.accessor(joints, "VEC4")
        self.content["nodes"] = [
            {"name": "Square", "mesh": 0, "skin": 0, "translation": [100, 200, 300]},
            {"name": "Lower", "children": [2]},
            {"name": "Upper", "translation": [0, 1, 0]},
        ]
        self.content["scenes"] = [{"nodes": [0, 1]}]
        self.content["skins"] = [{"joints": [1, 2]}]
        if bind:
            down = np.eye(4)
            down[1, 3] = -1
            self.content["skins"][0]["inverseBindMatrices"] = self.matrices([np.eye(4), down])

    def matrices(self, values):
        number = self.accessor(np.stack(values).transpose(0, 2, 1).reshape(-1, 4), "VEC4")
        self.content["accessors"][number] |= {"type": "MAT4", "count": len(values)}
        return number


def corners(asset, time=0.0):
    (part,) = asset.parts.values()
    low, high = bounds_of(mesh_points(asset.meshes, Shutter(time=time)), [part], Shutter(time=time))
    return low.round(4).tolist(), high.round(4).tolist()


def test_a_skin_at_rest_is_as_its_mesh_wherever_its_node_is(tmp_path):
    asset = Skinned().imported(tmp_path)
    assert corners(asset) == ([0, 0, 0], [1, 1, 0]) and not asset.problems
    assert sorted(map(tuple, np.unique(asset.meshes[0].positions, axis=0).tolist())) == sorted(
        map(tuple, POSITIONS.tolist())
    )


def test_vertices_follow_their_joint_and_its_parents(tmp_path):
    file = Skinned()
    file.content["nodes"][1]["translation"] = [5, 0, 0]
    file.channel(2, "translation", [0, 1], [[0, 1, 0], [0, 3, 0]])
    asset = file.imported(tmp_path)
    assert corners(asset) == ([5, 0, 0], [6, 1, 0])
    assert corners(asset, 1.0) == ([5, 0, 0], [6, 3, 0])
    assert corners(asset, 0.5) == ([5, 0, 0], [6, 2, 0])


def test_a_turning_joint_carries_round_and_turns_normals(tmp_path):
    file = Skinned().channel(2, "rotation", [0, 1], [turn([1, 0, 0], 0), turn([1, 0, 0], 90)])
    asset = file.imported(tmp_path)
    # The upper joint is at the height of the upper corners: they stay, whatever it does.
    assert corners(asset, 1.0) == ([0, 0, 0], [1, 1, 0])
    everything = Skinned(weights=[[0, 1, 0, 0]] * 4).channel(
        2, "rotation", [0, 1], [turn([1, 0, 0], 0), turn([1, 0, 0], 90)]
    )  # fmt: skip
    asset = everything.imported(tmp_path)
    assert corners(asset, 1.0) == ([0, 1, -1], [1, 1, 0]), "about the upper edge, backwards"
    # Half way it is as long as before: a chord between the two ends would be shorter.
    low, high = corners(asset, 0.5)
    assert np.hypot(high[1] - low[1], high[2] - low[2]) == pytest.approx(1, abs=0.01)
    shapes = asset.meshes[0].shapes
    assert np.abs(shapes.normals[-1] @ [0, 1, 0]) == pytest.approx(1, abs=1e-4)


def test_weights_that_do_not_add_up_are_made_to(tmp_path):
    file = Skinned(weights=[[0.25, 0.25, 0, 0]] * 4)
    file.content["nodes"][2]["translation"] = [0, 3, 0]
    assert corners(file.imported(tmp_path)) == ([0, 1, 0], [1, 2, 0]), "half of the way that the upper joint went"


def test_one_mesh_with_two_skins_is_two(tmp_path):
    file = Skinned()
    file.content["nodes"] += [{"mesh": 0, "skin": 1}, {"name": "Far", "translation": [9, 0, 0]}]
    file.content["skins"].append({"joints": [4, 4]})
    file.content["scenes"][0]["nodes"] += [3, 4]
    asset = file.imported(tmp_path)
    assert len(asset.meshes) == 2 and asset.meshes[1].positions[:, 0].min() == 9


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda c: c["nodes"][0].update(skin=7), "skin 7 is missing"),
        (lambda c: c["skins"][0].update(joints=[1, 99]), "joint that is missing"),
        (lambda c: c["skins"][0].update(joints=[1]), "joint 1 is out of range, there are 1"),
        (lambda c: c["nodes"][2].update(children=[1]), "its own descendants"),
        (lambda c: c["skins"][0].update(inverseBindMatrices=0), "MAT4"),
    ],
)
def test_a_skin_that_cannot_be_used_is_refused_by_its_place(tmp_path, change, words):
    file = Skinned()
    change(file.content)
    with pytest.raises(AssetError, match=words):
        file.imported(tmp_path)
