"""Reading and editing documents: migration, validation with a path, JSON Patch with its inverse.

In: JSON data and RFC 6902 patches. Out: a valid `Scene`, or `SceneError` that says which field and what was
expected. Called by the engine, the command line and the server's edits.
"""

from typing import Any

import jsonpatch
import jsonpointer
from pydantic import ValidationError

from lantern.scene.document import SCHEMA_VERSION, Scene

Patch = list[dict[str, Any]]

MIGRATIONS: dict[int, Any] = {}
"""From version n to n + 1: functions of JSON data. Version 1 is the first, so there is none yet."""


class SceneError(ValueError):
    """A document or an edit is not acceptable; the message names the field and what was expected."""


def read_scene(data: Any) -> Scene:
    """A `Scene` from JSON data of this or an earlier version.

    Raises SceneError for a version from the future, an unknown field, a value out of range, or a part that
    refers to a material that is not there.
    """
    if not isinstance(data, dict):
        raise SceneError(f"a scene document must be a JSON object, not {type(data).__name__}")
    version = data.get("schema_version", SCHEMA_VERSION)
    if not isinstance(version, int) or not 1 <= version <= SCHEMA_VERSION:
        raise SceneError(f"schema_version: this program reads versions 1 to {SCHEMA_VERSION}, not {version!r}")
    while version < SCHEMA_VERSION:
        data = MIGRATIONS[version](data)
        version += 1
    try:
        scene = Scene.model_validate(data)
    except ValidationError as error:
        first = error.errors()[0]
        path = "/".join(str(step) for step in first["loc"]) or "document"
        raise SceneError(f"{path}: {first['msg']} (got {first['input']!r:.80})") from error
    for key, part in scene.parts.items():
        if part.material not in scene.materials:
            raise SceneError(f"parts/{key}/material: there is no material {part.material!r}")
    position, target = scene.camera.position, scene.camera.target
    if sum((a - b) ** 2 for a, b in zip(position, target, strict=True)) < 1e-18:
        raise SceneError("camera/target: must differ from the camera's position")
    return scene


def patched(data: dict[str, Any], patch: Patch) -> dict[str, Any]:
    """Patched JSON data, valid and normalised; the input is left as it was.

    Raises SceneError when an operation is malformed or does not apply, or when the result is not a valid scene.
    """
    try:
        result = jsonpatch.JsonPatch(patch).apply(data)
    except (jsonpatch.JsonPatchException, jsonpointer.JsonPointerException, TypeError, KeyError) as error:
        raise SceneError(f"the edit does not fit the document: {error}") from error
    return read_scene(result).plain()


def apply_patch(data: dict[str, Any], patch: Patch) -> tuple[dict[str, Any], Patch]:
    """(patched JSON data, inverse patch); raises as `patched` does."""
    normal = patched(data, patch)
    return normal, jsonpatch.make_patch(normal, data).patch
