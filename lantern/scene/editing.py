"""Edits of a document: a patch is applied, and only what it touches is read again.

In: a valid document of today's version, as JSON data or typed, and a patch. Out: the new document, normalised, with the
inverse patch, or `SceneError`. Called by the server's edits and by the render host.
"""

import json
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from typing import Any

from pydantic import TypeAdapter, ValidationError

from lantern.scene.document import SCHEMA_VERSION, Scene
from lantern.scene.model import FileRef
from lantern.scene.patching import Patch, PatchError, apply_operations, steps_of
from lantern.scene.reading import SceneError, check_camera, check_groups, check_layer, check_part, complaint, read_scene

MOST_OPERATIONS = 20_000
"""In one patch: moving every part of a large asset is one edit."""
DEEPEST_VALUE = 12
"""Containers within containers in the value of an operation; the document's own are six."""
LARGEST_DOCUMENT = 64 << 20
"""Bytes of a document as JSON."""
_BY_KEY = ("parts", "part_groups", "part_sets", "materials", "decals", "lights")
_SECTIONS: dict[str, TypeAdapter[Any]] = {
    name: TypeAdapter(info.rebuild_annotation()) for name, info in Scene.model_fields.items()
}
"""How each section is read."""


@dataclass(frozen=True, eq=False)
class Document:
    """A valid document both ways: as normalised JSON data, and typed. Neither is ever changed."""

    data: dict[str, Any]
    scene: Scene

    @classmethod
    def read(cls, data: Any) -> "Document":
        """A document from JSON data of this or an earlier version. Raises SceneError."""
        scene = read_scene(data)
        return cls(scene.plain(), scene)

    def patched(self, patch: Patch) -> tuple["Document", Patch]:
        """(the document after a patch, the inverse patch). Raises as `apply_patch` does."""
        result, inverse = _applied(self.data, patch)
        touched = _touched(result, patch)
        read = _read_touched(result, touched)
        data = _normalised(result, read)
        _check_crossings(data, touched)
        typed: dict[str, Any] = {}
        for (section, key), value in read.items():
            if key is None:
                typed[section] = value
            else:
                typed.setdefault(section, dict(getattr(self.scene, section)))[key] = value
        for section in _BY_KEY:
            # What is gone from the data goes from the typed document too; the order is that of the data.
            entries = typed.get(section, getattr(self.scene, section))
            if entries.keys() != result[section].keys() or section in typed:
                typed[section] = {key: entries[key] for key in result[section]}
        return Document(data, self.scene.model_copy(update=typed)), inverse


def apply_patch(data: dict[str, Any], patch: Patch) -> tuple[dict[str, Any], Patch]:
    """(patched JSON data, normalised; inverse patch); `data` is valid, of today's version, and left as it was.

    Raises SceneError when an operation is malformed or does not apply, when the patch is larger or deeper than any edit
    is, or when the result is not a valid document.
    """
    result, inverse = _applied(data, patch)
    touched = _touched(result, patch)
    normal = _normalised(result, _read_touched(result, touched))
    _check_crossings(normal, touched)
    return normal, inverse


def files_in(value: Any) -> Iterator[FileRef]:
    """Every reference to a file within JSON data: of a document, or of a value of a patch."""
    if isinstance(value, dict):
        if value.keys() == {"sha256", "name"}:
            with suppress(ValidationError):
                yield FileRef.model_validate(value)
        value = list(value.values())
    if isinstance(value, list | tuple):
        for inner in value:
            if isinstance(inner, dict | list | tuple):
                yield from files_in(inner)


def files_named(patch: Patch, result: dict[str, Any]) -> list[FileRef]:
    """The files that a patch, which has made `result`, brings into a document: whole, or by one of their fields."""
    found = list(files_in(patch))
    for operation in patch:
        *way, last = steps_of(operation["path"])
        if last in FileRef.model_fields:
            inner: Any = result
            for step in way:
                inner = inner.get(step) if isinstance(inner, dict) else None
            if isinstance(inner, dict) and inner.keys() == FileRef.model_fields.keys():
                found += files_in(inner)
    return found


