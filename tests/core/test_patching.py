"""JSON Patch: against another implementation, with its inverse, without touching what it was given."""

import copy

import jsonpatch
import jsonpointer
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lantern.scene.patching import PatchError, apply_operations, difference

KEYS = ["a", "b", "c/d", "~", ""]
DATA = st.recursive(
    st.none() | st.integers(0, 3) | st.sampled_from(["x", "y"]),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.sampled_from(KEYS), inner, max_size=4),
    max_leaves=12,
)
DOCUMENTS = st.dictionaries(st.sampled_from(KEYS), DATA, max_size=4)
STEPS = st.sampled_from(["a", "b", "c~1d", "~0", "", "0", "1", "-", "9"])
PATHS = st.lists(STEPS, min_size=1, max_size=3).map(lambda steps: "/" + "/".join(steps))
OPERATIONS = st.one_of(
    st.builds(
        lambda o, p, v: {"op": o, "path": p, "value": v}, st.sampled_from(["add", "replace", "test"]), PATHS, DATA
    ),
    st.builds(lambda p: {"op": "remove", "path": p}, PATHS),
)


@given(DOCUMENTS, st.lists(OPERATIONS, max_size=4))
def test_it_does_what_the_standard_says_and_takes_it_back(document, patch):
    before = copy.deepcopy(document)
    try:
        wanted = jsonpatch.apply_patch(document, patch)
    except (jsonpatch.JsonPatchException, jsonpointer.JsonPointerException, TypeError, IndexError):
        wanted = None
    try:
        result, inverse = apply_operations(document, patch)
    except PatchError:
        assert wanted is None
    else:
        assert result == wanted
        assert apply_operations(result, inverse)[0] == before
    assert document == before, "what was given is left as it was"


@given(DOCUMENTS, DOCUMENTS)
def test_a_difference_leads_from_one_document_to_the_other(before, after):
    assert apply_operations(before, difference(before, after))[0] == after


def test_a_difference_may_take_entries_whole():
    before = {"parts": {"a": {"x": 1, "y": {"z": 2}}, "b": {"x": 1}}, "name": "n"}
    after = {"parts": {"a": {"x": 1, "y": {"z": 3}}, "c": {"x": 1}}, "name": "n"}
    patch = difference(before, after, depth=2)
    assert sorted((each["op"], each["path"]) for each in patch) == [
        ("add", "/parts/c"), ("remove", "/parts/b"), ("replace", "/parts/a"),
    ]  # fmt: skip
    assert apply_operations(before, patch)[0] == after


def test_what_is_not_touched_is_shared():
    document = {"parts": {"a": {"x": 1}, "b": {"x": 2}}, "camera": {"y": 3}}
    result, _ = apply_operations(document, [{"op": "replace", "path": "/parts/a/x", "value": 9}])
    assert result["camera"] is document["camera"] and result["parts"]["b"] is document["parts"]["b"]


@pytest.mark.parametrize(
    ("operation", "words"),
    [
        ({"op": "copy", "from": "/a", "path": "/b"}, "add, replace, remove or test, not 'copy'"),
        ({"op": "move", "from": "/a", "path": "/b"}, "not 'move'"),
        ({"op": "add", "path": "/b"}, "/b: add needs a value"),
        ({"op": "add", "path": "b", "value": 1}, "begins with a slash"),
        ({"op": "replace", "path": "/list/7", "value": 1}, "has 2 entries"),
        ({"op": "replace", "path": "/list/" + "9" * 5000, "value": 1}, "has 2 entries"),
        ({"op": "add", "path": "/a/b", "value": 1}, "nothing inside 1"),
        ({"op": "test", "path": "/a", "value": 2}, "/a is not what the edit was made for"),
        ("x", "must be an object, not str"),
    ],
)
def test_a_bad_operation_is_refused_with_its_place(operation, words):
    with pytest.raises(PatchError, match=words):
        apply_operations({"a": 1, "list": [1, 2]}, [operation])
