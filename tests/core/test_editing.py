"""Edits that cost what they change: the same as reading the whole document again, refused where that refuses."""

import json

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from lantern.scene.document import SCHEMA_VERSION, Material, Part, Scene
from lantern.scene.editing import DEEPEST_VALUE, MOST_OPERATIONS, Document, apply_patch, files_in, stored_size
from lantern.scene.lights import SpotLight, TubeLight
from lantern.scene.model import FileRef
from lantern.scene.patching import PatchError, apply_operations
from lantern.scene.reading import SceneError, read_scene
from lantern.scene.surroundings import Environment

MAP = FileRef(sha256="a" * 64, name="m.hdr")
SCENE = Scene(
    parts={"a": Part(name="A", mesh=0, material="m"), "b": Part(name="B", mesh=1, material="n")},
    materials={"m": Material(name="M"), "n": Material(name="N")},
    lights={"t": TubeLight(name="T"), "s": SpotLight(name="S", profile=FileRef(sha256="b" * 64, name="p.ies"))},
    environment=Environment(map=MAP),
)
PATHS = st.sampled_from(
    [
        "/parts", "/parts/a", "/parts/c", "/parts/a/material", "/parts/b/matrix", "/parts/b/matrix/3", "/materials",
        "/materials/m", "/materials/m/base_metalness", "/lights/t", "/lights/t/kind", "/lights/t/length",
        "/lights/s/profile", "/lights/s/profile/name", "/camera", "/camera/f_number", "/camera/target",
        "/look/exposure",
        "/haze/box", "/schema_version", "/nothing", "/environment/map", "/part_sets/x", "/print/width", "/asset",
    ]
)  # fmt: skip
VALUES = st.sampled_from(
    [
        None, 1, 0.5, 2, -1e7, "m", "gone", "tube", True, [], {}, [0.6, 0.4, 0.9], [1, 2, 3], list(range(12)),
        {"name": "New", "mesh": 3, "material": "n"}, {"name": "Plain"}, {"low": [0, 0, 0], "high": [1, 1, 1]},
        {"focal_length": 20}, SCENE.plain()["lights"]["t"], {"m": {"name": "M"}}, {"name": "P", "parts": ["a"]},
    ]
)  # fmt: skip
OPERATIONS = st.one_of(
    st.builds(lambda op, p, v: {"op": op, "path": p, "value": v}, st.sampled_from(["add", "replace"]), PATHS, VALUES),
    st.builds(lambda p: {"op": "remove", "path": p}, PATHS),
)


@settings(max_examples=600)
@given(st.lists(OPERATIONS, min_size=1, max_size=3))
@example([{"op": "add", "path": "/nothing", "value": None}, {"op": "remove", "path": "/nothing"}])
def test_an_edit_is_what_reading_the_whole_document_again_gives(patch):
    before = json.dumps(SCENE.plain())
    document = Document.read(SCENE.plain())
    try:
        if any(each["path"].split("/")[1] not in SCENE.plain() for each in patch):
            raise SceneError("a section that there is not is not even passed through")
        raw, _ = apply_operations(SCENE.plain(), patch)
        if raw.get("schema_version") != SCHEMA_VERSION or set(raw) != set(SCENE.plain()):
            raise SceneError("an edit leaves version and sections as they are")
        wanted = read_scene(raw)
    except (SceneError, PatchError):
        with pytest.raises(SceneError):
            document.patched(patch)
        with pytest.raises(SceneError):
            apply_patch(document.data, patch)
        return
    after, inverse = document.patched(patch)
    assert after.scene == wanted and after.data == wanted.plain()
    assert list(after.scene.parts) == list(after.data["parts"])
    assert apply_patch(document.data, patch) == (after.data, inverse)
    assert apply_patch(after.data, inverse)[0] == document.data
    assert json.dumps(document.data) == before


def test_what_is_not_touched_is_not_read_again():
    document = Document.read(SCENE.plain())
    after, _ = document.patched([{"op": "replace", "path": "/parts/a/visible", "value": False}])
    assert after.scene.parts["b"] is document.scene.parts["b"] and after.scene.materials is document.scene.materials
    assert after.data["parts"]["b"] is document.data["parts"]["b"] and after.data["camera"] is document.data["camera"]


def nested(levels):
    value = 0
    for _ in range(levels):
        value = [value]
    return value


@pytest.mark.parametrize(
    ("patch", "words"),
    [
        ([{"op": "copy", "from": "/parts", "path": "/parts/c"}], "not 'copy'"),
        ([{"op": "replace", "path": "/look/exposure", "value": 1}] * (MOST_OPERATIONS + 1), "at most 20000 operations"),
        ([{"op": "add", "path": "/parts/c", "value": nested(DEEPEST_VALUE + 1)}], "nested deeper than 12"),
        ({"op": "add"}, "must be a list"),
        ([{"op": "replace", "path": "/camera/position", "value": [1e100, 0, 0]}], "camera/position/0.*1000000"),
        ([{"op": "replace", "path": "/camera/position", "value": [float("inf"), 0, 0]}], "camera/position/0"),
        ([{"op": "replace", "path": "/camera/position", "value": [float("nan"), 0, 0]}], "camera/position/0"),
        ([{"op": "replace", "path": "/parts/a/mesh", "value": 2**32}], "parts/a/mesh"),
        ([{"op": "replace", "path": "/parts/a/matrix/3", "value": 1e9}], "parts/a/matrix/3"),
        ([{"op": "replace", "path": "/parts/a/name", "value": "A\x00"}], "parts/a/name"),
        ([{"op": "replace", "path": "/parts/a/name", "value": "\ud800"}], "parts/a/name"),
        ([{"op": "replace", "path": "/lights/t/group", "value": ""}], "lights/t/group"),
        ([{"op": "remove", "path": "/materials/n"}], "parts/b/material: there is no material 'n'"),
        ([{"op": "remove", "path": "/camera"}], "camera: a section"),
        ([{"op": "add", "path": "/more", "value": {}}], "no such section"),
    ],
)
def test_what_no_edit_is_is_refused(patch, words):
    with pytest.raises(SceneError, match=words):
        apply_patch(SCENE.plain(), patch)


def test_a_document_that_grows_beyond_measure_is_refused():
    parts = {f"p{i}": Part(name="x" * 200, mesh=0, material="m") for i in range(300)}
    data = SCENE.model_copy(update={"parts": SCENE.parts | parts}).plain()
    assert stored_size(data) == len(json.dumps(data, separators=(",", ":")))
    with pytest.raises(SceneError, match="64 MiB is the most"):
        stored_size({"text": "x" * (65 << 20)})


def test_files_are_found_wherever_they_are_named():
    assert [file.name for file in files_in(SCENE.plain())] == ["m.hdr", "p.ies"]
    assert list(files_in([{"value": {"sha256": "no digest", "name": "x"}}, 3, "x", None])) == []
