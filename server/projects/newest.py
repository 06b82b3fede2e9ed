"""The newest documents of projects that are being edited, so that an edit need not load a large one again.

In: a project and its state, revision and time of change, which says which document it is: a revision alone may be
another after a backup was restored. Out: the document. Called by `actions`, under the lock of the project's row.
Documents are never changed, so threads may share them.
"""

import threading
from collections import OrderedDict
from datetime import datetime
from typing import Any

State = tuple[int, datetime]
MOST = 16
"""Documents that are remembered."""

_lock = threading.Lock()
_documents: OrderedDict[tuple[int, State], dict[str, Any]] = OrderedDict()


def remember(project: int, state: State, scene: dict[str, Any]) -> None:
    """Note what was committed; earlier states of the project are forgotten."""
    with _lock:
        for known in [key for key in _documents if key[0] == project]:
            del _documents[known]
        _documents[project, state] = scene
        while len(_documents) > MOST:
            _documents.popitem(last=False)


def recall(project: int, state: State) -> dict[str, Any] | None:
    """The document of a state, if it is remembered."""
    with _lock:
        scene = _documents.get((project, state))
        if scene is not None:
            _documents.move_to_end((project, state))
        return scene
