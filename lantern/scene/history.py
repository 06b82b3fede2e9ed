"""A stored document and its steps of undo, brought from an earlier version to today's together.

A patch of an earlier version says what changed in documents of that version, and may mean nothing in today's. So the
documents between the steps are made again as they were, each is migrated, and a step becomes the difference of its two.

In: JSON data as it was stored, patches with their inverses. Out: the same of today's version. Called by the server
before anything is laid on a stored document.
"""

from collections.abc import Iterable, Mapping
from contextlib import suppress
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from lantern.scene.document import SCHEMA_VERSION
from lantern.scene.migrations import migrated
from lantern.scene.patching import Patch, PatchError, apply_operations, difference
from lantern.scene.reading import read_scene, version_of

Step = tuple[Patch, Patch]
"""A patch and its inverse."""


@dataclass(frozen=True)
class History:
    """A document, normalised, and its steps by number; a step that could not be understood ends the row of them."""

    scene: dict[str, Any]
    steps: dict[int, Step]


def migrated_history(scene: dict[str, Any], steps: Mapping[int, Step], cursor: int) -> History:
    """The document and its steps in today's version; `cursor` is the number of the newest step that is applied.

    Raises SceneError when the document itself cannot be read.
    """
    version = version_of(scene)
    undone = _walked(scene, (steps[n][1] for n in range(cursor, 0, -1) if n in steps))
    redone = _walked(scene, (steps[n][0] for n in range(cursor + 1, max(steps, default=0) + 1) if n in steps))
    documents = [migrated(document, version, SCHEMA_VERSION) for document in (*reversed(undone), scene, *redone)]
    first = cursor - len(undone) + 1
    found = {n: (difference(a, b), difference(b, a)) for n, (a, b) in enumerate(pairwise(documents), first)}
    return History(read_scene(scene).plain(), found)


def _walked(scene: dict[str, Any], patches: Iterable[Patch]) -> list[dict[str, Any]]:
    """The documents after each of the patches, as far as they fit."""
    documents: list[dict[str, Any]] = []
    with suppress(PatchError):
        for patch in patches:
            documents.append(_after(documents[-1] if documents else scene, patch))
    return documents


def _after(document: Any, patch: Patch) -> Any:
    """A document after a kept patch. Inverses of version 1 may move a value, which patches of today do not."""
    for operation in patch:
        if operation.get("op") == "move":
            taken, removal = apply_operations(document, [{"op": "remove", "path": operation.get("from")}])
            document = apply_operations(taken, [{**removal[0], "path": operation.get("path")}])[0]
        else:
            document = apply_operations(document, [operation])[0]
    return document
