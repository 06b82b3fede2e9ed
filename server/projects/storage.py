"""Files by content in Django's storage."""

from collections.abc import Iterable
from pathlib import Path

from django.core.files import File

from lantern.assets.hashing import sha256_of
from lantern.scene.document import Scene
from lantern.scene.model import FileRef
from server.errors import Refused
from server.projects.models import StoredFile


def keep(path: Path, name: str) -> FileRef:
    """Store a file by its content and return the reference that documents use."""
    digest = sha256_of(path)
    if not StoredFile.objects.filter(sha256=digest).exists():
        stored = StoredFile(sha256=digest, size=path.stat().st_size)
        with path.open("rb") as content:
            stored.file.save(digest, File(content), save=False)
        # Somebody may have stored the same content meanwhile.
        StoredFile.objects.get_or_create(sha256=digest, defaults={"size": stored.size, "file": stored.file.name})
    return FileRef(sha256=digest, name=name)


def paths_of(references: Iterable[FileRef]) -> dict[str, str]:
    """Paths of files by digest. Raises Refused when one is not stored."""
    names = {reference.sha256: reference.name for reference in references}
    paths = {stored.sha256: stored.file.path for stored in StoredFile.objects.filter(sha256__in=names)} if names else {}
    for digest, name in names.items():
        if digest not in paths:
            raise Refused(f"The file {name} is not stored here: upload it again.")
    return paths


def paths_for(scene: Scene) -> dict[str, str]:
    """Paths of all files of a document by digest. Raises Refused when one is not stored."""
    return paths_of(scene.files())
