"""The import report: what is odd is counted, and each repair does what it says."""

from dataclasses import replace

import numpy as np
import pytest

from lantern.assets.faults import fault_lines
from lantern.assets.imported import ImportedAsset
from lantern.assets.inspecting import inspect
from lantern.assets.textures import Texture
from lantern.scene.document import Material, Part, Scene
from lantern.scene.editing import apply_patch
from lantern.scene.reading import read_scene
from lantern.scene.texture_use import TextureUse
from lantern.scene.units import likely_unit
from tests.core.shapes import box_mesh, sphere_mesh

BOX = box_mesh((0, 0, 0), (1, 1, 1))


def found(*meshes, materials=None, size=1.0, textures=(), parts=None):
    materials = materials or {"clay": Material(name="Clay")}
    first = next(iter(materials))
    parts = parts or {f"p{n}": Part(name=f"P{n}", mesh=n, material=first) for n in range(len(meshes))}
    asset = ImportedAsset("Test", "test", list(meshes), parts, materials, list(textures))
    scene = Scene(parts=parts, materials=materials)
    return {finding.kind: finding for finding in inspect(asset, scene, size)}, scene


def repaired(scene, finding):
    return read_scene(apply_patch(scene.plain(), finding.repair)[0])


def test_nothing_is_odd_about_a_box_and_a_ball():
    findings, _ = found(BOX, sphere_mesh(rings=32))
    assert list(findings) == ["flat"], "the ball's triangles at its poles"


def test_open_doubled_crowded_and_flat_faces_are_counted():
    lidless = replace(BOX, indices=BOX.indices[2:])
    assert found(lidless)[0]["open"].count == 4
    twice = replace(BOX, indices=np.concatenate([BOX.indices, BOX.indices[:3]]))
    findings, _ = found(twice, BOX)
    assert findings["doubled"].count == 3 and findings["doubled"].parts == ("p0",)
    beside = box_mesh((1, 1, 0), (2, 2, 1))
    both = replace(
        BOX,
        positions=np.concatenate([BOX.positions, beside.positions]),
        indices=np.concatenate([BOX.indices, beside.indices + len(BOX.positions)]),
        normals=np.concatenate([BOX.normals, beside.normals]),
    )
    assert found(both)[0]["crowded"].count == 1, "the edge along which two boxes touch"
    flat = np.concatenate([BOX.indices, [[0, 0, 1]]]).astype(np.uint32)
    assert found(replace(BOX, indices=flat))[0]["flat"].count == 1


def test_the_lines_that_show_faults_are_as_many_as_were_counted():
    lidless = replace(BOX, indices=BOX.indices[2:])
    rim = fault_lines(lidless, "open")
    assert len(rim) == found(lidless)[0]["open"].count and (rim[..., 0] == 0).all(), "round the side that is missing"
    assert len({tuple(sorted(map(tuple, line))) for line in rim.tolist()}) == 4
    twice = replace(BOX, indices=np.concatenate([BOX.indices, BOX.indices[:3]]))
    outlines = fault_lines(twice, "doubled").reshape(-1, 3, 2, 3)
    assert len(outlines) == found(twice)[0]["doubled"].count
    wanted = BOX.positions[BOX.indices[:3]]
    assert (np.sort(outlines[:, :, 0], axis=1) == np.sort(wanted, axis=1)).all()
    flat = replace(BOX, indices=np.concatenate([BOX.indices, [[0, 0, 1]]]).astype(np.uint32))
    assert len(fault_lines(flat, "flat")) == 3
    for kind in ("open", "crowded", "doubled", "flat"):
        assert fault_lines(BOX, kind).shape == (0, 2, 3)


def test_what_faces_inwards_is_turned_round_by_its_repair():
    inwards = replace(BOX, indices=BOX.indices[:, ::-1].copy(), normals=-BOX.normals)
    findings, scene = found(BOX, inwards, inwards)
    assert findings["inside-out"].parts == ("p1", "p2") and findings["inside-out"].count == 2
    assert "against" not in findings, "faces and normals agree"
    after = repaired(scene, findings["inside-out"])
    assert [part.inside_out for part in after.parts.values()] == [False, True, True]
    assert found(replace(BOX, normals=-BOX.normals))[0]["against"].parts == ("p0",)


def test_twins_are_made_one_by_their_repairs():
    other = box_mesh((0, 0, 0), (2, 1, 1))
    findings, scene = found(BOX, other, replace(BOX, positions=BOX.positions.copy()))
    assert findings["twin-meshes"].parts == ("p2",)
    assert [part.mesh for part in repaired(scene, findings["twin-meshes"]).parts.values()] == [0, 1, 0]
    red = Material(name="Red", base_color=(1, 0, 0))
    materials = {
        "red": red,
        "blue": Material(name="Blue", base_color=(0, 0, 1)),
        "red-2": red.model_copy(update={"name": "Rot"}),
    }
    parts = {key: Part(name=key, mesh=0, material=key) for key in materials}
    findings, scene = found(BOX, materials=materials, parts=parts)
    after = repaired(scene, findings["twin-materials"])
    assert list(after.materials) == ["red", "blue"] and after.parts["red-2"].material == "red"


def test_images_that_cannot_lie_are_said_and_large_ones():
    mapped = {"m": Material(name="M", base_color_texture=TextureUse(texture=0))}
    large = Texture(np.zeros((1, 1 << 25, 1), np.uint8), 0, 0)
    findings, _ = found(BOX, materials=mapped, textures=[large])
    assert findings["uvs"].parts == ("p0",) and findings["large-textures"].count == 1
    laid = replace(BOX, uvs=np.zeros((1, len(BOX.positions), 2), np.float32))
    assert "uvs" not in found(laid, materials=mapped)[0]
    flat = Part(name="Flat", mesh=0, material="clay", matrix=(1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1, 0))
    assert found(BOX, parts={"flat": flat})[0]["flattened"].parts == ("flat",)


@pytest.mark.parametrize(
    ("size", "unit"),
    [
        (0.3, None),
        (0.02, None),
        (15, None),
        (40, "centimetres"),
        (2000, "millimetres"),
        (0.002, "kilometres"),
        (1e9, None),
    ],
)
def test_a_unit_is_guessed_for_an_unusual_size(size, unit):
    guess = likely_unit(size)
    assert (guess and guess[0]) == unit
    findings, _ = found(BOX, size=size)
    assert ("size" in findings) == (unit is not None)
    if guess:
        assert 0.02 <= size * findings["size"].unit <= 15


def test_a_guess_starts_from_the_unit_that_was_taken():
    assert likely_unit(0.0003, 0.001) == ("metres", 1.0), "0.3 of something, taken as millimetres"
    assert likely_unit(0.3, 0.001) is None
