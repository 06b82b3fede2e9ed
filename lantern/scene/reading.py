"""Reading and editing documents: migration, validation with a path, JSON Patch with its inverse.

In: JSON data and patches. Out: a valid `Scene`, or `SceneError` that says which field and what was expected. Called by
the engine, the command line and the server's edits.
"""

from typing import Any

from pydantic import ValidationError

from lantern.scene.document import SCHEMA_VERSION, Scene
from lantern.scene.migrations import migrated
from lantern.scene.patching import Patch, PatchError, apply_operations


class SceneError(ValueError):
    """A document or an edit is not acceptable; the message names the field and what was expected."""


def version_of(data: Any) -> int:
    """The version of a document as JSON data. Raises SceneError when it is none, or one from the future."""
    if not isinstance(data, dict):
        raise SceneError(f"a scene document must be a JSON object, not {type(data).__name__}")
    version = data.get("schema_version", SCHEMA_VERSION)
    if not isinstance(version, int) or not 1 <= version <= SCHEMA_VERSION:
        raise SceneError(f"schema_version: this program reads versions 1 to {SCHEMA_VERSION}, not {version!r}")
    return version


def read_scene(data: Any) -> Scene:
    """A `Scene` from JSON data of this or an earlier version.

    Raises SceneError for a version from the future, an unknown field, a value out of range, or a part that
    refers to a material that is not there.
    """
    data = migrated(data, version_of(data), SCHEMA_VERSION)
    try:
        scene = Scene.model_validate(data)
    except ValidationError as error:
        first = error.errors()[0]
        path = "/".join(_steps_of(first["loc"], data)) or "document"
        raise SceneError(f"{path}: {first['msg']} (got {first['input']!r:.80})") from error
    for key, part in scene.parts.items():
        if part.material not in scene.materials:
            raise SceneError(f"parts/{key}/material: there is no material {part.material!r}")
    position, target = scene.camera.position, scene.camera.target
    if sum((a - b) ** 2 for a, b in zip(position, target, strict=True)) < 1e-18:
        raise SceneError("camera/target: must differ from the camera's position")
    return scene


def _steps_of(location: tuple[int | str, ...], data: Any) -> list[str]:
    """Where in the document an error lies; the kind that told a union apart is a step of the error, not of the data."""
    steps = []
    for number, step in enumerate(location):
        is_kind = isinstance(data, dict) and data.get("kind") == step and step not in data
        if is_kind and number + 1 < len(location):
            continue
        steps.append(str(step))
        if isinstance(data, dict):
            data = data.get(str(step))
        elif isinstance(data, list | tuple) and isinstance(step, int) and step < len(data):
            data = data[step]
    return steps


def patched(data: dict[str, Any], patch: Patch) -> dict[str, Any]:
    """Patched JSON data, valid and normalised; the input is left as it was. Raises as `apply_patch` does."""
    return apply_patch(data, patch)[0]


def apply_patch(data: dict[str, Any], patch: Patch) -> tuple[dict[str, Any], Patch]:
    """(patched JSON data, valid and normalised; inverse patch) of a document of today's version.

    Raises SceneError when an operation is malformed or does not apply, or when the result is not a valid scene.
    """
    try:
        result, inverse = apply_operations(data, patch)
    except PatchError as error:
        raise SceneError(f"the edit does not fit the document: {error}") from error
    return read_scene(result).plain(), inverse
