"""Parts that are made as fine as their size in the picture asks for."""

import numpy as np
import pytest

from lantern.compile.compiled import CompiledScene
from lantern.engine.engine import Engine
from lantern.scene.document import Camera
from lantern.scene.placed import PartGroup
from lantern.scene.printing import PrintSettings
from tests.core.shapes import no_files
from tests.core.test_density import CUBE, asset_of, scene_of, with_part

SMOOTH = {"subdivision": "catmull_clark", "levels": 6, "edge_pixels": 8.0}
FAR = Camera(position=(0, 0, 101), target=(0, 0, 0), focal_length=36, sensor_width=36)


def seen_from(camera=FAR, width=1000, **fields):
    asset = asset_of(CUBE)
    scene = scene_of(asset, **SMOOTH | fields)
    return asset, scene.model_copy(update={"camera": camera, "print": PrintSettings(width=width, height=800)})


def level_of(compiled):
    """Catmull–Clark makes four faces of one, of two triangles each, of a cube's six."""
    return int(np.log(compiled.triangles[1] / 12) / np.log(4) + 0.5)


@pytest.mark.parametrize(
    ("distance", "level"),
    # A focal length as long as the sensor is wide: a metre at d metres takes 1000 / d pixels, an edge of 2 m, whose
    # diagonal is 2.83 m, a level less half of that.
    [(1000, 1), (100, 2), (50, 3), (10, 6), (1, 6)],
)
def test_the_level_is_the_least_whose_edges_are_short_enough(distance, level):
    asset, scene = seen_from(FAR.model_copy(update={"position": (0, 0, distance + 1)}))
    assert level_of(CompiledScene(scene, asset, None)) == level
    length = 2 * 2**0.5 * 1000 / distance
    assert level == 6 or length / 2**level <= 8
    assert level == 1 or length / 2 ** (level - 1) > 8


@pytest.mark.parametrize(
    ("change", "level"),
    [
        ({"print": PrintSettings(width=4000, height=3200)}, 4),
        ({"camera": FAR.model_copy(update={"focal_length": 72})}, 3),
        ({"camera": FAR.model_copy(update={"projection": "orthographic", "target": (0, 0, 51)})}, 3),
        ({"camera": FAR.model_copy(update={"position": (0, 0, 1e5)})}, 1),
        ({"part": {"size": 4.0}}, 4),
        ({"part": {"offset": (0, 0, 90)}}, 6),
        ({"part": {"edge_pixels": 1.0}}, 5),
        ({"part": {"edge_pixels": None}}, 6),
        ({"part": {"group": "g"}, "part_groups": {"g": PartGroup(name="G", size=2.0)}}, 3),
    ],
)
def test_an_edit_of_what_it_depends_on_changes_the_level_without_a_new_compile(change, level):
    asset, scene = seen_from()
    compiled = CompiledScene(scene, asset, None)
    assert level_of(compiled) == 2
    fields = {key: value for key, value in change.items() if key != "part"}
    changed = with_part(scene, **change.get("part", {})).model_copy(update=fields)
    assert compiled.update(changed) and level_of(compiled) == level
    assert level_of(CompiledScene(changed, asset, None)) == level
    assert compiled.foreseen(["p0"]).proof == compiled.triangles[1]
    assert compiled.update(scene) and level_of(compiled) == 2


def test_a_camera_that_stays_within_a_level_builds_nothing():
    asset, scene = seen_from()
    compiled = CompiledScene(scene, asset, None)
    built = compiled.counts.mesh_trees
    assert compiled.update(scene.model_copy(update={"camera": FAR.model_copy(update={"position": (3, 0, 99)})}))
    assert compiled.counts.mesh_trees == built


def test_the_print_has_its_own_most_and_parts_near_and_far_their_own_levels():
    asset, scene = seen_from(levels=1, print_levels=4)
    near = scene.parts["p0"].model_copy(update={"offset": (0, 0, 97)})
    scene = scene.model_copy(update={"parts": scene.parts | {"near": near}})
    for final, triangles in ((False, 48 + 48), (True, 192 + 12 * 4**4)):
        engine = Engine(1, final=final)
        engine.open(scene, no_files, asset)
        assert engine.triangles == triangles
        assert engine.foreseen(["p0", "near"]).print == 192 + 12 * 4**4
        engine.close()


def test_a_part_that_glows_gives_its_light_at_whatever_level():
    asset, scene = seen_from()
    lamp = scene.materials["clay"].model_copy(update={"emission_luminance": 10.0})
    scene = scene.model_copy(update={"materials": {"clay": lamp}})
    engine = Engine(1)
    engine.open(scene, no_files, asset)
    engine.apply(scene.model_copy(update={"camera": FAR.model_copy(update={"position": (0, 0, 6)})}), no_files)
    assert engine.triangles == 12 * 4**6
    emitters = engine.compiled._lights.emitters
    assert len(emitters.triangle_lights) == engine.triangles
    engine.close()
