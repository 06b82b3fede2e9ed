"""Another version of an asset: what was done to the parts stays, and the table tells what became of each."""

from dataclasses import replace

import numpy as np
import pytest

from lantern.assets.beginning import begun
from lantern.assets.imported import ImportedAsset
from lantern.assets.swapping import Version, matched_by_hand, swapped, version_of
from lantern.assets.textures import Texture
from lantern.compile.compiled import CompiledScene
from lantern.motion.bounds import bounds_of, mesh_points
from lantern.scene.arranging import Duplicate, Remove, arranged
from lantern.scene.document import Asset, Material, Part, PartSet, Scene, Shutter
from lantern.scene.editing import apply_patch
from lantern.scene.inputs import MaterialInput
from lantern.scene.model import FileRef
from lantern.scene.placing import Places, stand_of
from lantern.scene.reading import read_scene
from lantern.scene.scatter import Scatter
from lantern.scene.sources import ImageSource
from lantern.scene.texture_use import TextureUse
from tests.core.shapes import box_mesh, sphere_mesh

FOOT, LID, BALL = box_mesh((0, 0, 0), (1, 1, 1)), box_mesh((0, 1, 0), (1, 1.2, 1)), sphere_mesh(0.5, 16)
OLD, NEW = (FileRef(sha256=digit * 64, name="case.glb") for digit in "12")
USE = TextureUse(texture=1)


def standing(x, y, z):
    return (1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, z)


def asset_of(**parts):
    """Parts by key: (name, mesh, material, place)."""
    meshes, made = [], {}
    for key, (name, mesh, material, place) in parts.items():
        meshes.append(mesh)
        made[key] = Part(name=name, mesh=len(meshes) - 1, material=material, matrix=standing(*place))
    materials = {"wood": Material(name="Wood", base_color_texture=USE), "brass": Material(name="Brass")}
    texel = Texture(np.zeros((1, 1, 4), np.uint8), 0, 0)
    return ImportedAsset("Case", "test", meshes, made, materials, [texel] * 3)


BEFORE = asset_of(
    foot=("Foot", FOOT, "wood", (0, 0, 0)), lid=("Lid", LID, "wood", (0, 0, 0)), ball=("Ball", BALL, "brass", (3, 0, 0))
)


@pytest.fixture
def scene():
    """A project of the asset, in centimetres, on which somebody has worked."""
    made = begun(BEFORE, OLD, np.zeros(3), np.ones(3))
    parts = dict(made.parts)
    parts["foot"] = parts["foot"].model_copy(update={"name": "Base", "material": "brass", "offset": (0.01, 0, 0)})
    parts["lid"] = parts["lid"].model_copy(update={"visible": False, "turn_y": 30})
    sets = {"set-1": PartSet(name="Top", parts=("lid", "ball"))}
    return made.model_copy(update={"parts": parts, "part_sets": sets})


def exchanged(scene, asset):
    after, rows = swapped(scene, version_of(BEFORE), version_of(asset), Asset(file=NEW, name="Case"))
    read_scene(after.plain())
    return after, {row.name: row.state for row in rows}


def test_what_was_done_to_parts_stays(scene):
    taller = box_mesh((0, 0, 0), (1, 2, 1))
    newer = asset_of(
        foot=("Foot", taller, "wood", (0, 0, 0)),
        lid=("Lid", LID, "wood", (0, 1, 0)),
        ball=("Ball", BALL, "brass", (3, 0, 0)),
    )
    after, states = exchanged(scene, newer)
    assert states == {"Base": "changed", "Lid": "moved", "Ball": "same"}
    assert after.asset.file == NEW and after.part_sets == scene.part_sets
    foot, lid = after.parts["foot"], after.parts["lid"]
    assert (foot.name, foot.material, foot.offset) == ("Base", "brass", (0.01, 0, 0))
    assert (lid.visible, lid.turn_y, lid.matrix[7]) == (False, 30, 1)
    assert foot.pivot == (0.5, 1, 0.5), "it is turned about its new middle"


def test_parts_are_known_by_name_and_shape_when_their_keys_are_others(scene):
    newer = asset_of(
        **{"case-foot": ("Foot", FOOT, "wood", (0, 0, 0)), "sphere-7": ("Sphere.007", BALL, "brass", (3, 0, 0)),
           "handle": ("Handle", box_mesh((0, 0, 0), (3, 1, 1)), "steel", (0, 2, 0))}
    )  # fmt: skip
    newer.materials["steel"] = Material(name="Steel")
    after, states = exchanged(scene, newer)
    assert states == {"Base": "same", "Ball": "same", "Handle": "new", "Lid": "gone"}
    assert set(after.parts) == {"foot", "ball", "handle"} and after.parts["handle"].material == "steel"
    assert after.part_sets["set-1"].parts == ("lid", "ball"), "in case it comes back"


def test_images_are_those_of_the_newer_version(scene):
    own = scene.materials["wood"].model_copy(update={"name": "Stained", "base_color": (0.5, 0.2, 0.1)})
    scene = scene.model_copy(update={"materials": {**scene.materials, "wood-1": own}})
    newer = asset_of(foot=("Foot", FOOT, "wood", (0, 0, 0)))
    newer.materials["wood"] = Material(name="Wood", base_color_texture=TextureUse(texture=2), coat_weight=1.0)
    after, _ = exchanged(scene, newer)
    assert after.materials["wood"].base_color_texture.texture == 2 and after.materials["wood"].coat_weight == 0
    stained = after.materials["wood-1"]
    assert stained.base_color_texture.texture == 2 and stained.base_color == (0.5, 0.2, 0.1)
    bare = asset_of(foot=("Foot", FOOT, "brass", (0, 0, 0)))
    del bare.materials["wood"]
    assert exchanged(scene, bare)[0].materials["wood-1"].base_color_texture is None


