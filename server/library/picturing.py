"""The pictures of the shelf, made in a process of its own, after all that somebody waits for.

In: what is on the shelves. Out: files in the cache. Called by the library's task.
"""

import json
import subprocess
import sys
from functools import partial
from tempfile import NamedTemporaryFile

from procrastinate.exceptions import AlreadyEnqueued

from lantern.scene.editing import files_in
from server.library import tasks
from server.library.models import SwatchItem
from server.library.swatches import own, pictures_folder
from server.projects.storage import known_paths
from server.runtime.patience import patiently
from server.runtime.priority import BEHIND

_TIME_LIMIT = 1800.0


def ask_for_pictures() -> None:
    """Have the pictures that are missing made, once for all who ask meanwhile."""
    try:
        tasks.make_swatch_pictures.defer()
    except AlreadyEnqueued:
        return


def make_missing() -> None:
    """Make every picture that is missing; raises CalledProcessError when the process fails."""
    kept = [own(item).materials for item in patiently(lambda: list(SwatchItem.objects.all()))]
    shown = []
    for materials in kept:
        lowest, *over = materials
        plain = {key: material.model_dump(mode="json") for key, material in materials.items()}
        paths = patiently(partial(known_paths, list(files_in(plain))))
        shown.append({"material": plain[lowest], "over": {key: plain[key] for key in over}, "paths": paths})
    with NamedTemporaryFile("w", suffix=".json") as file:
        json.dump(shown, file)
        file.flush()
        make = [sys.executable, "-m", "lantern.engine.shelf_pictures", str(pictures_folder()), file.name]
        subprocess.run(["nice", "-n", str(BEHIND), *make], check=True, timeout=_TIME_LIMIT)
