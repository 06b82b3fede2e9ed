"""Documents of earlier versions: what becomes of each field, and of the steps of undo."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.scene.document import SCHEMA_VERSION, Scene
from lantern.scene.history import migrated_history
from lantern.scene.patching import apply_operations
from lantern.scene.reading import SceneError, read_scene
from lantern.scene.surroundings import FREE_PATHS_OF_SIGHT
from tests.kept import FOLDER, VERSIONS, kept


def steps_of(project):
    return {number: (edit["patch"], edit["inverse"]) for number, edit in enumerate(project.edits, 1)}


def fields():
    """Every field of the document as "Model.field", of its own JSON schema."""
    models = Scene.model_json_schema(mode="serialization")
    found = {"Scene": models} | models["$defs"]
    return sorted(f"{name}.{field}" for name, model in found.items() for field in model.get("properties", {}))


def test_a_project_of_every_earlier_version_is_kept():
    assert list(range(1, SCHEMA_VERSION)) == VERSIONS


def test_a_new_field_is_a_new_version():
    """Stored documents have all fields of their version, so that a patch fits them.

    When this fails and the version was released: raise SCHEMA_VERSION, add a migration, keep a project of the version
    before in `tests/kept`, and write `fields()` to the new file.
    """
    assert json.loads((FOLDER / f"fields_{SCHEMA_VERSION}.json").read_text()) == fields()


@pytest.mark.parametrize("version", VERSIONS)
def test_a_history_is_brought_forward_whole(version):
    project = kept(version)
    history = migrated_history(project.scene, steps_of(project), project.cursor)
    wanted = [read_scene(document).plain() for document in project.documents]
    assert history.scene == wanted[project.cursor] and set(history.steps) == set(steps_of(project))
    for number, (patch, inverse) in history.steps.items():
        assert read_scene(apply_operations(wanted[number - 1], patch)[0]).plain() == wanted[number]
        assert read_scene(apply_operations(wanted[number], inverse)[0]).plain() == wanted[number - 1]


@pytest.mark.parametrize(("broken", "left"), [(4, range(5, 17)), (15, range(1, 15))])
def test_a_step_that_cannot_be_understood_ends_the_row(broken, left):
    project = kept(1)
    steps = steps_of(project) | {broken: ([{"op": "fly"}], [{"op": "fly"}])}
    history = migrated_history(project.scene, steps, project.cursor)
    assert sorted(history.steps) == list(left)


def test_what_version_1_switched_off_by_a_number_is_none():
    off = read_scene(
        {
            "schema_version": 1,
            "camera": {"f_number": 0, "blades": 2},
            "rendering": {"sample_limit": 0},
            "proof": {"noise": 0},
            "print": {"noise": 0},
            "haze": {"low": [0, 0, 0], "high": [1, 1, 0]},
            "lights": {"a": {"name": "A", "temperature": 0}, "b": {"name": "B", "temperature": 499}},
        }
    )
    found = (off.camera.f_number, off.camera.blades, off.rendering.sample_limit, off.proof.noise, off.print.noise)
    assert found == (None,) * 5 and off.haze.box is None
    assert [light.temperature for light in off.lights.values()] == [None, None]


def test_what_version_1_had_on_stays_as_it_was():
    on = read_scene(
        {
            "schema_version": 1,
            "camera": {"f_number": 0.02, "blades": 5},
            "rendering": {"sample_limit": 7},
            "proof": {"noise": 2},
            "print": {"noise": 0.001},
            "haze": {"low": [0, 0, 0], "high": [1, 1, 1]},
            "lights": {"a": {"name": "A", "temperature": 2700}},
        }
    )
    found = (on.camera.f_number, on.camera.blades, on.rendering.sample_limit, on.proof.noise, on.print.noise)
    assert found == (0.1, 5, 7, 2, 0.01), "raised to the least that is possible now"
    assert on.haze.box.high == (1, 1, 1) and on.lights["a"].temperature == 2700


def test_what_version_1_put_out_of_reach_is_brought_back():
    poisoned = read_scene(
        {
            "schema_version": 1,
            "camera": {"position": [1e100, 2, 3], "target": [0, 0, 0]},
            "lights": {"a": {"name": "A", "position": [0, -1e30, 0]}},
            "materials": {"m": {"name": "M"}},
            "parts": {
                "p": {"name": "P", "mesh": 0, "material": "m", "matrix": [1, 0, 0, 1e9, 0, 1, 0, 0, 0, 0, 1, 0.0]}
            },
        }
    )
    assert poisoned.camera.position == (1e6, 2, 3) and poisoned.lights["a"].position == (0, -1e6, 0)
    assert poisoned.parts["p"].matrix[3] == 1e6


def test_a_light_of_version_1_keeps_what_its_kind_has():
    everything = {
        "name": "L", "roll": 5, "width": 0.5, "height": 0.6, "radius": 0.7, "cone": 50, "softness": 0.5, "spread": 3,
        "seen_by_camera": True, "profile": {"sha256": "0" * 64, "name": "a.ies"}, "amount": 3,
    }  # fmt: skip
    units = {"directional": "lx"}
    scene = read_scene(
        {
            "schema_version": 1,
            "lights": {
                kind: {**everything, "kind": kind, "unit": units.get(kind, "lm")}
                for kind in ("rectangle", "disk", "sphere", "tube", "point", "spot", "directional")
            },
        }
    )
    common = {"name", "enabled", "position", "target", "amount", "unit", "color", "temperature", "kind", "group"}
    common |= {"seen_in_reflections", "casts_shadow", "unlit_parts", "solo", "locked", "gel"}
    own = {kind: light.model_dump(exclude=common | {"efficacy"}) for kind, light in scene.lights.items()}
    assert own == {
        "rectangle": {
            "roll": 5,
            "width": 0.5,
            "height": 0.6,
            "seen_by_camera": True,
            "grid": None,
            "doors": None,
        },
        "disk": {"radius": 0.7, "seen_by_camera": True, "grid": None},
        "sphere": {"radius": 0.7, "seen_by_camera": True},
        "tube": {"roll": 5, "length": 0.6, "radius": 0.7, "seen_by_camera": True},
        "point": {"roll": 5, "profile": everything["profile"]},
        "spot": {"roll": 5, "profile": everything["profile"], "cone": 50, "softness": 0.5, "gobo": None},
        "directional": {"spread": 3, "seen_by_camera": True},
    }


ANY = st.recursive(
    st.none() | st.booleans() | st.integers(-9, 9) | st.text(max_size=3),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.sampled_from(["a", "kind", "low"]), inner),
    max_leaves=6,
)


@given(st.sampled_from(["lights", "haze", "camera", "proof", "rendering"]), ANY)
def test_a_document_of_the_wrong_shape_is_refused_not_a_crash(section, value):
    """Migration meets what was never checked: it must leave it for reading to complain of."""
    try:
        read_scene({"schema_version": 1, section: value})
    except SceneError as error:
        assert section in str(error)


@pytest.mark.parametrize(
    ("light", "words"),
    [
        ({"kind": "point", "unit": "cd/m²"}, "lights/l/unit.*'lm', 'cd', 'lx' or 'W'"),
        ({"kind": "directional", "unit": "lm"}, "lights/l/unit.*'lx'"),
        ({"kind": "point", "width": 1}, "lights/l/width.*not permitted"),
        ({"kind": "lamp"}, "lights/l: .*'rectangle'"),
        ({"kind": "spot", "temperature": 0}, "lights/l/temperature.*500"),
    ],
)
def test_a_light_has_what_its_kind_has_and_nothing_else(light, words):
    with pytest.raises(SceneError, match=words):
        read_scene(Scene().plain() | {"lights": {"l": {"name": "L"} | light}})


def test_the_haze_of_version_6_lets_one_see_as_far_and_its_backdrop_is_as_bright():
    six = {"haze": {"enabled": True, "visibility": 2.0}, "backdrop": {"kind": "gradient", "exposure": 3.0}}
    own = {"haze": {"visibility": 1.0}, "backdrop": {"kind": "photograph", "exposure": 1.5}}
    others = {"environment": {}, "sky": {}, "lights": {}, "ground": {}}
    found = read_scene({"schema_version": 6, **six, "conditions": {"evening": {"name": "Evening", **others, **own}}})
    assert found.haze.sight == pytest.approx(2.0 * FREE_PATHS_OF_SIGHT) and found.backdrop.exposure == 3.0
    assert found.backdrop.color_exposure == 0.0
    evening = found.conditions["evening"]
    assert evening.haze.sight == pytest.approx(FREE_PATHS_OF_SIGHT) and evening.backdrop.exposure == 1.5
    assert evening.environment.reflection_blur is None


def test_a_move_of_the_camera_of_version_8_begins_with_a_cut():
    move = {"kind": "travel", "name": "T", "enabled": True, "start": 0, "seconds": 2, "pace": "even"}
    old = {"schema_version": 8, "motion": {"moves": {"t": {**move, "first": "a", "last": "b"}}}}
    assert read_scene(old).motion.moves["t"].dissolve == 0.0
