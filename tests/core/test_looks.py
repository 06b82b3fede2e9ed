"""Looks that are kept and taken, as files, on the shelf; shots; scopes."""

import numpy as np
import PyOpenColorIO as ocio
import pytest

from lantern.engine.relighting import metered_exposure
from lantern.picture.look.files import read_look, written_decision, written_table, written_whole
from lantern.picture.look.grade import Grade
from lantern.picture.look.pipeline import Finisher
from lantern.picture.look.surround import Surround
from lantern.picture.scopes import HEIGHT, SIDE, vectorscope, waveform
from lantern.scene import looks, shots
from lantern.scene.document import Camera, Conditions, Scene
from lantern.scene.frames import frame_pixels, framed
from lantern.scene.look import EFFECTS, Look, effect_of
from lantern.scene.looks import NamedLook, kept_look, taken, weakened, with_look
from lantern.scene.making import new_local
from lantern.scene.patching import apply_operations
from lantern.scene.reading import read_scene
from lantern.shelf.looks import LOOKS
from tests.core.test_look import ALL, scene_of


def after(scene, made):
    return read_scene(apply_operations(scene.plain(), made.patch)[0])


def test_a_look_that_is_taken_leaves_the_light_as_bright_and_as_white_as_it_was():
    scene = Scene(look=Look(exposure=2.0, white_temperature=3200.0, view="plain"))
    other = ALL.model_copy(update={"exposure": -3.0, "view": "filmic"})
    found = after(scene, taken(scene, "All", other)).look
    assert (found.exposure, found.white_temperature, found.view) == (2.0, 3200.0, "filmic")
    assert all(effect_of(found, name) == effect_of(ALL, name) for name in EFFECTS)
    assert taken(after(scene, taken(scene, "All", other)), "All", other).patch == []


def test_a_look_is_mixed_by_its_amount_from_nothing_to_all():
    light = scene_of(90, 160)
    assert weakened(ALL, 1.0) == ALL
    plain = Finisher().bytes_of(light, Look(), Surround()).astype(float)
    differences = []
    for amount in (0.0, 0.25, 0.5, 1.0):
        shown = Finisher().bytes_of(light, with_look(Scene(), ALL, amount), Surround())
        differences.append(np.abs(shown - plain).mean())
    assert differences[0] < 0.5 and differences == sorted(differences)


def test_a_look_that_is_kept_forgets_light_and_parts():
    places = {
        "a": {"name": "A", "mask": {"kind": "parts", "parts": ["x"]}},
        "b": {"name": "B", "mask": {"kind": "gradient"}},
    }
    scene = Scene(look=Look.model_validate({"exposure": 3.0, "locals": places, "bloom": {"enabled": True}}))
    kept = kept_look(scene)
    assert kept.exposure == 0.0 and list(kept.locals) == ["b"] and kept.bloom.enabled


@pytest.mark.parametrize("key", LOOKS)
def test_each_look_of_our_own_does_something_and_breaks_nothing(key):
    light = scene_of(120, 200)
    plain = Finisher().bytes_of(light, Look(), Surround()).astype(float)
    shown = Finisher().bytes_of(light, LOOKS[key].look, Surround()).astype(float)
    assert np.abs(shown - plain).mean() > 0.5
    # Neither white nor black all over, and the lamp is still the brightest.
    assert 15 < shown.mean() < 235 and shown.max() > 200


def test_looks_of_our_own_are_many_and_of_different_names():
    assert len(LOOKS) >= 16 and len({named.name for named in LOOKS.values()}) == len(LOOKS)


def test_a_whole_look_comes_back_as_it_went(tmp_path):
    path = tmp_path / "look.json"
    path.write_bytes(written_whole(NamedLook(name="All", look=ALL)))
    assert read_look(path, "look.json", "a" * 64) == ALL


def test_a_colour_decision_comes_back_as_it_went(tmp_path):
    path = tmp_path / "look.cc"
    path.write_bytes(written_decision(ALL, "All"))
    found = read_look(path, "look.cc", "a" * 64).decision
    assert found.slope == pytest.approx(ALL.decision.slope) and found.saturation == ALL.decision.saturation


def test_the_grade_as_a_table_grades_as_the_look_does(tmp_path):
    look = Look.model_validate(
        {"contrast": {"enabled": True, "contrast": 1.2}, "saturation": {"enabled": True, "saturation": 0.7}}
        | {"split": {"enabled": True, "amount": 0.4}}
    )
    path = tmp_path / "grade.cube"
    path.write_bytes(written_table(look, "Grade"))
    light = np.random.default_rng(5).uniform(0.02, 3, (16, 16, 3)).astype(np.float32)
    config = ocio.Config.CreateFromBuiltinConfig("cg-config-v4.0.0_aces-v2.0_ocio-v2.5")
    steps = [
        ocio.ColorSpaceTransform(src="Linear Rec.709 (sRGB)", dst="ACEScct"),
        ocio.FileTransform(src=str(path), interpolation=ocio.INTERP_TETRAHEDRAL),
        ocio.ColorSpaceTransform(src="ACEScct", dst="Linear Rec.709 (sRGB)"),
    ]
    by_table = light.copy()
    config.getProcessor(ocio.GroupTransform(steps)).getDefaultCPUProcessor().applyRGB(by_table)
    graded = light.copy()
    Grade(look).apply(graded, np.zeros((0, 16, 16), np.float32))
    assert np.abs(np.log2(np.maximum(by_table, 1e-3) / np.maximum(graded, 1e-3))).max() < 0.06


