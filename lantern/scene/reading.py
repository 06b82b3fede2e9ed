"""Reading documents: migration, validation with a path.

In: JSON data. Out: a valid `Scene`, or `SceneError` that says which field and what was expected. Called by the command
line, `editing`, `history` and the server.
"""

from collections.abc import Container, Mapping, Sequence
from typing import Any

from pydantic import ValidationError

from lantern.scene.document import SCHEMA_VERSION, Scene
from lantern.scene.migrations import migrated
from lantern.scene.placed import ring_in


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
        raise SceneError(complaint(error, data)) from error
    for key, part in scene.parts.items():
        check_part(key, part.material, scene.materials)
    for key, material in scene.materials.items():
        for number, layer in enumerate(material.layers):
            check_layer(key, number, layer.material, scene.materials)
    check_groups({key: group.group for key, group in scene.part_groups.items()})
    check_camera(scene.camera.position, scene.camera.target)
    return scene


def check_part(key: str, material: str, materials: Container[str]) -> None:
    """Raises SceneError when a part's material is not there."""
    if material not in materials:
        raise SceneError(f"parts/{key}/material: there is no material {material!r}")


def check_layer(key: str, number: int, over: str, materials: Container[str]) -> None:
    """Raises SceneError when a layer's material is not there, or the one that it lies over."""
    if over == key:
        raise SceneError(f"materials/{key}/layers/{number}/material: a material cannot lie over itself")
    if over not in materials:
        raise SceneError(f"materials/{key}/layers/{number}/material: there is no material {over!r}")


def check_groups(parents: Mapping[str, str | None]) -> None:
    """Raises SceneError when a group belongs to itself; `parents` are the groups that groups belong to."""
    if ring := ring_in(parents):
        raise SceneError(f"part_groups/{ring[0]}/group: {' within '.join(ring)} has no end")


def check_camera(position: Sequence[float], target: Sequence[float]) -> None:
    """Raises SceneError when a camera looks nowhere."""
    if sum((a - b) ** 2 for a, b in zip(position, target, strict=True)) < 1e-18:
        raise SceneError("camera/target: must differ from the camera's position")


def complaint(error: ValidationError, data: Any, within: tuple[str, ...] = ()) -> str:
    """What is wrong with a document, and where; `within` is the part of it that was read, as a path."""
    first = error.errors()[0]
    path = "/".join(_steps_of((*within, *first["loc"]), data)) or "document"
    return f"{path}: {first['msg']} (got {first['input']!r:.80})"


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
