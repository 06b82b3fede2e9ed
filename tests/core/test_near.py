"""Masks by distance to a part and by what is hidden: against closed forms, on coarse meshes, live, odd parts."""

import numpy as np
import pytest

from lantern.compile.compiled import CompiledScene
from lantern.engine.cutting import merged, split
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.scene.document import Material, Part
from lantern.scene.editing import Document
from lantern.scene.forms import BallForm, BoxForm, CylinderForm
from lantern.scene.inputs import MaterialInput, scaled_input
from lantern.scene.layers import Layer
from lantern.scene.sources import DistanceSource, OcclusionSource
from tests.core.shapes import no_files
from tests.core.test_decals import GREY, rendered, scene_with
from tests.core.test_inputs import CAMERA, SIDE

FLOOR = Part(name="Floor", form=BoxForm(width=1.0, height=0.1, depth=1.0, edge=0), material="m", offset=(0, -0.1, 0))
"""A floor of six faces, whose upper side is at 0."""
ABOVE = CAMERA.model_copy(update={"position": (0, 4, 0.0004)})


def masked(source, parts):
    """Albedo of a floor whose colour is the mask, seen from above, a metre wide; the rest is blue."""
    one = MaterialInput(source=source)
    material = GREY.model_copy(update={"inputs": {"base_color": one}})
    blue = GREY.model_copy(update={"base_color": (0, 0, 1)})
    scene, asset = scene_with([], parts, {"b": blue})
    scene = scene.model_copy(update={"materials": scene.materials | {"m": material}, "camera": ABOVE})
    return scene, asset


def rod(x=0.0, **fields):
    return Part(name="Rod", form=CylinderForm(radius=0.1, height=0.4, edge=0), material="b", offset=(x, 0, 0), **fields)


