"""The document: validation with a path, patches with their inverses, framing."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.scene.document import SCHEMA_VERSION, Camera, Material, Part, Scene
from lantern.scene.editing import apply_patch
from lantern.scene.framing import fit_camera, picture_axes
from lantern.scene.reading import SceneError, read_scene


def data():
    return Scene(parts={"a": Part(name="A", mesh=0, material="m")}, materials={"m": Material(name="M")}).plain()


@pytest.mark.parametrize(
    ("path", "value", "words"),
    [
        ("/materials/m/base_metalness", 1.5, "materials/m/base_metalness"),
        ("/materials/m/base_color", [0.1, 0.2, 7], "materials/m/base_color"),
        ("/materials/m/shininess", 1, "materials/m/shininess"),
        ("/camera/focal_length", "long", "camera/focal_length"),
        ("/camera/target", [0.6, 0.4, 0.9], "camera/target"),
        ("/parts/a/material", "gone", "parts/a/material"),
        ("/print/width", 1920.5, "print/width"),
        ("/schema_version", SCHEMA_VERSION + 1, "schema_version"),
        ("/look/exposure", float("nan"), "look/exposure"),
    ],
)
def test_a_bad_edit_is_refused_with_the_path_of_the_field(path, value, words):
    with pytest.raises(SceneError, match=words):
        apply_patch(data(), [{"op": "add", "path": path, "value": value}])


@pytest.mark.parametrize(
    "patch", [[{"op": "fly"}], [{"op": "replace", "path": "/nowhere/at/all", "value": 1}], ["x"], [{}]]
)
def test_a_malformed_patch_is_refused(patch):
    with pytest.raises(SceneError, match="does not fit"):
        apply_patch(data(), patch)


@given(
    st.lists(
        st.one_of(
            st.tuples(st.just("/look/exposure"), st.floats(-30, 30)),
            st.tuples(st.just("/materials/m/specular_roughness"), st.floats(0, 1)),
            st.tuples(st.just("/parts/a/visible"), st.booleans()),
            st.tuples(st.just("/camera/position"), st.tuples(*[st.floats(1, 9)] * 3).map(list)),
        ),
        max_size=8,
    )
)
def test_undoing_all_edits_gives_the_first_document_back(edits):
    first = current = data()
    inverses = []
    for path, value in edits:
        current, inverse = apply_patch(current, [{"op": "replace", "path": path, "value": value}])
        inverses.append(inverse)
    for inverse in reversed(inverses):
        current, _ = apply_patch(current, inverse)
    assert current == first


def test_the_document_survives_json():
    assert read_scene(data()).plain() == data()


@pytest.mark.parametrize("size", [0.001, 1.0, 1000.0])
@pytest.mark.parametrize("keep", [True, False])
@pytest.mark.parametrize("aspect", [0.5, 1.6])
def test_a_fitted_camera_sees_all_of_the_box_and_little_more(size, keep, aspect):
    low, high = np.array([-0.5, 0, -0.3]) * size, np.array([0.5, 2, 0.3]) * size
    camera = fit_camera(Camera(), low, high, aspect, keep_direction=keep)
    position, target = np.array(camera.position), np.array(camera.target)
    backwards = (position - target) / np.linalg.norm(position - target)
    right, up = picture_axes(backwards)
    corners = np.array([[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])
    view = corners - position
    depth = -(view @ backwards)
    half = camera.sensor_width / (2 * camera.focal_length)
    reach = np.maximum(np.abs(view @ right) / depth / half, np.abs(view @ up) / depth / (half / aspect))
    assert depth.min() > 0
    assert 0.8 < reach.max() < 0.95
