"""Parts cut apart by what is connected, and put together: where they stand, how they look, what refers to them."""

from dataclasses import replace

import numpy as np
import pytest

from lantern.assets.imported import ImportedAsset
from lantern.assets.mesh import Mesh, MeshShapes
from lantern.assets.swapping import swapped, version_of
from lantern.compile.compiled import CompiledScene
from lantern.engine.cutting import merged, split
from lantern.engine.engine import Engine
from lantern.scene.document import Asset, Camera, Material, Part, PartSet, Scene
from lantern.scene.lights import PointLight
from lantern.scene.model import FileRef
from lantern.scene.patching import apply_operations
from lantern.scene.placed import PartGroup
from lantern.scene.reading import read_scene
from lantern.scene.scatter import Scatter
from lantern.scene.surroundings import Ground
from lantern.shaping import pieces
from lantern.shaping.pieces import components, joined, piece_of
from tests.core.shapes import box_mesh, no_files, sphere_mesh, traced

IDENTITY = np.eye(4)
FILE = Asset(file=FileRef(sha256="0" * 64, name="pair.glb"), name="Pair", scale=0.1, up="+z")


def shifted(x, y, z):
    matrix = np.eye(4)
    matrix[:3, 3] = x, y, z
    return matrix


def pair():
    """A ball of many triangles and two boxes beside it as one mesh: the boxes are the smaller pieces."""
    box = box_mesh((0, 0, 0), (1, 1, 1))
    ball = replace(sphere_mesh(0.6, 12), uvs=None)
    return joined([(box, shifted(3, 0, 0)), (ball, IDENTITY), (box, shifted(-3, 0, 0))])


@pytest.fixture
def engine():
    """The three things as one part in a turned group, beside a ball of another part."""
    asset = ImportedAsset("pair", "test", [pair(), sphere_mesh(0.5, 12)])
    parts = {
        "all": Part(name="All", mesh=0, material="m", group="g", turn_y=20, size=0.8),
        "ball": Part(name="Ball", mesh=1, material="n", matrix=(1, 0, 0, 0, 0, 1, 0, 2, 0, 0, 1, 1), mirror="x"),
    }
    scene = Scene(
        asset=FILE,
        parts=parts,
        part_groups={"g": PartGroup(name="G", turn_z=30, offset=(0.1, 0, 0))},
        part_sets={"s": PartSet(name="S", parts=("ball", "all"))},
        lights={"l": PointLight(name="L", position=(0.3, 0.6, 0.6), amount=2, unlit_parts=("all",))},
        materials={"m": Material(name="M", base_color=(0.7, 0.2, 0.1)), "n": Material(name="N")},
        camera=Camera(position=(0.2, 0.5, 1.4), target=(0, 0.1, 0), focal_length=50),
        ground=Ground(enabled=False),
    )
    engine = Engine(2)
    engine.open(scene, no_files, asset)
    yield engine
    engine.close()


def done(engine, made):
    """Apply what was made; the document's pictures before and after."""
    after = read_scene(apply_operations(engine.scene.plain(), made.patch)[0])
    assets = engine.asset
    pictures = [traced(scene, assets, 48).radiance() for scene in (engine.scene, after)]
    assert not engine.apply(after, no_files).recompiled
    return pictures


def test_pieces_are_what_is_connected_the_largest_first():
    labels = components(pair())
    assert len(np.unique(labels)) == 3 and (labels == 0).sum() > (labels == 1).sum() == (labels == 2).sum() == 12
    first = piece_of(pair(), labels == 1)
    assert first.positions[:, 0].min() == pytest.approx(3), "of equals the one that the file names first"
    assert len(first.positions) == len(box_mesh((0, 0, 0), (1, 1, 1)).positions)


def test_what_has_too_many_pieces_keeps_the_smallest_together(monkeypatch):
    monkeypatch.setattr(pieces, "MOST_PIECES", 2)
    assert sorted(np.bincount(components(pair())).tolist())[0] == 24


def test_a_split_part_looks_as_it_did_and_its_pieces_are_parts(engine):
    made = split(engine, ["all"])
    before, after = done(engine, made)
    assert after.mean() == pytest.approx(before.mean(), rel=5e-3)
    scene = engine.scene
    assert [part.name for part in scene.parts.values()] == ["Ball", "All 1", "All 2", "All 3"]
    assert scene.part_sets["s"].parts == ("ball", "all-1", "all-2", "all-3")
    assert scene.lights["l"].unlit_parts == ("all-1", "all-2", "all-3")
    boxes = engine.compiled.part_boxes(["all-2", "all-3"])
    assert boxes["all-2"][0][0] > boxes["all-3"][1][0], "one of the boxes stands to the right of the other"
    again = split(engine, ["all-1"])
    assert again is not None and not again.patch, "it is of one piece"
    assert split(engine, ["gone"]) is None


