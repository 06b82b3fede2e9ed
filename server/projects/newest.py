"""The newest documents of projects that are being edited, so that an edit need not load a large one again.

In: a project and its revision, which says which document it is. Out: the document. Called by `actions`, under the lock
of the project's row. Documents are never changed, so threads may share them.
"""

import threading
from collections import OrderedDict
from typing import Any

MOST = 16
"""Documents that are remembered."""

_lock = threading.Lock()
_documents: OrderedDict[tuple[int, int], dict[str, Any]] = OrderedDict()


def remember(project: int, revision: int, scene: dict[str, Any]) -> None:
    """Note what was committed; earlier revisions of the project are forgotten."""
    with _lock:
        for known in [key for key in _documents if key[0] == project]:
            del _documents[known]
        _documents[project, revision] = scene
        while len(_documents) > MOST:
            _documents.popitem(last=False)


def recall(project: int, revision: int) -> dict[str, Any] | None:
    """The document of a revision, if it is remembered."""
    with _lock:
        scene = _documents.get((project, revision))
        if scene is not None:
            _documents.move_to_end((project, revision))
        return scene