def test_images_of_inputs_are_those_in_their_places(scene):
    inputs = {"coat_weight": MaterialInput(source=ImageSource(texture=USE.texture)), "bump": MaterialInput()}
    own = scene.materials["wood"].model_copy(update={"inputs": inputs})
    scene = scene.model_copy(update={"materials": {**scene.materials, "wood-1": own}})
    newer = asset_of(foot=("Foot", FOOT, "wood", (0, 0, 0)))
    newer.materials["wood"] = Material(name="Wood", base_color_texture=TextureUse(texture=2))
    after = exchanged(scene, newer)[0].materials["wood-1"].inputs
    assert after["coat_weight"].source.texture == 2 and after["bump"] == inputs["bump"]
    bare = asset_of(foot=("Foot", FOOT, "brass", (0, 0, 0)))
    del bare.materials["wood"]
    assert list(exchanged(scene, bare)[0].materials["wood-1"].inputs) == ["bump"]


def test_copies_go_with_what_they_are_copies_of_and_what_was_removed_stays_away(scene):
    boxes = {"ball": ((2.5, -0.5, -0.5), (3.5, 0.5, 0.5)), "lid": ((0, 1, 0), (1, 1.2, 1))}

    def done(document, operation):
        return read_scene(apply_patch(document.plain(), arranged(document, operation, boxes).patch)[0])

    copied = done(scene, Duplicate(kind="duplicate", parts=("ball",), step=(0, 0, 1)))
    removed = done(copied, Remove(kind="remove", parts=("lid",)))
    shuffled = asset_of(
        extra=("Extra", LID, "wood", (9, 0, 0)),
        foot=("Foot", FOOT, "wood", (0, 0, 0)),
        ball=("Ball", BALL, "brass", (3, 0, 0)),
        lid=("Lid", LID, "wood", (0, 0, 0)),
    )
    after, states = exchanged(removed, shuffled)
    assert states == {"Base": "same", "Ball": "same", "Ball 2": "same", "Extra": "new"}
    assert after.parts["ball-1"].mesh == after.parts["ball"].mesh == 2 and "lid" not in after.parts


def test_a_unit_that_was_put_right_stays_right(scene):
    small = scene.model_copy(update={"asset": scene.asset.model_copy(update={"scale": 0.01, "up": "+z"})})
    turned = {key: part.model_copy(update={"pivot": _stood(small, part.pivot)}) for key, part in small.parts.items()}
    small = small.model_copy(update={"parts": turned})
    moved = asset_of(**{
        key: (part.name, BEFORE.meshes[part.mesh], part.material, (0, 0, 5)) for key, part in BEFORE.parts.items()
    })  # fmt: skip
    after, _ = exchanged(small, moved)
    assert (after.asset.scale, after.asset.up) == (0.01, "+z")
    low, high = bounds_of(mesh_points(moved.meshes, Shutter()), [after.parts["ball"]], Shutter(), Places.of(after))
    assert (low + high) / 2 == pytest.approx(after.parts["ball"].pivot, abs=1e-6)


def _stood(scene, point):
    return tuple((stand_of(scene.asset)[:3, :3] @ np.array(point)).tolist())


def test_a_part_stretched_by_hand_stays_stretched(scene):
    parts = dict(scene.parts)
    parts["ball"] = parts["ball"].model_copy(update={"matrix": (2, 0, 0, 3, 0, 1, 0, 0, 0, 0, 1, 0)})
    newer = replace(
        BEFORE, parts={**BEFORE.parts, "ball": BEFORE.parts["ball"].model_copy(update={"matrix": standing(3, 7, 0)})}
    )
    after, _ = exchanged(scene.model_copy(update={"parts": parts}), newer)
    assert after.parts["ball"].matrix == pytest.approx((2, 0, 0, 3, 0, 1, 0, 7, 0, 0, 1, 0))


def test_an_empty_project_takes_everything():
    newer = asset_of(foot=("Foot", FOOT, "wood", (0, 0, 0)))
    after, rows = swapped(Scene(), Version({}, {}, {}), version_of(newer), Asset(file=NEW, name="Case"))
    assert [row.state for row in rows] == ["new"] and after.materials["wood"].base_color_texture == USE


def test_images_of_parts_are_those_in_their_places_also_when_matched_by_hand(scene):
    """The wood's image was number 1 and is 0 now: what displaces and what masks follow."""
    scatter = Scatter(over="foot", mask=USE)
    own = {"displacement_texture": USE, "strewn": scatter}
    lid = scene.parts["lid"].model_copy(update=own)
    scene = scene.model_copy(update={"parts": scene.parts | {"lid": lid}})
    first = USE.model_copy(update={"texture": 0})

    def newer(**parts):
        made = asset_of(foot=("Foot", FOOT, "wood", (0, 0, 0)), **parts)
        made.materials["wood"] = made.materials["wood"].model_copy(update={"base_color_texture": first})
        made.textures = made.textures[:1]
        return made

    kept, _ = exchanged(scene, newer(lid=("Lid", LID, "wood", (0, 0, 0))))
    taller = box_mesh((0, 1, 0), (1, 1.5, 1))
    replaced = newer(cover=("Cover", taller, "brass", (0, 0, 0)))
    after, _ = exchanged(scene, replaced)
    matched = matched_by_hand(scene, after, {"cover": "lid"})
    for one in (kept.parts["lid"], matched.parts["lid"]):
        assert one.displacement_texture == first and one.strewn.mask == first
    assert matched.parts["lid"].turn_y == 30 and "cover" not in matched.parts
    CompiledScene(matched, replaced, None)