def stored_size(data: dict[str, Any]) -> int:
    """Bytes of a document as JSON. Raises SceneError when they are more than a document may have."""
    size = len(json.dumps(data, separators=(",", ":")))
    if size > LARGEST_DOCUMENT:
        raise SceneError(
            f"the document would have {size / 2**20:.0f} MiB, and {LARGEST_DOCUMENT >> 20} MiB is the most: "
            "remove something first"
        )
    return size


Place = tuple[str, str | None]
"""A section of the document, and the entry of it when the section has entries by key."""


def _applied(data: dict[str, Any], patch: Patch) -> tuple[dict[str, Any], Patch]:
    if not isinstance(patch, list):
        raise SceneError(f"a patch must be a list of operations, not {type(patch).__name__}")
    if len(patch) > MOST_OPERATIONS:
        raise SceneError(f"a patch has at most {MOST_OPERATIONS} operations, not {len(patch)}")
    try:
        for operation in patch:
            if isinstance(operation, dict) and _is_deeper(operation.get("value"), DEEPEST_VALUE):
                path = str(operation.get("path"))
                raise SceneError(f"{path:.80}: the value is nested deeper than {DEEPEST_VALUE} levels")
        return apply_operations(data, patch)
    except PatchError as error:
        raise SceneError(f"the edit does not fit the document: {error}") from error


def _is_deeper(value: Any, levels: int) -> bool:
    if not isinstance(value, dict | list):
        return False
    inner = value.values() if isinstance(value, dict) else value
    return levels == 0 or any(_is_deeper(v, levels - 1) for v in inner)


def _touched(result: dict[str, Any], patch: Patch) -> list[Place]:
    """What a patch may have changed, each place once, in the order of the patch."""
    places: dict[Place, None] = {}
    for operation in patch:
        section, *rest = steps_of(operation["path"])
        is_entry = section in _BY_KEY and rest and isinstance(result.get(section), dict)
        places[section, rest[0] if is_entry else None] = None
    return [(section, key) for section, key in places if key is None or (section, None) not in places]


def _read_touched(result: dict[str, Any], touched: list[Place]) -> dict[Place, Any]:
    """Typed, all that a patch has touched and left there. Raises SceneError."""
    read: dict[Place, Any] = {}
    for section, key in touched:
        if section not in _SECTIONS:
            raise SceneError(f"{section:.80}: a scene document has no such section")
        if section not in result:
            raise SceneError(f"{section}: a section of the document cannot be removed")
        if key is None:
            read[section, None] = _read_section(section, result[section])
        elif key in result[section]:
            read[section, key] = _read_section(section, {key: result[section][key]})[key]
    return read


def _read_section(section: str, data: Any) -> Any:
    try:
        return _SECTIONS[section].validate_python(data)
    except ValidationError as error:
        raise SceneError(complaint(error, {section: data}, (section,))) from error


def _check_crossings(result: dict[str, Any], touched: list[Place]) -> None:
    """Rules between sections, where a patch has touched one of them."""
    if result["schema_version"] != SCHEMA_VERSION:
        raise SceneError(f"schema_version: an edit cannot change it from {SCHEMA_VERSION}")
    sections = {section for section, _ in touched}
    if "camera" in sections:
        check_camera(result["camera"]["position"], result["camera"]["target"])
    if "part_groups" in sections:
        check_groups({key: group["group"] for key, group in result["part_groups"].items()})
    parts = result["parts"]
    lost_material = any(s == "materials" and (k is None or k not in result["materials"]) for s, k in touched)
    every = lost_material or ("parts", None) in touched
    for key in parts if every else [k for s, k in touched if k is not None and s == "parts" and k in parts]:
        check_part(key, parts[key]["material"], result["materials"])
    materials = result["materials"]
    dressed = materials if lost_material else [k for s, k in touched if s == "materials" and k is not None]
    for key in dressed:
        for number, layer in enumerate(materials[key]["layers"]):
            check_layer(key, number, layer["material"], materials)


def _normalised(result: dict[str, Any], read: dict[Place, Any]) -> dict[str, Any]:
    """The document with what was read in the form in which it is kept."""
    normal = dict(result)
    copied: set[str] = set()
    for (section, key), value in read.items():
        plain = _SECTIONS[section].dump_python(value if key is None else {key: value}, mode="json")
        if key is None:
            normal[section] = plain
            continue
        if section not in copied:
            normal[section] = dict(normal[section])
            copied.add(section)
        normal[section][key] = plain[key]
    return normal