def test_merged_parts_stand_where_they_stood_and_split_into_what_they_were(engine):
    scene = engine.scene
    same = scene.parts["ball"].model_copy(update={"material": "m"})
    strewn = Part(name="Beads", mesh=1, material="n", size=0.05, strewn=Scatter(over="ball", density=100.0))
    engine.apply(scene.model_copy(update={"parts": scene.parts | {"ball": same, "beads": strewn}}), no_files)
    boxes = engine.compiled.part_boxes(["all", "ball"])
    made = merged(engine, ["all", "ball", "beads"])
    before, after = done(engine, made)
    assert np.abs(after - before).mean() < 0.02 * before.mean()
    assert set(engine.scene.parts) == {made.key, "beads"} and engine.scene.part_sets["s"].parts == (made.key,)
    assert engine.scene.parts["beads"].strewn.over == made.key
    low, high = engine.compiled.part_boxes([made.key])[made.key]
    assert low == pytest.approx(np.minimum(boxes["all"][0], boxes["ball"][0]), abs=1e-5)
    assert high == pytest.approx(np.maximum(boxes["all"][1], boxes["ball"][1]), abs=1e-5)
    done(engine, split(engine, [made.key]))
    found = [(low.tolist(), high.tolist()) for low, high in engine.compiled.part_boxes(
        [key for key in engine.scene.parts if key != "beads"]).values()]  # fmt: skip
    assert np.array(found) == pytest.approx(np.array([boxes["all"], boxes["ball"]]), abs=1e-5)
    assert merged(engine, ["beads", "gone"]) is None


def test_a_piece_is_subdivided_by_itself(engine):
    done(engine, split(engine, ["all"]))
    smooth = engine.scene.parts["all-2"].model_copy(update={"subdivision": "catmull_clark", "levels": 1})
    engine.apply(engine.scene.model_copy(update={"parts": engine.scene.parts | {"all-2": smooth}}), no_files)
    assert engine.foreseen(["all-2"]).proof == 48 and engine.foreseen(["all-3"]).proof == 12


def test_a_newer_version_has_the_pieces_again_by_their_meshes(engine):
    done(engine, split(engine, ["all"]))
    before = engine.asset
    parts = {key: Part(name=key, mesh=n, material="m") for n, key in enumerate(("all", "ball"))}
    old = replace(before, parts=parts, materials=dict(engine.scene.materials))
    other = {"lid": Part(name="lid", mesh=0, material="m")}
    turned = {key: part.model_copy(update={"mesh": part.mesh + 1}) for key, part in parts.items()}
    new = replace(old, parts=other | turned, meshes=[box_mesh((0, 0, 0), (1, 1, 1)), *before.meshes])
    after, _ = swapped(engine.scene, version_of(old), version_of(new), FILE)
    assert {part.pieces[0].mesh for key, part in after.parts.items() if key.startswith("all-")} == {1}
    compiled = CompiledScene(after, new, None)
    for key, (low, high) in engine.compiled.part_boxes(["all-1", "all-2", "all-3"]).items():
        assert np.allclose(compiled.part_boxes([key])[key], [low, high], atol=1e-5)
    gone = replace(new, parts={"lid": other["lid"], "ball": turned["ball"]})
    left, _ = swapped(engine.scene, version_of(old), version_of(gone), FILE)
    assert not [key for key in left.parts if key.startswith("all-")]


def test_what_changes_its_shape_is_split_but_not_merged():
    mesh = pair()
    moved = np.stack([mesh.positions, mesh.positions + np.float32([0, 1, 0])])
    mesh = replace(mesh, shapes=MeshShapes((0.0, 1.0), moved, np.stack([mesh.normals] * 2)))
    asset = ImportedAsset("pair", "test", [mesh])
    parts = {key: Part(name=key, mesh=0, material="m") for key in "ab"}
    scene = Scene(asset=FILE, parts=parts, materials={"m": Material(name="M")})
    engine = Engine(1)
    engine.open(scene, no_files, asset)
    assert merged(engine, ["a", "b"]) is None
    made = split(engine, ["a"])
    after = read_scene(apply_operations(scene.plain(), made.patch)[0])
    shown = after.model_copy(update={"shutter": after.shutter.model_copy(update={"time": 1.0})})
    low = [CompiledScene(one, asset, None).part_boxes(["a-2"])["a-2"][0] for one in (after, shown)]
    assert low[1] - low[0] == pytest.approx([0, 0, -0.1], abs=1e-6), "up in the file is away from the camera"
    engine.close()


def test_uv_sets_and_colours_that_not_all_have_are_left_out():
    bare = box_mesh((0, 0, 0), (1, 1, 1))
    full = Mesh(bare.positions, bare.indices, bare.normals, np.zeros((2, len(bare.positions), 2), np.float32), None,
                None, np.ones((len(bare.positions), 4), np.float32))  # fmt: skip
    assert joined([(full, IDENTITY), (bare, IDENTITY)]).uvs is None
    both = joined([(full, IDENTITY), (full, np.diag([-1.0, 1, 1, 1]))])
    assert both.uvs.shape == (2, 2 * len(bare.positions), 2) and both.colors.shape == (2 * len(bare.positions), 4)
    corners = both.positions[both.indices]
    outward = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    assert (np.einsum("ni,ni->n", outward, both.normals[both.indices[:, 0]]) > 0).all(), "also where it is mirrored"