def row_of(albedo):
    return albedo[SIDE // 2, :, 0]


def test_the_mask_is_whole_up_to_a_distance_and_none_from_another_on():
    """Around a rod of 0.1 m, on a floor of two triangles a side; smooth between (3 t² - 2 t³)."""
    source = DistanceSource(part="rod", whole=0.05, none=0.25)
    scene, asset = masked(source, {"floor": FLOOR, "rod": rod()})
    row = row_of(rendered(scene, asset).albedo)
    x = np.abs((np.arange(SIDE) + 0.5) / SIDE - 0.5)
    t = np.clip((x - 0.1 - 0.25) / (0.05 - 0.25), 0, 1)
    wanted = t * t * (3 - 2 * t)
    seen = (x > 0.12) & (x < 0.48)
    assert row[seen] == pytest.approx(wanted[seen], abs=0.05)


def test_it_follows_the_part_and_its_numbers_live_as_compiled_afresh():
    source = DistanceSource(part="rod", whole=0.05, none=0.25)
    scene, asset = masked(source, {"floor": FLOOR, "rod": rod()})
    engine = Engine(threads=2)
    engine.open(scene, no_files, asset)
    wider = masked(source.model_copy(update={"none": 0.4}), {"floor": FLOOR, "rod": rod()})[0]
    hidden = {"floor": FLOOR, "rod": rod(0.2, visible=False)}
    for changed in (
        scene.model_copy(update={"parts": {"floor": FLOOR, "rod": rod(0.2)}}),
        wider,
        scene.model_copy(update={"parts": hidden}),
        scene,
    ):
        assert not engine.apply(changed, no_files).recompiled
        film = Film(SIDE, SIDE)
        engine.trace(film, 4)
        assert film.means().albedo == pytest.approx(rendered(changed, asset).albedo, abs=1e-6)
    engine.close()


@pytest.mark.parametrize("part", [None, "gone"])
def test_of_no_part_and_of_one_that_is_gone_nothing_is_near(part):
    scene, asset = masked(DistanceSource(part=part), {"floor": FLOOR, "rod": rod()})
    engine = Engine(threads=2)
    problems = engine.open(scene, no_files, asset)
    assert [("gone" in problem) for problem in problems] == ([] if part is None else [True])
    film = Film(SIDE, SIDE)
    engine.trace(film, 2)
    engine.close()
    assert row_of(film.means().albedo)[:10].max() < 0.01


def test_what_stands_on_a_floor_hides_it_at_its_foot_and_an_open_floor_is_not_hidden():
    source = OcclusionSource(reach=0.15, strength=2.0)
    alone = row_of(rendered(*masked(source, {"floor": FLOOR})).albedo)
    assert alone[4:-4].max() < 0.12
    row = row_of(rendered(*masked(source, {"floor": FLOOR, "rod": rod()})).albedo)
    x = np.abs((np.arange(SIDE) + 0.5) / SIDE - 0.5)
    foot, away = row[(x > 0.105) & (x < 0.13)].mean(), row[(x > 0.35) & (x < 0.45)].mean()
    assert foot > 0.3 and away < 0.12 and foot > 4 * away


def test_a_corner_is_hidden_as_a_wall_is_and_a_ball_is_not():
    wall = Part(name="Wall", form=BoxForm(width=1.0, height=0.6, depth=0.1, edge=0), material="b", offset=(0, 0, -0.35))
    side = Part(name="Side", form=BoxForm(width=0.1, height=0.6, depth=1.0, edge=0), material="b", offset=(-0.4, 0, 0))
    source = OcclusionSource(reach=0.2, strength=1.0)
    albedo = rendered(*masked(source, {"floor": FLOOR, "wall": wall, "side": side})).albedo[..., 0]
    rows = {"corner": (14, 12), "wall": (14, 44), "open": (44, 44)}
    corner, by_wall, far = (albedo[r, c] for r, c in rows.values())
    # The nearest thing counts: two walls hide hardly more than the nearer one.
    assert corner > 0.9 * by_wall > 0.9 * 2 * far
    ball = Part(name="Ball", form=BallForm(radius=0.3), material="m", offset=(0, -0.3, 0))
    assert row_of(rendered(*masked(source, {"ball": ball})).albedo)[20:44].max() < 0.1


def test_a_mask_asks_for_what_its_part_has_become():
    """Two boxes, one in the other, are merged and cut apart again; one mask is an input, one is of a layer."""
    parts = {
        "floor": FLOOR,
        "rod": Part(name="Rod", mesh=1, material="b", offset=(0, 0.2, 0)),
        "other": Part(name="Other", mesh=1, material="b", offset=(0, 0.2, 0), size=0.5),
    }
    source = DistanceSource(part="other", whole=0.0, none=0.3)
    scene, asset = masked(source, parts)
    layer = Layer(material="b", mask=MaterialInput(source=source), coverage=0.5)
    worn = scene.materials["m"].model_copy(update={"layers": (layer,)})
    scene = scene.model_copy(update={"materials": scene.materials | {"m": worn}})
    engine = Engine(threads=2)
    engine.open(scene, no_files, asset)
    made = merged(engine, ["rod", "other"])
    document = Document.read(scene.plain()).patched(made.patch)[0]
    one = document.scene.materials["m"]
    assert one.inputs["base_color"].source.part == one.layers[0].mask.source.part == made.key
    engine.apply(document.scene, no_files)
    assert not engine.compiled.problems
    apart = document.patched(split(engine, [made.key]).patch)[0].scene
    engine.close()
    assert apart.materials["m"].inputs["base_color"].source.part in apart.parts


def test_an_edit_of_a_mask_makes_no_grid_again():
    scene, asset = masked(OcclusionSource(reach=0.15), {"floor": FLOOR, "rod": rod()})
    compiled = CompiledScene(scene, asset, None)
    grids = compiled._wearing.pictures.near._made
    softer = masked(OcclusionSource(reach=0.1, strength=0.3), {"floor": FLOOR, "rod": rod()})[0]
    assert compiled.update(softer.model_copy(update={"parts": scene.parts}))
    assert compiled._wearing.pictures.near._made[""][1] is grids[""][1]


def test_their_measures_grow_with_the_asset():
    for source, names in ((OcclusionSource(reach=0.01), ("reach",)), (DistanceSource(whole=0.01), ("whole", "none"))):
        scaled = scaled_input(MaterialInput(source=source), 1000.0).source
        assert all(getattr(scaled, name) == pytest.approx(1000 * getattr(source, name)) for name in names)


def test_a_material_without_any_asks_for_no_grid():
    scene, asset = scene_with([], None, {"n": Material(name="N")})
    assert CompiledScene(scene, asset, None)._wearing.pictures.near._made == {}