def test_a_place_is_graded_where_it_is_made_and_there_is_a_most():
    scene = Scene()
    for number in range(8):
        made = new_local(scene, "ellipse" if number % 2 else "gradient", ())
        scene = after(scene, made)
    assert len(scene.look.locals) == 8 and new_local(scene, "ellipse", ()) is None
    assert new_local(Scene(), "parts", ()) is None
    assert after(Scene(), new_local(Scene(), "parts", ("p", "q"))).look.locals["place-1"].mask.parts == ("p", "q")


def a_shot(scene, **changes):
    made = shots.kept(scene, scene.camera)
    scene = after(scene, made)
    if not changes:
        return scene, made.key
    changed = scene.shots[made.key].model_copy(update=changes)
    return scene.model_copy(update={"shots": {**scene.shots, made.key: changed}}), made.key


def test_a_shot_brings_its_camera_and_its_frame():
    scene, key = a_shot(Scene())
    small = scene.print.model_copy(update={"width": 640, "height": 640})
    moved = scene.model_copy(update={"camera": Camera(focal_length=24.0), "print": small})
    found = after(moved, shots.taken(moved, key))
    assert (found.camera, found.print) == (scene.camera, scene.print) and found.look == moved.look
    assert shots.taken(found, key).patch == []


def test_a_shot_with_a_look_and_conditions_of_its_own_brings_them():
    base = Scene()
    light = Conditions(
        name="Night", environment=base.environment.model_copy(update={"intensity": 0.1}), sky=base.sky, lights={},
        haze=base.haze, backdrop=base.backdrop, ground=base.ground, exposure=3.0,
    )  # fmt: skip
    scene, key = a_shot(base.model_copy(update={"conditions": {"night": light}}), conditions="night")
    found = after(scene, shots.taken(scene, key))
    assert found.environment.intensity == 0.1 and found.look.exposure == 3.0
    scene, key = a_shot(base, look=ALL, conditions="gone")
    assert after(scene, shots.taken(scene, key)).look == ALL, "conditions that are gone change nothing"


def test_shots_are_copied_in_their_order_and_a_locked_one_stays():
    scene, first = a_shot(Scene())
    scene, second = a_shot(scene, locked=True)
    copied = after(scene, shots.copied(scene, first))
    assert [copied.shots[key].name for key in shots.shot_order(copied)] == ["Shot 1", "Shot 1 copy", "Shot 2"]
    assert shots.kept(scene, Camera(), second) is None
    again = after(scene, shots.kept(scene, Camera(focal_length=24.0), first))
    assert again.shots[first].camera.focal_length == 24.0
    assert looks.taken(scene, "None", scene.look).patch == []


def test_a_waveform_shows_each_value_over_its_column():
    picture = np.zeros((80, 256, 3), np.uint8)
    picture[:, :128] = (255, 128, 0)
    drawn = waveform(picture)
    assert drawn[0, :128, 0].min() > 0 and drawn[HEIGHT // 2 - 1, :128, 1].min() > 0
    assert drawn[HEIGHT - 1, 128:].min() > 0 and drawn[: HEIGHT - 1, 128:].max() == 0


def test_a_vectorscope_has_grey_in_its_middle_and_red_above():
    grey = vectorscope(np.full((20, 20, 3), 90, np.uint8))
    assert grey[SIDE // 2, SIDE // 2].max() > 0 and (grey.max(axis=-1) > 0).sum() == 1
    red = np.zeros((20, 20, 3), np.uint8)
    red[..., 0] = 255
    rows, columns = np.nonzero(vectorscope(red).max(axis=-1))
    assert rows[0] < 5 and columns[0] < SIDE // 2


def test_exposure_is_metered_by_the_middle_or_by_the_lights():
    light = np.full((40, 40, 3), 0.36, np.float32)
    light[0, :2] = 64
    assert metered_exposure(light, "grey") == pytest.approx(-1.0, abs=0.05), "a lamp does not darken all of it"
    light[10:20] = 4
    assert metered_exposure(light, "highlights") == pytest.approx(-2.0, abs=0.01)
    assert metered_exposure(np.zeros((4, 4, 3), np.float32), "grey") is None


def test_a_frame_is_of_a_ratio_or_of_a_sheet_of_paper():
    assert frame_pixels("3:2", 600 * 400, upright=False, dpi=300) == (600, 400)
    assert frame_pixels("1:1", 600 * 600, upright=False, dpi=300) == (600, 600)
    assert frame_pixels("A4", 1, upright=True, dpi=300) == (2480, 3508)
    with pytest.raises(ValueError, match="16384 a side"):
        frame_pixels("A2", 1, upright=False, dpi=2400)
    scene = Scene()
    found = after(scene, framed(scene, "16:9", upright=False, dpi=300)).print
    assert found.width / found.height == pytest.approx(16 / 9, rel=1e-3)
    assert found.width * found.height == pytest.approx(scene.print.width * scene.print.height, rel=1e-2)
