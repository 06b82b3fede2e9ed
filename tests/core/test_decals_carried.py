"""Decals when what they lie on is sized, copied, cut apart, put together or kept for another project."""

import numpy as np
import pytest

from lantern.assets.imported import ImportedAsset
from lantern.engine.cutting import merged, split
from lantern.engine.engine import Engine
from lantern.scene.arranging import Duplicate, Strew, arranged
from lantern.scene.document import Asset, Part
from lantern.scene.editing import Document
from lantern.scene.forms import BallForm
from lantern.scene.lights import PointLight
from lantern.scene.model import FileRef
from lantern.scene.placed import PartGroup
from lantern.scene.standing import rescaled
from lantern.scene.starts import fitted, setup_of
from lantern.shaping.pieces import joined
from tests.core.shapes import box_mesh
from tests.core.test_decals import GREY, columns, halves, picture, rendered, scene_with
from tests.core.test_inputs import SIDE

ASSET = Asset(file=FileRef(sha256="0" * 64, name="a.glb"), name="A")


def edited(scene, patch):
    return Document.read(scene.plain()).patched(patch)[0].scene


@pytest.mark.parametrize(
    "sized",
    [
        {"part": {"size": 0.5}},
        {"part": {"group": "g"}, "part_groups": {"g": PartGroup(name="G", size=0.5)}},
    ],
)
def test_a_decal_grows_with_a_part_that_is_sized_by_hand_and_stays_on_its_surface(sized, tmp_path):
    part = Part(name="Part", mesh=1, material="m", **sized["part"])
    decal = picture(width=0.3, middle=(0.05, 0, 0.2), depth=0.02)
    scene, asset = scene_with([decal], {"part": part}, part_groups=sized.get("part_groups", {}))
    albedo = rendered(scene, asset, halves(tmp_path)).albedo[SIDE // 2]
    red = (np.flatnonzero(albedo[:, 0] > 0.3 + albedo[:, 2]) + 0.5) / SIDE - 0.5
    assert [red.min(), red.max()] == pytest.approx([-0.05, 0.025], abs=0.016)


def test_the_unit_that_a_file_says_is_not_taken_for_a_size_by_hand(tmp_path):
    """A tenth of a metre, in nodes of a file whose unit it is: the decal is in metres all the same."""
    part = Part(name="Part", mesh=1, material="m", matrix=(0.1, 0, 0, 0, 0, 0.1, 0, 0, 0, 0, 0.1, 0))
    decal = picture(width=0.3, middle=(0.05, 0, 0.2), depth=0.02)
    scene, asset = scene_with([decal], {"part": part}, asset=ASSET.model_copy(update={"scale": 10.0}))
    red = columns(rendered(scene, asset, halves(tmp_path)).albedo, 0)
    assert [red.min(), red.max()] == pytest.approx([-0.1, 0.05], abs=0.02)


@pytest.mark.parametrize("mirror", ["none", "x"])
def test_a_turn_is_counterclockwise_as_it_is_seen_on_a_mirrored_part_too(mirror, tmp_path):
    part = Part(name="Part", mesh=1, material="m", mirror=mirror)
    scene, asset = scene_with([picture(width=0.3, middle=(0, 0, 0.2), turn=90.0)], {"part": part})
    albedo = rendered(scene, asset, halves(tmp_path)).albedo
    column = albedo[:, albedo.shape[1] // 2]
    red, blue = (np.flatnonzero(column[:, a] > 0.3 + column[:, 2 - a]) for a in (0, 2))
    # What was to the left is below.
    assert len(red) and len(blue) and red.min() > blue.max()


def test_another_unit_of_the_asset_leaves_the_picture_as_it_was(tmp_path):
    """A label that is raised, on a part that gives lumens."""
    glowing = GREY.model_copy(update={"emission_lumens": 3.0})
    part = Part(name="Part", mesh=1, material="m")
    lamp = PointLight(name="L", position=(0.5, 0.5, 1.0), amount=20)
    decal = picture(width=0.3, middle=(0.05, 0, 0.2), depth=0.02, raised=0.002)
    scene, asset = scene_with([decal], {"part": part}, {"m": glowing}, lights={"l": lamp}, asset=ASSET)
    path = halves(tmp_path)
    larger = rescaled(scene, scene.asset, 10.0)
    one, other = (rendered(each, asset, path, 16).radiance for each in (scene, larger))
    assert one.mean() > 0.1
    assert np.abs(one - other).mean() < 0.02 * one.mean()
    assert larger.decals["d0"].raised == pytest.approx(0.02) and larger.decals["d0"].depth == pytest.approx(0.2)


def test_a_set_up_keeps_the_decals_of_its_own_pieces_alone_and_they_grow_with_it():
    parts = {
        "part": Part(name="Part", mesh=1, material="m"),
        "ball": Part(name="Ball", form=BallForm(radius=0.2), material="m"),
    }
    decals = [
        picture(), picture(parts=("ball", "part"), width=0.1, middle=(0, 0.2, 0.2)), picture(parts=("part", "ball")),
    ]  # fmt: skip
    glowing = GREY.model_copy(update={"emission_lumens": 5.0})
    scene, _ = scene_with(decals, parts, {"m": glowing}, asset=ASSET)
    kept = setup_of(scene)
    assert {key: decal.parts for key, decal in kept.decals.items()} == {"d1": ("ball",)}
    there = fitted(kept, ([-1, 0, -1], [1, 1, 1]), ([-2, 0, -2], [2, 2, 2]))
    assert there.decals["d1"].middle == pytest.approx((0, 0.4, 0.4)) and there.decals["d1"].width == pytest.approx(0.2)
    assert there.materials["m"].emission_lumens == pytest.approx(20.0)


def test_copies_and_what_is_strewn_have_the_decals_that_lay_on_them(tmp_path):
    parts = {
        "part": Part(name="Part", mesh=1, material="m", offset=(-0.2, 0, 0), size=0.8),
        "floor": Part(name="Floor", mesh=0, material="m"),
    }
    decals = [picture(name="Label", width=0.2, middle=(0, 0, 0.2), depth=0.02), picture(parts=("floor", "part"))]
    scene, asset = scene_with(decals, parts)
    boxes = {key: ([-0.2, -0.2, -0.2], [0.2, 0.2, 0.2]) for key in parts}
    twice = Duplicate(kind="duplicate", parts=("part",), count=2, step=(0.4, 0, 0))
    after = edited(scene, arranged(scene, twice, boxes).patch)
    made = {key: decal for key, decal in after.decals.items() if key not in scene.decals}
    assert [(decal.name, len(decal.parts)) for decal in made.values()] == [("Label 2", 1), ("Label 3", 1)]
    assert {decal.parts[0] for decal in made.values()} == after.parts.keys() - scene.parts.keys()
    red = columns(rendered(after, asset, halves(tmp_path)).albedo, 0)
    assert sum((red > 0.1) & (red < 0.25)) > 2, "the first copy has its label"

    strew = Strew(kind="strew", parts=("part",), over="floor")
    after = edited(scene, arranged(scene, strew, boxes).patch)
    (fresh,) = after.parts.keys() - scene.parts.keys()
    assert [decal.parts for key, decal in after.decals.items() if key not in scene.decals] == [(fresh,)]


@pytest.fixture
def two(tmp_path):
    """(scene, asset, path): two boxes, one mirrored and sized by hand, each with a label on its front."""
    parts = {
        "a": Part(name="A", mesh=1, material="m", offset=(-0.25, 0, 0)),
        "b": Part(name="B", mesh=1, material="m", offset=(0.25, 0, 0), size=0.8, mirror="x"),
    }
    front = {"depth": 0.03, "raised": 0.0}
    decals = [
        picture(width=0.2, middle=(0.03, 0, 0.2), parts=("a",), turn=20.0, **front),
        picture(width=0.3, middle=(0.03, -0.05, 0.2), parts=("b",), turn=20.0, **front),
    ]
    scene, asset = scene_with(decals, parts, asset=ASSET)
    return scene, asset, halves(tmp_path)


def test_decals_stay_where_they_are_when_their_parts_become_one_and_when_that_is_cut_again(two):
    scene, asset, path = two
    before = rendered(scene, asset, path).albedo
    engine = Engine(threads=2)
    engine.open(scene, lambda reference: path, asset)
    made = merged(engine, ["a", "b"])
    after = edited(scene, made.patch)
    assert {decal.parts for decal in after.decals.values()} == {(made.key,)}
    # Only at what is between two texels.
    assert np.abs(rendered(after, asset, path).albedo - before).mean() < 2e-3

    engine.apply(after, lambda reference: path)
    apart = edited(after, split(engine, [made.key]).patch)
    engine.close()
    assert len(apart.parts) == 2
    assert [len(decal.parts) for decal in apart.decals.values()] == [1, 1], "each on the piece that it lay on"
    assert {decal.parts[0] for decal in apart.decals.values()} == apart.parts.keys()
    assert np.abs(rendered(apart, asset, path).albedo - before).mean() < 2e-3


def test_a_part_that_is_cut_where_nothing_connects_it_keeps_its_decals(tmp_path):
    """One label across both pieces."""
    left, right = np.eye(4), np.eye(4)
    left[0, 3], right[0, 3] = -0.21, 0.21
    box = box_mesh((-0.2,) * 3, (0.2,) * 3)
    mesh = joined([(box, left), (box, right)])
    scene, _ = scene_with([picture(width=0.6, middle=(0, 0, 0.2), depth=0.02)], asset=ASSET)
    asset, path = ImportedAsset("test", "none", [mesh]), halves(tmp_path)
    engine = Engine(threads=2)
    engine.open(scene, lambda reference: path, asset)
    apart = edited(scene, split(engine, ["part"]).patch)
    engine.close()
    assert set(apart.decals["d0"].parts) == apart.parts.keys() and len(apart.parts) == 2
    one, other = (rendered(each, asset, path).albedo for each in (scene, apart))
    assert other == pytest.approx(one, abs=1e-4)
