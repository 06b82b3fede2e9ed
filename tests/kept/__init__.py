"""Documents with their steps of undo as earlier versions stored them, one file a version."""

import json
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import jsonpatch

FOLDER = Path(__file__).parent
VERSIONS = sorted(int(path.stem.partition("_")[2]) for path in FOLDER.glob("version_*.json"))


@dataclass(frozen=True)
class Kept:
    """A project as an earlier version stored it; `documents` are those between its edits, from the first on."""

    scene: dict[str, Any]
    cursor: int
    edits: list[dict[str, Any]]
    documents: list[dict[str, Any]]


def kept(version: int) -> Kept:
    """The project of a version; its documents are made with the patch library that stored them."""
    data = json.loads((FOLDER / f"version_{version}.json").read_text())
    scene, cursor, edits = data["scene"], data["cursor"], data["edits"]
    documents = [scene]
    for edit in reversed(edits[:cursor]):
        documents.insert(0, jsonpatch.apply_patch(documents[0], edit["inverse"]))
    for edit in edits[cursor:]:
        documents.append(jsonpatch.apply_patch(documents[-1], edit["patch"]))
    return Kept(scene, cursor, edits, documents)
