"""A project as one file: the zip that the application writes, read without it.

In: a zip with `project.json` and files by their digests (docs/api.md). Out: the document, and where its files lie.
Called by the command line, whose files are the person's own; the application looks harder at what it is sent.
"""

import hashlib
import json
import shutil
import zipfile
import zlib
from pathlib import Path

from lantern.scene.document import Scene
from lantern.scene.editing import files_in
from lantern.scene.reading import SceneError, read_scene

INDEX, FILES = "project.json", "files/"


class ProjectFileError(ValueError):
    """A file is no project; the message names it and says why."""


def is_project_file(path: Path) -> bool:
    """Whether a file is a zip with a project in it."""
    try:
        with zipfile.ZipFile(path) as package:
            return INDEX in package.namelist()
    except (OSError, zipfile.BadZipFile):
        return False


def read_project_file(path: Path, folder: Path) -> tuple[Scene, dict[str, Path]]:
    """(the document, paths of its files by digest), the files being laid into `folder`. Raises ProjectFileError."""
    files = {}
    try:
        with zipfile.ZipFile(path) as package:
            scene = read_scene(json.loads(package.read(INDEX))["scene"])
            for reference in files_in(scene.plain()):
                target = folder / reference.sha256
                if not target.is_file():
                    with package.open(f"{FILES}{reference.sha256}") as source, target.open("wb") as copy:
                        shutil.copyfileobj(source, copy)
                if hashlib.file_digest(target.open("rb"), "sha256").hexdigest() != reference.sha256:
                    raise ProjectFileError(f"{path.name}: its file {reference.name} is damaged")
                files[reference.sha256] = target
    except (zipfile.BadZipFile, zlib.error, KeyError, ValueError, TypeError) as error:
        if isinstance(error, ProjectFileError | SceneError):
            raise
        raise ProjectFileError(f"{path.name}: is no project as the application writes it ({error})") from error
    return scene, files
